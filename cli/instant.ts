import { Complaint } from './complaint'

/** An instant as it was said on the command line, in ISO 8601; now where nothing was said. */
export function instantFrom(said: string | undefined): string {
  if (said !== undefined && Number.isNaN(Date.parse(said)))
    throw new Complaint(`“${said}” is not a date and time; write it as 2026-11-24T09:00:00Z.`)
  return new Date(said ?? Date.now()).toISOString()
}
