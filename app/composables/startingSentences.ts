import { isPersonal } from '#core/policy'
import { newRow, rowOf, type ConditionRow } from './conditionRows'
import { blankSheet, type Sheet } from './ruleSheet'

/** A beginning of a rule for a common job: what it is called, and the sheet with what can be said beforehand. */
export interface StartingSentence {
  /** By which a link begins with it. */
  id: string
  name: string
  /** What is left to fill in. */
  hint: string
  sheet(owner: string): Sheet
}

const MONEY = 'invoice\npayment\nbank details\nwire transfer\noverdue'

function phrases(text: string): ConditionRow {
  return { ...newRow('phrases'), text }
}

/** In quarantine; for more than one person mandatory, since it holds mail that looks like theirs. */
function held(owner: string): Pick<Sheet, 'main' | 'mandatory' | 'overridesLists'> {
  const mandatory = !isPersonal(owner)
  return { main: 'quarantine', mandatory, overridesLists: mandatory }
}

/**
 * Beginnings for common jobs.
 * @param known the list of senders who are no strangers, where there is one
 */
export function startingSentences(known: string | null): StartingSentence[] {
  return [
    {
      id: 'block',
      name: 'Block a sender',
      hint: 'Enter the address or domain.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')] }),
    },
    {
      id: 'money',
      name: 'Hold mail about money from unknown senders',
      hint: 'Edit the words, and enter the known senders as exceptions.',
      sheet: owner => ({
        ...blankSheet(owner),
        when: [phrases(MONEY)],
        except: [known === null ? newRow('sender') : { ...newRow('list'), condition: { senderOn: known } }],
        main: 'quarantine',
      }),
    },
    {
      id: 'newsletters',
      name: 'File newsletters in a folder',
      hint: 'Enter the mailing list, or keep “any” and add words.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('mailingList')], main: 'folder', folder: 'Newsletters' }),
    },
    {
      id: 'allow',
      name: 'Always allow a customer',
      hint: 'Enter their addresses or domains. Their mail is always kept in Inbox.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')], main: 'keep' }),
    },
    {
      id: 'own-domain',
      name: 'Hold mail that claims to be your domain and is not verified',
      hint: 'Check the impact: services that send in your name without authentication are held too. Then save.',
      sheet: owner => ({
        ...blankSheet(owner),
        name: 'Own domain in From, not verified',
        when: [rowOf({ defect: 'claims own domain' }), rowOf({ none: [{ authentication: 'pass' }] })],
        ...held(owner),
      }),
    },
    {
      id: 'user-names',
      name: 'Hold mail from outside that shows a user’s name',
      hint: 'Check the impact: people of the same name, and private addresses of your users, are held too. Except them, then save.',
      sheet: owner => ({ ...blankSheet(owner), name: 'A user’s name from outside', when: [rowOf({ userName: true })], ...held(owner) }),
    },
  ]
}
