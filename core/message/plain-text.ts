import type { Segment } from './types'

// "On 3 November, Marit Oduya wrote:" and its like in other languages end in a colon and stand right before quoted lines.
const ATTRIBUTION = /^(?!>).{3,300}:\s*$/
// "-----Original Message-----" and its like (common practice, no source): what follows is earlier mail.
const FORWARD_RULE = /^\s*-{3,}\s*\S.{1,60}\S\s*-{3,}\s*$/
const HEADER_LINE = /^\s*\*?[\p{L}-]{2,20}:\*?\s/u

/**
 * Splits text that a reader sees into the writer's own words and what is quoted from earlier mail: lines that begin
 * with ">", the line that announces them, and everything below a rule that is followed by header lines.
 */
export function splitQuoted(text: string): Segment[] {
  const lines = text.split('\n')
  const segments: Segment[] = []
  let forwarded = false
  for (let i = 0; i < lines.length; i++) {
    const line = lines[i]!
    forwarded ||= FORWARD_RULE.test(line) && HEADER_LINE.test(nextFilled(lines, i) ?? '')
    const announces = ATTRIBUTION.test(line) && (nextFilled(lines, i)?.startsWith('>') ?? false)
    append(segments, forwarded || line.startsWith('>') || announces ? 'quoted' : 'own', line)
  }
  return segments.filter(s => s.text.trim() !== '')
}

/** Links written out in plain text. */
export function plainLinks(text: string): { target: string, text: string }[] {
  return [...text.matchAll(/\bhttps?:\/\/[^\s<>"')\]]+/gi)].slice(0, 500).map(m => ({ target: m[0], text: m[0] }))
}

function nextFilled(lines: string[], i: number): string | undefined {
  // Only a few lines ahead, so that a body of empty lines does not cost the square of its length.
  for (let j = i + 1; j < Math.min(lines.length, i + 4); j++) if (lines[j]!.trim()) return lines[j]
  return undefined
}

function append(segments: Segment[], place: 'own' | 'quoted', line: string): void {
  const last = segments.at(-1)
  if (last?.place === place) last.text += `\n${line}`
  else segments.push({ place, text: line })
}
