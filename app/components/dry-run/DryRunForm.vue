<script setup lang="ts">
import type { PolicyChange } from '#core/change'
import { api, type Sent, type DryRun } from '~/api/client'

/** A message to try: written, pasted or uploaded; decided, or really sent. */
const { changes = null, rows = 8 } = defineProps<{
  /** It is also decided as if these were active. */
  changes?: readonly PolicyChange[] | null
  /** How many lines of text are in view. */
  rows?: number
}>()
const emit = defineEmits<{ tried: [DryRun], sent: [Sent] }>()

const session = useSessionStore()
const directory = useDirectoryStore()
const way = ref<'write' | 'paste'>('write')
const recipient = ref(session.person?.addresses.at(-1) ?? '')
const from = ref('')
const subject = ref('')
const text = ref('')
const message = ref('')
const supposed = ref<'pass' | 'fail' | 'none' | 'inside' | ''>('none')
const { error, fields, busy, submit } = useForm()

const AUTHENTICATION = [
  { value: 'none', name: 'sender not verified' },
  { value: 'pass', name: 'sender verified' },
  { value: 'fail', name: 'authentication fails' },
  { value: 'inside', name: 'internal sender' },
]
const addresses = computed(() =>
  session.can('test as anyone')
    ? (directory.data?.people ?? []).map(p => p.address)
    : (session.person?.addresses ?? []),
)

const suppositions = computed(() => [
  ...(way.value === 'paste' ? [{ value: '' as const, name: 'received directly, without a relay' }] : []),
  ...AUTHENTICATION,
])
const supposition = computed(() =>
  supposed.value === 'inside' ? { inside: true } : supposed.value ? { authentication: supposed.value } : {},
)

const tryIt = () =>
  submit(async () => {
    const under = changes ? { changes: [...changes] } : {}
    emit('tried', await api.dryRun(
      way.value === 'write'
        ? {
            ...under,
            recipient: recipient.value,
            from: from.value,
            subject: subject.value,
            text: text.value,
            ...supposition.value,
          }
        : { ...under, recipient: recipient.value, message: message.value, ...supposition.value },
    ))
  })

const sendIt = () =>
  submit(async () => {
    emit('sent', await api.sendTest({ recipient: recipient.value, from: from.value, subject: subject.value, text: text.value }))
  })

async function upload([file]: File[]) {
  if (file) message.value = await file.text()
}

watch(way, (now) => {
  supposed.value = now === 'write' ? 'none' : ''
  error.value = ''
})
</script>

<template>
  <form
    @submit.prevent="tryIt"
  >
    <slot />
    <div
      class="ways"
      role="radiogroup"
      aria-label="Message"
    >
      <label><input
        v-model="way"
        type="radio"
        value="write"
      > Write a message</label>
      <label><input
        v-model="way"
        type="radio"
        value="paste"
      > Paste or upload a message</label>
    </div>
    <FormField
      label="To"
      :error="fields.recipient"
    >
      <ChoiceField
        v-model="recipient"
        :options="addresses.map(a => ({ value: a, name: a }))"
        label="To"
        creatable
        boxed
        :width="null"
      />
    </FormField>
    <template v-if="way === 'write'">
      <FormField
        label="From"
        :error="fields.from"
      >
        <el-input
          v-model="from"
          placeholder="Name <name@quayline.example>"
        />
      </FormField>
      <label class="field">Subject
        <el-input v-model="subject" />
      </label>
      <label class="field">Text
        <el-input
          v-model="text"
          type="textarea"
          :rows="rows"
          resize="vertical"
        />
      </label>
    </template>
    <template v-else>
      <FormField
        label="Complete message with its header"
        :error="fields.message"
      >
        <el-input
          v-model="message"
          type="textarea"
          :rows="13"
          resize="vertical"
          class="mono"
          spellcheck="false"
        />
      </FormField>
      <p class="small file">
        or a file: <FileField
          label="Message file"
          accept=".eml,message/rfc822,text/plain"
          @choose="upload"
        />
      </p>
    </template>
    <label class="field">Assume
      <ChoiceField
        v-model="supposed"
        :options="suppositions"
        label="Assume"
        boxed
        :width="null"
      />
    </label>
    <FormFoot
      :error
      :action="busy ? 'Running…' : 'Run test'"
      :busy
      staying
    >
      <PressButton
        v-if="way === 'write'"
        :disabled="busy"
        @click="sendIt"
      >
        Send real test message
      </PressButton>
    </FormFoot>
  </form>
</template>

<style scoped>
form { display: grid; gap: 12px; }
.ways { display: flex; flex-wrap: wrap; gap: 6px 20px; }
.ways input { accent-color: var(--water); }
.mono :deep(textarea) { font-family: var(--mono); font-size: 13px; }
</style>
