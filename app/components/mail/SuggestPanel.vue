<script setup lang="ts">
import { entryWords } from '#core/kinds'
import { isWhole } from '#core/simulate'
import { counted, numberWords, oneOf, plural, quoted } from '#core/wording'
import { isPersonal } from '#core/policy'
import type { Then } from '#core/suggest'
import { api, type Candidate, type SavedChanges, type RuleForm } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { copiesWords, scopeWords } from '~/composables/impactWords'
import { useSaveChanges } from '~/composables/saveChanges'

/** A list entry or rule for mail like this, in place of the message; its impact is seen before it is saved. */
const store = useSuggestionStore()
const mail = useMailStore()
const work = useJobStore()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const { choice } = storeToRefs(store)

const suggestion = computed(() => store.suggestion)
const senders = computed(() => (suggestion.value?.candidates ?? []).map((c, i) => ({ ...c, i })).filter(c => c.kind !== 'phrase'))
// Where senders change, none of them is the first choice.
const choices = computed(() => (suggestion.value?.flood ? [null, ...senders.value] : [...senders.value, null]))
const suggested = computed(() => (suggestion.value?.candidates ?? []).filter(c => c.kind === 'phrase'))
const changes = computed(() => store.changesOf())
const of = useImpact(() => changes.value, () => store.beyond)
// What came with the suggestion is shown at once.
watch(
  () => store.candidate,
  (now) => {
    if (now && changes.value === now.changes) of.know(now.impact, now.changes)
  },
)
const impact = computed(() => of.impact.value)
const hereCount = computed(() =>
  (impact.value && isWhole(impact.value) ? store.lanes.reduce((sum, lane) => sum + impact.value!.here[lane], 0) : null))
const scale = computed(() => Math.max(1, ...senders.value.map(c => c.impact.copies)))

const SEND: Record<Then['to'], string> = {
  inbox: 'Allow',
  spam: 'Block',
  bin: 'Block',
  refuse: 'Block',
  quarantine: 'Block',
}
const what = computed(() => {
  const senders = store.candidate?.senders ?? []
  const who = senders.length ? oneOf(senders.map(entryWords), 'or', 2) : ''
  const says = store.phrases.length ? `containing ${oneOf(store.phrases.map(quoted), 'or', 2)}` : ''
  const searched = store.candidate?.kind === 'search' ? `with ${store.candidate.words}` : ''
  return `mail ${[searched, who && `from ${who}`, says].filter(Boolean).join(' ') || '…'}`
})
const title = computed(() => {
  if (!suggestion.value) return choice.value.asRule ? 'New rule' : 'Block or allow'
  return `${SEND[suggestion.value.then.to]} ${what.value}`
})
const about = computed(() => {
  if (!store.about) return ''
  if ('query' in store.about)
    return suggestion.value ? `From the ${copiesWords(suggestion.value.of)} shown` : 'From the messages shown'
  const { lines } = store.about
  return lines.length === 1 ? `From “${lines[0]!.subject || 'no subject'}”` : `From ${counted(lines.length, 'message')}`
})

const thens = computed(() => [
  { value: 'inbox', name: 'allow: keep in Inbox' },
  { value: 'spam', name: 'move to Spam' },
  ...directory.names.quarantines.map(q => ({ value: `quarantine:${q.id}`, name: `hold in quarantine “${q.name}”` })),
  { value: 'bin', name: 'move to Bin' },
  ...(suggestion.value && !isPersonal(suggestion.value.owner) ? [{ value: 'refuse', name: 'refuse' }] : []),
])
const then = computed({
  get: () => {
    const now = suggestion.value?.then
    return now?.to === 'quarantine' ? `quarantine:${now.quarantine}` : (now?.to ?? 'spam')
  },
  set: (value) => {
    choice.value.adding = null
    const to: Then = value.startsWith('quarantine:') ? { to: 'quarantine', quarantine: value.slice(11) } : { to: value as 'spam' }
    void store.read({ then: to, owner: suggestion.value?.owner })
  },
})
const owner = computed({
  get: () => suggestion.value?.owner ?? '',
  set: (value) => {
    const now = suggestion.value!.then
    // Nobody refuses mail for themselves.
    const kept: Then = now.to === 'refuse' && isPersonal(value) ? { to: 'spam' } : now
    void store.read({ then: kept, owner: value })
  },
})

const SAVE_AS = [{ value: 'entry', name: 'list entry' }, { value: 'rule', name: 'rule' }]
/** Words, and any sender, can only be a rule. */
const isRule = computed(() => store.phrases.length > 0 || choice.value.who === null)
const saveAs = computed({
  get: () => (choice.value.asRule || isRule.value ? 'rule' : 'entry'),
  set: to => (choice.value.asRule = to === 'rule'),
})

