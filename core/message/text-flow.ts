const MAX_PIECES = 8192
/** Pieces at the end that are looked back at. */
const TAIL = 20
const WHITE_SPACE = /[ \t\r\n\f]/

/**
 * Collects text as a browser would lay it out: blocks on lines of their own, and HTML's own white space folded (TAB, LF, FF,
 * CR, SPACE; HTML standard 12.7, "ASCII whitespace"). Every other space is text: it stands between words.
 */
export class TextFlow {
  /** What lies further back, in long stretches: a piece costs more than its text. */
  private readonly blocks: string[] = []
  private pieces: string[] = []
  private pending: '' | ' ' | '\n' = ''

  get isEmpty(): boolean {
    return this.pieces.length === 0 && this.blocks.length === 0
  }

  add(text: string, pre: boolean): void {
    if (text === '') return
    if (!WHITE_SPACE.test(text)) {
      this.put(text)
      return
    }
    if (pre) {
      this.put(text.includes('\r') ? text.replace(/\r\n?/g, '\n') : text)
      return
    }
    const folded = text.replace(/[ \t\r\n\f]+/g, ' ')
    const begin = folded.startsWith(' ') ? 1 : 0
    if (begin) this.space()
    const end = folded.endsWith(' ') ? folded.length - 1 : folded.length
    if (end <= begin) return
    this.put(begin || end < folded.length ? folded.slice(begin, end) : folded)
    if (end < folded.length) this.space()
  }

  space(): void {
    if (!this.pending) this.pending = ' '
  }

  block(): void {
    this.pending = '\n'
  }

  newline(): void {
    this.flush()
    if (!this.isEmpty) this.pending = '\n'
  }

  text(): string {
    return this.blocks.join('') + this.pieces.join('')
  }

  /** The last filled line, and the one before it; empty where it ends in no colon. */
  tail(): [before: string, last: string] {
    if (!this.pieces.at(-1)?.trimEnd().endsWith(':')) return ['', '']
    const lines = this.pieces
      .slice(-TAIL)
      .join('')
      .slice(-600)
      .split('\n')
      .filter(l => l.trim())
    return [lines.at(-2) ?? '', lines.at(-1) ?? '']
  }

  private put(text: string): void {
    this.flush()
    if (this.pieces.length > MAX_PIECES) this.blocks.push(this.pieces.splice(0, this.pieces.length - TAIL).join(''))
    this.pieces.push(text)
  }

  private flush(): void {
    if (this.pending && !this.isEmpty) this.pieces.push(this.pending)
    this.pending = ''
  }
}
