<script setup lang="ts">
import { entryWords, oneOf, quoted } from '#core/kinds'
import { isPersonal } from '#core/policy'
import type { Then } from '#core/suggest'
import type { Candidate, SavedChanges, RuleForm } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { copiesWords, scopeWords } from '~/composables/impactWords'
import { useSaveChanges } from '~/composables/saveChanges'

/** What is to be of mail like this: suggested in place of the recipient, its impact seen before it is active. */
const store = useSuggestionStore()
const mail = useMailStore()
const work = useJobStore()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const { choice } = storeToRefs(store)

const suggestion = computed(() => store.suggestion)
const senders = computed(() => (suggestion.value?.candidates ?? []).map((c, i) => ({ ...c, i })).filter(c => c.kind !== 'phrase'))
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
const hereCount = computed(() => (impact.value ? store.lanes.reduce((sum, lane) => sum + impact.value!.here[lane], 0) : null))
const scale = computed(() => Math.max(1, ...senders.value.map(c => c.impact.copies)))

const SEND: Record<Then['to'], string> = {
  inbox: 'Always let into the inbox',
  spam: 'Send to spam',
  bin: 'Send to the bin',
  refuse: 'Refuse',
  quarantine: 'Hold',
}
const what = computed(() => {
  const who = store.candidate ? oneOf(store.candidate.senders.map(entryWords), 'or', 2) : ''
  const says = store.phrases.length ? `says ${oneOf(store.phrases.map(quoted), 'or', 2)}` : ''
  return `what ${[who && `comes from ${who}`, says].filter(Boolean).join(' and ') || '…'}`
})
const title = computed(() => (suggestion.value ? `${SEND[suggestion.value.then.to]} ${what.value}` : 'Sketch'))
const about = computed(() => {
  if (!store.about) return ''
  if ('query' in store.about)
    return suggestion.value ? `Sketch from ${copiesWords(suggestion.value.of)} that are shown` : 'Sketch from what is shown'
  const { lines } = store.about
  return lines.length === 1 ? `Sketch from “${lines[0]!.subject || 'no subject'}”` : `Sketch from ${lines.length} messages`
})