const existing = computed(() => {
  const { here } = choice.value
  // What is kept away is kept away with what it was suggested from; what is let in can be this one alone.
  const these = store.protects ? choice.value.these : here
  if (!suggestion.value || (!these && !here)) return undefined
  return { lanes: here ? store.lanes : [], ids: these ? suggestion.value.examples : [] }
})
const monitoring = ref(false)
const putting = useSaveChanges(
  () => ({
    base: suggestion.value!.base,
    changes: store.changesOf(monitoring.value)!,
    coming: choice.value.coming,
    ...(existing.value && !monitoring.value ? { existing: existing.value } : {}),
  }),
  done,
  { is: () => store.beyond, ids: () => suggestion.value?.examples ?? [], done: proposed },
)

async function proposed() {
  const meant = 'lines' in store.about! ? store.about.lines : []
  store.close()
  await mail.goOn(meant)
}

async function done(active: SavedChanges) {
  const saved = choice.value.coming ? `saved; policy version ${active.version} is active` : 'applied once'
  const how = monitoring.value ? 'saved as “monitor only”' : saved
  const words = `${title.value}: ${how}.`
  const meant = 'lines' in store.about! ? store.about.lines : []
  monitoring.value = false
  store.close()
  work.tellSaved(active, { words, nothing: 'Nothing to save: this was already saved.', ended: () => void mail.reload() })
  await directory.load()
  await mail.goOn(meant)
  await mail.reload()
}

/** Enter before all mail is counted waits for it, and saves where nothing speaks against what was not seen. */
const waits = ref(false)
const ready = computed(() => store.state === 'ready' && impact.value !== null && isWhole(impact.value))
/** Why Enter has to be pressed once more, now that it can be seen; empty where it has not. */
const pressAgain = ref('')
watch(() => changes.value, () => (pressAgain.value = ''))
watch(ready, (now) => {
  if (now && waits.value) void putUnlessDoubtful()
})
/** Something speaks against it: broad, marked the other way, or nothing of what is shown is affected. */
const against = computed(() => {
  const now = impact.value
  if (!now) return ''
  if (now.broad) return now.broad
  const [marked, how] = store.protects ? [now.unwanted, 'unwanted'] as const : [now.wanted, 'wanted'] as const
  if (marked) return `${counted(marked, 'affected message')} ${plural(marked, 'is', 'are')} marked ${how}.`
  if (store.candidate?.warning) return store.candidate.warning
  if (stays.value.length) return `${staysWords.value}.`
  return suggestion.value?.contrary.some(c => c.wins) ? 'Another list or rule takes precedence.' : ''
})
async function putUnlessDoubtful() {
  waits.value = false
  if (against.value) pressAgain.value = against.value
  else await put()
}

/** It finds something in none of the messages that it is made from. */
const nothing = ref(false)
let isLooking = false
watch(() => changes.value, () => (nothing.value = false))
async function findsNothing(): Promise<boolean> {
  const { candidates, examples } = suggestion.value!
  const known = candidates.find(c => c.changes === changes.value)
  if (known) return known.hits === 0
  const { hits, of: read } = await api.hits({ changes: changes.value!, proposed: store.beyond, ids: examples })
  return read > 0 && hits === 0
}

