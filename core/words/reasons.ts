import type { ClauseRef, Reason, Ruling } from '../decide'
import { claimsWords } from './sentences'
import { entryWords, oneOf, quoted } from '../kinds'
import { evidenceWords, laneInSentence, laneWords, notCountedWords, type Names } from './names'
import type { Lane } from '../policy'

/** "rule Fee demands", "list Regular callers". */
export function clauseWords(clause: ClauseRef): string {
  if (clause.others) return `a colleague’s ${clause.kind === 'list' ? 'list' : 'rule'}`
  if (clause.kind === 'score') return `the score (${clause.name})`
  if (clause.kind === 'learned') return 'the learned slow lane'
  return `${clause.kind} ${clause.name}`
}

/** What became of a claim, in a few words. */
export function fateWords(reason: Pick<Reason, 'fate' | 'claim'>, names: Names): string {
  const { fate } = reason
  switch (fate.kind) {
    case 'outranked':
      return `outranked by ${clauseWords(fate.by)}`
    case 'held off':
      return `held off by ${clauseWords(fate.by)}`
    case 'yielded':
      return `yielded to ${clauseWords(fate.by)}`
    case 'protection too late':
      return `protection too late: ${clauseWords(fate.by)} comes first`
    case 'not reached':
      return `not reached, ended by ${clauseWords(fate.by)}`
    case 'not counted':
      return `not counted: ${notCountedWords(fate.why)}`
    case 'excepted':
      return fate.evidence.length ? `spared by an exception: ${evidenceWords(fate.evidence)}` : 'spared by an exception'
    case 'watching':
      return fate.changes
        ? `watching, would have been ${laneWords(fate.would.lane, fate.would.quarantine, names)}`
        : 'watching, would have changed nothing'
    case 'waits':
      return 'waits for release'
    default:
      return fate.kind
  }
}

/** What a claim asks for: "send to spam". */
export function claimText(reason: Pick<Reason, 'claim'>, names: Names): string {
  return claimsWords([reason.claim], names)
}

function isErased({ reasons, decidedBy }: Pick<Ruling, 'reasons' | 'decidedBy'>): boolean {
  const claim = decidedBy === null ? undefined : reasons[decidedBy]?.claim
  return claim !== undefined && 'stop' in claim && claim.stop.to === 'erase'
}

/** One sentence that says why the copy is where it is. */
export function rulingSentence(ruling: Pick<Ruling, 'lane' | 'quarantine' | 'reasons' | 'decidedBy'>, names: Names): string {
  const lane = laneWords(ruling.lane, ruling.quarantine, names)
  const lead = {
    'inbox': 'Let into the inbox',
    'slow lane': 'Put in the slow lane',
    'spam': 'Sent to spam',
    'quarantine': `Held in ${lane}`,
    'bin': 'Sent to the bin',
    'refused': 'Refused',
    'dropped': isErased(ruling) ? 'Erased' : 'Dropped',
    'sent': 'Sent on',
  }[ruling.lane]
  const reason = ruling.decidedBy === null ? null : ruling.reasons[ruling.decidedBy]
  if (!reason) return ruling.reasons.length ? `${lead}: nothing that matched stops it.` : `${lead}: nothing matched.`
  if (reason.clause.others) return `${lead} because of ${clauseWords(reason.clause)}.`
  const { clause } = reason
  const found = `${clause.kind === 'rule' ? 'found' : 'says'} ${evidenceWords(reason.evidence)}`
  const says = clause.entry ? `has ${entryWords(clause.entry)}` : found
  return `${lead} because ${clauseWords(clause)} ${says}.`
}

/** That sentence where a person moved the copy since: who sent it where comes first. */
export function movedSentence(
  copy: { lane: Lane, quarantineId: string | null, movedBy: string | null },
  sentence: string,
  names: Pick<Names, 'quarantines'>,
): string {
  if (copy.movedBy === null) return sentence
  return `${copy.movedBy} sent it to ${laneInSentence(copy.lane, copy.quarantineId, names)}. Before that: `
    + `${sentence.charAt(0).toLowerCase()}${sentence.slice(1)}`
}

/** The reason that a ledger tells of a ruling: what decided, else what protected, else what nearly did something. */
export function toldReason(ruling: Pick<Ruling, 'reasons' | 'decidedBy'>): Reason | null {
  return (
    (ruling.decidedBy === null ? null : ruling.reasons[ruling.decidedBy]) ??
    ruling.reasons.find(r => r.fate.kind === 'protected') ??
    ruling.reasons.find(
      r => r.fate.kind === 'excepted' || (r.fate.kind === 'watching' && r.fate.changes) || r.fate.kind === 'not counted',
    ) ??
    null
  )
}

/** That reason in a few words. */
export function shortReason(ruling: Pick<Ruling, 'reasons' | 'decidedBy'>): string {
  const told = toldReason(ruling)
  if (!told) return ruling.reasons.length ? 'nothing stops it' : 'nothing matched'
  const clause = clauseWords(told.clause)
  if (told === ruling.reasons[ruling.decidedBy ?? -1]) {
    const phrases = [...new Set(told.evidence.flatMap(e => (e.kind === 'phrase' ? [quoted(e.phrase)] : [])))]
    if ('protect' in told.claim) return `protected: ${clause}`
    return phrases.length ? `${oneOf(phrases, 'and', 2)}, ${clause}` : clause
  }
  if (told.fate.kind === 'protected') return `${told.clause.kind === 'list' ? 'on ' : ''}${clause}`
  const kind = told.fate.kind
  return `${clause}: ${kind === 'excepted' || kind === 'watching' ? kind : 'not counted'}`
}
