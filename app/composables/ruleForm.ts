import isSame from 'fast-deep-equal'
import {
  groupMembers,
  HAZARDS,
  phraseText,
  type AttachmentKind,
  type Claim,
  type Condition,
  type Hazard,
  type PhraseItem,
  type Rule,
  type State,
} from '#core/policy'
import { splitPhrases } from '#core/text'
import { readPhrases, writtenPhrases } from './phraseLines'

/** A rule as it is sent; its id is not its own to say. */
type RuleForm = Omit<Rule, 'id'>

export type Kind =
  | 'phrases'
  | 'set'
  | 'expression'
  | 'sender'
  | 'list'
  | 'recipient'
  | 'addressed'
  | 'header'
  | 'date'
  | 'size'
  | 'attachment'
  | 'attachments'
  | 'important'
  | 'mailingList'
  | 'authentication'
  | 'direction'
  | 'defect'
  | 'markedUpstream'
  | 'every'
  | 'group'
  | 'other'

/** One condition as the sheet edits it. Phrases are edited as text; what the sheet has no fields for is kept as it stands. */
export interface Row {
  key: number
  kind: Kind
  condition: Condition
  /** Phrases, one a line; and their company. */
  text: string
  near: string
  within: number | null
  /** Of a group: how its conditions are joined, and these. */
  joint: Joint
  rows: Row[]
}

export type Joint = 'all' | 'any' | 'none'

type Of<K extends string> = Extract<Condition, Record<K, unknown>>
/** The part of a row's condition that a kind has; the caller knows the kind. */
export function asKind<K extends string>(row: Row, _kind: K): Of<K> {
  return row.condition as Of<K>
}

export type Main =
  | 'spam'
  | 'quarantine'
  | 'bin'
  | 'erase'
  | 'refuse'
  | 'drop'
  | 'keep'
  | 'protect'
  | 'slow lane'
  | 'folder'
  | 'filed'
  | 'none'
  | 'other'

/** A rule as its sheet shows it. */
export interface Sheet {
  name: string
  description: string
  owner: string
  state: State
  must: boolean
  raised: boolean
  end: '' | 'owner' | 'all'
  joint: 'all' | 'any'
  when: Row[]
  except: Row[]
  main: Main
  quarantine: string
  reply: string
  confirmed: boolean
  hazards: Hazard[]
  folder: string
  tags: string
  mark: string
  header: string
  important: boolean
  /** Mark and header also where the copy is stopped. */
  inEveryLane: boolean
  direction: NonNullable<Rule['direction']>
  group: string
  /** Days, or empty. */
  expires: string
  reviewOn: string
  /** Claims and marks that the sheet has no fields for. */
  otherClaims: Claim[]
  /** Kinds of claims in the order in which they stood. */
  order: string[]
  kept: Partial<RuleForm>
}

let keys = 0

const FRESH: Record<Kind, () => Condition> = {
  phrases: () => ({ phrases: [] }),
  set: () => ({ set: '' }),
  expression: () => ({ expression: '' }),
  sender: () => ({ sender: { kind: 'domain', value: '' } }),
  list: () => ({ senderOn: '' }),
  recipient: () => ({ recipient: { kind: 'address', value: '' } }),
  addressed: () => ({ addressed: 'only me' }),
  header: () => ({ header: '' }),
  date: () => ({ date: { of: 'sent', olderThan: 30 } }),
  size: () => ({ size: { atLeast: 1_000_000 } }),
  attachment: () => ({ attachment: { kind: 'program' as AttachmentKind } }),
  attachments: () => ({ attachments: { atLeast: 1 } }),
  important: () => ({ important: true }),
  mailingList: () => ({ mailingList: true }),
  authentication: () => ({ authentication: 'fail' }),
  direction: () => ({ direction: 'inbound' }),
  defect: () => ({ defect: true }),
  markedUpstream: () => ({ markedUpstream: true }),
  every: () => ({ every: true }),
  group: () => ({ any: [] }),
  other: () => ({ every: true }),
}

export function newRow(kind: Kind): Row {
  return {
    key: ++keys,
    kind,
    condition: FRESH[kind](),
    text: '',
    near: '',
    within: null,
    joint: 'any',
    rows: kind === 'group' ? [newRow('phrases')] : [],
  }
}

export function blankSheet(owner: string): Sheet {
  return {
    name: '',
    description: '',
    owner,
    state: 'acting',
    must: false,
    raised: false,
    end: '',
    joint: 'all',
    when: [newRow('phrases')],
    except: [],
    main: 'spam',
    quarantine: 'general',
    reply: '',
    confirmed: false,
    hazards: [...HAZARDS],
    folder: '',
    tags: '',
    mark: '',
    header: '',
    important: false,
    inEveryLane: false,
    direction: 'inbound',
    group: '',
    expires: '',
    reviewOn: '',
    otherClaims: [],
    order: [],
    kept: {},
  }
}

function writesWell(phrases: readonly PhraseItem[]): boolean {
  return isSame(readPhrases(writtenPhrases(phrases), phrases), phrases)
}

