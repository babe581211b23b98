import { sql } from 'drizzle-orm'
import { db } from '../db/client'
import { LOCK_NUMBERS } from '../db/lock-numbers'
import { recordEvent } from '../audit/record'
import { addPerson, hasAdministrator, type NewPerson } from './people'
import { changeClauses } from '../policy/apply'
import { currentVersion } from '../policy/store'
import { addDomains } from './domains'
import { refreshPeople } from '../policy/active-policy'
import { invalid, notAllowed } from '../platform/problem'
import { isSecret } from '../platform/secrets'

export interface SetupForm {
  token: string
  name: string
  address: string
  password: string
  domains: string[]
  people: NewPerson[]
}

/** True if the one-time link still opens the door: it ends with the first administrator. */
export async function setupIsOpen(token: string): Promise<boolean> {
  const wanted = process.env.SOBER_GATE_SETUP_TOKEN ?? ''
  return wanted.length >= 16 && isSecret(token, wanted) && !(await hasAdministrator())
}

/** Makes the first administrator, our domains and the first people, all or nothing. */
export async function setUp(form: SetupForm): Promise<string> {
  if (!(await setupIsOpen(form.token)))
    throw notAllowed('This link has already been used, or is not the one that was printed. Sign in, or restart Sober Gate for a new link.')
  const id = await db().transaction(async (tx) => {
    await tx.execute(sql`select pg_advisory_xact_lock(${LOCK_NUMBERS.setup})`)
    if (await hasAdministrator()) throw notAllowed('This installation has just been set up by someone else. Sign in.')
    const wrong = await addDomains(tx, form.domains)
    if (wrong.length)
      throw invalid(`“${wrong[0]}” is not a domain.`, { domains: 'Enter domains such as saltmere-harbour.example, one per line.' })
    const administrator = await addPerson(tx, { name: form.name, address: form.address, role: 'administrator', password: form.password })
    for (const person of form.people) await addPerson(tx, person)
    await recordEvent(tx, {
      personId: administrator,
      kind: 'setUp',
      detail: { domains: form.domains, people: form.people.length + 1 },
    })
    return administrator
  })
  await refreshPeople()
  return id
}

/** The first version of a new installation: no clauses, the general quarantine. */
export async function firstVersion(): Promise<void> {
  if ((await currentVersion()).number > 0) return
  await changeClauses(
    null,
    // Asked under the lock: several processes may start at once.
    async ({ policy }) =>
      policy.quarantines.length ? [] : [{ type: 'put', kind: 'quarantine', value: { id: 'general', name: 'General', general: true } }],
  )
}
