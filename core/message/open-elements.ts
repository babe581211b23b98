import { addTo } from '../add-to'

function wordsOf(list: string): ReadonlySet<string> {
  return new Set(list.trim().split(/\s+/))
}

/** Elements that never hold anything (HTML standard 13.1.2). */
export const VOID = wordsOf('area base basefont bgsound br col embed frame hr img input keygen link meta param source track wbr')

/** Elements that go on after what they lie in has ended, until they are closed themselves (13.2.4.3, "active formatting elements"). */
const FORMATTING = wordsOf('a b big code em font i nobr s small strike strong tt u')
/** In these nothing goes on from outside, and nothing of theirs goes on behind them. */
const MARKERS = wordsOf('applet caption marquee object td template th')
/** Parts of a table; outside of one their tags are not there. */
const TABLE_PARTS = wordsOf('caption col colgroup tbody td tfoot th thead tr')
/** Between these there is no text: what stands there is shown before the table (13.2.6.1, "foster parent"). */
const NO_CELLS = wordsOf('table tbody tfoot thead tr colgroup')
const HEADINGS = wordsOf('h1 h2 h3 h4 h5 h6')

/** An end tag never reaches over these (13.2.4.2, "have a particular element in scope"). */
const SCOPES = wordsOf('applet caption html table td th marquee object template svg math')
/** The end tag of an ordinary element never reaches over these (13.2.6.4.7, "any other end tag"; 13.2.4.2, "special"). */
const SPECIAL = wordsOf(`
  address applet article aside base basefont bgsound blockquote body br button caption center col colgroup dd details dir div dl dt
  embed fieldset figcaption figure footer form frame frameset h1 h2 h3 h4 h5 h6 head header hgroup hr html iframe img input keygen
  li link listing main marquee menu meta nav noembed noframes noscript object ol p param plaintext pre script search section select
  source style summary table tbody td template textarea tfoot th thead title tr track ul wbr xmp
`)
/** What begins on a line of its own and ends a paragraph. */
const ENDS_P = wordsOf(`
  address article aside blockquote center dd details dialog dir div dl dt fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6
  header hgroup hr li listing main menu nav ol p plaintext pre search section summary ul xmp
`)
/** By what begins: what it ends, and what holds both. */
const ENDS: Record<string, { ended: readonly string[], within: readonly string[] }> = {
  option: { ended: ['option'], within: ['select', 'datalist'] },
  optgroup: { ended: ['option', 'optgroup'], within: ['select'] },
}