function rowOf(c: Condition): Row {
  const row = { ...newRow('other'), condition: c }
  const members = groupMembers(c)
  if (members) return { ...row, kind: 'group', joint: 'all' in c ? 'all' : 'any' in c ? 'any' : 'none', rows: members.map(rowOf) }
  if ('phrases' in c && c.phrases) {
    // What could not be told when it is read again is kept as it stands.
    if (!writesWell(c.phrases) || !writesWell(c.near?.phrases ?? [])) return row
    return {
      ...row,
      kind: 'phrases',
      text: writtenPhrases(c.phrases),
      near: writtenPhrases(c.near?.phrases ?? []),
      within: c.near?.within ?? null,
    }
  }
  if ('senderOn' in c) return { ...row, kind: 'list' }
  // The sheet has fields for one bound of a date.
  if ('date' in c && Object.keys(c.date).length > 2) return row
  const kind = (Object.keys(FRESH) as Kind[]).find(k => k in c)
  return { ...row, kind: kind ?? 'other' }
}

function conditionOf(row: Row): Condition {
  if (row.kind === 'group') return { [row.joint]: row.rows.map(conditionOf) } as Condition
  if (row.kind !== 'phrases') return row.condition
  const { near: _, phrases: before, ...look } = asKind(row, 'phrases')
  const near = splitPhrases(row.near)
  return {
    ...look,
    phrases: readPhrases(row.text, before as PhraseItem[]),
    ...(near.length ? { near: { phrases: near, ...(row.within === null ? {} : { within: row.within }) } } : {}),
  }
}

/** Sets one thing of a row's condition; undefined takes it out. */
export function withField(row: Row, key: string, value: unknown): Row {
  const { [key]: _, ...rest } = row.condition as Record<string, unknown>
  return { ...row, condition: (value === undefined ? rest : { ...rest, [key]: value }) as Condition }
}

export function sheetOf(rule: RuleForm): Sheet {
  const group =
    'all' in rule.when
      ? { joint: 'all' as const, members: rule.when.all }
      : 'any' in rule.when
        ? { joint: 'any' as const, members: rule.when.any }
        : { joint: 'all' as const, members: [rule.when] }
  const find = <K extends string>(key: K) => rule.claims.find((c): c is Extract<Claim, Record<K, unknown>> => key in c)
  const [stop, protect, place] = [find('stop'), find('protect'), find('place')]
  const effects = rule.claims.flatMap(c => ('effect' in c ? [c.effect] : []))
  const keeps = protect?.protect.length === HAZARDS.length && place?.place.to === 'inbox'
  const placed = !protect && place && place.place.to !== 'inbox' ? place.place.to : null
  const main: Main = stop?.stop.to ?? (keeps ? 'keep' : protect && !place ? 'protect' : (placed ?? (protect || place ? 'other' : 'none')))
  const marks = effects.filter(e => e.kind === 'subject mark' || e.kind === 'header')
  // The sheet has one header and one answer for all marks; a rule with more is kept as it stands.
  const plain =
    effects.filter(e => e.kind === 'header').length < 2 &&
    new Set(marks.map(e => e.inEveryLane === true)).size < 2 &&
      effects.every(e => marks.includes(e) || !e.inEveryLane)
  const mine = plain ? ['tag', 'important', 'subject mark', 'header'] : ['tag', 'important']
  const {
    name,
    description,
    owner,
    state,
    must,
    raised,
    end,
    direction,
    group: ofGroup,
    expires,
    reviewOn,
    when: _,
    except,
    claims,
    ...kept
  } = rule
  return {
    name,
    description: description ?? '',
    owner,
    state,
    must: must === true,
    raised: raised ?? (must === true && stop !== undefined),
    end: end ?? '',
    joint: group.joint,
    when: group.members.map(rowOf),
    except: except.map(rowOf),
    main,
    quarantine: stop?.stop.quarantine ?? 'general',
    reply: stop?.stop.reply ?? '',
    confirmed: stop?.stop.confirmed === true,
    hazards: protect && !keeps ? protect.protect : [...HAZARDS],
    folder: place?.place.folder ?? '',
    tags: effects
      .filter(e => e.kind === 'tag')
      .map(e => e.value)
      .join(', '),
    important: effects.some(e => e.kind === 'important'),
    mark: plain ? (marks.find(e => e.kind === 'subject mark')?.value ?? '') : '',
    header: plain ? (marks.find(e => e.kind === 'header')?.value ?? '') : '',
    inEveryLane: plain && marks.some(e => e.inEveryLane === true),
    direction: direction ?? 'inbound',
    group: ofGroup ?? '',
    expires: expires ?? '',
    reviewOn: reviewOn ?? '',
    otherClaims: claims.filter(c => ('effect' in c ? !mine.includes(c.effect.kind) : main === 'other')),
    order: claims.map(kindOf),
    kept: { ...kept, ...(raised === undefined ? {} : { raised }) },
  }
}

