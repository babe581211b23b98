import { Parser } from 'htmlparser2'
import { splitQuoted } from './plain-text'
import { readDeclarations, StyleSheet } from './style-sheet'
import type { Link, Segment } from './types'

const BLOCKS = new Set('address article aside blockquote body center dd div dl dt fieldset figure footer form h1 h2 h3 h4 h5 h6 header hr li main nav ol p pre section table tr ul'.split(' '))
const CELLS = new Set(['td', 'th'])
const UNSEEN = new Set('head script style template title noscript object textarea select iframe svg math'.split(' '))
const VOID = new Set('area base br col embed hr img input link meta param source track wbr'.split(' '))

interface Box {
  name: string
  hidden: boolean
  unseen: boolean
  quoted: boolean
  pre: boolean
  color: string
  background: string
}

/**
 * What a reader of the HTML sees, as rendered text: own, quoted, and (apart) what styles hide. Hidden text
 * does not interrupt the text around it, so that words cannot be split by something that nobody sees.
 */
export function htmlText(html: string): { segments: Segment[], links: Link[] } {
  const visible: { quoted: boolean, out: TextFlow }[] = []
  const hidden = new TextFlow()
  const sheet = new StyleSheet(html)
  const links: Link[] = []
  let anchor: { target: string, flow: TextFlow } | null = null
  const stack: Box[] = [{ name: '', hidden: false, unseen: false, quoted: false, pre: false, color: '#000000', background: '#ffffff' }]

  const flowFor = (box: Box): TextFlow => {
    if (box.hidden || sameColor(box)) return hidden
    if (visible.at(-1)?.quoted !== box.quoted) visible.push({ quoted: box.quoted, out: new TextFlow() })
    return visible.at(-1)!.out
  }

  const parser = new Parser({
    onopentag(name, attributes) {
      const parent = stack.at(-1)!
      const box = openBox(name, attributes, parent, sheet)
      if (!box.unseen) {
        const flow = flowFor(box)
        if (name === 'br') flow.newline()
        else if (BLOCKS.has(name)) flow.block()
        else if (CELLS.has(name)) flow.space()
        const target = name === 'a' || name === 'area' ? attributes.href?.trim() : undefined
        if (target && links.length < 500) anchor = { target, flow: new TextFlow() }
      }
      // A stack deeper than this is hostile; what lies below keeps its ancestor's looks.
      if (!VOID.has(name) && stack.length < 2000) stack.push(box)
    },
    ontext(text) {
      const box = stack.at(-1)!
      if (box.unseen) return
      flowFor(box).add(text, box.pre)
      anchor?.flow.add(text, false)
    },
    onclosetag(name) {
      if (VOID.has(name)) return
      const box = stack.at(-1)!
      if (stack.length > 1 && box.name === name) stack.pop()
      if (BLOCKS.has(name) && !box.unseen) flowFor(box).block()
      if (name === 'a' && anchor) {
        links.push({ target: anchor.target, text: anchor.flow.text() })
        anchor = null
      }
    },
  }, { decodeEntities: true, lowerCaseTags: true })
  parser.write(html)
  parser.end()

  const segments: Segment[] = []
  for (const { quoted, out } of visible) {
    const text = out.text()
    if (text) segments.push(...quoted ? [{ place: 'quoted' as const, text }] : splitQuoted(text))
  }
  const hiddenText = hidden.text()
  if (hiddenText) segments.push({ place: 'hidden', text: hiddenText })
  return { segments, links }
}

function openBox(name: string, attributes: Record<string, string>, parent: Box, sheet: StyleSheet): Box {
  const style = { ...sheet.styleOf(name, attributes), ...(attributes.style ? readDeclarations(attributes.style) : {}) }
  const color = readColor(style.color ?? attributes.color)
  const background = readColor(style['background-color'] ?? style.background ?? attributes.bgcolor)
  return {
    name,
    hidden: parent.hidden || 'hidden' in attributes || hides(style),
    unseen: parent.unseen || UNSEEN.has(name),
    quoted: parent.quoted || name === 'blockquote',
    pre: parent.pre || name === 'pre' || /^pre/.test(style['white-space'] ?? ''),
    color: color ?? parent.color,
    background: background ?? parent.background,
  }
}

function hides(style: Record<string, string>): boolean {
  const zero = (value: string | undefined) => value !== undefined && /^0*(?:\.0+)?(?:0(?:px|pt|em|rem|%|)|1px)?$/.test(value) && value !== ''
  if (/^none/.test(style.display ?? '')) return true
  if (/^(?:hidden|collapse)/.test(style.visibility ?? '')) return true
  if (zero(style['font-size']) || /(?:^|\s)0(?:px|pt|em)?\//.test(style.font ?? '')) return true
  if (style.opacity !== undefined && Number(style.opacity) === 0) return true
  return /hidden/.test(style.overflow ?? '') && (zero(style.height) || zero(style['max-height']) || zero(style.width) || zero(style['max-width']))
}

const NAMED: Record<string, string> = { white: '#ffffff', black: '#000000', red: '#ff0000', blue: '#0000ff', green: '#008000', yellow: '#ffff00', gray: '#808080', grey: '#808080', silver: '#c0c0c0', snow: '#fffafa', ivory: '#fffff0', navy: '#000080' }

/** A colour as #rrggbb; null where it is not said or not understood; "none" for transparent. */
function readColor(text: string | undefined): string | null {
  const value = text?.trim().toLowerCase() ?? ''
  if (value === 'transparent') return 'none'
  const short = /^#([0-9a-f])([0-9a-f])([0-9a-f])$/.exec(value)
  if (short) return `#${short.slice(1).map(c => c + c).join('')}`
  if (/^#[0-9a-f]{6}$/.test(value)) return value
  const rgb = /^rgba?\(\s*(\d+)[,\s]+(\d+)[,\s]+(\d+)/.exec(value)
  if (rgb) return `#${rgb.slice(1, 4).map(n => Math.min(255, Number(n)).toString(16).padStart(2, '0')).join('')}`
  return NAMED[value.split(/\s/)[0]!] ?? null
}

function sameColor(box: Box): boolean {
  return box.color === 'none' || box.color === box.background
}

/** Collects text as a browser would lay it out: white space folded, blocks on lines of their own. */
class TextFlow {
  private pieces: string[] = []
  private pending: '' | ' ' | '\n' = ''
  private empty = true

  add(text: string, pre: boolean): void {
    if (pre) {
      this.put(text.replace(/\r\n?/g, '\n'))
      return
    }
    const folded = text.replace(/[ \t\r\n\f]+/g, ' ')
    if (folded.startsWith(' ')) this.space()
    const inner = folded.trim()
    if (!inner) return
    this.put(inner)
    if (folded.endsWith(' ')) this.space()
  }

  space(): void {
    if (!this.pending) this.pending = ' '
  }

  block(): void {
    this.pending = '\n'
  }

  newline(): void {
    this.flush()
    this.pending = '\n'
    if (!this.empty) return
    this.pending = ''
  }

  text(): string {
    return this.pieces.join('').trim()
  }

  private put(text: string): void {
    this.flush()
    this.pieces.push(text)
    this.empty = false
  }

  private flush(): void {
    if (!this.empty && this.pending) this.pieces.push(this.pending)
    this.pending = ''
  }
}
