import { createHash } from 'node:crypto'
import isSame from 'fast-deep-equal'
import { makeAddress } from '#core'
import { numberWords } from '#core/wording'
import { lockUsers } from '../access/rights-lock'
import { isRole, ROLES, type Actor, type Role } from '../access/roles'
import { db, type Db, type Tx } from '../db/client'
import { departments } from '../db/schema'
import { checked } from '../platform/checked'
import { csvRows, NoCsv, NOT_CSV, readCsv } from '../platform/csv'
import { invalid, Problem, conflict } from '../platform/problem'
import { formOf, recordMembers, withMembers, type MemberChange } from './member-changes'
import { memberForm } from './member-form'
import { allMembers, membersOf, writeMember, type Member, type MemberForm } from './members'

const COLUMNS = ['name', 'addresses', 'shared', 'role', 'departments'] as const
const MAX_ROWS = 5000
/** So many lines of a report are sent; the rest is counted. */
const MAX_LINES = 500

/** All users as CSV (RFC 4180) with a header. Read back unchanged, it changes nothing. */
export async function usersAsCsv(): Promise<string> {
  const known = await departmentNames(db())
  const rows = (await allMembers()).map(m => [
    m.name,
    m.addresses.filter(a => !m.shared.includes(a)).join(' '),
    m.shared.join(' '),
    m.role,
    m.departments.map(known.write).join('; '),
  ])
  return csvRows([COLUMNS, ...rows])
}

/** What importing a file would do, or did. */
export interface UserImportReport {
  /** Of the users as they were when this was computed; the import names it. */
  version: string
  added: number
  changed: number
  same: number
  /** What changes, line by line; the first 500 lines. */
  lines: { line: number, name: string, isNew: boolean, changes: string[] }[]
  /** Lines that cannot be imported, and why. With any of them, nothing is. */
  wrong: { line: number, why: string }[]
  wrongCount: number
}

/** What importing a file of users would do. Nothing is changed. */
export async function previewUserCsv(actor: Actor, text: string): Promise<UserImportReport> {
  const rows = rowsOf(text)
  // In a transaction that is not committed: what may be written is decided by what writes it.
  return rolledBack(async (tx) => {
    await lockUsers(tx)
    return (await apply(tx, actor, rows)).report
  })
}

/**
 * Imports users from CSV (RFC 4180): a header with the columns name and addresses, and shared, role and departments where wanted. A
 * line changes the user who alone has one of its addresses; where nobody does, it adds one. All lines, or none where one is wrong.
 * @param version of the report that the caller saw
 * @throws 409 where users were changed since that report
 */
export async function importUserCsv(actor: Actor, text: string, version: string): Promise<UserImportReport & { eventId: number | null }> {
  const rows = rowsOf(text)
  return withMembers(async (tx) => {
    const { report, members } = await apply(tx, actor, rows)
    if (report.version !== version) throw conflict('A user in this file')
    if (report.wrongCount) throw invalid(wrongWords(report), { text: `line ${report.wrong[0]!.line}: ${report.wrong[0]!.why}` })
    return { ...report, eventId: members.length ? await recordMembers(tx, actor, members, true) : null }
  })
}

function wrongWords({ wrong, wrongCount }: UserImportReport): string {
  const first = wrong.slice(0, 10).map(({ line, why }) => `line ${line}: ${why}`)
  const more = wrongCount > first.length ? `; and ${numberWords(wrongCount - first.length)} more` : ''
  return `Nothing was changed: ${first.join('; ')}${more}.`
}

async function rolledBack<T>(run: (tx: Tx) => Promise<T>): Promise<T> {
  let done: { value: T } | undefined
  const rollback = new Error('rolled back')
  await db().transaction(async (tx) => {
    done = { value: await run(tx) }
    throw rollback
  }).catch((error: unknown) => {
    if (error !== rollback) throw error
  })
  return done!.value
}

