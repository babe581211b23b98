/** Elements that never hold anything (HTML standard 13.1.2). */
export const VOID = new Set('area base basefont bgsound br col embed frame hr img input keygen link meta param source track wbr'.split(' '))

/** An end tag never reaches over these (13.2.4.2, "have a particular element in scope"). */
const SCOPES = new Set('applet caption html table td th marquee object template svg math'.split(' '))
/** The end tag of an ordinary element never reaches over these (13.2.6.4.7, "any other end tag"; 13.2.4.2, "special"). */
const SPECIAL = new Set(('address applet article aside base basefont bgsound blockquote body br button caption center col colgroup dd details dir div dl dt embed fieldset figcaption figure footer form frame frameset h1 h2 h3 h4 h5 h6 '
  + 'head header hgroup hr html iframe img input keygen li link listing main marquee menu meta nav noembed noframes noscript object ol p param plaintext pre script search section select source style summary table tbody td template textarea tfoot th thead title tr track ul wbr xmp').split(' '))
/** What begins on a line of its own and ends a paragraph. */
const ENDS_P = new Set('address article aside blockquote center dd details dialog dir div dl dt fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 header hgroup hr li listing main menu nav ol p plaintext pre search section summary ul xmp'.split(' '))
/** By what begins: what it ends, and what holds both. */
const ENDS: Record<string, { ended: readonly string[], within: readonly string[] }> = {
  li: { ended: ['li'], within: ['ul', 'ol', 'menu', 'dir'] },
  dd: { ended: ['dd', 'dt'], within: ['dl'] },
  dt: { ended: ['dd', 'dt'], within: ['dl'] },
  option: { ended: ['option'], within: ['select', 'datalist'] },
  optgroup: { ended: ['option', 'optgroup'], within: ['select'] },
  tr: { ended: ['tr', 'td', 'th', 'caption'], within: ['table'] },
  td: { ended: ['td', 'th', 'caption'], within: ['table', 'tr'] },
  th: { ended: ['td', 'th', 'caption'], within: ['table', 'tr'] },
  tbody: { ended: ['tbody', 'thead', 'tfoot', 'tr', 'td', 'th', 'caption'], within: ['table'] },
  thead: { ended: ['tbody', 'thead', 'tfoot', 'tr', 'td', 'th', 'caption'], within: ['table'] },
  tfoot: { ended: ['tbody', 'thead', 'tfoot', 'tr', 'td', 'th', 'caption'], within: ['table'] },
}

const DEEPEST = 10_000

/**
 * The elements that are open while HTML is read: which of them a start or an end tag closes, as far as that decides what a
 * reader sees (HTML standard 13.2.6). Where the last one of a name stands is kept, so that no tag costs more than another.
 */
export class OpenElements<T> {
  private readonly names: string[] = []
  private readonly held: T[] = []
  private readonly last = new Map<string, number[]>()
  private readonly scopes: number[] = []
  private readonly specials: number[] = []
  /** Elements below the deepest that are kept; nothing is known of them. */
  private below = 0

  constructor(private readonly outermost: T) {}

  get top(): T {
    return this.held.at(-1) ?? this.outermost
  }

  /** Everything open, the outermost first. */
  get all(): readonly T[] {
    return this.held
  }

  get isTooDeep(): boolean {
    return this.below > 0
  }

  isOpen(name: string): boolean {
    return (this.last.get(name)?.length ?? 0) > 0
  }

  /** Closes what a start tag of that name closes by itself. @param quirks in which a table does not end a paragraph */
  closeBefore(name: string, quirks: boolean): void {
    if (ENDS_P.has(name) || (name === 'table' && !quirks)) {
      const p = this.lastOf('p')
      if (p > Math.max(this.scopes.at(-1) ?? -1, this.lastOf('button'))) this.popTo(p)
    }
    const ends = ENDS[name]
    if (!ends) return
    const barrier = Math.max(...ends.within.map(w => this.lastOf(w)), -1)
    const from = Math.min(...ends.ended.map(e => this.firstAfter(e, barrier)))
    if (from < Infinity) this.popTo(from)
  }

  open(name: string, holds: T): void {
    if (this.names.length >= DEEPEST) {
      this.below++
      return
    }
    const at = this.names.length
    this.names.push(name)
    this.held.push(holds)
    const own = this.last.get(name)
    if (own) own.push(at)
    else this.last.set(name, [at])
    if (SCOPES.has(name)) this.scopes.push(at)
    if (SPECIAL.has(name)) this.specials.push(at)
  }

  /** @returns true if the end tag closed something */
  close(name: string): boolean {
    if (this.below > 0) {
      this.below--
      return false
    }
    const at = this.lastOf(name)
    if (at < 0) return false
    // A table and its parts end at the table; everything else at the nearest cell or what else shuts off.
    const barrier = name in ENDS && name !== 'li' && name !== 'dd' && name !== 'dt' ? this.lastOf('table') : name === 'table' ? -1 : SCOPES.has(name) ? at : this.scopes.at(-1) ?? -1
    // The end tag of an ordinary or formatting element does not reach over a block: what was opened inside goes on as it was.
    if (at < barrier || (!SPECIAL.has(name) && !SCOPES.has(name) && (this.specials.at(-1) ?? -1) > at)) return false
    this.popTo(at)
    return true
  }

  private lastOf(name: string): number {
    return this.last.get(name)?.at(-1) ?? -1
  }

  private firstAfter(name: string, barrier: number): number {
    const own = this.last.get(name)
    const at = own?.at(-1) ?? -1
    return at > barrier ? at : Infinity
  }

  private popTo(at: number): void {
    while (this.names.length > at) {
      const name = this.names.pop()!
      this.held.pop()
      this.last.get(name)!.pop()
      if (this.scopes.at(-1) === this.names.length) this.scopes.pop()
      if (this.specials.at(-1) === this.names.length) this.specials.pop()
    }
  }
}
