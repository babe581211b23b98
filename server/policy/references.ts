import { isNull } from 'drizzle-orm'
import { danglingReferences, isPersonal, type Binding, type Owner, type Policy, type Rule } from '#core'
import { lists, phraseSets, quarantines } from '../db/schema'
import { seesClausesOf } from '../access/ownership'
import type { Asker } from '../access/roles'
import { policyInForce } from './in-force'
import type { Change } from './store'
import { invalid } from '../platform/problem'

/**
 * Refuses a clause that refers to what is not there, or is not its owner's to use. Asked inside the change: a list may have
 * gone since the form was opened. Somebody's own list or phrase set serves only them, and says not even that it is there.
 */
export async function mustHoldReferences(change: Change, asker: Asker, clause: { rule: Rule } | { binding: Binding }): Promise<void> {
  const { policy } = await policyInForce()
  const owner = 'rule' in clause ? clause.rule.owner : clause.binding.owner
  const serves = (other: Owner) => other === owner || (!isPersonal(other) && seesClausesOf(asker, other))
  const listRows = await change.tx.select({ id: lists.id, owner: lists.owner }).from(lists).where(isNull(lists.toVersion))
  const setRows = await change.tx
    .select({ id: phraseSets.id, owner: phraseSets.owner })
    .from(phraseSets)
    .where(isNull(phraseSets.toVersion))
  const quarantineRows = await change.tx.select({ id: quarantines.id }).from(quarantines).where(isNull(quarantines.toVersion))
  // Only that they are there is asked of them.
  const usable: Policy = {
    ...policy,
    lists: listRows.filter(l => serves(l.owner)) as Policy['lists'],
    phraseSets: setRows.filter(s => serves(s.owner)) as Policy['phraseSets'],
    quarantines: quarantineRows as Policy['quarantines'],
    rules: 'rule' in clause ? [clause.rule] : [],
    bindings: 'binding' in clause ? [clause.binding] : [],
    thresholds: {},
  }
  const wanted = 'rule' in clause ? '/rules/0/' : '/bindings/0/'
  const problems = danglingReferences(usable).filter(p => p.path.startsWith(wanted))
  if (!problems.length) return
  const prefix = 'rule' in clause ? '' : 'binding.'
  throw invalid(
    problems.map(p => p.message).join('; '),
    Object.fromEntries(problems.map(p => [prefix + p.path.slice(wanted.length).replaceAll('/', '.'), p.message])),
  )
}
