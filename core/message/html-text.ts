import { Tokenizer, type TokenizerCallbacks } from 'htmlparser2'
import { hasOwnLook, isHidden, lookOf, PAGE, type Look } from './element-look'
import { readColour, type Colour } from './colours'
import { OpenElements, VOID } from './open-elements'
import { isAnnounced, splitQuoted, type QuoteState } from './plain-text'
import { StyleSheet, type Element } from './style-sheet'
import { TextFlow } from './text-flow'
import type { Link, Segment } from './types'

const BLOCKS = new Set(
  ('address article aside blockquote body center dd details dialog dir div dl dt fieldset figcaption figure footer form h1 h2 h3 h4 h5 h6 '
    + 'header hgroup hr legend li listing main menu nav ol optgroup option p plaintext pre section select summary table textarea tr ul '
    + 'xmp').split(
    ' ',
  ),
)
const CELLS = new Set(['td', 'th', 'button', 'label'])
/** What no reader shows as text. */
const NO_TEXT = new Set(['script', 'style'])
/** What only some readers show: fallback for what they cannot run, titles, drawings. */
const FALLBACK = new Set('title object iframe svg template noframes noembed audio video canvas applet datalist dialog'.split(' '))
/** Attributes that are shown as text, to all or to some. */
const SHOWN_VALUE = new Set(['submit', 'button', 'reset', 'text', 'search', 'email', ''])
const MAX_ATTRIBUTES = 100
/** One more is kept, so that it can be told. */
export const MAX_LINKS = 2000

interface Box extends Element {
  look: Look
  hidden: boolean
  quoted: boolean
  /** What only some readers show. */
  fallback: boolean
  noText: boolean
}

/** What a reader of some HTML sees. */
export interface HtmlText {
  segments: Segment[]
  links: Link[]
}

/**
 * What a reader of the HTML sees, as rendered text: own, quoted, and (apart) what is hidden or shown by some readers only.
 * Hidden text does not interrupt the text around it, so that words cannot be split by something that nobody sees. One pass
 * over the text, its style sheets in one before.
 */
export function htmlText(html: string, state: QuoteState = { forwarded: false }): HtmlText {
  const walk = new Walk(html, sheetOf(html), 0)
  walk.run()
  return { segments: walk.segments(state), links: walk.links }
}

// Style sheets may stand anywhere, and count for what comes before them too. Only as much is read as reaches to the last.
function sheetOf(html: string): StyleSheet {
  const sheet = new StyleSheet(html.length + 20_000)
  const last = lastIndexOfTag(html)
  if (last < 0) return sheet
  let name = ''
  let inStyle = false
  const close = html.indexOf('</', last)
  const part = close < 0 ? html : html.slice(0, close + '</style>'.length)
  let pieces: string[] = []
  const finish = () => {
    if (pieces.length) sheet.add(pieces.join(''))
    pieces = []
  }
  read(part, {
    onopentagname(start, end) {
      name = part.slice(start, end).toLowerCase()
    },
    onopentagend() {
      inStyle = name === 'style'
    },
    onclosetag() {
      inStyle = false
      finish()
    },
    ontext(start, end) {
      if (inStyle) pieces.push(part.slice(start, end))
    },
  })
  finish()
  return sheet
}

function lastIndexOfTag(html: string): number {
  let last = -1
  for (const match of html.matchAll(/<style[\s/>]/gi)) last = match.index
  return last
}

function read(html: string, callbacks: Partial<TokenizerCallbacks>): void {
  const ignore = () => undefined
  const tokenizer = new Tokenizer(
    { decodeEntities: true },
    {
      onattribdata: ignore,
      onattribentity: ignore,
      onattribend: ignore,
      onattribname: ignore,
      oncdata: ignore,
      onclosetag: ignore,
      oncomment: ignore,
      ondeclaration: ignore,
      onend: ignore,
      onopentagend: ignore,
      onopentagname: ignore,
      onprocessinginstruction: ignore,
      onselfclosingtag: ignore,
      ontext: ignore,
      ontextentity: ignore,
      ...callbacks,
    },
  )
  tokenizer.write(html)
  tokenizer.end()
}

