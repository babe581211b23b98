import type { PolicyChange } from '#core/change'
import { isKeptAway, isPersonal } from '#core/policy'
import { isWhole } from '#core/simulate'
import { ruleSentence, STATE_NAMES } from '#core/words'
import isSame from 'fast-deep-equal'
import {
  api,
  type CopyCount,
  type CopyDetail,
  type CopyView,
  type SavedChanges,
  type RuleForm,
  type RuleView,
  type RuleStats,
} from '~/api/client'
import { lacks } from './conditionRows'
import { useImpact } from './impact'
import { useBroadPhrases } from './broadPhrases'
import { exceptionsFor, type ExceptionWay } from './exceptionsFor'
import { useSaveChanges } from './saveChanges'
import { useRuleParts } from './ruleParts'
import { allThatComes, existingOf, type Which } from './whichMail'
import { blankSheet, isMainOf, mainFor, proposedName, ruleOf, sheetOf, stopsMail, type Main, type Sheet } from './ruleSheet'

/** What a rule can mainly do. */
const EFFECTS: { value: Main, name: string, notMine?: boolean }[] = [
  { value: 'spam', name: 'move to Spam' },
  { value: 'quarantine', name: 'hold in quarantine…' },
  { value: 'bin', name: 'move to Bin' },
  { value: 'refuse', name: 'refuse', notMine: true },
  { value: 'erase', name: 'delete permanently' },
  { value: 'discard', name: 'discard without notice', notMine: true },
  { value: 'keep', name: 'keep in Inbox' },
  { value: 'protect', name: 'allow despite…' },
  { value: 'lowPriority', name: 'move to Low priority' },
  { value: 'folder', name: 'file in folder…' },
  { value: 'filed', name: 'move to Filed (out of Inbox)' },
  { value: 'none', name: 'do not move (tags only)' },
]

export const RULE_JOINTS = [
  { value: 'all', name: 'all of these' },
  { value: 'any', name: 'any of these' },
] as const

export const RULE_STATES = [
  { value: 'disabled', name: 'disabled' },
  { value: 'monitor', name: STATE_NAMES.monitor },
  { value: 'enabled', name: 'enabled' },
] as const

// The line of the list carries more than the rule.
function formOf({
  id: _id,
  ownerName: _name,
  sentence: _sentence,
  impact: _impact,
  findings: _findings,
  lastHit: _last,
  stats: _stats,
  version: _version,
  canChange: _can,
  ...form
}: RuleView & { stats?: RuleStats }) {
  return form
}

function copyOf(sheet: Sheet, to: string | null): Sheet {
  if (to === null || to === sheet.owner) return { ...sheet, name: `${sheet.name} (copy)`, state: 'disabled' }
  // For others it is a rule of its own; what deletes mail for good was confirmed for the first owner's only.
  return { ...sheet, owner: to, mandatory: sheet.mandatory && !isPersonal(to), confirmed: false }
}

/**
 * A rule while it is edited: read, shown as a sheet, checked and saved.
 * @param id of the rule; "new" for one that is made
 * @param from id of the rule of which the new one is a copy, or null
 * @param to the owner of that copy; null for the same: then it is disabled, and says that it is a copy
 * @param loosen id of a copy that the rule stopped, for which an exception is to be made, or null
 */
