import type { SQL } from 'drizzle-orm'
import { desc, sql } from 'drizzle-orm'
import { copies } from '../db/schema'
import type { OpenArchive } from './archive-thread'

/** A copy that some of the tracks come by. */
export interface Passed {
  id: number
  /** When it was received, in seconds since 1970. */
  at: number
  tracks: number[]
}

/** How many ids are read at a time. */
export interface Fetches {
  first: number
  next: number
}

export const FETCHES: Fetches = { first: 200, next: 4000 }

/** Copies that a condition finds, the newest first, read as they are needed. */
class Track {
  readonly found: { id: number, at: number }[] = []
  next = 0
  isDone = false

  constructor(
    private readonly name: string,
    private readonly where: SQL | undefined,
    private readonly how: { open: OpenArchive, fetches: Fetches },
  ) {}

  async begin(): Promise<void> {
    const query = this.how.open.db
      .select({ id: copies.id, at: sql`extract(epoch from ${copies.receivedAt})::float8` })
      .from(copies)
      .where(this.where)
      .orderBy(desc(copies.receivedAt), desc(copies.id))
      .toSQL()
    await this.how.open.client.query(`declare ${this.name} no scroll cursor for ${query.sql}`, query.params)
    await this.fill(this.how.fetches.first)
  }

  async fill(count = this.how.fetches.next): Promise<void> {
    const { rows } = await this.how.open.client.query<[id: string, at: number]>({ text: `fetch ${count} from ${this.name}`, rowMode: 'array' })
    this.found.splice(0, this.next)
    this.next = 0
    for (const [id, at] of rows) this.found.push({ id: Number(id), at: Number(at) })
    this.isDone = rows.length < count
  }

  get isEmpty(): boolean {
    return this.next === this.found.length
  }

  /** The next one; undefined at the end. */
  get head(): { id: number, at: number } | undefined {
    return this.found[this.next]
  }
}

/**
 * Goes through the copies that several conditions find, the newest first; a copy that several of them find comes once. Within a
 * transaction.
 */
export class NewestFirst {
  private readonly tracks: Track[]

  constructor(open: OpenArchive, conditions: readonly (SQL | undefined)[], fetches = FETCHES) {
    this.tracks = conditions.map((where, i) => new Track(`track_${i}`, where, { open, fetches }))
  }

  async begin(): Promise<void> {
    for (const track of this.tracks) await track.begin()
  }

  /** So many of them, or fewer at the end. */
  async take(count: number): Promise<Passed[]> {
    const out: Passed[] = []
    while (out.length < count) {
      for (const track of this.tracks) if (track.isEmpty && !track.isDone) await track.fill()
      if (!this.merge(out, count)) break
    }
    return out
  }

  // Until a track has to be read on. @returns false at the end of all
  private merge(out: Passed[], count: number): boolean {
    for (;;) {
      let newest: Track | null = null
      for (const track of this.tracks) {
        if (track.isEmpty) {
          if (!track.isDone) return true
          continue
        }
        if (!newest || isBefore(newest.head!, track.head!)) newest = track
      }
      if (!newest) return false
      const { id, at } = newest.head!
      const last = out.at(-1)
      if (last?.id !== id && out.length === count) return true
      if (last?.id === id) last.tracks.push(this.tracks.indexOf(newest))
      else out.push({ id, at, tracks: [this.tracks.indexOf(newest)] })
      newest.next++
    }
  }
}

function isBefore(a: { id: number, at: number }, b: { id: number, at: number }): boolean {
  return a.at < b.at || (a.at === b.at && a.id < b.id)
}
