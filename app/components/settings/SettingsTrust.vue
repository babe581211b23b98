<script setup lang="ts">
import type { UpstreamVerdict } from '#core/message'
import { api, type TraceTestResult } from '~/api/client'
import { linesOf, useSettingsPart } from '~/composables/settingsPart'

interface VerdictRow { id: string, name: string, by: 'header' | 'before', header: string, text: string, before: string }

const { fields, changed, error, wrong, firstOf, busy, save, leave } = useSettingsPart(
  h => ({
    relays: h.relays.map(r => ({ ...r })),
    ownNetworks: h.ownNetworks.join('\n'),
    publicProviders: h.publicProviders.join('\n'),
    upstreamVerdicts: h.upstreamVerdicts.map(rowOf),
  }),
  f => ({
    relays: f.relays.map(r => ({ network: r.network.trim(), authservId: r.authservId.trim() })),
    ownNetworks: linesOf(f.ownNetworks),
    publicProviders: linesOf(f.publicProviders),
    upstreamVerdicts: f.upstreamVerdicts.map(verdictOf),
  }),
  'Whom we believe is changed, and in force.',
)
function rowOf(verdict: UpstreamVerdict): VerdictRow {
  const { id, name } = verdict
  return 'before' in verdict
    ? { id, name, by: 'before', header: '', text: '', before: verdict.before }
    : { id, name, by: 'header', header: verdict.header, text: verdict.text ?? '', before: '' }
}
function verdictOf({ id, name, by, header, text, before }: VerdictRow): UpstreamVerdict {
  return by === 'before'
    ? { id, name: name.trim(), before: before.trim() }
    : { id, name: name.trim(), header: header.trim().toLowerCase(), ...(text.trim() ? { text: text.trim() } : {}) }
}
function addVerdict() {
  const taken = new Set(fields.value.upstreamVerdicts.map(m => m.id))
  let n = fields.value.upstreamVerdicts.length + 1
  while (taken.has(`mark-${n}`)) n++
  fields.value.upstreamVerdicts.push({ id: `mark-${n}`, name: '', by: 'header', header: '', text: '', before: '' })
}
const BY = [
  { value: 'header', name: 'in the header' },
  { value: 'before', name: 'before the subject' },
] as const

const sample = reactive({ client: '', headers: '' })
const tried = ref<TraceTestResult | null>(null)
const traceTest = useForm()
const tryIt = () => traceTest.submit(async () => {
  tried.value = null
  const { relays, ownNetworks } = fields.value
  tried.value = await api.testTrace({ ...sample, relays: relays.filter(r => r.network && r.authservId), ownNetworks: linesOf(ownNetworks) })
})
</script>