class Walk {
  readonly links: Link[] = []
  private readonly visible: { quoted: boolean, out: TextFlow }[] = []
  private readonly hidden = new TextFlow()
  private readonly elements: OpenElements<Box>
  private anchor: { target: string, flow: TextFlow } | null = null
  private linkColour: Colour | null = null
  private doctype = false
  private name = ''
  private attributes: Record<string, string> = {}
  private attributeCount = 0
  private attribute = ''
  private value = ''

  /** @param level how often this is HTML inside HTML */
  constructor(
    private readonly html: string,
    private readonly sheet: StyleSheet,
    private readonly level: number,
  ) {
    this.elements = new OpenElements<Box>({
      name: '',
      attributes: {},
      look: PAGE,
      hidden: false,
      quoted: false,
      fallback: level > 0,
      noText: false,
    })
  }

  run(): void {
    read(this.html, {
      onopentagname: (start, end) => {
        this.name = this.html.slice(start, end).toLowerCase()
        this.attributes = {}
        this.attributeCount = 0
      },
      onattribname: (start, end) => {
        this.attribute = this.html.slice(start, end).toLowerCase()
        this.value = ''
      },
      onattribdata: (start, end) => {
        this.value += this.html.slice(start, end)
      },
      onattribentity: (code) => {
        this.value += String.fromCodePoint(code)
      },
      onattribend: () => {
        // Of two with one name the first counts (HTML standard 13.2.5.33).
        if (this.attributeCount++ < MAX_ATTRIBUTES && !Object.hasOwn(this.attributes, this.attribute))
          this.attributes[this.attribute] = this.value
      },
      onopentagend: () => this.openTag(false),
      onselfclosingtag: () => this.openTag(true),
      onclosetag: (start, end) => this.closeTag(this.html.slice(start, end).toLowerCase()),
      ontext: (start, end) => this.text(this.html.slice(start, end)),
      ontextentity: code => this.text(String.fromCodePoint(code)),
      oncomment: (start, end, offset) => this.comment(this.html.slice(start, end - offset)),
      oncdata: (start, end, offset) => this.text(this.html.slice(start, end - offset)),
      ondeclaration: (start, end) => {
        if (/^doctype/i.test(this.html.slice(start, Math.min(end, start + 10)))) this.doctype = true
      },
      isInForeignContext: () => this.elements.isOpen('svg') || this.elements.isOpen('math'),
    })
    this.endAnchor()
  }

  segments(state: QuoteState): Segment[] {
    const out: Segment[] = []
    for (const [i, { quoted, out: flow }] of this.visible.entries()) {
      const text = flow.text()
      if (text.trim() === '') continue
      if (quoted) out.push({ place: 'quoted', text })
      else out.push(...splitQuoted(text, { state, next: this.visible[i + 1]?.quoted ?? false }))
    }
    const hidden = this.hidden.text()
    if (hidden.trim() !== '') out.push({ place: 'hidden', text: hidden })
    return out
  }

  private openTag(selfClosing: boolean): void {
    const { name, attributes } = this
    if (name === 'body' && attributes.link) this.linkColour = readColour(attributes.link)
    if (this.elements.isIgnored(name)) return
    this.elements.closeBefore(name, !this.doctype)
    if (!BLOCKS.has(name) && !CELLS.has(name)) this.goOn()
    const parent = this.elements.parentOf(name)
    const box = this.boxOf(name, attributes, parent)
    if (!box.noText) {
      const flow = this.flowFor(box)
      if (name === 'br') flow.newline()
      else if (BLOCKS.has(name)) flow.block()
      else if (CELLS.has(name)) flow.space()
      this.showAttributes(name, attributes, flow)
      if ((name === 'a' || name === 'area') && attributes.href !== undefined) {
        this.endAnchor()
        this.anchor = { target: attributes.href.trim(), flow: new TextFlow() }
        if (name === 'area') this.endAnchor()
      }
    }
    if (VOID.has(name)) return
    // "<svg/>" is closed where drawings are read; elsewhere the slash says nothing (HTML standard 13.2.6.5).
    if (selfClosing && (name === 'svg' || name === 'math' || this.elements.isOpen('svg') || this.elements.isOpen('math'))) return
    this.elements.open(name, box)
  }

