import { eq } from 'drizzle-orm'
import { makeAddress } from '#core'
import { recordAct } from '../acts/record'
import { isRole, ROLES, type Asker } from '../access/roles'
import { db } from '../db/client'
import { addresses, departments } from '../db/schema'
import { csvRows, NoCsv, readCsv } from '../platform/csv'
import { invalid, Problem } from '../platform/problem'
import { refreshPeople } from '../policy/in-force'
import { allMembers, lockMembers, writeMember } from './members'

const COLUMNS = ['name', 'addresses', 'role', 'departments'] as const
/** Several in one cell, apart. */
const BETWEEN = '; '
const MOST_ROWS = 5000

/** Everybody who is here, as CSV (RFC 4180) with a header. */
export async function peopleAsCsv(): Promise<string> {
  const names = new Map((await db().select().from(departments)).map(d => [d.id, d.name]))
  const rows = (await allMembers()).map(m => [
    m.name,
    m.addresses.join(BETWEEN),
    m.role,
    m.departments.map(d => names.get(d) ?? d).join(BETWEEN),
  ])
  return csvRows([COLUMNS, ...rows])
}

/** What a file came to. */
export interface PeopleRead {
  added: number
  changed: number
  same: number
}

/**
 * Reads people from CSV (RFC 4180): a header with the columns name and addresses, and role and departments where wanted. Who has
 * the first address of a line already is changed by it, anybody else is put down. All of it, or nothing where a line is wrong.
 */
export async function readPeopleCsv(asker: Asker, text: string): Promise<PeopleRead> {
  const rows = rowsOf(text)
  const done = await db().transaction(async (tx) => {
    await lockMembers(tx)
    const known = new Map((await tx.select().from(departments)).flatMap(d => [[d.name.toLowerCase(), d.id], [d.id.toLowerCase(), d.id]]))
    const there = await allMembers(tx)
    const out: PeopleRead = { added: 0, changed: 0, same: 0 }
    const wrong: string[] = []
    for (const { line, name, own, role, teams } of rows) {
      const refuse = (why: string) => wrong.push(`line ${line}: ${why}`)
      const first = own[0] === undefined ? null : makeAddress(own[0])
      if (!name) refuse('a name is missing')
      else if (!first?.local || !first.domain) refuse(`“${own[0] ?? ''}” is not a whole address`)
      else if (!isRole(role)) refuse(`“${role}” is no role; write ${ROLES.join(', ')}`)
      else if (teams.some(t => !known.has(t.toLowerCase())))
        refuse(`there is no department “${teams.find(t => !known.has(t.toLowerCase()))}”`)
      else {
        const [holder] = await tx.select({ personId: addresses.personId }).from(addresses).where(eq(addresses.address, first.key)).limit(2)
        const before = there.find(m => m.id === holder?.personId)
        const form = { name, role, addresses: own, shared: before?.shared ?? [], departments: teams.map(t => known.get(t.toLowerCase())!) }
        const same =
          before !== undefined && before.name === name && before.role === role &&
          before.departments.join() === form.departments.join() && [...before.addresses].sort().join() === [...own].sort().join()
        if (same) {
          out.same++
          continue
        }
        if (before?.id === asker.id && role !== 'administrator') refuse('you would take your own role away')
        else if (before && before.role === 'administrator' && role !== 'administrator')
          refuse(`${before.name} is an administrator; change that on the page`)
        else {
          try {
            await tx.transaction(at => writeMember(at, before?.id ?? null, form))
            out[before ? 'changed' : 'added']++
          }
          catch (error) {
            if (!(error instanceof Problem)) throw error
            refuse(error.detail)
          }
        }
      }
    }
    if (wrong.length)
      throw invalid(`Nothing was changed: ${wrong.slice(0, 10).join('; ')}${wrong.length > 10 ? `; and ${wrong.length - 10} more` : ''}.`, {
        text: wrong[0]!,
      })
    if (out.added + out.changed)
      await recordAct(tx, {
        personId: asker.id,
        kind: 'set people',
        detail: { words: `read people from a file: ${out.added} new, ${out.changed} changed` },
      })
    return out
  })
  await refreshPeople()
  return done
}

function rowsOf(text: string) {
  const { header, rows } = readOrRefuse(text)
  if (!header.includes('name') || !(header.includes('addresses') || header.includes('address')))
    throw invalid('The first line has to name the columns: name, addresses, and role and departments where wanted.', { text: 'No header.' })
  if (rows.length > MOST_ROWS)
    throw invalid(`That is ${rows.length} lines; at most ${MOST_ROWS} are read at once.`, { text: 'Too many lines.' })
  return rows.map(({ line, cells }) => ({
    line,
    name: (cells.name ?? '').slice(0, 120),
    own: (cells.addresses ?? cells.address ?? '').split(/[;\s]+/).filter(Boolean),
    role: (cells.role || 'worker').toLowerCase(),
    teams: (cells.departments ?? '').split(';').map(t => t.trim()).filter(Boolean),
  }))
}

function readOrRefuse(text: string): ReturnType<typeof readCsv> {
  try {
    return readCsv(text)
  }
  catch (error) {
    throw error instanceof NoCsv ? invalid(error.message, { text: 'It cannot be read as CSV.' }) : error
  }
}
