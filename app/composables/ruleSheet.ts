import { HAZARDS, STOPS, type Claim, type Hazard, type Rule, type State, type StopTo } from '#core/policy'
import { conditionOf, newRow, rowOf, titleOf, type Row } from './conditionRows'

/** A rule as it is sent; its id is not its own to say. */
type RuleForm = Omit<Rule, 'id'>

export type Main = StopTo | 'keep' | 'protect' | 'slow lane' | 'folder' | 'filed' | 'none' | 'other'

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
  return STOPS.some(to => to === main)
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

/** A name proposed from what the rule looks for. */
export function proposedName(sheet: Sheet, listName: (id: string) => string): string {
  return sheet.when.map(row => titleOf(row, listName)).find(title => title !== '') ?? ''
}
