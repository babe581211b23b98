import type { Content, Message } from '#core'

/** A copy's message as it was handed over; null where only a record of it is left. */
export interface CachedCopy {
  messageId: number
  recipient: string
  message: Message | null
}

export interface CachedContent {
  content: Content
  /** Characters. */
  length: number
}

/** Which row of a message was read: another one after each change of it. */
export interface Stamp {
  messageId: number
  stamp: string
}

/** Characters of text that are kept: typing asks for the same mail again and again. */
const MAX_KEPT = 32_000_000
/** What a copy takes besides its text. */
const COPY = 500

interface Entry extends CachedCopy {
  stamp: string
  length: number
}

/**
 * The mail that was read last, within bounds. Mail is gone through newest first, and seldom all of it fits: what one question has looked
 * at stays until its end, and takes the room of what the questions before it looked at.
 */
export class KeptCopies {
  /** Of the questions before. */
  private earlier = new Map<number, Entry>()
  private current = new Map<number, Entry>()
  /** By the id of their message, as long as some copy of it is kept. */
  private readonly contents = new Map<number, CachedContent & { stamp: string, copies: number }>()
  private length = 0

  constructor(private readonly most = MAX_KEPT) {}

  /** A new question. */
  begin(): void {
    for (const [id, one] of this.current) {
      this.earlier.delete(id)
      this.earlier.set(id, one)
    }
    this.current = new Map()
  }

  /** What is kept of a copy, where it is of that row of its message. */
  take(id: number, { stamp }: Stamp): CachedCopy | null {
    const one = this.current.get(id) ?? this.earlier.get(id)
    if (!one) return null
    if (one.stamp !== stamp) {
      this.drop(id)
      return null
    }
    this.earlier.delete(id)
    this.current.set(id, one)
    return one
  }

  content({ messageId, stamp }: Stamp): CachedContent | null {
    const there = this.contents.get(messageId)
    return there?.stamp === stamp ? there : null
  }

  /** Keeps a copy, if there is room for it. @param known what its message is */
  put(id: number, one: CachedCopy, { messageId, stamp, known }: Stamp & { known: CachedContent | null }): void {
    this.drop(id)
    const there = this.content({ messageId, stamp })
    if (!there && this.contents.has(messageId)) this.forget([messageId])
    const length = COPY + (known && !there ? known.length : 0)
    for (const oldest of this.earlier.keys()) {
      if (this.length + length <= this.most) break
      this.drop(oldest)
    }
    if (this.length + length > this.most) return
    if (known) {
      const copies = this.content({ messageId, stamp }) ? this.contents.get(messageId)!.copies : 0
      if (!copies) this.length += known.length
      this.contents.set(messageId, { ...known, stamp, copies: copies + 1 })
    }
    this.length += COPY
    this.current.set(id, { ...one, stamp, length: known?.length ?? 0 })
  }

  /** Drops what is kept of these messages; all where none are named. */
  forget(messageIds?: readonly number[]): void {
    const gone = messageIds && new Set(messageIds)
    for (const kept of [this.earlier, this.current])
      for (const [id, { messageId }] of kept) if (!gone || gone.has(messageId)) this.drop(id)
  }

  /** Characters that are kept. */
  get size(): number {
    return this.length
  }

  private drop(id: number): void {
    const one = this.current.get(id) ?? this.earlier.get(id)
    if (!one) return
    this.current.delete(id)
    this.earlier.delete(id)
    this.length -= COPY
    const content = this.contents.get(one.messageId)
    // A newer row of the message is other copies' content.
    if (!one.message || content?.stamp !== one.stamp || --content.copies > 0) return
    this.contents.delete(one.messageId)
    this.length -= one.length
  }
}