  private boxOf(name: string, attributes: Readonly<Record<string, string>>, parent: Box): Box {
    const announced = name === 'blockquote' && this.isCited(attributes, parent)
    const style = this.sheet.styleOf({ name, attributes }, this.sheet.looksAround ? this.elements.all : [])
    const look = hasOwnLook(name, attributes, style) ? lookOf({ name, attributes, style }, parent.look, this.linkColour) : parent.look
    return {
      name,
      attributes,
      look,
      hidden: look === parent.look ? parent.hidden : isHidden(look),
      quoted: parent.quoted || announced,
      fallback: parent.fallback || FALLBACK.has(name),
      noText: parent.noText || NO_TEXT.has(name),
    }
  }

  // A block quote is quoted from earlier mail where it says so, or where the words above announce it; else it is indentation.
  private isCited(attributes: Readonly<Record<string, string>>, parent: Box): boolean {
    if (attributes.type?.toLowerCase() === 'cite' || attributes.cite !== undefined) return true
    const last = this.visible.at(-1)
    return last !== undefined && !last.quoted && !parent.hidden && isAnnounced(...last.out.tail())
  }

  private showAttributes(name: string, attributes: Record<string, string>, flow: TextFlow): void {
    if (name === 'input' && SHOWN_VALUE.has(attributes.type?.toLowerCase() ?? '')) this.aloud(flow, attributes.value)
    if (name === 'option' || name === 'optgroup') this.aloud(flow, attributes.label)
    // Pictures are often not loaded, and then their words are what is seen.
    for (const text of [attributes.alt, attributes.placeholder, attributes.title]) if (text?.trim()) this.aloud(this.hidden, text)
  }

  private aloud(flow: TextFlow, text: string | undefined): void {
    if (!text) return
    flow.space()
    flow.add(text, false)
    flow.space()
  }

  // Formatting elements that were ended by something else go on with the next words.
  private goOn(): void {
    for (const { name, holds } of this.elements.takeWaiting())
      this.elements.open(name, this.boxOf(name, holds.attributes, this.elements.parentOf(name)))
  }

  private closeTag(name: string): void {
    if (this.elements.isIgnored(name)) return
    const { top } = this.elements
    if (name === 'br') this.flowFor(top).newline()
    if (BLOCKS.has(name) && !top.noText) this.flowFor(top).block()
    if (name === 'a') this.endAnchor()
    this.elements.close(name)
    // "</p>" alone is an empty paragraph, and after a block the text goes on below it.
    if (BLOCKS.has(name) && !this.elements.top.noText) this.flowFor(this.elements.top).block()
  }

  private text(text: string): void {
    if (this.elements.top.noText) return
    this.goOn()
    const box = this.elements.parentOf('')
    // What lies in a frame is markup that is not read as such: it is taken apart once more.
    if (box.name === 'iframe' || box.name === 'noframes' || box.name === 'noembed') {
      this.readInside(text)
      return
    }
    this.flowFor(box).add(text, box.look.pre)
    this.anchor?.flow.add(text, false)
  }

  // "<!--[if mso]>…" is shown by some readers (common practice, no source).
  private comment(text: string): void {
    if (!/^\[if\b/i.test(text.slice(0, 10))) return
    const end = text.indexOf(']>')
    if (end >= 0) this.readInside(text.slice(end + 2))
  }

  private readInside(html: string): void {
    if (this.level > 0) {
      this.hidden.add(html, false)
      return
    }
    const inside = new Walk(html, this.sheet, this.level + 1)
    inside.run()
    for (const { out } of inside.visible) this.hideAlso(out)
    this.hideAlso(inside.hidden)
    for (const link of inside.links) this.addLink(link)
  }

  private hideAlso(flow: TextFlow): void {
    this.hidden.block()
    this.hidden.add(flow.text(), true)
    this.hidden.block()
  }

  private flowFor(box: Box): TextFlow {
    if (box.fallback || this.sheet.inDoubt || this.elements.isTooDeep || this.elements.isTangled || box.hidden) return this.hidden
    if (this.visible.at(-1)?.quoted !== box.quoted) this.visible.push({ quoted: box.quoted, out: new TextFlow() })
    return this.visible.at(-1)!.out
  }

  private endAnchor(): void {
    if (!this.anchor) return
    this.addLink({ target: this.anchor.target, text: this.anchor.flow.text().trim() })
    this.anchor = null
  }

  private addLink(link: Link): void {
    if (this.links.length <= MAX_LINKS) this.links.push(link)
  }
}
