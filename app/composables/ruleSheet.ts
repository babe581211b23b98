import isSame from 'fast-deep-equal'
import { EFFECT_KINDS, effectKindOf, type Effect, type EffectKind } from '#core/kinds'
import { HAZARDS, STOPS, type Claim, type Hazard, type Rule, type State, type StopTo } from '#core/policy'
import { conditionOf, newRow, rowOf, titleOf, type ConditionRow } from './conditionRows'

/** A rule as it is sent; its id is not its own to say. */
type RuleForm = Omit<Rule, 'id'>

export type Main = StopTo | 'keep' | 'protect' | 'lowPriority' | 'folder' | 'filed' | 'none' | 'other'

/** A rule as its sheet shows it. */
export interface Sheet {
  name: string
  description: string
  owner: string
  state: State
  mandatory: boolean
  overridesLists: boolean
  end: '' | 'owner' | 'all'
  joint: 'all' | 'any'
  when: ConditionRow[]
  except: ConditionRow[]
  main: Main
  quarantine: string
  reply: string
  confirmed: boolean
  hazards: Hazard[]
  folder: string
  /** By kind, as it is filled in; empty where it is not wanted. */
  effects: Record<string, string>
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

/** What a rule for that direction does unless something else is chosen. */
const USUAL: Record<Sheet['direction'], Main> = { inbound: 'spam', internal: 'spam', outbound: 'quarantine' }
/** Outbound mail is sent, held or refused; it has no Inbox, and no Spam. */
const OF_OUTBOUND: readonly Main[] = ['quarantine', 'refuse', 'protect', 'none', 'other']

/** Whether a rule for that direction can do it. */
export function isMainOf(direction: Sheet['direction'], main: Main): boolean {
  return direction !== 'outbound' || OF_OUTBOUND.includes(main)
}

/** What a rule does after its direction changed: what it did, unless that was only the usual, or is impossible now. */
export function mainFor(main: Main, { from, to }: { from: Sheet['direction'], to: Sheet['direction'] }): Main {
  return main === USUAL[from] || !isMainOf(to, main) ? USUAL[to] : main
}

/** The kinds of effects that the sheet offers. */
export const EFFECTS_OFFERED = EFFECT_KINDS.filter(kind => effectKindOf(kind).form !== null)

function noEffects(): Record<string, string> {
  return Object.fromEntries(EFFECTS_OFFERED.map(kind => [kind, '']))
}

export function blankSheet(owner: string): Sheet {
  return {
    name: '',
    description: '',
    owner,
    state: 'enabled',
    mandatory: false,
    overridesLists: false,
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
    effects: noEffects(),
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

/** Whether nothing has been said on a sheet yet. */
export function isBlank(sheet: Sheet): boolean {
  const [row, more] = sheet.when
  const isEmpty = !more && row?.kind === 'phrases' && !row.text.trim() && !row.near.trim()
  return isEmpty && !sheet.except.length && sheet.main === 'spam' && !sheet.name.trim()
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
  const lanes = effects.filter(e => !effectKindOf(e.kind).always)
  // The sheet has one field a kind, and one answer whether it is done in every lane; a rule with more is kept as it stands.
  const plain =
    EFFECTS_OFFERED.every(kind => fits(kind, effects)) &&
    new Set(lanes.map(e => e.inEveryLane === true)).size < 2 &&
      effects.every(e => lanes.includes(e) || !e.inEveryLane)
  const mine = EFFECTS_OFFERED.filter(kind => plain || effectKindOf(kind).always)
  const {
    name,
    description,
    owner,
    state,
    mandatory,
    overridesLists,
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
    mandatory: mandatory === true,
    overridesLists: overridesLists ?? (mandatory === true && stop !== undefined),
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
    effects: { ...noEffects(), ...Object.fromEntries(mine.map(kind => [kind, writtenEffect(kind, effects)])) },
    inEveryLane: plain && lanes.some(e => e.inEveryLane === true),
    direction: direction ?? 'inbound',
    group: ofGroup ?? '',
    expires: expires ?? '',
    reviewOn: reviewOn ?? '',
    otherClaims: claims.filter(c => ('effect' in c ? !mine.includes(c.effect.kind) : main === 'other')),
    order: claims.map(kindOf),
    kept: { ...kept, ...(overridesLists === undefined ? {} : { overridesLists }) },
  }
}

function valuesOf(kind: EffectKind, effects: readonly Effect[]): string[] {
  return effects.filter(e => e.kind === kind).map(e => e.value ?? '')
}

function writtenEffect(kind: EffectKind, effects: readonly Effect[]): string {
  return effectKindOf(kind).form!.written(valuesOf(kind, effects))
}

/** Whether the field of a kind says all that a rule has of it. */
function fits(kind: EffectKind, effects: readonly Effect[]): boolean {
  const values = valuesOf(kind, effects)
  return values.length < 2 || isSame(effectKindOf(kind).form!.read(writtenEffect(kind, effects)), values)
}

function readEffects(kind: EffectKind, sheet: Sheet): Claim[] {
  const { form, always, valued } = effectKindOf(kind)
  const everywhere = sheet.inEveryLane && !always ? { inEveryLane: true } : {}
  return form!.read(sheet.effects[kind] ?? '').map(value => ({ effect: { kind, ...(valued ? { value } : {}), ...everywhere } }))
}

/** Whether an effect is chosen that is done only where the copy goes, unless one says otherwise. */
export function hasEffectOfLane(sheet: Sheet): boolean {
  return EFFECTS_OFFERED.some(kind => !effectKindOf(kind).always && readEffects(kind, sheet).length > 0)
}

function mainClaims(sheet: Sheet): Claim[] {
  switch (sheet.main) {
    case 'keep':
      return [{ protect: [...HAZARDS] }, { place: { to: 'inbox' } }]
    case 'protect':
      return [{ protect: sheet.hazards }]
    case 'folder':
      return [{ place: { to: 'folder', folder: sheet.folder.trim() } }]
    case 'lowPriority':
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
    case 'discard':
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
  const { overridesLists, ...kept } = sheet.kept
  const overridesByDefault = sheet.mandatory && stopsMail(sheet.main)
  return {
    ...kept,
    name: sheet.name.trim(),
    description: sheet.description.trim(),
    owner: sheet.owner,
    state: sheet.state,
    ...(sheet.mandatory ? { mandatory: true } : {}),
    ...(sheet.overridesLists === overridesByDefault && overridesLists === undefined ? {} : { overridesLists: sheet.overridesLists }),
    when: when.length === 1 && sheet.joint === 'all' ? when[0]! : sheet.joint === 'all' ? { all: when } : { any: when },
    except: sheet.except.map(conditionOf),
    claims: inOrder(sheet.order, [
      ...mainClaims(sheet),
      ...sheet.otherClaims,
      ...EFFECTS_OFFERED.flatMap(kind => readEffects(kind, sheet)),
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
