/** Declarations of style sheets that can hide an element, by the simple selectors that they stand under. */
export class StyleSheet {
  private readonly byTag = new Map<string, Record<string, string>>()
  private readonly byClass = new Map<string, { tag: string | null, style: Record<string, string> }[]>()
  private readonly byId = new Map<string, Record<string, string>>()

  /**
   * Reads the style elements of an HTML text. Selectors of one element (a tag, a class, an id, a tag with a class) are
   * understood; what depends on the elements around it or on the screen is not, so that no visible text is taken for hidden.
   */
  constructor(html: string) {
    let room = MOST_SHEET
    for (const [, text] of html.matchAll(/<style\b[^>]*>([\s\S]*?)<\/style/gi)) {
      if ((room -= text!.length) < 0) break
      this.read(text!)
    }
  }

  private read(text: string): void {
    const plain = text.replace(/<!--|-->/g, ' ').replace(/\/\*[\s\S]*?\*\//g, ' ')
    for (const { selectors, body } of topLevelRules(plain)) {
      const style = readDeclarations(body)
      if (!Object.keys(style).some(p => RELEVANT.has(p))) continue
      for (const selector of selectors.split(',')) this.add(selector.trim(), style)
    }
  }

  private add(selector: string, style: Record<string, string>): void {
    const simple = /^([a-z][a-z0-9]*)?(?:\.([\w-]+)|#([\w-]+))?$/i.exec(selector)
    if (!simple || !selector) return
    const tag = simple[1]?.toLowerCase() ?? null
    if (simple[2]) {
      const own = this.byClass.get(simple[2]) ?? []
      own.push({ tag, style })
      this.byClass.set(simple[2], own)
    }
    else if (simple[3]) {
      this.byId.set(simple[3], { ...this.byId.get(simple[3]), ...style })
    }
    else if (tag) {
      this.byTag.set(tag, { ...this.byTag.get(tag), ...style })
    }
  }

  /** What the sheets say of an element, the more specific selector last. */
  styleOf(name: string, attributes: Record<string, string>): Record<string, string> {
    let style: Record<string, string> = this.byTag.get(name) ?? NOTHING
    if (attributes.class && this.byClass.size) {
      for (const one of attributes.class.split(/\s+/)) {
        for (const rule of this.byClass.get(one) ?? []) if (rule.tag === null || rule.tag === name) style = { ...style, ...rule.style }
      }
    }
    if (attributes.id && this.byId.has(attributes.id)) style = { ...style, ...this.byId.get(attributes.id)! }
    return style
  }
}

const MOST_SHEET = 256 * 1024
const RELEVANT = new Set(['display', 'visibility', 'font-size', 'font', 'opacity', 'color', 'background', 'background-color', 'overflow', 'height', 'max-height', 'width', 'max-width'])
const NOTHING: Record<string, string> = {}

// Rules that stand in no @media or other block: what is inside depends on where it is read.
function* topLevelRules(text: string): Generator<{ selectors: string, body: string }> {
  let at = 0
  while (at < text.length) {
    const open = text.indexOf('{', at)
    if (open < 0) return
    const selectors = text.slice(at, open).trim()
    let depth = 1
    let end = open + 1
    while (end < text.length && depth > 0) {
      if (text[end] === '{') depth++
      else if (text[end] === '}') depth--
      end++
    }
    if (!selectors.startsWith('@')) yield { selectors, body: text.slice(open + 1, end - 1) }
    at = end
  }
}

/** The declarations of a style attribute or a rule, lower case. */
export function readDeclarations(style: string): Record<string, string> {
  const out: Record<string, string> = {}
  for (const declaration of style.replace(/\/\*[\s\S]*?\*\//g, '').split(';')) {
    const colon = declaration.indexOf(':')
    if (colon > 0) out[declaration.slice(0, colon).trim().toLowerCase()] = declaration.slice(colon + 1).replace(/!\s*important/i, '').trim().toLowerCase()
  }
  return out
}
