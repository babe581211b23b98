import colorString from 'color-string'

/** Red, green and blue from 0 to 255, and how much covers what is behind, from 0 to 1. */
export type Colour = readonly [red: number, green: number, blue: number, cover: number]

export const BLACK: Colour = [0, 0, 0, 1]
export const WHITE: Colour = [255, 255, 255, 1]
/** What links have where nobody says otherwise (HTML standard 15.3.4). */
export const LINK_BLUE: Colour = [0, 0, 238, 1]

const LONGEST = 64
const known = new Map<string, Colour | null>()
const MAX_KNOWN = 2000

/**
 * A colour as style sheets and old attributes write it: CSS Color 3's names and functions, and hex digits with "#" or
 * without (HTML standard 2.4.6; the quirk of old pages for style sheets). Null where nothing is said or understood.
 */
export function readColour(text: string | undefined): Colour | null {
  const value = text?.trim().toLowerCase() ?? ''
  if (value === '' || value.length > LONGEST) return null
  const there = known.get(value)
  if (there !== undefined) return there
  const read = readNew(value)
  if (known.size < MAX_KNOWN) known.set(value, read)
  return read
}

function readNew(value: string): Colour | null {
  if (value === 'transparent') return [0, 0, 0, 0]
  const found = colorString.get(value)
  if (found?.model === 'rgb') return found.value as unknown as Colour
  if (found?.model === 'hsl') return fromHsl(found.value as unknown as Colour)
  return /^(?:[0-9a-f]{3}|[0-9a-f]{6})$/.test(value) ? (colorString.get.rgb(`#${value}`) as unknown as Colour) : null
}

// CSS Color 4, 7.1: hue in degrees, saturation and lightness in percent.
function fromHsl([hue, saturation, lightness, cover]: Colour): Colour {
  const [s, l] = [saturation / 100, lightness / 100]
  const part = (n: number) => {
    const k = (n + hue / 30) % 12
    return Math.round((l - s * Math.min(l, 1 - l) * Math.max(-1, Math.min(k - 3, 9 - k, 1))) * 255)
  }
  return [part(0), part(8), part(4), cover]
}

/** The colours that a background names among other words; those of a gradient all. */
export function coloursIn(background: string): Colour[] {
  const out: Colour[] = []
  const whole = readColour(background)
  if (whole) return [whole]
  // rgb(…) and hsl(…) stand alone or hold commas of their own; what stands between commas and blanks is a name or digits.
  for (const [token] of background.slice(0, 1000).matchAll(/(?:rgb|hsl)a?\([^()]{0,60}\)|[#\w-]+/g)) {
    const colour = readColour(token)
    if (colour && out.push(colour) === 20) break
  }
  return out
}

/** How a colour looks on a ground. */
export function over(colour: Colour, ground: Colour): Colour {
  const cover = colour[3]
  const mix = (i: 0 | 1 | 2) => colour[i] * cover + ground[i] * (1 - cover)
  return [mix(0), mix(1), mix(2), 1]
}

const MIN_CONTRAST = 1.2
const MIN_DIFFERENCE = 40

/** True if nobody can tell the colour from its ground: hardly any contrast (WCAG 2.2, "contrast ratio") and the same hue. */
export function isLost(colour: Colour, ground: Colour): boolean {
  const seen = over(colour, ground)
  const difference = Math.max(Math.abs(seen[0] - ground[0]), Math.abs(seen[1] - ground[1]), Math.abs(seen[2] - ground[2]))
  if (difference > MIN_DIFFERENCE) return false
  const [a, b] = [luminance(seen), luminance(ground)]
  return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05) < MIN_CONTRAST
}

function luminance([red, green, blue]: Colour): number {
  const linear = (value: number) => (value <= 10 ? value / 255 / 12.92 : ((value / 255 + 0.055) / 1.055) ** 2.4)
  return 0.2126 * linear(red) + 0.7152 * linear(green) + 0.0722 * linear(blue)
}
