<script setup lang="ts">
import { counted, numberWords } from '#core/wording'
import { api, type DomainTestResult, type SenderTestResult } from '~/api/client'
import { linesOf, useSettingsPart } from '~/composables/settingsPart'

const { settings, fields, changed, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ enabled: h.verification.enabled, servers: h.verification.servers.join('\n') }),
  f => ({ verification: { enabled: f.enabled, servers: linesOf(f.servers) } }),
  'Sender verification saved.',
)
const STATES = { working: 'Senders can be verified.', silent: 'Senders cannot be verified at present: DNS does not answer.' }
const state = computed(() => settings.data!.verifying)
const dnsWords = computed(() => {
  const at = state.value.servers.join(', ')
  switch (state.value.from) {
    case 'stand-in':
      return `A stand-in for DNS at ${at} answers for the invented domains of the demo, and for no other. Enter a server above to use real DNS.`
    case 'settings':
      return `DNS is asked at ${at}.`
    case 'environment':
      return `DNS is asked at ${at}, as SOBER_GATE_DNS says.`
    default:
      return 'The DNS servers of this machine are asked.'
  }
})

const sample = reactive({ source: '', client: '', helo: '', mailFrom: '' })
const sender = ref<SenderTestResult | null>(null)
const senderTest = useForm()
const testSender = () => senderTest.submit(async () => {
  sender.value = null
  sender.value = await api.testSender({ ...sample })
})
const domainName = ref('')
const domain = ref<DomainTestResult | null>(null)
const domainTest = useForm()
const testDomain = () => domainTest.submit(async () => {
  domain.value = null
  domain.value = await api.testDomain(domainName.value)
})
const recordWords = (l: SenderTestResult['lookUps'][number]) =>
  l.records ? l.records.join(' · ') : { ENOTFOUND: 'no such name', ENODATA: 'no such record', ETIMEOUT: 'no answer' }[l.error ?? 'ETIMEOUT']

const stored = ref<{ ready: number, without: number } | null>(null)
const storedForm = useForm()
const countStored = () => storedForm.submit(async () => {
  stored.value = await api.unverifiedMail()
})
const jobs = useJobStore()
const verifyStored = () => storedForm.submit(async () => {
  const { job } = await api.verifyMail()
  stored.value = null
  jobs.follow(job, { eventId: null, words: 'Existing mail verified: the sender passed in {n}.', ended: () => undefined })
})
</script>