/** @param seen that it finds nothing in these messages was said */
async function put(watch = false, seen = false) {
  if (putting.isAsking.value || isLooking) return
  if (!ready.value) {
    waits.value = store.state !== 'failed'
    return
  }
  waits.value = false
  pressAgain.value = ''
  if (!changes.value) return notices.say('Choose a sender or enter words.')
  if (!store.beyond && !choice.value.coming && !existing.value)
    return notices.say('Choose to which mail it applies: new mail, existing mail, or both.')
  monitoring.value = watch && !store.beyond
  if (seen || choice.value.adding !== null) return putting.put()
  const asked = changes.value
  isLooking = true
  try {
    const isNothing = await findsNothing()
    // What was changed meanwhile was not pressed for.
    if (changes.value !== asked) return
    if (isNothing) nothing.value = true
    else await putting.put()
  }
  catch (error) {
    notices.failed(error)
  }
  finally {
    isLooking = false
  }
}
const nothingWords = computed(() => {
  const these = suggestion.value?.examples.length === 1 ? 'the message' : 'any of the messages'
  return `This would not match ${these} that you selected. Save it anyway?`
})
const eventWords = computed(() => {
  if (waits.value) return 'Waiting for the impact…'
  if (store.beyond) return 'Propose'
  return choice.value.coming ? 'Save' : 'Apply once'
})
function leave() {
  if (putting.checking.value) return void putting.cancel()
  if (putting.question.value) return putting.leave()
  if (nothing.value) return void (nothing.value = false)
  store.close()
}
function over() {
  // Made anew on what stands now; what was chosen stays chosen.
  putting.leave()
  void store.read({ then: suggestion.value?.then, owner: suggestion.value?.owner }).then(() => put(monitoring.value))
}
/** A letter takes the sender so widely; it saves that where its impact is known and nothing speaks against it, else it waits for Enter. */
const KEY_OF: Partial<Record<Candidate['kind'], string>> = { mailingList: 'L', domain: 'D', domainAndSubdomains: 'S' }
async function putScope(kind: Candidate['kind']) {
  const at = suggestion.value?.candidates.findIndex(c => c.kind === kind) ?? -1
  if (at < 0 || putting.isAsking.value) return
  choice.value.who = at
  choice.value.adding = null
  await nextTick()
  if (ready.value) return putUnlessDoubtful()
  pressAgain.value = 'Its impact is being counted.'
}
useKeys({
  Enter: () => void put(monitoring.value && nothing.value, nothing.value),
  Escape: leave,
  ...Object.fromEntries(Object.entries(KEY_OF).map(([kind, key]) => [key.toLowerCase(), () => void putScope(kind as Candidate['kind'])])),
})

/** The rule sheet with all of it filled in. */
async function more() {
  const change = store.changesOf(true)?.find(c => c.type === 'put' && c.kind === 'rule')
  if (!change || change.type !== 'put' || change.kind !== 'rule') return
  store.handedOn = { ...change.value, state: 'enabled' } as RuleForm
  store.close()
  await navigateTo('/rules/new')
}
function addPhrase(text: string) {
  choice.value.adding = null
  if (suggested.value.some(c => c.phrases[0] === text && c.obfuscated)) choice.value.obfuscated = true
  choice.value.words = store.phrases.includes(text) ? store.phrases.filter(p => p !== text).join('\n') : [...store.phrases, text].join('\n')
}
const verified = computed(() => (store.protects ? (store.candidate?.verified ?? null) : null))
const stays = computed(() => store.candidate?.stays ?? [])
const staysWords = computed(() => {
  const of = suggestion.value?.examples.length
  if (of === 1) return 'This message would not be moved'
  return `${numberWords(stays.value.length)} of these ${counted(of ?? 0, 'message')} would not be moved`
})
const theseWords = computed(() => {
  const { examples = [], of = 0 } = suggestion.value ?? {}
  return examples.length === 1 ? 'this message' : `${of > examples.length ? 'the newest' : 'these'} ${counted(examples.length, 'message')}`
})
const backWords = computed(() => {
  const { freedNotVerified: unverified = 0, unwantedStay: unwanted = 0 } = impact.value ?? {}
  return [
    ...(unverified ? [`${numberWords(unverified)} of them not verified`] : []),
    ...(unwanted ? [`${counted(unwanted, 'message')} marked unwanted ${plural(unwanted, 'is', 'are')} not moved`] : []),
  ].join('; ')
})
const hereWords = computed(() => {
  const what = store.protects ? 'stopped message' : 'existing message'
  return hereCount.value === null ? `all ${what}s` : hereCount.value ? counted(hereCount.value, what) : `${what}s (none affected)`
})
</script>

