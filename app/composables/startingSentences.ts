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

const INVOICES = 'invoice\npayment\noverdue\nreminder'
const BANK = 'new bank account\nnew bank details\nchanged bank details\nbank details have changed\nupdated bank details\nnew IBAN'
const BIG = 10_000_000

function phrases(text: string): ConditionRow {
  return { ...newRow('phrases'), text }
}

/** In quarantine; for more than one person mandatory, since it holds mail that looks like theirs. */
function held(owner: string): Pick<Sheet, 'main' | 'mandatory' | 'overridesLists'> {
  const mandatory = !isPersonal(owner)
  return { main: 'quarantine', mandatory, overridesLists: mandatory }
}

/** Forged mail from outside with one of your own domains in From. */
const ownDomain = () => [rowOf({ defect: 'claims own domain' }), rowOf({ none: [{ authentication: 'pass' }] })]

/** Senders who are no strangers, as exceptions. */
function knownSenders(known: string | null): ConditionRow[] {
  return known === null ? [] : [{ ...newRow('list'), condition: { senderOn: known } }]
}

/**
 * Beginnings for common jobs.
 * @param known the list of senders who are no strangers, where there is one
 */
export function startingSentences(known: string | null): StartingSentence[] {
  const exceptions = known === null ? 'Enter the senders whom you know as exceptions.' : 'Senders on your allow list are excepted.'
  return [
    {
      id: 'claims',
      name: 'Claims to be you',
      hint: 'Check the impact: services that send in your name without authentication, and people of the same name, are held too.',
      sheet: owner => ({
        ...blankSheet(owner),
        name: 'Claims to be you',
        joint: 'any',
        when: [rowOf({ all: [{ defect: 'claims own domain' }, { none: [{ authentication: 'pass' }] }] }), rowOf({ userName: true })],
        ...held(owner),
      }),
    },
    {
      id: 'bank',
      name: 'New bank account',
      hint: 'Held even from senders whom you know: such mail often comes from a mailbox that was broken into. Edit the words.',
      sheet: owner => ({ ...blankSheet(owner), name: 'New bank account', when: [phrases(BANK)], ...held(owner) }),
    },
    {
      id: 'invoices',
      name: 'Invoices from new senders',
      hint: `Edit the words. ${exceptions}`,
      sheet: owner => ({
        ...blankSheet(owner), name: 'Invoices from new senders', when: [phrases(INVOICES)], except: knownSenders(known), main: 'quarantine',
      }),
    },
    {
      id: 'executables',
      name: 'Executable attachments',
      hint: 'By detected type and by name, also inside archives.',
      sheet: owner => ({
        ...blankSheet(owner), name: 'Executable attachments', when: [rowOf({ attachment: { kind: 'program' } })], ...held(owner),
      }),
    },
    {
      id: 'unsubscribe',
      name: '“unsubscribe”, sender not on an allow list',
      hint: `Mail with that word in its text is often advertising. ${exceptions}`,
      sheet: owner => ({
        ...blankSheet(owner), name: 'Unsubscribe', when: [phrases('unsubscribe')], except: knownSenders(known), main: 'spam',
      }),
    },
    {
      id: 'newsletters',
      name: 'Newsletters to Low priority',
      hint: 'Every mailing list. Name one to move only that.',
      sheet: owner => ({ ...blankSheet(owner), name: 'Newsletters', when: [newRow('mailingList')], main: 'lowPriority' }),
    },
    {
      id: 'big',
      name: 'Tag big attachments',
      hint: 'Change the size, or choose an action: as it is, the mail is tagged and stays where it is.',
      sheet: (owner) => {
        const blank = blankSheet(owner)
        return {
          ...blank,
          name: 'Big attachments',
          when: [rowOf({ attachment: { atLeast: BIG } })],
          main: 'none',
          effects: { ...blank.effects, tag: 'big attachment' },
        }
      },
    },
    {
      id: 'allow',
      name: 'Never lose a customer’s mail',
      hint: 'Enter their addresses or domains. Their mail is always kept in Inbox.',
      sheet: owner => ({ ...blankSheet(owner), when: [newRow('sender')], main: 'keep' }),
    },
  ]
}

/** Rules that Settings names as missing, ready to save. */
export function readyRules(): StartingSentence[] {
  return [
    {
      id: 'own-domain',
      name: 'Hold mail that claims to be your domain and is not verified',
      hint: 'Check the impact: services that send in your name without authentication are held too. Then save.',
      sheet: owner => ({ ...blankSheet(owner), name: 'Own domain in From, not verified', when: ownDomain(), ...held(owner) }),
    },
    {
      id: 'user-names',
      name: 'Hold mail from outside that shows a user’s name',
      hint: 'Check the impact: people of the same name, and private addresses of your users, are held too. Except them, then save.',
      sheet: owner => ({ ...blankSheet(owner), name: 'A user’s name from outside', when: [rowOf({ userName: true })], ...held(owner) }),
    },
    {
      id: 'dmarc',
      name: 'Treat a DMARC failure as its domain asks',
      hint: 'Check the impact: mail that a forwarder or a mailing list changed fails too. Then save.',
      sheet: owner => ({ ...blankSheet(owner), name: 'DMARC failure', when: [rowOf({ dmarcRequest: 'quarantine' })], ...held(owner) }),
    },
  ]
}
