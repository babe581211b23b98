let settle: () => void
/** Resolves when this process's roles are ready. */
export const ready = new Promise<void>(resolve => settle = resolve)
let isReadyNow = false

export function nowReady(): void {
  isReadyNow = true
  settle()
}

export function isReady(): boolean {
  return isReadyNow
}

export type ProcessRole = 'web' | 'intake' | 'worker'

/** What this process does, by SOBER_GATE_ROLES. */
export function processRoles(): ProcessRole[] {
  const known: ProcessRole[] = ['web', 'intake', 'worker']
  const asked = (process.env.SOBER_GATE_ROLES ?? 'web,intake,worker').split(',').map(r => r.trim()).filter(Boolean)
  const wrong = asked.find(r => !known.includes(r as ProcessRole))
  if (wrong) throw new Error(`SOBER_GATE_ROLES has the unknown role “${wrong}”. Use ${known.join(', ')}.`)
  return known.filter(r => asked.includes(r))
}

/** Why the database is down, for everybody, and more for whoever reads the log. */
export interface DatabaseNote {
  why: string
  more: string
}

let note: DatabaseNote | null = null

/** What whoever watches the database told of it; null while it is up. */
export function databaseNote(): DatabaseNote | null {
  return note
}

/** Takes down what the script that started this process tells of the database; false where it told of something else. */
export function noteDatabase(message: unknown): boolean {
  if (message === null || typeof message !== 'object' || !('database' in message)) return false
  note = message.database as DatabaseNote | null
  return true
}
