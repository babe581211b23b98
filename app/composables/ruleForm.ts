import { HAZARDS, type Claim, type Condition, type EntryKind, type PhrasePlace, type State } from '#core/policy'
import { splitPhrases } from '#core/text'
import type { RuleForm } from '~/api/client'

/** One condition as the sheet edits it. What the sheet has no fields for is kept as it stands. */
export type Row =
  | { key: number, kind: 'phrases', text: string, where: 'default' | 'subject' | 'own' | 'quoted' | 'as it stands', places?: PhrasePlace[], whole: boolean }
  | { key: number, kind: 'sender', entry: EntryKind, value: string, counts?: 'pass' | 'not fail' | 'any' }
  | { key: number, kind: 'list', list: string, counts?: 'pass' | 'not fail' | 'any' }
  | { key: number, kind: 'every' }
  | { key: number, kind: 'other', condition: Condition }

export type Main = 'spam' | 'quarantine' | 'bin' | 'keep' | 'none' | 'other'

/** A rule as its sheet shows it. */
export interface Sheet {
  name: string
  description: string
  owner: string
  state: State
  must: boolean
  raised: boolean
  end: boolean
  joint: 'all' | 'any'
  when: Row[]
  except: Row[]
  main: Main
  tags: string
  important: boolean
  /** Claims and marks that the sheet has no fields for. */
  otherClaims: Claim[]
  kept: Partial<RuleForm>
}

let keys = 0

export function newRow(kind: Row['kind']): Row {
  const key = ++keys
  switch (kind) {
    case 'phrases': return { key, kind, text: '', where: 'default', whole: true }
    case 'sender': return { key, kind, entry: 'domain', value: '' }
    case 'list': return { key, kind, list: '' }
    case 'every': return { key, kind }
    case 'other': return { key, kind, condition: { every: true } }
  }
}

export function blankSheet(owner: string): Sheet {
  return { name: '', description: '', owner, state: 'acting', must: false, raised: false, end: false, joint: 'all', when: [newRow('phrases')], except: [], main: 'spam', tags: '', important: false, otherClaims: [], kept: {} }
}

function rowOf(c: Condition): Row {
  const key = ++keys
  if ('phrases' in c && c.phrases) {
    const where = c.where === undefined ? 'default' : c.where.length === 1 && c.where[0] !== 'hidden' ? c.where[0]! : 'as it stands'
    return { key, kind: 'phrases', text: c.phrases.map(p => /[,"]/.test(p) ? `"${p}"` : p).join('\n'), where: where as 'default', places: c.where, whole: c.whole ?? true }
  }
  if ('sender' in c) return { key, kind: 'sender', entry: c.sender.kind, value: c.sender.value, counts: c.counts }
  if ('senderOn' in c) return { key, kind: 'list', list: c.senderOn, counts: c.counts }
  if ('every' in c) return { key, kind: 'every' }
  return { key, kind: 'other', condition: c }
}

function conditionOf(row: Row): Condition {
  switch (row.kind) {
    case 'phrases': {
      const where = row.where === 'default' ? undefined : row.where === 'as it stands' ? row.places : [row.where]
      return { phrases: splitPhrases(row.text), ...(where ? { where } : {}), ...(row.whole ? {} : { whole: false }) }
    }
    case 'sender': return { sender: { kind: row.entry, value: row.value.trim() }, ...(row.counts ? { counts: row.counts } : {}) }
    case 'list': return { senderOn: row.list, ...(row.counts ? { counts: row.counts } : {}) }
    case 'every': return { every: true }
    case 'other': return row.condition
  }
}

export function sheetOf(rule: RuleForm): Sheet {
  const group = 'all' in rule.when ? { joint: 'all' as const, members: rule.when.all } : 'any' in rule.when ? { joint: 'any' as const, members: rule.when.any } : { joint: 'all' as const, members: [rule.when] }
  const stop = rule.claims.find(c => 'stop' in c)
  const protect = rule.claims.find(c => 'protect' in c)
  const place = rule.claims.find(c => 'place' in c)
  const keeps = protect !== undefined && 'protect' in protect && protect.protect.length === HAZARDS.length && place !== undefined && 'place' in place && place.place.to === 'inbox'
  const plainStop = stop !== undefined && 'stop' in stop && (stop.stop.to === 'spam' || stop.stop.to === 'bin' || stop.stop.to === 'quarantine') ? stop.stop.to : null
  const tags = rule.claims.flatMap(c => 'effect' in c && c.effect.kind === 'tag' ? [c.effect.value ?? ''] : [])
  const main: Main = plainStop ?? (keeps ? 'keep' : stop || protect || place ? 'other' : 'none')
  const { name, description, owner, state, must, raised, end, when: _, except, claims, ...kept } = rule
  return {
    name, description: description ?? '', owner, state, must: must === true, raised: raised ?? must === true, end: end !== undefined, joint: group.joint,
    when: group.members.map(rowOf), except: except.map(rowOf), main, tags: tags.join(', '), important: claims.some(c => 'effect' in c && c.effect.kind === 'important'),
    otherClaims: claims.filter(c => 'effect' in c ? c.effect.kind !== 'tag' && c.effect.kind !== 'important' : main === 'other' || (main === 'quarantine' && 'stop' in c)),
    kept: { ...kept, ...(end ? { end } : {}), ...(raised === undefined ? {} : { raised }) },
  }
}

export function ruleOf(sheet: Sheet): RuleForm {
  const when = sheet.when.map(conditionOf)
  // A hold that was there keeps its quarantine.
  const held = sheet.otherClaims.find(c => 'stop' in c && c.stop.to === 'quarantine')
  const mains: Record<Main, Claim[]> = {
    spam: [{ stop: { to: 'spam' } }], bin: [{ stop: { to: 'bin' } }], quarantine: [held ?? { stop: { to: 'quarantine', quarantine: 'general' } }],
    keep: [{ protect: [...HAZARDS] }, { place: { to: 'inbox' } }], none: [], other: [],
  }
  const { end, raised, ...kept } = sheet.kept
  const raisedByDefault = sheet.must && (sheet.main === 'spam' || sheet.main === 'bin' || sheet.main === 'quarantine')
  return {
    ...kept,
    name: sheet.name.trim(), description: sheet.description.trim(), owner: sheet.owner, state: sheet.state,
    ...(sheet.must ? { must: true } : {}),
    ...(sheet.raised === raisedByDefault && raised === undefined ? {} : { raised: sheet.raised }),
    when: when.length === 1 && sheet.joint === 'all' ? when[0]! : sheet.joint === 'all' ? { all: when } : { any: when },
    except: sheet.except.map(conditionOf),
    claims: [
      ...mains[sheet.main], ...sheet.otherClaims.filter(c => c !== held),
      ...sheet.tags.split(',').map(t => t.trim()).filter(Boolean).map(value => ({ effect: { kind: 'tag' as const, value } })),
      ...(sheet.important ? [{ effect: { kind: 'important' as const } }] : []),
    ],
    ...(sheet.end ? { end: end ?? 'owner' } : {}),
  }
}

/** A name proposed from what the rule looks for. */
export function proposedName(sheet: Sheet, listNames: (id: string) => string): string {
  for (const row of sheet.when) {
    if (row.kind === 'phrases') {
      const first = splitPhrases(row.text)[0]
      if (first) return first.charAt(0).toUpperCase() + first.slice(1)
    }
    if (row.kind === 'sender' && row.value) return `From ${row.value}`
    if (row.kind === 'list' && row.list) return `From ${listNames(row.list)}`
    if (row.kind === 'every') return 'Every message'
  }
  return ''
}