/** An item ends the one before it, but does not look past anything special except these (13.2.6.4.7). */
const ITEMS: Record<string, readonly string[]> = { li: ['li'], dd: ['dd', 'dt'], dt: ['dd', 'dt'] }
const PASSED = wordsOf('address div p')
/** By what begins in a table: between what it stands; whatever else is open there ends (13.2.6.4.9). */
const CONTEXTS: Record<string, readonly string[]> = {
  tr: ['table', 'tbody', 'thead', 'tfoot'],
  td: ['table', 'tbody', 'thead', 'tfoot', 'tr'],
  th: ['table', 'tbody', 'thead', 'tfoot', 'tr'],
  tbody: ['table'],
  thead: ['table'],
  tfoot: ['table'],
}
const DEEPEST = 10_000
/** So many formatting elements may wait to go on; more is tangled on purpose. */
const MAX_WAITING = 12

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
  /** Special ones that an item does not look past. */
  private readonly walls: number[] = []
  /** Elements below the deepest that are kept; nothing is known of them. */
  private below = 0
  /** Formatting elements that were ended by something else, by the marker that they lie in, to go on with the next text. */
  private readonly waiting: { name: string, holds: T }[][] = [[]]
  /** True once more wait than anybody writes: what is shown is not known any more. */
  isTangled = false

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

  /** What new content lies in: before the table where there are no cells to hold it. */
  parentOf(name: string): T {
    const top = this.names.at(-1)
    if (top === undefined || !NO_CELLS.has(top) || TABLE_PARTS.has(name)) return this.top
    return this.held[this.lastOf('table') - 1] ?? this.outermost
  }

  /** True if a start or end tag of that name says nothing where it stands. */
  isIgnored(name: string): boolean {
    return TABLE_PARTS.has(name) && !this.isOpen('table')
  }

  /** The formatting elements that go on from here; they have to be opened again. */
  takeWaiting(): { name: string, holds: T }[] {
    const list = this.waiting.at(-1)!
    return list.length ? list.splice(0) : list
  }

  /** Closes what a start tag of that name closes by itself. @param quirks in which a table does not end a paragraph */
  closeBefore(name: string, quirks: boolean): void {
    if (ENDS_P.has(name) || (name === 'table' && !quirks)) {
      const p = this.lastOf('p')
      if (p > Math.max(this.scopes.at(-1) ?? -1, this.lastOf('button'))) this.popTo(p)
    }
    if (HEADINGS.has(name) && HEADINGS.has(this.names.at(-1) ?? '')) this.popTo(this.names.length - 1)
    // A link in a link ends the first one.
    if (name === 'a' && this.lastOf('a') > (this.scopes.at(-1) ?? -1)) this.close('a')
    if (name === 'a') this.forget('a')
    const items = ITEMS[name]
    if (items) {
      const before = Math.max(...items.map(i => this.lastOf(i)))
      if (before >= 0 && this.walls.at(-1) === before) this.popTo(before)
    }
    // A table right in a table ends it.
    if (name === 'table' && NO_CELLS.has(this.names.at(-1) ?? '')) this.popTo(this.lastOf('table'))
    const context = CONTEXTS[name]
    if (context) this.popTo(Math.max(...context.map(c => this.lastOf(c))) + 1)
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
    addTo(this.last, name, at)
    if (SCOPES.has(name)) this.scopes.push(at)
    if (SPECIAL.has(name)) this.specials.push(at)
    if (SPECIAL.has(name) && !PASSED.has(name)) this.walls.push(at)
    if (MARKERS.has(name)) this.waiting.push([])
  }

  /** @returns true if the end tag closed something */
  close(name: string): boolean {
    if (this.below > 0) {
      this.below--
      return false
    }
    // Any heading's end tag ends any heading.
    const at = HEADINGS.has(name) ? Math.max(...[...HEADINGS].map(h => this.lastOf(h))) : this.lastOf(name)
    if (at < 0) {
      if (FORMATTING.has(name)) this.forget(name)
      return false
    }
    const barrier = this.barrierOf(name, at)
    // The end tag of an ordinary or formatting element does not reach over a block: what was opened inside goes on as it was.
    if (at < barrier || (!SPECIAL.has(name) && !SCOPES.has(name) && (this.specials.at(-1) ?? -1) > at)) return false
    this.popTo(at, FORMATTING.has(name))
    return true
  }

  // How far an end tag reaches: a table and its parts to the table, an item to its list, everything else to the nearest cell or
  // what else shuts off (13.2.4.2).
  private barrierOf(name: string, at: number): number {
    if (TABLE_PARTS.has(name)) return this.lastOf('table')
    if (name === 'table') return -1
    if (SCOPES.has(name)) return at
    const scope = this.scopes.at(-1) ?? -1
    if (name === 'li') return Math.max(scope, this.lastOf('ul'), this.lastOf('ol'))
    return name === 'p' ? Math.max(scope, this.lastOf('button')) : scope
  }

  // Closed by its own end tag, it does not go on.
  private forget(name: string): void {
    const list = this.waiting.at(-1)!
    const at = list.findLastIndex(w => w.name === name)
    if (at >= 0) list.splice(at, 1)
  }

  private lastOf(name: string): number {
    return this.last.get(name)?.at(-1) ?? -1
  }

  private firstAfter(name: string, barrier: number): number {
    const own = this.last.get(name)
    const at = own?.at(-1) ?? -1
    return at > barrier ? at : Infinity
  }

  /** @param itself the lowest of them is closed by its own end tag */
  private popTo(at: number, itself = false): void {
    const ended: { name: string, holds: T }[] = []
    while (this.names.length > at) {
      const name = this.names.pop()!
      const holds = this.held.pop()!
      this.last.get(name)!.pop()
      if (this.scopes.at(-1) === this.names.length) this.scopes.pop()
      if (this.specials.at(-1) === this.names.length) this.specials.pop()
      if (this.walls.at(-1) === this.names.length) this.walls.pop()
      if (MARKERS.has(name)) {
        this.waiting.pop()
        ended.length = 0
      }
      else if (FORMATTING.has(name) && !(itself && this.names.length === at) && ended.length <= MAX_WAITING) {
        ended.push({ name, holds })
      }
    }
    const list = this.waiting.at(-1)!
    list.push(...ended.reverse())
    if (list.length <= MAX_WAITING) return
    list.length = MAX_WAITING
    this.isTangled = true
  }
}
