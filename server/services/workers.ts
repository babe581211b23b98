import { availableParallelism } from 'node:os'
import { Piscina } from 'piscina'
import type { Envelope, Message, Trust } from '#core'
import compileHere, { type CompiledElsewhere } from '../workers/compile'
import * as here from '../workers/mail'

let pool: Piscina | null = null
let compileFile = ''

/** Starts the worker threads. Without them, their work is done on the calling thread (tests). */
export function startWorkers(fileOf: (name: string) => string): void {
  compileFile = fileOf('compile')
  pool ??= new Piscina({ filename: fileOf('mail'), minThreads: 1, maxThreads: Math.max(1, Math.min(4, availableParallelism())), idleTimeout: 60_000 })
}

export async function stopWorkers(): Promise<void> {
  const ending = pool
  pool = null
  await ending?.destroy()
}

/** Reads a message. */
export function readMessage(bytes: Uint8Array, envelope: Envelope, trust: Trust): Promise<Message> {
  return pool ? pool.run({ bytes, envelope, trust }, { name: 'read' }) as Promise<Message> : here.read({ bytes, envelope, trust })
}

/** The HTML of a message made harmless; null where it has none. */
export function readSafeHtml(bytes: Uint8Array): Promise<string | null> {
  return pool ? pool.run(bytes, { name: 'safeHtml' }) as Promise<string | null> : here.safeHtml(bytes)
}

/** The policy in force, compiled off this thread. */
export function compileElsewhere(): Promise<CompiledElsewhere> {
  return pool ? pool.run(undefined, { filename: compileFile, name: 'default' }) as Promise<CompiledElsewhere> : compileHere()
}
