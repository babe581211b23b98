import { readDate } from './dates'
import type { RawField } from './structure'
import { parseReceived } from './trace'

/** What a message in a file says of how it came: anybody can write these fields, so they count only where they are to be believed. */
export interface FileTrace {
  /** The client that handed it over, by the topmost Received field. */
  client: string | null
  /** ISO 8601: by the topmost Received field, else by Date. */
  receivedAt: string | null
  /** The envelope sender, by Return-Path. */
  mailFrom: string | null
}

/** Reads how a message in a file came (RFC 5321 4.4). */
export function fileTrace(fields: readonly Pick<RawField, 'name' | 'value'>[]): FileTrace {
  const valueOf = (name: string) => fields.find(f => f.name.toLowerCase() === name)?.value
  const received = valueOf('received')
  const trace = received === undefined ? null : parseReceived(received)
  return {
    client: trace?.from ?? null,
    receivedAt: trace?.date ?? readDate(valueOf('date')),
    mailFrom: /<([^<>]*)>/.exec(valueOf('return-path') ?? '')?.[1] ?? null,
  }
}