<template>
  <SettingsPart
    id="verification"
    title="Sender verification"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      Anyone can write any From. The sender of incoming mail is verified by SPF, DKIM and DMARC, unless a trusted relay says what it found.
    </template>
    <p
      v-if="!state.allowed"
      class="warn"
    >
      SOBER_GATE_DNS is “off” in the environment of the server, so senders are not verified here.
    </p>
    <p
      v-else-if="settings.data!.verification.enabled"
      :class="{ warn: !state.working }"
      role="status"
    >
      {{ state.working ? STATES.working : STATES.silent }}
    </p>
    <el-checkbox v-model="fields.enabled">
      Verify senders here
    </el-checkbox>
    <FormField
      label="DNS servers, one per line"
      :error="firstOf('verification')"
    >
      <el-input
        v-model="fields.servers"
        type="textarea"
        :autosize="{ minRows: 1, maxRows: 5 }"
        placeholder="those of this machine"
        spellcheck="false"
      />
    </FormField>
    <p class="second small">
      {{ dnsWords }} Answers are kept for five minutes, failures for one.
    </p>
    <template #below>
      <h3>Treat a DMARC failure as its domain asks</h3>
      <p class="second small">
        A domain can ask receivers to quarantine or refuse mail that fails DMARC. Such mail is then held in a quarantine, by a rule with
        statistics like any other.
        <template v-if="state.dmarcRule">
          {{ state.dmarcRule.enabled ? 'On' : 'Off' }}:
          <NuxtLink :to="`/rules/${state.dmarcRule.id}`">
            rule “{{ state.dmarcRule.name }}”
          </NuxtLink>
        </template>
        <template v-else>
          Off.
          <NuxtLink :to="{ path: '/rules/new', query: { start: 'dmarc' } }">
            See the impact and turn it on
          </NuxtLink>
        </template>
      </p>
      <details class="test">
        <summary>Test with a message</summary>
        <form @submit.prevent="testSender">
          <p class="second small">
            Paste the whole source of a message. DNS is really asked; nothing is kept.
          </p>
          <el-input
            v-model="sample.source"
            type="textarea"
            :rows="6"
            aria-label="Source of a message"
            placeholder="DKIM-Signature: v=1; a=rsa-sha256; d=quayline.example; …"
            spellcheck="false"
          />
          <div class="row">
            <FormField
              label="Client address (for SPF)"
              :error="senderTest.firstOf('sender.client')"
            >
              <TextField
                v-model="sample.client"
                label="Client address"
                placeholder="192.0.2.25"
                :width="170"
                code
              />
            </FormField>
            <FormField label="Envelope sender">
              <TextField
                v-model="sample.mailFrom"
                label="Envelope sender"
                placeholder="accounts@quayline.example"
                :width="240"
                code
              />
            </FormField>
            <FormField label="HELO name">
              <TextField
                v-model="sample.helo"
                label="HELO name"
                placeholder="mail.quayline.example"
                :width="200"
                code
              />
            </FormField>
          </div>
          <PressButton type="submit">
            Test message
          </PressButton>
          <div
            v-if="sender"
            class="result"
            role="status"
          >
            <p><strong>{{ sender.words }}</strong></p>
            <MethodResults :found="sender.found" />
            <h4>Records that were read</h4>
            <table>
              <tbody>
                <tr
                  v-for="(l, i) in sender.lookUps"
                  :key="i"
                >
                  <th
                    scope="row"
                    class="mono"
                  >
                    {{ l.name }}
                  </th>
                  <td>{{ l.type }}</td>
                  <td class="mono second">
                    {{ recordWords(l) }}
                  </td>
                </tr>
              </tbody>
            </table>
          </div>
          <p
            v-if="senderTest.error.value"
            class="wrong"
            role="alert"
          >
            {{ senderTest.error.value }}
          </p>
        </form>
      </details>
      <details class="test">
        <summary>Test a domain</summary>
        <form @submit.prevent="testDomain">
          <FormField
            label="Domain"
            :error="domainTest.firstOf('domain')"
          >
            <TextField
              v-model="domainName"
              label="Domain"
              placeholder="quayline.example"
              code
            />
          </FormField>
          <PressButton type="submit">
            Test domain
          </PressButton>
          <div
            v-if="domain"
            class="result"
            role="status"
          >
            <p
              v-for="w in domain.words"
              :key="w"
            >
              {{ w }}
            </p>
          </div>
          <p
            v-if="domainTest.error.value"
            class="wrong"
            role="alert"
          >
            {{ domainTest.error.value }}
          </p>
        </form>
      </details>
      <details class="test">
        <summary>Verify the senders of existing mail</summary>
        <div class="form">
          <p class="second small">
            Mail that was imported, or came before senders were verified. Keys change, so what passed then may fail now; only a passing
            result is kept. No message is moved.
          </p>
          <PressButton @click="countStored">
            Count messages
          </PressButton>
          <p
            v-if="stored"
            role="status"
          >
            {{ counted(stored.ready, 'message') }} can be verified. {{ numberWords(stored.without) }} cannot: the source was not kept.
          </p>
          <PressButton
            v-if="stored?.ready"
            @click="verifyStored"
          >
            Verify {{ counted(stored.ready, 'message') }}
          </PressButton>
          <p
            v-if="storedForm.error.value"
            class="wrong"
            role="alert"
          >
            {{ storedForm.error.value }}
          </p>
        </div>
      </details>
    </template>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 12px; }
.test { padding: 4px 0; }
.test summary { cursor: pointer; color: var(--water); font-weight: 600; font-size: 14px; }
.test form, .test .form { display: grid; gap: 8px; justify-items: start; padding: 8px 0; }
.test :deep(.el-textarea) { width: 100%; }
.result { display: grid; gap: 8px; overflow-wrap: anywhere; }
table { border-collapse: collapse; font-size: 14px; }
th, td { text-align: left; vertical-align: top; padding: 2px 14px 2px 0; font-weight: 400; }
th { font-weight: 600; }
th:not(.mono), td:nth-child(2) { white-space: nowrap; }
h4 { font-size: 14px; margin: 4px 0 0; }
</style>