function mainClaims(sheet: Sheet): Claim[] {
  switch (sheet.main) {
    case 'keep':
      return [{ protect: [...HAZARDS] }, { place: { to: 'inbox' } }]
    case 'protect':
      return [{ protect: sheet.hazards }]
    case 'folder':
      return [{ place: { to: 'folder', folder: sheet.folder.trim() } }]
    case 'slow lane':
    case 'filed':
      return [{ place: { to: sheet.main } }]
    case 'none':
    case 'other':
      return []
    case 'quarantine':
      return [{ stop: { to: 'quarantine', quarantine: sheet.quarantine } }]
    case 'refuse':
      return [{ stop: { to: 'refuse', ...(sheet.reply.trim() ? { reply: sheet.reply.trim() } : {}) } }]
    case 'erase':
    case 'drop':
      return [{ stop: { to: sheet.main, ...(sheet.confirmed ? { confirmed: true } : {}) } }]
    default:
      return [{ stop: { to: sheet.main } }]
  }
}

function kindOf(claim: Claim): string {
  return 'effect' in claim ? claim.effect.kind : Object.keys(claim)[0]!
}

// Effects are done in their order; what is new comes last.
function inOrder(order: readonly string[], claims: Claim[]): Claim[] {
  const rank = (c: Claim) => (order.includes(kindOf(c)) ? order.indexOf(kindOf(c)) : order.length)
  return [...claims].sort((a, b) => rank(a) - rank(b))
}

export function stopsMail(main: Main): boolean {
  return ['spam', 'quarantine', 'bin', 'erase', 'refuse', 'drop'].includes(main)
}

export function ruleOf(sheet: Sheet): RuleForm {
  const when = sheet.when.map(conditionOf)
  const { raised, ...kept } = sheet.kept
  const always = sheet.inEveryLane ? { inEveryLane: true } : {}
  const raisedByDefault = sheet.must && stopsMail(sheet.main)
  return {
    ...kept,
    name: sheet.name.trim(),
    description: sheet.description.trim(),
    owner: sheet.owner,
    state: sheet.state,
    ...(sheet.must ? { must: true } : {}),
    ...(sheet.raised === raisedByDefault && raised === undefined ? {} : { raised: sheet.raised }),
    when: when.length === 1 && sheet.joint === 'all' ? when[0]! : sheet.joint === 'all' ? { all: when } : { any: when },
    except: sheet.except.map(conditionOf),
    claims: inOrder(sheet.order, [
      ...mainClaims(sheet),
      ...sheet.otherClaims,
      ...sheet.tags
        .split(',')
        .map(t => t.trim())
        .filter(Boolean)
        .map(value => ({ effect: { kind: 'tag' as const, value } })),
      ...(sheet.mark.trim() ? [{ effect: { kind: 'subject mark' as const, value: sheet.mark.trim(), ...always } }] : []),
      ...(sheet.header.trim() ? [{ effect: { kind: 'header' as const, value: sheet.header.trim(), ...always } }] : []),
      ...(sheet.important ? [{ effect: { kind: 'important' as const } }] : []),
    ]),
    ...(sheet.end ? { end: sheet.end } : {}),
    ...(sheet.direction === 'inbound' ? {} : { direction: sheet.direction }),
    ...(sheet.group.trim() ? { group: sheet.group.trim() } : {}),
    ...(sheet.expires ? { expires: sheet.expires } : {}),
    ...(sheet.reviewOn ? { reviewOn: sheet.reviewOn } : {}),
  }
}

/** What a row still lacks, or null. */
export function lacks(row: Row): string | null {
  const c = row.condition
  if (row.kind === 'group')
    return row.rows.length ? (row.rows.map(lacks).find(l => l !== null) ?? null) : 'Add a condition to the group, or take the group out.'
  if (row.kind === 'phrases') return row.text.trim() ? null : 'Write at least one word or phrase, or take this condition out.'
  if ('sender' in c || 'recipient' in c)
    return ('sender' in c ? c.sender : c.recipient).value.trim() || ('sender' in c && c.sender.kind === 'everyone')
      ? null
      : 'Write the address or domain.'
  if ('senderOn' in c) return c.senderOn ? null : 'Choose a list.'
  if ('set' in c) return c.set ? null : 'Choose a phrase set.'
  if ('expression' in c) return c.expression ? null : 'Write the expression.'
  if ('header' in c) return c.header ? null : 'Write the name of the header.'
  return null
}

/** A name proposed from what the rule looks for. */
export function proposedName(sheet: Sheet, listNames: (id: string) => string): string {
  for (const row of sheet.when) {
    const c = row.condition
    if (row.kind === 'phrases') {
      const [item] = readPhrases(row.text)
      const first = item === undefined ? '' : phraseText(item)
      if (first) return first.charAt(0).toUpperCase() + first.slice(1)
    }
    else if ('sender' in c && c.sender.value) return `From ${c.sender.value}`
    else if ('senderOn' in c && c.senderOn) return `From ${listNames(c.senderOn)}`
    else if ('attachment' in c) return `Attachments${c.attachment.kind ? `: ${c.attachment.kind}` : ''}`
    else if (row.kind === 'every') return 'Every message'
  }
  return ''
}