export function useRuleEditor(id: string, { from, to }: { from: string | null, to: string | null }, addException: number | null = null) {
  const notices = useNoticeStore()
  const session = useSessionStore()
  const work = useJobStore()
  const directory = useDirectoryStore()
  const fresh = id === 'new'
  const rule = ref<(RuleView & { stats: RuleStats }) | null>(null)
  /** Whose the rule is of which this one is a copy. */
  const original = shallowRef<RuleForm | null>(null)
  /** The copy for which it is loosened. */
  const exempted = shallowRef<CopyDetail | null>(null)
  const sheet = ref<Sheet | null>(null)
  const touched = ref<{ items: CopyView[], count: CopyCount } | null>(null)
  const failure = ref('')
  const which = ref<Which>(allThatComes())
  const putting = useSaveChanges(
    () => ({
      changes: [{ type: 'put', kind: 'rule', value: { ...form.value!, ...(fresh ? {} : { id }) } }],
      coming: which.value.coming,
      existing: existingHere(),
    }),
    done,
    { is: () => beyond.value, ids: () => (exempted.value ? [exempted.value.id] : []), done: leaveSheet },
    // A new rule that stops frees nothing.
    { ready: () => (fresh && !protects.value ? Promise.resolve() : impact.settledFor(which.value)) },
  )

  function existingHere() {
    const existing = existingOf(which.value, protects.value, impact.impact.value)
    return existing && exempted.value ? { ...existing, ids: [exempted.value.id] } : existing
  }

  const { error, fields, busy } = putting
  const named = ref(false)

  // A copy of its own: the sheet is changed in place.
  const asOpened = (opened: Sheet) => JSON.parse(JSON.stringify(ruleOf(opened))) as RuleForm

  async function load() {
    try {
      if (!directory.data) await directory.load()
      putting.begin()
      if (fresh) {
        const copied = from === null ? null : await api.rule(from)
        original.value = copied && formOf(copied)
        const suggested = useSuggestionStore().handedOn
        useSuggestionStore().handedOn = null
        sheet.value = copied
          ? copyOf(sheetOf(formOf(copied)), to)
          : suggested
            ? sheetOf(suggested)
            : blankSheet(directory.data?.owners[0]?.id ?? `person:${session.person?.id}`)
        named.value = copied !== null || suggested !== null
        // What was suggested, or copied for others, is work already.
        const whose = suggested ? suggested.owner : copied && to ? to : null
        before.value = asOpened(whose === null ? sheet.value : blankSheet(whose))
        return
      }
      rule.value = await api.rule(id)
      putting.begin(rule.value.version)
      sheet.value = sheetOf(formOf(rule.value))
      before.value = asOpened(sheet.value)
      named.value = true
      if (addException !== null) await exceptionFor(addException)
      const [page, count] = await Promise.all([
        api.copies({ touchedBy: id, limit: 12 }),
        api.copyCount({ touchedBy: id }),
      ])
      touched.value = { items: page.items, count }
    }
    catch (e) {
      failure.value = e instanceof Error ? e.message : String(e)
    }
  }
  onMounted(load)
  // What the sheet came to when it was opened; anything else is work that is not saved.
  const before = ref<RuleForm | null>(null)
  const settled = useUnsaved(() => {
    if (!before.value || !form.value || !canChange.value) return false
    // A name that was only proposed is nobody's work.
    return !isSame(named.value ? form.value : { ...form.value, name: before.value.name }, before.value)
  })

  const form = computed(() => (sheet.value ? ruleOf(sheet.value) : null))
  /** Whose it is, others say: then it is only proposed. */
  const beyond = computed(() => directory.isBeyond(sheet.value?.owner))
  const canChange = computed(() => fresh || beyond.value || rule.value?.canChange === true)
  const sentence = computed(() => {
    if (!form.value) return ''
    return ruleSentence(form.value, directory.names)
  })
  // Nobody says of their own that it comes before everybody's.
  watch(
    () => sheet.value?.owner,
    (owner) => {
      if (!sheet.value || owner === undefined || !isPersonal(owner)) return
      sheet.value.mandatory = false
      if (sheet.value.end === 'all') sheet.value.end = ''
    },
  )
  const proposed = computed(() =>
    sheet.value ? proposedName(sheet.value, l => directory.names.lists.find(x => x.id === l)?.name ?? l) : '',
  )
  watch(proposed, (name) => {
    if (sheet.value && !named.value) sheet.value.name = name
  })
  const goneWords = computed(() =>
    sheet.value?.main === 'erase'
      ? 'Permanently deleted mail cannot be restored.'
      : 'Discarded mail cannot be restored, and its sender believes that it arrived.',
  )
  const canSetMandatory = computed(
    () => session.can('change all lists and rules') && sheet.value?.owner !== undefined && !isPersonal(sheet.value.owner),
  )
  const protects = computed(() => sheet.value?.main === 'keep' || sheet.value?.main === 'protect')
  const stops = computed(() => stopsMail(sheet.value?.main ?? 'none'))
  const forPerson = computed(() => (sheet.value ? isPersonal(sheet.value.owner) : false))
  const effects = computed(() => [
    ...EFFECTS.filter(e => !(forPerson.value && e.notMine) && isMainOf(sheet.value?.direction ?? 'inbound', e.value)),
    ...(sheet.value?.main === 'other' ? [{ value: 'other' as const, name: 'unchanged' }] : []),
  ])
  watch(() => sheet.value?.direction, (to, from) => {
    // Where nothing was chosen yet, the action follows; what a saved rule does changes only where it would be impossible.
    if (!sheet.value || !to || !from || to === from) return
    if (fresh || !isMainOf(to, sheet.value.main)) sheet.value.main = mainFor(sheet.value.main, { from, to })
  })
  const ENDS = computed(() => [
    { value: '' as const, name: 'no' },
    { value: 'owner' as const, name: 'of the same owner' },
    ...(sheet.value?.mandatory || sheet.value?.end === 'all'
      ? [{ value: 'all' as const, name: 'of everyone' }]
      : []),
  ])

  /** What is wrong with the conditions of one part, by number of row. */
  function rowErrors(part: 'when' | 'except'): Record<number, string> {
    const out: Record<number, string> = {}
    for (const [path, text] of Object.entries(fields.value)) {
      const steps = path.split('.')
      if (steps[0] !== part) continue
      const index = part === 'except' ? Number(steps[1]) : sheet.value!.when.length > 1 ? Number(steps[2]) : 0
      out[Number.isNaN(index) ? 0 : index] ??= text
    }
    return out
  }
  const otherProblems = computed(() =>
    Object.entries(fields.value)
      .filter(([path]) => !/^(?:when|except|name)\b/.test(path))
      .map(([, text]) => text),
  )

  // What the sheet itself can see, before the server is asked.
  function emptyRows(): Record<string, string> {
    const out: Record<string, string> = {}
    const look = (part: 'when' | 'except') =>
      sheet.value![part].forEach((row, i) => {
        const missing = lacks(row)
        if (missing) out[part === 'when' ? `when.${sheet.value!.joint}.${i}` : `except.${i}`] = missing
      })
    look('when')
    look('except')
    if (!sheet.value!.when.length) out['when.all.0'] = 'Add a condition. To match all mail, choose “every message”.'
    if (!sheet.value!.name.trim()) out.name = 'Enter a name for the rule.'
    if (form.value && !form.value.claims.length) out.claims = 'Choose at least one action.'
    if (sheet.value!.main === 'protect' && !sheet.value!.hazards.length) out.claims = 'Choose what the mail is allowed despite.'
    if (sheet.value!.main === 'folder' && !sheet.value!.folder.trim()) out.claims = 'Enter the name of the folder.'
    return out
  }

  const save = () => putting.put(emptyRows())

  async function done(active: SavedChanges) {
    settled()
    await directory.load()
    const { name, state } = form.value!
    const words = which.value.coming
      ? `Rule “${name}” saved${state === 'enabled' ? '' : ` (${STATE_NAMES[state]})`}. Policy version ${active.version} is active.`
      : `Rule “${name}” is applied once to existing mail and not saved.`
    work.tellSaved(active, { words, nothing: `Nothing to save: rule “${name}” is unchanged.` })
    await navigateTo('/rules')
  }

  async function leaveSheet() {
    settled()
    await navigateTo(exempted.value ? '/mail' : '/rules')
  }

  /** Spares mail like a copy that it stopped, by the copy's own facts. */
  async function exceptionFor(copy: number) {
    const found = await api.copy(copy)
    exempted.value = found
    const [narrowest] = exceptionsFor(found, before.value?.except)
    if (narrowest) exceptBy(narrowest)
    if (narrowest && isKeptAway(found.lane)) which.value = { ...allThatComes(), here: true, lanes: [found.lane] }
  }

  /** One way to exempt the copy, in place of the way before. */
  let exempting: number | null = null
  function exceptBy({ row }: ExceptionWay) {
    sheet.value!.except = [...sheet.value!.except.filter(r => r.key !== exempting), row]
    exempting = row.key
  }
  const exceptionWays = computed(() => (exempted.value ? exceptionsFor(exempted.value, before.value?.except) : []))

  /** Lets what watched act, as soon as its record was seen. */
  function enable() {
    sheet.value!.state = 'enabled'
    void save()
  }

  /** Lets it watch before it acts. */
  function watchFirst() {
    sheet.value!.state = 'monitor'
    which.value = allThatComes()
    putting.leave()
    void save()
  }

  /** What the sheet comes to, as long as it says something else than what is active. */
  const changes = computed<PolicyChange[] | null>(() => {
    if (!form.value || !canChange.value || !before.value) return null
    const name = form.value.name || 'New rule'
    if (isSame({ ...form.value, name: '' }, { ...before.value, name: '' })) return null
    const { name: _, ...missing } = emptyRows()
    return Object.keys(missing).length ? null : [{ type: 'put', kind: 'rule', value: { ...form.value, name, ...(fresh ? {} : { id }) } }]
  })
  const impact = useImpact(() => changes.value, () => beyond.value)
  const parts = useRuleParts(() => (form.value && !Object.keys(emptyRows()).some(k => k !== 'name') ? { ...form.value, id } : null))
  const counted = computed(() => (impact.impact.value && isWhole(impact.impact.value) ? impact.impact.value : null))
  const broadPhrases = useBroadPhrases(form, computed(() => counted.value?.broad ?? null))

  async function remove() {
    try {
      const { eventId } = await api.removeRule(id, rule.value!.version)
      settled()
      notices.say(`Rule “${rule.value!.name}” deleted.`, eventId)
      await directory.load()
      await navigateTo('/rules')
    }
    catch (e) {
      notices.failed(e)
    }
  }

  return {
    fresh,
    rule,
    sheet,
    touched,
    failure,
    error,
    fields,
    busy,
    named,
    canChange,
    sentence,
    goneWords,
    canSetMandatory,
    protects,
    stops,
    effects,
    ENDS,
    rowErrors,
    otherProblems,
    save,
    remove,
    which,
    putting,
    watchFirst,
    impact,
    broadPhrases,
    parts,
    changes,
    beyond,
    original,
    exempted,
    exceptionWays,
    exceptBy,
    enable,
    reread: load,
  }
}
