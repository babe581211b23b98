import { personOwner, type PhraseItem, type Rule } from '#core'
import type { PolicyChange } from '#core/change'
import { currentSet } from '../policy/phrase-sets'
import { canChange } from '../access/ownership'
import { can, type Actor } from '../access/roles'
import { invalid } from '../platform/problem'
import { previewChanges } from '../policy/preview'
import type { TakenApart } from '../workers/parts'
import { partsOfRule } from './simulation'

/** What each condition, phrase and exception of a rule does that is put by a change. */
export async function partsOfChange(
  actor: Actor,
  change: PolicyChange,
  how: { tell?: (parts: TakenApart) => void, signal?: AbortSignal } = {},
): Promise<TakenApart> {
  if (change.type !== 'put' || change.kind !== 'rule')
    throw invalid('Only a rule has conditions and exceptions.', { 'changes.0': 'Send a rule.' })
  const own = !canChange(actor, change.value.owner)
  const { changes } = await previewChanges(actor, [change], { proposed: own })
  const [put] = changes as [Extract<PolicyChange, { type: 'put', kind: 'rule' }>]
  return partsOfRule(actor, put!.value as Rule, how)
}

/** What each phrase of a set finds in the mail that it stands for, as far as the actor may count it. */
export async function statsOfSet(actor: Actor, id: string): Promise<TakenApart> {
  const set = await currentSet(actor, id)
  const all = can(actor, 'view counts of all mail')
  const phrases: PhraseItem[] = set.phrases
  const rule: Rule = {
    id: `set ${set.id}`,
    name: set.name,
    owner: set.owner === personOwner(actor.id) || all ? set.owner : personOwner(actor.id),
    state: 'enabled',
    when: { phrases },
    except: [],
    claims: [{ effect: { kind: 'important' } }],
  }
  return partsOfRule(actor, rule)
}
