import { defineStore } from 'pinia'
import type { PolicyChange } from '#core/change'
import { draftChanges, type Draft, type Then } from '#core/suggest'
import { phraseText, type KeptLane } from '#core/policy'
import { api, type Candidate, type CopyView, type CopyQuery, type RuleForm, type Suggestion } from '~/api/client'

/** From what is suggested. */
export type SuggestionAbout =
  | { ids: number[], lines: CopyView[] }
  | { query: CopyQuery & { except?: number[] } }

/** What somebody chose of a suggestion. */
export interface SuggestionChoice {
  /** Which width of the sender, or what was searched for, by its place among the candidates; null for anybody. */
  who: number | null
  /** As they are written, one a line or with commas between. */
  words: string
  /** They are found in obfuscated spellings too. */
  obfuscated: boolean
  /** The examples themselves go where the suggestion says. */
  these: boolean
  /** And so does the rest of such mail here. */
  here: boolean
  coming: boolean
  /** A rule, also where an entry on a list would do. */
  asRule: boolean
  /** Adds to what does this already, by its place; null where it does not. */
  adding: number | null
}

/** What is suggested from the mail in front of somebody. One at a time; it is open in place of the message. */
export const useSuggestionStore = defineStore('suggestion', () => {
  const about = ref<SuggestionAbout | null>(null)
  const suggestion = shallowRef<Suggestion | null>(null)
  const state = ref<'reading' | 'ready' | 'failed'>('reading')
  const failure = ref('')
  const choice = ref<SuggestionChoice>(blank())
  /** The rule with which a sheet opens that is filled in from here. */
  const handedOn = shallowRef<RuleForm | null>(null)

  function blank(): SuggestionChoice {
    return { who: 0, words: '', obfuscated: false, these: true, here: true, coming: true, asRule: false, adding: null }
  }

  let asked = 0
  async function read(how: { then?: Then, owner?: string } = {}) {
    if (!about.value) return
    const mine = ++asked
    state.value = 'reading'
    try {
      const found = await api.suggestion('ids' in about.value ? { ids: about.value.ids, ...how } : { query: about.value.query, ...how })
      if (mine !== asked) return
      const before = suggestion.value
      const kind = before && choice.value.who !== null ? before.candidates[choice.value.who]?.kind : undefined
      suggestion.value = found
      const same = found.candidates.findIndex(c => c.kind === kind)
      if (choice.value.who !== null) choice.value.who = same >= 0 ? same : found.preset
      // Where a search has no sender in common, its words are what it has.
      if (!before && !found.candidates.some(c => c.kind !== 'phrase')) choice.value.who = null
      if (!before && found.flood) {
        const said = found.flood.phrases.map(i => found.candidates[i]!)
        choice.value.words = said.flatMap(c => c.phrases).join('\n')
        choice.value.obfuscated = said.some(c => c.obfuscated)
      }
      // A rule begins with what these messages say, where they have that in common.
      if (!before && choice.value.asRule && !choice.value.words && 'ids' in about.value!)
        choice.value.words = found.candidates.find(c => c.kind === 'phrase' && !c.impact.broad)?.phrases[0] ?? ''
      state.value = 'ready'
    }
    catch (error) {
      if (mine !== asked) return
      state.value = 'failed'
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  /**
   * Opens a suggestion from these copies, or from all that match.
   * @param asRule a rule; otherwise the sender goes on a list
   */
  function from(what: SuggestionAbout, { asRule = false }: { asRule?: boolean } = {}) {
    about.value = what
    suggestion.value = null
    choice.value = { ...blank(), asRule }
    void read()
  }

  function close() {
    asked++
    about.value = null
    suggestion.value = null
  }

  const phrases = computed(() => readPhrases(choice.value.words).map(phraseText))
  const candidate = computed<Candidate | null>(() =>
    suggestion.value && choice.value.who !== null ? (suggestion.value.candidates[choice.value.who] ?? null) : null)

  /** The changes that it comes to; null while it says nothing. */
  function changesOf(watch = false): PolicyChange[] | null {
    const now = suggestion.value
    if (!now) return null
    if (choice.value.adding !== null) return now.covered[choice.value.adding]?.add ?? null
    if (!candidate.value && !phrases.value.length) return null
    // As the server has them: it knows the lists that there are.
    const { asRule } = choice.value
    if (candidate.value && !phrases.value.length && !watch && (!asRule || candidate.value.kind === 'search')) return candidate.value.changes
    const { obfuscated } = choice.value
    const senders = candidate.value?.senders ?? []
    const also = candidate.value ? alsoOf(candidate.value) : undefined
    const draft = { senders, phrases: phrases.value, obfuscated, also, then: now.then, owner: now.owner, asRule, watch }
    const rules = now.ruleNames.map(name => ({ name, owner: now.owner }))
    return draftChanges({ lists: [], assignments: [], rules, quarantines: useDirectoryStore().names.quarantines }, draft, () => '')
  }

  // What was searched for, as the server made it of its words.
  function alsoOf({ kind, changes, words }: Candidate): Draft['also'] {
    const rule = kind === 'search' ? changes.find(c => c.type === 'put' && c.kind === 'rule') : undefined
    return rule?.type === 'put' && rule.kind === 'rule' ? { conditions: [rule.value.when], words } : undefined
  }

  const beyond = computed(() => suggestion.value?.beyond === true)
  const protects = computed(() => suggestion.value?.then.to === 'inbox')
  /** Lanes out of which the rest of such mail here is moved. */
  const lanes = computed<KeptLane[]>(() => {
    if (!protects.value) return ['inbox', 'lowPriority']
    return ['spam', 'quarantine', 'bin']
  })

  return { about, suggestion, state, failure, choice, handedOn, candidate, phrases, protects, beyond, lanes, from, read, close, changesOf }
})