type Line = ReturnType<typeof rowsOf>[number]

/** Does what the lines say as far as that can be done, and reports of it. */
async function apply(tx: Tx, actor: Actor, rows: readonly Line[]): Promise<{ report: UserImportReport, members: MemberChange[] }> {
  const there = await allMembers(tx)
  const known = await departmentNames(tx)
  const report: UserImportReport = { version: versionOf(there, known), added: 0, changed: 0, same: 0, lines: [], wrong: [], wrongCount: 0 }
  const members: MemberChange[] = []
  const holders = new Holders(there)
  const linesOf = new Map<string, number>()
  for (const row of rows) {
    const { line, name } = row
    try {
      const before = holders.meantBy(row)
      const other = before && linesOf.get(before.id)
      if (other) throw invalid(`line ${other} is also for ${before.name}`)
      if (before) linesOf.set(before.id, line)
      const form = formIn(row, before, known)
      mustKeepRole(actor, before, form)
      if (before && isSame(comparable(form), comparable(before))) {
        report.same++
        continue
      }
      const id = await tx.transaction(at => writeMember(at, before?.id ?? null, form))
      const [after] = await membersOf(tx, [id])
      members.push({ id, before: before && formOf(before), after: formOf(after!) })
      report[before ? 'changed' : 'added']++
      if (report.lines.length < MAX_LINES)
        report.lines.push({ line, name: before?.name ?? name, isNew: !before, changes: changesBetween(before, form, known) })
    }
    catch (error) {
      if (!(error instanceof Problem)) throw error
      report.wrongCount++
      if (report.wrong.length < MAX_LINES) report.wrong.push({ line, why: error.detail.replace(/\.$/, '') })
    }
  }
  return { report, members }
}

/** Who has which addresses, before anything of the file is done. */
class Holders {
  private readonly byAddress = new Map<string, Member[]>()

  constructor(members: readonly Member[]) {
    for (const member of members)
      for (const address of member.addresses) {
        const key = makeAddress(address).key
        this.byAddress.set(key, [...(this.byAddress.get(key) ?? []), member])
      }
  }

  /** Whom a line is about: who alone has one of its addresses. Where it names shared ones only, who has one of them and that name. */
  meantBy({ own, shared, name }: Line): Member | null {
    const held = (texts: readonly string[]) => texts.map(a => this.byAddress.get(makeAddress(a).key) ?? [])
    const alone = new Set(held(own).flatMap(m => (m.length === 1 ? m : [])))
    if (alone.size > 1) {
      const names = [...alone].map(m => m.name).join(' and ')
      throw invalid(`its addresses belong to ${names}; enter each user on a separate line, and shared mailboxes in the column “shared”`)
    }
    if (alone.size) return [...alone][0]!
    const named = new Set(held([...own, ...shared]).flat().filter(m => m.name === name))
    if (named.size > 1) throw invalid(`several users named ${name} have this shared mailbox; add an address that only one of them has`)
    return [...named][0] ?? null
  }
}

// What a file does not say of somebody who is here stays as it is.
function formIn({ name, own, shared, role, teams }: Line, before: Member | null, known: DepartmentNames): MemberForm {
  if (role && !isRole(role)) throw invalid(`“${role}” is not a role; use one of ${ROLES.join(', ')}`)
  const alreadyShared = before?.shared ?? []
  const strange = teams?.find(t => known.read(t) === undefined)
  if (strange !== undefined) throw invalid(`department “${strange}” does not exist`)
  return checked<MemberForm>(memberForm, {
    name,
    role: role || (before?.role ?? 'worker'),
    addresses: [...own, ...shared],
    shared: [...shared, ...alreadyShared],
    departments: teams ? teams.map(t => known.read(t)!) : (before?.departments ?? []),
  })
}

