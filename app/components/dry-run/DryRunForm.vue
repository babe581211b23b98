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
  { value: 'none', name: 'the sender is not verified' },
  { value: 'pass', name: 'the sender is verified' },
  { value: 'fail', name: 'authentication fails' },
  { value: 'inside', name: 'one of us sends it, from inside' },
]
const addresses = computed(() =>
  session.can('test as anyone')
    ? (directory.data?.people ?? []).map(p => p.address)
    : (session.person?.addresses ?? []),
)

const suppositions = computed(() => [
  ...(way.value === 'paste' ? [{ value: '' as const, name: 'it came straight, as it stands' }] : []),
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

async function upload(event: Event) {
  const file = (event.target as HTMLInputElement).files?.[0]
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
      aria-label="How the message comes"
    >
      <label><input
        v-model="way"
        type="radio"
        value="write"
      > write one</label>
      <label><input
        v-model="way"
        type="radio"
        value="paste"
      > paste or upload a whole one</label>
    </div>
    <FormField
      label="For"
      :error="fields.recipient"
    >
      <ChoiceField
        v-model="recipient"
        :options="addresses.map(a => ({ value: a, name: a }))"
        label="For"
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
        label="The whole message, header and all"
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
      <label class="small">or a file: <input
        type="file"
        accept=".eml,message/rfc822,text/plain"
        @change="upload"
      ></label>
    </template>
    <label class="field">Suppose that
      <ChoiceField
        v-model="supposed"
        :options="suppositions"
        label="Suppose that"
        boxed
        :width="null"
      />
    </label>
    <FormFoot
      :error
      :action="busy ? 'Deciding …' : 'Decide it'"
      :busy
      staying
    >
      <PressButton
        v-if="way === 'write'"
        :disabled="busy"
        @click="sendIt"
      >
        Really send it
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
