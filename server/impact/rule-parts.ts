import { personOwner, type PhraseItem, type Rule } from '#core'
import type { PolicyChange } from '#core/change'
import { currentSet } from '../policy/phrase-sets'
import { mayChange } from '../access/ownership'
import { may, type Asker } from '../access/roles'
import { invalid } from '../platform/problem'
import { previewChanges } from '../policy/preview'
import type { TakenApart } from '../workers/parts'
import { partsOfRule } from './simulation'

/** What each condition, phrase and exception of a rule does that is put by a change. */
export async function partsOfChange(asker: Asker, change: PolicyChange): Promise<TakenApart> {
  if (!('put' in change) || change.put !== 'rule') throw invalid('Only a rule has parts.', { 'changes.0': 'Put a rule.' })
  const own = !mayChange(asker, change.rule.owner)
  const { changes } = await previewChanges(asker, [change], { proposed: own })
  const [put] = changes as [Extract<PolicyChange, { put: 'rule' }>]
  return partsOfRule(asker, put.rule as Rule)
}

/** What each phrase of a set finds in the mail that it stands for, as far as the asker may count it. */
export async function recordOfSet(asker: Asker, id: string): Promise<TakenApart> {
  const set = await currentSet(asker, id)
  const all = may(asker, 'see counts of everybody’s mail')
  const phrases: PhraseItem[] = set.phrases
  const rule: Rule = {
    id: `set ${set.id}`,
    name: set.name,
    owner: set.owner === personOwner(asker.id) || all ? set.owner : personOwner(asker.id),
    state: 'acting',
    when: { phrases },
    except: [],
    claims: [{ effect: { kind: 'important' } }],
  }
  return partsOfRule(asker, rule)
}
