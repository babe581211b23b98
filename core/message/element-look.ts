import { BLACK, coloursIn, isLost, LINK_BLUE, readColour, WHITE, type Colour } from './colours'

/** Declared properties of one element, names and values lower case. */
export type Style = Readonly<Record<string, string>>

/** How an element shows its text. Elements that change nothing share their parent's. */
export interface Look {
  /** Nothing in it is shown, whatever lies inside says. */
  gone: boolean
  /** What lies inside can be visible again (CSS 2.2 11.2). */
  invisible: boolean
  /** In CSS pixels. */
  fontSize: number
  colour: Colour
  /** What lies behind: one colour, or those of a gradient; none where a picture does, so that nobody knows. */
  ground: readonly Colour[]
  pre: boolean
}

export const PAGE: Look = { gone: false, invisible: false, fontSize: 16, colour: BLACK, ground: [WHITE], pre: false }

/** Properties that say whether text is seen; others need not be kept. */
export const RELEVANT = new Set([
  'display',
  'visibility',
  'content-visibility',
  'font-size',
  'font',
  'opacity',
  'filter',
  'color',
  '-webkit-text-fill-color',
  'background',
  'background-color',
  'background-image',
  'overflow',
  'overflow-x',
  'overflow-y',
  'height',
  'max-height',
  'width',
  'max-width',
  'position',
  'left',
  'right',
  'top',
  'bottom',
  'margin-left',
  'margin-top',
  'margin',
  'text-indent',
  'transform',
  'clip',
  'clip-path',
  'white-space',
])

/** Smaller than this nobody reads. */
const MIN_FONT = 2
/** Further out than this is off the page. */
const OFF = -500
const MIN_OPACITY = 0.1

/** True if text with that look is not shown to whoever reads the message. */
export function isHidden(look: Look): boolean {
  return (
    look.gone || look.invisible || look.fontSize < MIN_FONT || (look.ground.length > 0 && look.ground.every(g => isLost(look.colour, g)))
  )
}

const PREFORMATTED = new Set(['pre', 'textarea', 'listing', 'xmp', 'plaintext'])

/** False where an element surely looks like the one around it. */
export function hasOwnLook(name: string, attributes: Readonly<Record<string, string>>, style: Style): boolean {
  if (PREFORMATTED.has(name) || name === 'a') return true
  for (const attribute in attributes)
    if (attribute === 'hidden' || attribute === 'bgcolor' || attribute === 'background' || attribute === 'color' || attribute === 'text')
      return true
  for (const _ in style) return true
  return false
}

/** What tells how an element looks. */
export interface Styled {
  name: string
  /** By name in lower case. */
  attributes: Readonly<Record<string, string>>
  style: Style
}

/**
 * The look of an element inside another.
 * @param links the colour of links on this page
 */
export function lookOf(element: Styled, parent: Look, links: Colour | null): Look {
  const { name, attributes, style } = element
  const own = { ...parent }
  if (vanishes(style) || ('hidden' in attributes && style.display === undefined)) own.gone = true
  const visibility = style.visibility
  if (visibility !== undefined)
    own.invisible = visibility === 'hidden' || visibility === 'collapse' || (own.invisible && visibility !== 'visible')
  own.fontSize = fontSizeOf(style, parent.fontSize)
  own.ground = groundOf(name, attributes, style, parent.ground)
  own.colour = colourOf(element, parent.colour, links)
  if (style['white-space'] !== undefined) own.pre = style['white-space'].startsWith('pre') || style['white-space'] === 'break-spaces'
  else if (PREFORMATTED.has(name)) own.pre = true
  return own
}

