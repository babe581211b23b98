<script setup lang="ts">
import { laneWords } from '#core/words'
import { api, type Tried } from '~/api/client'

const session = useSessionStore()
const directory = useDirectoryStore()
const way = ref<'write' | 'paste'>('write')
const recipient = ref(session.person?.addresses.at(-1) ?? '')
const from = ref('')
const subject = ref('')
const text = ref('')
const message = ref('')
const supposed = ref<'pass' | 'fail' | 'none' | 'inside' | ''>('none')
const tried = ref<Tried | null>(null)
const { error, fields, busy, submit } = useForm()
const lit = ref<string | null>(null)

const AUTHENTICATION = [
  { value: 'none', name: 'the sender is not verified' },
  { value: 'pass', name: 'the sender is verified' },
  { value: 'fail', name: 'authentication fails' },
  { value: 'inside', name: 'one of us sends it, from inside' },
]
const addresses = computed(() =>
  session.may('try as anybody')
    ? (directory.data?.people ?? []).map(p => p.address)
    : (session.person?.addresses ?? []),
)

const laneName = computed(() => {
  const { lane, quarantine } = tried.value?.ruling ?? { lane: 'inbox' as const, quarantine: null }
  return lane === 'quarantine' ? `quarantine ${laneWords(lane, quarantine, directory.names)}` : undefined
})
const suppositions = computed(() => [
  ...(way.value === 'paste' ? [{ value: '' as const, name: 'it came straight, as it stands' }] : []),
  ...AUTHENTICATION,
])
const supposition = computed(() =>
  supposed.value === 'inside' ? { inside: true } : supposed.value ? { authentication: supposed.value } : {},
)

const tryIt = () =>
  submit(async () => {
    tried.value = await api.try(
      way.value === 'write'
        ? {
            recipient: recipient.value,
            from: from.value,
            subject: subject.value,
            text: text.value,
            ...supposition.value,
          }
        : { recipient: recipient.value, message: message.value, ...supposition.value },
    )
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
  <div class="try">
    <form
      class="sheet"
      @submit.prevent="tryIt"
    >
      <h1>Try a message</h1>
      <p class="second small">
        It is decided under the policy in force, and nothing of it is kept.
      </p>
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
            :rows="8"
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
        :act="busy ? 'Deciding …' : 'Decide it'"
        :busy
        staying
      />
    </form>
    <section
      class="sheet"
      aria-live="polite"
    >
      <template v-if="tried">
        <h2 class="lane-line">
          <LaneMark
            :lane="tried.ruling.lane"
            :name="laneName"
          />
        </h2>
        <p class="sentence">
          {{ tried.sentence }}
        </p>
        <p
          v-if="tried.ruling.effects.length"
          class="small second"
        >
          Done to it: <template
            v-for="(e, i) in tried.ruling.effects"
            :key="i"
          >
            {{ i ? ', ' : '' }}{{ e.kind }} {{ e.value ?? '' }}
          </template>
        </p>
        <ReasonsLadder
          v-model:lit="lit"
          :reasons="tried.ruling.reasons"
          :decided-by="tried.ruling.decidedBy"
        />
        <div class="seen">
          <h3>What was read</h3>
          <p class="second small">
            from {{ tried.facts.from.join(', ') || 'nobody' }} ·
            {{ { pass: 'verified', fail: 'authentication failed', none: 'not verified' }[tried.facts.authentication] }}
            · {{ tried.facts.direction }}
          </p>
          <p
            v-for="d in tried.facts.defects"
            :key="d.code"
            class="small warn"
          >
            {{ d.code }}: {{ d.detail }}
          </p>
          <MessageText
            :attachments="tried.facts.attachments"
            :headers="tried.facts.headers"
            :segments="tried.facts.segments"
            :reasons="tried.ruling.reasons"
            :lit
            with-subject
          />
        </div>
        <p class="small second">
          Policy version {{ tried.ruling.policyVersion }}.
        </p>
      </template>
      <div
        v-else
        class="second empty"
      >
        <h2>Where it would go</h2>
        <p>
          Write or paste a message and press <em>Decide it</em>: here stands its lane, and every list and rule that
          matched, with what became of it.
        </p>
        <p class="small">
          To send one by real SMTP instead: <code>npm run send -- --to ADDRESS --from ADDRESS --subject …</code>
        </p>
      </div>
    </section>
  </div>
</template>

<style scoped>
.try { display: grid; grid-template-columns: minmax(380px, 5fr) 6fr; gap: 18px; align-items: start; }
form, section { padding: 20px 24px; display: grid; gap: 12px; }
.ways { display: flex; gap: 20px; }
.ways input { accent-color: var(--water); }
.press.first { justify-self: start; padding: 7px 16px; }
.sentence { font-size: 16px; }
.seen { border-top: 1px solid var(--hairline); padding-top: 12px; display: grid; gap: 8px; }
.empty { display: grid; gap: 10px; }
.mono :deep(textarea) { font-family: var(--mono); font-size: 13px; }
@media (max-width: 860px) { .try { grid-template-columns: minmax(0, 1fr); } }
</style>
