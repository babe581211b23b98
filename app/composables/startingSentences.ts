import { newRow, type ConditionRow } from './conditionRows'
import { blankSheet, type Sheet } from './ruleSheet'

/** A beginning of a rule for a common job: what it is called, and the sheet with what can be said beforehand. */
export interface StartingSentence {
  name: string
  /** What is left to fill in. */
  hint: string
  sheet(owner: string): Sheet
}

const MONEY = 'invoice\npayment\nbank details\nwire transfer\noverdue'

function phrases(text: string): ConditionRow {
  return { ...newRow('phrases'), text }
}

/**
 * Beginnings for common jobs.
 * @param known the list of senders who are no strangers, where there is one
 */
export function startingSentences(known: string | null): StartingSentence[] {
  return [
    {
      name: 'Block a sender',
      hint: 'Enter the address or domain.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')] }),
    },
    {
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
      name: 'File newsletters in a folder',
      hint: 'Enter the mailing list, or keep “any” and add words.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('mailingList')], main: 'folder', folder: 'Newsletters' }),
    },
    {
      name: 'Always allow a customer',
      hint: 'Enter their addresses or domains. Their mail is always kept in Inbox.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')], main: 'keep' }),
    },
  ]
}
