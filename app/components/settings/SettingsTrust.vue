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
  'Trusted relays and networks saved.',
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
  { value: 'header', name: 'in the header field' },
  { value: 'before', name: 'in the subject prefix' },
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
    title="Trusted relays and networks"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      Anyone can write anything into a header. Only these sources are trusted: relays that authenticate senders, your own networks,
      and headers of an upstream filter.
    </template>
    <h3>
      <WordHelp
        word="Trusted relays"
        term="trustedRelay"
      />
    </h3>
    <p class="second small">
      A relay checks DMARC, DKIM and SPF and writes the result into the field Authentication-Results (RFC 8601), with its
      authserv-id. Without a trusted relay, allow lists of the organisation have no effect.
    </p>
    <div
      v-for="(relay, i) in fields.relays"
      :key="i"
      class="row"
    >
      <span class="second small">connects from</span>
      <TextField
        v-model="relay.network"
        :label="`Network of relay ${i + 1}`"
        placeholder="192.0.2.10 or 192.0.2.0/28"
        :width="200"
        code
      />
      <span class="second small">authserv-id</span>
      <TextField
        v-model="relay.authservId"
        :label="`authserv-id of relay ${i + 1}`"
        placeholder="relay.saltmere-harbour.example"
        :width="250"
        code
      />
      <PressButton
        plain
        :aria-label="`Remove relay ${i + 1}`"
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
      + Add relay
    </PressButton>
    <div class="side-by-side">
      <FormField
        label="Own networks: mail from them is outbound or internal"
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
        label="Public mailbox providers: anyone can have a mailbox there"
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
    <h3>Upstream filter headers</h3>
    <p class="second small">
      Rules can use the verdict of a filter that checked the mail before, such as “classified as spam”.
    </p>
    <div
      v-for="(verdict, i) in fields.upstreamVerdicts"
      :key="verdict.id"
      class="row"
    >
      <TextField
        v-model="verdict.name"
        :label="`Name of header ${i + 1}`"
        placeholder="name"
        :width="150"
      />
      <ChoiceField
        v-model="verdict.by"
        :options="BY"
        :label="`Place of header ${i + 1}`"
        :width="160"
      />
      <template v-if="verdict.by === 'header'">
        <TextField
          v-model="verdict.header"
          :label="`Field of header ${i + 1}`"
          placeholder="x-suspect"
          :width="140"
          code
        />
        <TextField
          v-model="verdict.text"
          :label="`Value of header ${i + 1}`"
          placeholder="any value"
          :width="150"
        />
      </template>
      <TextField
        v-else
        v-model="verdict.before"
        :label="`Subject prefix of header ${i + 1}`"
        placeholder="[suspect]"
        :width="160"
      />
      <PressButton
        plain
        :aria-label="`Remove header ${i + 1}`"
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
      + Add upstream filter header
    </PressButton>
    <template #below>
      <details class="traceTest">
        <summary>Test with the header of a message</summary>
        <form @submit.prevent="tryIt">
          <p class="second small">
            Paste the header of a message, as its source shows it. The test uses the settings above, even if they are not saved yet.
          </p>
          <FormField
            label="Relay address"
            :error="traceTest.firstOf('trace.client')"
          >
            <TextField
              v-model="sample.client"
              label="Relay address"
              placeholder="192.0.2.10"
              code
            />
          </FormField>
          <el-input
            v-model="sample.headers"
            type="textarea"
            :rows="5"
            aria-label="Header of a message"
            placeholder="Authentication-Results: relay.saltmere-harbour.example; dmarc=pass"
            spellcheck="false"
          />
          <PressButton type="submit">
            Test
          </PressButton>
          <div
            v-if="tried"
            role="status"
          >
            <p>{{ tried.words }}</p>
            <p v-if="tried.why">
              {{ tried.why }}
            </p>
            <p
              v-for="line in tried.unread"
              :key="line"
              class="small warn"
            >
              {{ line }}
            </p>
          </div>
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