<template>
  <section
    class="suggestion"
    aria-labelledby="suggestion-title"
    :aria-busy="store.state === 'reading'"
  >
    <header>
      <p class="second small">
        {{ about }}
      </p>
      <h2
        id="suggestion-title"
        class="title"
      >
        {{ title }}
      </h2>
    </header>
    <p
      v-if="store.state === 'failed'"
      class="wrong pad"
      role="alert"
    >
      {{ store.failure }}
    </p>
    <p
      v-else-if="!suggestion"
      class="second pad"
      role="status"
    >
      Loading suggestions and their impact…{{ waits ? ' It is saved as soon as the impact is known.' : '' }}
    </p>
    <div
      v-else
      class="body"
    >
      <div
        v-for="(c, i) in suggestion.covered"
        :key="`c${i}`"
        class="said small"
      >
        {{ c.words }} already.
        <el-checkbox
          v-if="c.add"
          :model-value="choice.adding === i"
          @change="(v: unknown) => choice.adding = v === true ? i : null"
        >
          Add {{ c.adds }} there instead
        </el-checkbox>
      </div>
      <p
        v-for="(c, i) in suggestion.contrary"
        :key="`x${i}`"
        class="said small"
        :class="{ warn: c.wins }"
      >
        Conflict: {{ c.words }}. {{ c.wins ? 'It takes precedence over your change.' : 'Your change takes precedence.' }}
      </p>
      <p
        v-if="suggestion.flood"
        class="said small"
      >
        {{ suggestion.flood.why }}
      </p>
      <p
        v-if="suggestion.unsaid.length && store.candidate?.kind === 'search'"
        class="said small warn"
      >
        Not part of the rule: {{ oneOf(suggestion.unsaid, 'and', 6) }}. It can match other messages than those shown.
      </p>
      <p
        v-if="stays.length"
        class="said small warn"
      >
        {{ staysWords }}: {{ stays[0]!.why }}
      </p>
      <p
        v-if="store.about && 'query' in store.about"
        class="said small second"
      >
        This creates a list entry or rule for new mail, from what these messages have in common. To move only these messages once,
        select them with Ctrl A instead.
      </p>
      <template v-if="choice.adding === null">
        <h3>Sender</h3>
        <div
          role="radiogroup"
          aria-label="Sender"
        >
          <label
            v-for="c in choices"
            :key="c?.i ?? 'any'"
            class="who"
          >
            <input
              v-model="choice.who"
              type="radio"
              name="who"
              :value="c?.i ?? null"
            >
            <template v-if="c">
              <span class="words">{{ c.words }} <kbd
                v-if="KEY_OF[c.kind]"
                title="chooses this sender"
              >{{ KEY_OF[c.kind] }}</kbd></span>
              <span class="figures"><ImpactBar
                :impact="c.impact"
                :scale
                :empty="c.catches < suggestion.examples.length ? `matches ${c.catches} of ${suggestion.examples.length}` : 'no other mail'"
              /></span>
              <span
                v-if="c.warning"
                class="small warn figures"
              >{{ c.warning }}</span>
            </template>
            <span
              v-else
              class="words"
            >any sender, with the words below</span>
          </label>
        </div>
        <p
          v-if="verified"
          class="small"
          :class="verified.passed < verified.of ? 'warn' : 'second'"
        >
          {{ numberWords(verified.passed) }} of {{ counted(verified.of, 'message') }} from this sender
          {{ plural(verified.of, 'was', 'were') }} verified<template v-if="verified.passed < verified.of">
            ; only verified messages count
          </template>.
        </p>
        <p
          v-if="store.protects && directory.data && !directory.data.authenticator"
          class="small warn"
        >
          No sender can be verified at present: DNS does not answer, and no trusted relay is configured. An entry has no effect until then.
        </p>
        <h3>Words</h3>
        <el-input
          v-model="choice.words"
          class="line-field"
          placeholder="any words"
          aria-label="Words"
          @keydown.enter.prevent
        />
        <el-checkbox
          v-if="store.phrases.length"
          v-model="choice.obfuscated"
        >
          also obfuscated spellings
        </el-checkbox>
        <p
          v-if="suggested.length"
          class="suggested small"
        >
          <PressButton
            v-for="c in suggested"
            :key="c.words"
            plain
            small
            :aria-pressed="store.phrases.includes(c.phrases[0]!)"
            @click="addPhrase(c.phrases[0]!)"
          >
            {{ c.words }} <span
              class="numbers"
              :class="{ warn: c.impact.broad }"
            >{{ numberWords(c.impact.copies) }}{{ c.impact.broad ? ', affects many' : '' }}</span>
          </PressButton>
        </p>
        <div class="line">
          <span class="second">Action</span>
          <ChoiceField
            v-model="then"
            :options="thens"
            label="Action"
          />
        </div>
        <div class="line">
          <span class="second">Owner</span>
          <WhoseSelect
            v-model="owner"
            proposing
          />
        </div>
        <div class="line">
          <span class="second">Save as</span>
          <ChoiceField
            v-model="saveAs"
            :options="SAVE_AS"
            label="Save as"
            :disabled="isRule"
          />
        </div>
      </template>
      <p
        v-if="of.state.value === 'failed'"
        class="wrong small"
      >
        {{ of.why.value }}
      </p>
      <details
        v-else-if="impact && impact.copies"
        class="more-impact"
      >
        <summary class="small">
          {{ scopeWords(impact) }}
        </summary>
        <ImpactFigures
          :impact
          below
        />
        <ImpactSample :sample="impact.sample" />
      </details>
      <p
        v-if="impact?.broad && choice.coming"
        class="small warn"
      >
        Warning: affects many messages. {{ impact.broad }}
      </p>
    </div>
    <footer>
      <p
        v-if="putting.error.value"
        class="wrong"
        role="alert"
      >
        {{ putting.error.value }}
      </p>
      <label
        v-if="store.beyond"
        class="note small"
      >You cannot change this. Propose the change to an administrator, with these messages. Reason:
        <el-input
          :model-value="putting.note.value"
          placeholder="reason, for the administrator"
          @update:model-value="(text: string) => putting.say(text)"
        /></label>
      <div
        v-else-if="suggestion && !putting.isAsking.value"
        class="line here"
      >
        <span class="second">Applies to</span>
        <div>
          <el-checkbox v-model="choice.coming">
            new mail
          </el-checkbox>
          <el-checkbox
            v-if="store.protects"
            v-model="choice.these"
          >
            {{ theseWords }}
          </el-checkbox>
          <el-checkbox v-model="choice.here">
            {{ hereWords }}{{ choice.here && backWords ? ` (${backWords})` : '' }}
          </el-checkbox>
        </div>
      </div>
      <div
        v-if="nothing"
        class="said small warn nothing"
        role="alertdialog"
        aria-label="Nothing matches"
      >
        <p>{{ nothingWords }}</p>
        <div class="actions">
          <PressButton
            small
            @click="put(monitoring, true)"
          >
            Save anyway
          </PressButton>
          <PressButton
            plain
            small
            @click="nothing = false"
          >
            Cancel
          </PressButton>
        </div>
      </div>
      <p
        v-if="pressAgain"
        class="small warn"
        role="status"
      >
        {{ pressAgain }} Press Enter to save.
      </p>
      <ChangeQuestion
        v-if="putting.isAsking.value"
        :putting
        :yours="title"
        :mine="isPersonal(owner)"
        watchable
        @watch="putting.leave(); put(true)"
        @over="over"
        @load="store.close()"
      />
      <div
        v-else
        class="actions"
      >
        <PressButton
          first
          :disabled="putting.busy.value || store.state === 'failed'"
          @click="put()"
        >
          {{ eventWords }} <kbd>Enter</kbd>
        </PressButton>
        <PressButton
          v-if="choice.adding === null && !store.beyond"
          :disabled="!ready"
          @click="put(true)"
        >
          Monitor only
        </PressButton>
        <PressButton
          v-if="choice.adding === null"
          plain
          :disabled="!suggestion"
          @click="more()"
        >
          More options…
        </PressButton>
        <PressButton
          plain
          @click="leave()"
        >
          Cancel
        </PressButton>
      </div>
    </footer>
  </section>