function mustKeepRole(actor: Actor, before: Member | null, { role }: MemberForm): void {
  if (before?.role !== 'administrator' || role === 'administrator') return
  if (before.id === actor.id) throw invalid('this would remove your own administrator role; ask another administrator')
  throw invalid(`${before.name} is an administrator; change that role in Settings, not by a file`)
}

const comparable = ({ name, role, addresses, departments: teams }: MemberForm | Member) =>
  ({ name, role, addresses: [...addresses].sort(), departments: [...new Set(teams)] })

function changesBetween(before: Member | null, after: MemberForm, known: DepartmentNames): string[] {
  const named = (ids: readonly string[]) => ids.map(known.name).join(', ') || 'none'
  if (!before)
    return [`role: ${after.role}`, `addresses: ${after.addresses.join(', ')}`, `departments: ${named(after.departments)}`]
  const added = after.addresses.filter(a => !before.addresses.includes(a))
  const removed = before.addresses.filter(a => !after.addresses.includes(a))
  return [
    ...(before.name === after.name ? [] : [`name: ${before.name} → ${after.name}`]),
    ...(before.role === after.role ? [] : [`role: ${before.role as Role} → ${after.role}`]),
    ...(added.length ? [`adds ${added.join(', ')}`] : []),
    ...(removed.length ? [`removes ${removed.join(', ')}`] : []),
    ...(isSame(before.departments, after.departments)
      ? []
      : [`departments: ${named(before.departments)} → ${named(after.departments)}`]),
  ]
}

interface DepartmentNames {
  rows: { id: string, name: string }[]
  name(id: string): string
  /** As a file has it: by name, or by id where the name does not lead back to it. */
  write(id: string): string
  /** The id of a department as a file has it. */
  read(text: string): string | undefined
}

async function departmentNames(at: Db | Tx): Promise<DepartmentNames> {
  const rows = await at.select({ id: departments.id, name: departments.name }).from(departments).orderBy(departments.id)
  const names = new Map(rows.map(d => [d.id, d.name]))
  const ids = new Map([...rows].reverse().map(d => [d.name.trim().toLowerCase(), d.id]))
  const read = (text: string) => (names.has(text) ? text : ids.get(text.trim().toLowerCase()))
  const name = (id: string) => names.get(id) ?? id
  return { rows, name, read, write: id => (read(name(id)) === id && !name(id).includes(';') ? name(id) : id) }
}

// Of everything that a report depends on.
function versionOf(there: readonly Member[], { rows }: DepartmentNames): string {
  const state = [there.map(({ signsIn: _, deactivatedAt: __, ...m }) => m), rows]
  return createHash('sha256').update(JSON.stringify(state)).digest('base64url')
}

function rowsOf(text: string) {
  const { header, rows } = readOrRefuse(text)
  if (!header.includes('name') || !(header.includes('addresses') || header.includes('address')))
    throw invalid('The first line must be the header: name, addresses and, if needed, shared, role and departments.', {
      text: 'The header line is missing.',
    })
  if (rows.length > MAX_ROWS)
    throw invalid(`The file has ${numberWords(rows.length)} lines; at most ${numberWords(MAX_ROWS)} can be imported at once.`, {
      text: 'The file has too many lines.',
    })
  return rows.map(({ line, cells }) => ({
    line,
    name: (cells.name ?? '').trim(),
    own: wordsIn(cells.addresses ?? cells.address ?? ''),
    shared: wordsIn(cells.shared ?? ''),
    role: (cells.role ?? '').trim().toLowerCase(),
    /** Undefined where the file has no such column. */
    teams: header.includes('departments') ? (cells.departments ?? '').split(';').map(t => t.trim()).filter(Boolean) : undefined,
  }))
}

const wordsIn = (cell: string) => cell.split(/[;,\s]+/).filter(Boolean)

function readOrRefuse(text: string): ReturnType<typeof readCsv> {
  try {
    return readCsv(text)
  }
  catch (error) {
    throw error instanceof NoCsv ? invalid(error.message, { text: `${NOT_CSV}.` }) : error
  }
}