<template>
  <SettingsPart
    id="trust"
    title="Whom we believe"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      Anybody can write anything into a header. Only what stands here is believed: the relay that checks senders, the networks
      that are ours, and the marks of a system before us.
    </template>
    <h3>Relays that verify senders</h3>
    <p class="second small">
      A relay checks DMARC, DKIM and SPF and writes down what it found, in the field Authentication-Results (RFC 8601), behind its
      own name. Without one no allow entry of the organisation counts.
    </p>
    <div
      v-for="(relay, i) in fields.relays"
      :key="i"
      class="row"
    >
      <span class="second small">it connects from</span>
      <TextField
        v-model="relay.network"
        :label="`Network of relay ${i + 1}`"
        placeholder="192.0.2.10 or 192.0.2.0/28"
        :width="200"
        code
      />
      <span class="second small">and signs as</span>
      <TextField
        v-model="relay.authservId"
        :label="`Name of relay ${i + 1}`"
        placeholder="relay.saltmere-harbour.example"
        :width="250"
        code
      />
      <PressButton
        plain
        :aria-label="`Take relay ${i + 1} out`"
        @click="fields.relays.splice(i, 1)"
      >
        ×
      </PressButton>
    </div>
    <p
      v-if="firstOf('relays')"
      class="wrong"
    >
      {{ firstOf('relays') }}
    </p>
    <PressButton
      plain
      @click="fields.relays.push({ network: '', authservId: '' })"
    >
      + relay
    </PressButton>
    <div class="side-by-side">
      <FormField
        label="Our own networks: what connects from them goes out, or stays among us"
        :error="firstOf('ownNetworks')"
      >
        <el-input
          v-model="fields.ownNetworks"
          type="textarea"
          :autosize="{ minRows: 2, maxRows: 8 }"
          placeholder="none"
          spellcheck="false"
        />
      </FormField>
      <FormField
        label="Public mailbox providers: anybody can have an address at them"
        :error="firstOf('publicProviders')"
      >
        <el-input
          v-model="fields.publicProviders"
          type="textarea"
          :autosize="{ minRows: 2, maxRows: 8 }"
          placeholder="none"
          spellcheck="false"
        />
      </FormField>
    </div>
    <h3>Marks of a system before us</h3>
    <p class="second small">
      A rule can ask for them, and each is evidence: “the filter of our provider took it for spam”.
    </p>
    <div
      v-for="(verdict, i) in fields.upstreamVerdicts"
      :key="verdict.id"
      class="row"
    >
      <TextField
        v-model="verdict.name"
        :label="`Name of mark ${i + 1}`"
        placeholder="what it says"
        :width="150"
      />
      <ChoiceField
        v-model="verdict.by"
        :options="BY"
        :label="`Where mark ${i + 1} stands`"
        :width="160"
      />
      <template v-if="verdict.by === 'header'">
        <TextField
          v-model="verdict.header"
          :label="`Header of mark ${i + 1}`"
          placeholder="x-suspect"
          :width="140"
          code
        />
        <TextField
          v-model="verdict.text"
          :label="`Text of mark ${i + 1}`"
          placeholder="whatever it says"
          :width="150"
        />
      </template>
      <TextField
        v-else
        v-model="verdict.before"
        :label="`Words of mark ${i + 1}`"
        placeholder="[suspect]"
        :width="160"
      />
      <PressButton
        plain
        :aria-label="`Take mark ${i + 1} out`"
        @click="fields.upstreamVerdicts.splice(i, 1)"
      >
        ×
      </PressButton>
    </div>
    <p
      v-if="firstOf('upstreamVerdicts')"
      class="wrong"
    >
      {{ wrong.upstreamVerdicts ?? firstOf('upstreamVerdicts') }}
    </p>
    <PressButton
      plain
      @click="addVerdict"
    >
      + mark
    </PressButton>
    <template #below>
      <details class="traceTest">
        <summary>Try it on the header of a message</summary>
        <form @submit.prevent="tryIt">
          <p class="second small">
            Paste the header as a message’s source shows it. It is tried with what stands above, also before that is in force.
          </p>
          <FormField
            label="Handed over by"
            :error="traceTest.firstOf('trace.client')"
          >
            <TextField
              v-model="sample.client"
              label="Handed over by"
              placeholder="192.0.2.10"
              code
            />
          </FormField>
          <el-input
            v-model="sample.headers"
            type="textarea"
            :rows="5"
            aria-label="Header of a message"
            placeholder="Authentication-Results: relay.saltmere-harbour.example; dmarc=pass …"
            spellcheck="false"
          />
          <PressButton type="submit">
            Try
          </PressButton>
          <p
            v-if="tried"
            role="status"
          >
            {{ tried.words }}
          </p>
          <p
            v-if="traceTest.error.value"
            class="wrong"
            role="alert"
          >
            {{ traceTest.error.value }}
          </p>
        </form>
      </details>
    </template>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
.press.plain { margin-left: -5px; }
h3 { margin-top: 6px; }
.side-by-side { display: grid; grid-template-columns: 1fr 1fr; gap: 20px; width: 100%; }
.traceTest summary { cursor: pointer; color: var(--water); font-weight: 600; font-size: 14px; }
.traceTest form { display: grid; gap: 8px; justify-items: start; padding-top: 8px; }
.traceTest :deep(.el-textarea) { width: 100%; }
@media (max-width: 720px) { .side-by-side { grid-template-columns: 1fr; } }
</style>