/** True if declarations by themselves can hide what they are said of. */
export function vanishes(style: Style): boolean {
  if (style.display === 'none' || style['content-visibility'] === 'hidden') return true
  if (style.opacity !== undefined && amount(style.opacity) < MIN_OPACITY) return true
  if (style.filter !== undefined && /opacity\((?:0|0?\.0+)%?\)/.test(tight(style.filter))) return true
  if (isClosed(style)) return true
  if (pixels(style['text-indent']) <= OFF || pixels(style['margin-left']) <= OFF || pixels(style['margin-top']) <= OFF) return true
  if (style.margin !== undefined && style.margin.split(' ').some(m => pixels(m) <= OFF)) return true
  const moved = style.position === 'absolute' || style.position === 'fixed' || style.position === 'relative'
  if (moved && ['left', 'right', 'top', 'bottom'].some(side => pixels(style[side]) <= OFF)) return true
  if (style.transform !== undefined && /scale[xy]?\((?:0|0?\.0+)[,)]|translate[xy]?\([^)]{0,40}-\d{3}/.test(tight(style.transform)))
    return true
  if (style.clip !== undefined && /^rect\((?:[01](?:px)?,?){4}\)/.test(tight(style.clip))) return true
  return style['clip-path'] !== undefined && /^(?:inset\((?:50|100)%|circle\(0)/.test(tight(style['clip-path']))
}

function tight(value: string): string {
  return value.slice(0, 200).replace(/\s+/g, '')
}

// Nothing of a box without height or width is seen if what hangs over is cut off.
function isClosed(style: Style): boolean {
  const cuts = [style.overflow, style['overflow-x'], style['overflow-y']].some(
    o => o !== undefined && /^(?:hidden|clip|scroll|auto)/.test(o),
  )
  return (
    cuts && ['height', 'max-height', 'width', 'max-width'].some(side => style[side] !== undefined && Math.abs(pixels(style[side])) <= 1)
  )
}

function fontSizeOf(style: Style, parent: number): number {
  const text = style['font-size'] ?? sizeIn(style.font)
  if (text === undefined) return parent
  // A size that has to be computed first is in doubt.
  if (text.includes('(')) return 0
  const number = Number.parseFloat(text)
  if (Number.isNaN(number)) return text === 'inherit' || text === 'smaller' || text === 'larger' ? parent : 16
  const unit = unitOf(text)
  if (unit === 'em') return number * parent
  if (unit === '%') return (number * parent) / 100
  if (unit === 'ex' || unit === 'ch') return (number * parent) / 2
  return pixels(text)
}

// "italic 0/0 a" as a shorthand: the first word that is a size.
function sizeIn(font: string | undefined): string | undefined {
  return font
    ?.slice(0, 200)
    .split(/[\s/]/)
    .find(word => /^\.?\d/.test(word) && !/^[1-9]00$/.test(word))
}

const UNITS: Record<string, number> = {
  '': 1,
  'px': 1,
  'pt': 4 / 3,
  'pc': 16,
  'em': 16,
  'rem': 16,
  'ex': 8,
  'ch': 8,
  'in': 96,
  'cm': 37.8,
  'mm': 3.78,
  'vw': 10,
  'vh': 8,
}

/** What stands after the number. */
function unitOf(text: string): string {
  return text.replace(/^[+-]?[\d.]*/, '')
}

/** A length in pixels; percentages and what is no length are not small. */
function pixels(text: string | undefined): number {
  if (text === undefined) return Number.NaN
  const number = Number.parseFloat(text)
  const unit = unitOf(text)
  if (number === 0) return 0
  return unit in UNITS ? number * UNITS[unit]! : Number.NaN
}

function amount(text: string): number {
  const number = Number.parseFloat(text)
  return text.endsWith('%') ? number / 100 : number
}

function groundOf(name: string, attributes: Readonly<Record<string, string>>, style: Style, parent: readonly Colour[]): readonly Colour[] {
  const said = `${style.background ?? ''} ${style['background-image'] ?? ''}`
  const gradient = said.includes('gradient(')
  if (said.includes('url(') || (attributes.background && TABLES.has(name))) return []
  if (gradient) return coloursIn(said)
  const colour =
    readColour(style['background-color']) ??
    (style.background ? coloursIn(style.background)[0] : undefined) ??
    (TABLES.has(name) ? readColour(attributes.bgcolor) : null)
  return colour && colour[3] >= 0.5 ? [colour] : parent
}

const TABLES = new Set(['body', 'table', 'thead', 'tbody', 'tfoot', 'tr', 'td', 'th'])

function colourOf({ name, attributes, style }: Styled, parent: Colour, links: Colour | null): Colour {
  const said = readColour(style['-webkit-text-fill-color']) ?? readColour(style.color)
  if (said) return said
  if (name === 'font') return readColour(attributes.color) ?? parent
  if (name === 'body') return readColour(attributes.text) ?? parent
  return name === 'a' && attributes.href !== undefined && style.color === undefined ? (links ?? LINK_BLUE) : parent
}