</template>

<style scoped>
.suggestion { display: flex; flex-direction: column; min-height: 0; flex: 1; }
header { padding: 16px 20px 10px; border-bottom: 1px solid var(--hairline); display: grid; gap: 3px; }
.title { font-size: 19px; overflow-wrap: anywhere; }
h3 { font-family: var(--text); font-weight: 400; font-size: 14px; color: var(--ink-2); margin: 10px 0 2px; }
.pad { padding: 16px 20px; }
.body { flex: 1; overflow-y: auto; padding: 6px 20px 14px; display: grid; gap: 6px; align-content: start; min-height: 0; }
.said { border-left: 2px solid var(--field); padding-left: 10px; margin-top: 6px; }
.who {
  display: grid;
  grid-template-columns: 22px minmax(0, 1fr);
  gap: 1px 6px;
  padding: 4px 0;
  border-bottom: 1px solid var(--hairline);
  cursor: pointer;
}
.who input { accent-color: var(--water); margin: 4px 0 0; width: 15px; height: 15px; align-self: start; }
.words { overflow-wrap: anywhere; }
.who:has(input:checked) .words { font-weight: 700; }
.figures { grid-column: 2; --bar: 76px; }
.suggested { display: flex; flex-wrap: wrap; gap: 0 8px; margin-left: -6px; }

.note { display: grid; gap: 4px; }
.line { display: grid; grid-template-columns: 62px 1fr; align-items: center; }
.here { grid-template-columns: 82px 1fr; }
.here > div { display: flex; flex-wrap: wrap; gap: 0 14px; }
.here :deep(.el-checkbox) { margin-right: 0; height: auto; white-space: normal; }
.more-impact { display: grid; gap: 8px; }
.more-impact[open] summary { margin-bottom: 6px; }
summary { cursor: pointer; }
footer { border-top: 1px solid var(--hairline); padding: 12px 20px; display: grid; gap: 8px; }
.actions { display: flex; flex-wrap: wrap; gap: 6px 4px; align-items: center; }
.actions > :first-child { margin-right: 4px; }
</style>