const thens = computed(() => [
  { value: 'inbox', name: 'always to the inbox' },
  { value: 'spam', name: 'send to spam' },
  ...directory.names.quarantines.map(q => ({ value: `quarantine:${q.id}`, name: `hold in ${q.name}` })),
  { value: 'bin', name: 'send to the bin' },
  ...(suggestion.value && !isPersonal(suggestion.value.owner) ? [{ value: 'refuse', name: 'refuse it' }] : []),
])
const then = computed({
  get: () => (suggestion.value?.then.to === 'quarantine' ? `quarantine:${suggestion.value.then.quarantine}` : (suggestion.value?.then.to ?? 'spam')),
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
  const how = monitoring.value ? 'it watches' : choice.value.coming ? `in force as version ${active.version}` : 'done once'
  const words = `${title.value}: ${how}.`
  const meant = 'lines' in store.about! ? store.about.lines : []
  monitoring.value = false
  store.close()
  work.tellSaved(active, { words, nothing: 'That was in force already: nothing changed.', ended: () => void mail.reload() })
  await directory.load()
  await mail.goOn(meant)
  await mail.reload()
}

/** Enter before the first impact is known waits for it. */
const waits = ref(false)
const ready = computed(() => store.state === 'ready' && impact.value !== null)
watch(ready, (now) => {
  if (now && waits.value) void put()
})
async function put(watch = false) {
  if (putting.question.value) return
  if (!ready.value) {
    waits.value = store.state !== 'failed'
    return
  }
  waits.value = false
  if (!changes.value) return notices.say('Say from whom, or which words.')
  if (store.beyond) return putting.put()
  if (!choice.value.coming && !existing.value) return notices.say('Say to which mail it applies: what comes, what is here, or both.')
  monitoring.value = watch
  await putting.put()
}
const eventWords = computed(() => {
  if (waits.value) return 'Waiting for its impact …'
  if (store.beyond) return 'Propose it'
  return choice.value.coming ? 'Put in force' : 'Do it once'
})
function leave() {
  if (putting.question.value) return putting.leave()
  store.close()
}
function over() {
  // Made anew on what stands now; what was chosen stays chosen.
  putting.leave()
  void store.read({ then: suggestion.value?.then, owner: suggestion.value?.owner }).then(() => put(monitoring.value))
}
/** A letter takes the sender so widely, and saves that; what it would catch stands beside it. */
const KEY_OF: Partial<Record<Candidate['kind'], string>> = { mailingList: 'L', domain: 'D', domainAndSubdomains: 'B' }
async function putScope(kind: Candidate['kind']) {
  const at = suggestion.value?.candidates.findIndex(c => c.kind === kind) ?? -1
  if (at < 0 || putting.question.value) return
  choice.value.who = at
  choice.value.adding = null
  await nextTick()
  await put()
}
useKeys({
  Enter: () => void put(),
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
  choice.value.words = store.phrases.includes(text) ? store.phrases.filter(p => p !== text).join('\n') : [...store.phrases, text].join('\n')
}
const verified = computed(() => (store.protects ? (store.candidate?.verified ?? null) : null))
const stays = computed(() => store.candidate?.stays ?? [])
const staysWords = computed(() => {
  const of = suggestion.value?.examples.length
  return of === 1 ? 'This one stays where it is' : `${stays.value.length} of these ${of} stay where they are`
})
const theseWords = computed(() => {
  const { examples = [], of = 0 } = suggestion.value ?? {}
  return examples.length === 1 ? 'this one' : of > examples.length ? `the newest ${examples.length}` : `these ${examples.length}`
})
const hereWords = computed(() => {
  if (hereCount.value === null) return 'all that are here'
  if (!hereCount.value) return store.protects ? 'others that are kept away here (none)' : 'what is here too (nothing would move)'
  return `the ${hereCount.value.toLocaleString('en')} ${store.protects ? 'that are kept away here' : 'that are here too'}`
})
</script>

<template>
  <section
    class="suggestion"
    aria-labelledby="sketch-title"
    :aria-busy="store.state === 'reading'"
  >
    <header>
      <p class="second small">
        {{ about }}
      </p>
      <h1 id="sketch-title">
        {{ title }}
      </h1>
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
      Reading what it has in common, and what it would catch …{{ waits ? ' It is put in force as soon as that is seen.' : '' }}
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
          add {{ c.adds }} there instead
        </el-checkbox>
      </div>
      <p
        v-for="(c, i) in suggestion.contrary"
        :key="`x${i}`"
        class="said small"
        :class="{ warn: c.wins }"
      >
        {{ c.words }} and says the contrary: {{ c.wins ? 'that one wins.' : 'this goes before it.' }}
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
        For mail to come it becomes a rule or an entry, by what these have in common. To move just what is shown, once, choose all of
        it with Ctrl A instead.
      </p>
      <template v-if="choice.adding === null">
        <h2>Who</h2>
        <div
          role="radiogroup"
          aria-label="Who"
        >
          <label
            v-for="c in senders"
            :key="c.i"
            class="who"
          >
            <input
              v-model="choice.who"
              type="radio"
              name="who"
              :value="c.i"
            >
            <span class="words">{{ c.words }} <kbd
              v-if="KEY_OF[c.kind]"
              title="puts it in force so"
            >{{ KEY_OF[c.kind] }}</kbd></span>
            <span class="figures"><ImpactBar
              :impact="c.impact"
              :scale
              :empty="c.catches < suggestion.examples.length ? `catches ${c.catches} of ${suggestion.examples.length}` : 'no other mail'"
            /></span>
            <span
              v-if="c.warning"
              class="small warn figures"
            >{{ c.warning }}</span>
          </label>
          <label class="who">
            <input
              v-model="choice.who"
              type="radio"
              name="who"
              :value="null"
            >
            <span class="words">anybody who says the words below</span>
          </label>
        </div>
        <p
          v-if="verified"
          class="small"
          :class="verified.passed < verified.of ? 'warn' : 'second'"
        >
          {{ verified.passed }} of {{ verified.of }} from there came verified<template v-if="verified.passed < verified.of">
            ; {{ isPersonal(suggestion.owner) ? 'what fails authentication does not count' : 'only verified mail counts' }}
          </template>.
        </p>
        <h2>and says</h2>
        <el-input
          v-model="choice.words"
          class="line-field"
          placeholder="any words"
          aria-label="Words that it says"
          @keydown.enter.prevent="put()"
        />
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
            >{{ c.impact.copies.toLocaleString('en') }}{{ c.impact.broad ? ', broad' : '' }}</span>
          </PressButton>
        </p>
        <div class="line">
          <span class="second">then</span>
          <ChoiceField
            v-model="then"
            :options="thens"
            label="What then"
          />
        </div>
        <div class="line">
          <span class="second">for</span>
          <WhoseSelect
            v-model="owner"
            proposing
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
          :looking="of.state.value === 'looking'"
          below
        />
        <ImpactSample :sample="impact.sample" />
      </details>
      <p
        v-if="impact?.broad && choice.coming"
        class="small warn"
      >
        Broad: {{ impact.broad }}
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
      >Not yours to change: you propose it, with these messages. What for?
        <el-input
          :model-value="putting.note.value"
          placeholder="why, for whoever decides"
          @update:model-value="(text: string) => putting.say(text)"
        /></label>
      <div
        v-else-if="suggestion && !putting.question.value"
        class="line here"
      >
        <span class="second">applies to</span>
        <div>
          <el-checkbox v-model="choice.coming">
            mail to come
          </el-checkbox>
          <el-checkbox
            v-if="store.protects"
            v-model="choice.these"
          >
            {{ theseWords }}
          </el-checkbox>
          <el-checkbox v-model="choice.here">
            {{ hereWords }}
          </el-checkbox>
        </div>
      </div>
      <ChangeQuestion
        v-if="putting.question.value"
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
          Let it watch
        </PressButton>
        <PressButton
          v-if="choice.adding === null"
          plain
          :disabled="!suggestion"
          @click="more()"
        >
          More
        </PressButton>
        <PressButton
          plain
          @click="leave()"
        >
          Leave it
        </PressButton>
      </div>
    </footer>
  </section>
</template>

<style scoped>
.suggestion { display: flex; flex-direction: column; min-height: 0; flex: 1; }
header { padding: 16px 20px 10px; border-bottom: 1px solid var(--hairline); display: grid; gap: 3px; }
h1 { font-size: 19px; overflow-wrap: anywhere; }
h2 { font-family: var(--text); font-weight: 400; font-size: 14px; color: var(--ink-2); margin: 10px 0 2px; }
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
.line { display: grid; grid-template-columns: 52px 1fr; align-items: center; }
.here { grid-template-columns: 82px 1fr; }
.here > div { display: flex; flex-wrap: wrap; gap: 0 14px; }
.here :deep(.el-checkbox) { margin-right: 0; }
.more-impact { display: grid; gap: 8px; }
.more-impact[open] summary { margin-bottom: 6px; }
summary { cursor: pointer; }
footer { border-top: 1px solid var(--hairline); padding: 12px 20px; display: grid; gap: 8px; }
.actions { display: flex; flex-wrap: wrap; gap: 6px 4px; align-items: center; }
.actions > :first-child { margin-right: 4px; }
</style>
