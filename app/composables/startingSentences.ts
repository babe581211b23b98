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
      name: 'Keep out a sender',
      hint: 'Write the address or domain.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')] }),
    },
    {
      name: 'Hold what speaks of money, from strangers',
      hint: 'Change the words, and say who is no stranger.',
      sheet: owner => ({
        ...blankSheet(owner),
        when: [phrases(MONEY)],
        except: [known === null ? newRow('sender') : { ...newRow('list'), condition: { senderOn: known } }],
        main: 'quarantine',
      }),
    },
    {
      name: 'File a newsletter',
      hint: 'Write whose it is, or leave it at any mailing list and add words.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('mailingList')], main: 'folder', folder: 'Newsletters' }),
    },
    {
      name: 'Never lose a customer',
      hint: 'Write their addresses or domains: what comes from there is always let in.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')], main: 'keep' }),
    },
  ]
}
