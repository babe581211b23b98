import type { Atrule, CssNode, Declaration, Rule, Selector } from 'css-tree'
import { addTo } from '../add-to'
import { ident, parse } from './css-parser'
import { RELEVANT, vanishes, type Style } from './element-look'

/** An element as selectors see it. */
export interface Element {
  name: string
  attributes: Readonly<Record<string, string>>
}

interface Declared {
  normal: Style
  important: Style
}

/** One simple condition of a compound selector. */
type Test = { kind: 'tag' | 'class' | 'id', value: string } | { kind: 'attribute', name: string, operator: string | null, value: string }

/** What has to be so of one element, and how it lies to the next one on the right. */
interface Compound {
  tests: Test[]
  /** " " somewhere above, ">" right above; empty for the element itself. */
  relation: '' | ' ' | '>'
}

interface SheetRule {
  /** The element itself first, then outwards. */
  compounds: Compound[]
  specificity: number
  declared: Declared
}

const MAX_SHEET = 1024 * 1024
const NOTHING: Declared = { normal: {}, important: {} }
/** Of what the parser gave up on: in doubt, nobody is shown it. */
const IN_DOUBT: Declared = { normal: { display: 'none' }, important: {} }

/**
 * Declarations of a message's style sheets that say whether text is seen, read by css-tree. Selectors of tags, classes, ids
 * and attributes are understood, and "inside of"; states such as :hover are not looked at. Where a rule depends on what is
 * not known here (which child it is, what stands before it), it counts only if it hides. What depends on the screen counts not.
 */
export class StyleSheet {
  private readonly byId = new Map<string, SheetRule[]>()
  private readonly byClass = new Map<string, SheetRule[]>()
  private readonly byTag = new Map<string, SheetRule[]>()
  private readonly others: SheetRule[] = []
  private count = 0
  private size = 0
  private work = 0
  /** True once more was looked at than the text is long, or the sheets were too long: what the rest hides is not known. */
  inDoubt = false
  /** True if any rule asks what an element lies inside of. */
  looksAround = false

  /** @param budget comparisons of elements with rules that may be made */
  constructor(private readonly budget: number) {}

  get isEmpty(): boolean {
    return this.count === 0
  }

  add(text: string): void {
    this.size += text.length
    if (this.size > MAX_SHEET) {
      this.inDoubt = true
      return
    }
    const sheet = quietly(() =>
      parse(text.replace(/<!--|-->/g, ' '), {
        parseValue: false,
        parseAtrulePrelude: false,
        parseCustomProperty: false,
        onParseError: () => undefined,
      }),
    )
    if (sheet?.type === 'StyleSheet') for (const node of sheet.children) this.read(node, 0)
    else this.inDoubt = true
  }

  private read(node: CssNode, depth: number): void {
    if (node.type === 'Rule') this.addRule(node)
    else if (node.type === 'Atrule' && node.block && depth < 5 && appliesAlways(node))
      for (const child of node.block.children) this.read(child, depth + 1)
  }

  private addRule(rule: Rule): void {
    if (rule.prelude.type !== 'SelectorList') return
    const declared = readBlock(rule.block.children)
    if (!Object.keys(declared.normal).length && !Object.keys(declared.important).length) return
    for (const selector of rule.prelude.children) if (selector.type === 'Selector') this.addSelector(selector, declared)
  }

  private addSelector(selector: Selector, declared: Declared): void {
    const read = readSelector(selector)
    if (!read || (read.doubtful && !vanishes({ ...declared.normal, ...declared.important }))) return
    const rule: SheetRule = { compounds: read.compounds, specificity: read.specificity * 65_536 + this.count++, declared }
    const [own] = rule.compounds
    if (rule.compounds.length > 1) this.looksAround = true
    const key =
      own!.tests.find(t => t.kind === 'id') ??
      own!.tests.find(t => t.kind === 'class') ??
      own!.tests.find(t => t.kind === 'tag' && t.value !== '*')
    if (!key || key.kind === 'attribute') this.others.push(rule)
    else addTo(key.kind === 'id' ? this.byId : key.kind === 'class' ? this.byClass : this.byTag, key.value, rule)
  }

  /**
   * What the sheets and the style attribute say of an element; what is said as important outweighs the rest.
   * @param above the elements around it, the outermost first; may be empty unless `looksAround`
   */
  styleOf(element: Element, above: readonly Element[]): Style {
    const inline = element.attributes.style === undefined ? NOTHING : inlineStyle(element.attributes.style)
    if (!this.count) return Object.keys(inline.important).length ? { ...inline.normal, ...inline.important } : inline.normal
    const rules = this.matching(element, above)
    if (!rules.length) return { ...inline.normal, ...inline.important }
    rules.sort((a, b) => a.specificity - b.specificity)
    return Object.assign(
      {},
      ...rules.map(r => r.declared.normal),
      inline.normal,
      ...rules.map(r => r.declared.important),
      inline.important,
    ) as Style
  }

  private matching(element: Element, above: readonly Element[]): SheetRule[] {
    const { attributes, name } = element
    const found: SheetRule[] = []
    const ask = (rules: readonly SheetRule[] | undefined) => {
      for (const rule of rules ?? []) {
        if (++this.work > this.budget) {
          this.inDoubt = true
          return
        }
        if (this.matches(rule, element, above)) found.push(rule)
      }
    }
    if (attributes.id !== undefined) ask(this.byId.get(attributes.id))
    if (attributes.class !== undefined && this.byClass.size)
      for (const one of new Set(attributes.class.split(/[ \t\r\n\f]+/))) ask(this.byClass.get(one))
    ask(this.byTag.get(name))
    ask(this.others)
    return found
  }

  private matches({ compounds }: SheetRule, element: Element, above: readonly Element[]): boolean {
    if (!holds(compounds[0]!, element)) return false
    let at = above.length - 1
    for (const compound of compounds.slice(1)) {
      if (compound.relation === '>') {
        if (at < 0 || !holds(compound, above[at]!)) return false
        at--
        continue
      }
      while (at >= 0 && !holds(compound, above[at]!)) {
        at--
        this.work++
      }
      if (at < 0) return false
      at--
    }
    return true
  }
}

function holds({ tests }: Compound, { name, attributes }: Element): boolean {
  return tests.every((test) => {
    switch (test.kind) {
      case 'tag':
        return test.value === '*' || test.value === name
      case 'id':
        return attributes.id === test.value
      case 'class':
        return attributes.class !== undefined && ` ${attributes.class.replace(/[\t\r\n\f]/g, ' ')} `.includes(` ${test.value} `)
      case 'attribute':
        return attributeHolds(attributes[test.name], test.operator, test.value)
    }
  })
}

// Selectors 3, 6.3
function attributeHolds(actual: string | undefined, operator: string | null, value: string): boolean {
  if (actual === undefined) return false
  switch (operator) {
    case null:
      return true
    case '=':
      return actual === value
    case '~=':
      return actual.split(/\s+/).includes(value)
    case '|=':
      return actual === value || actual.startsWith(`${value}-`)
    case '^=':
      return value !== '' && actual.startsWith(value)
    case '$=':
      return value !== '' && actual.endsWith(value)
    case '*=':
      return value !== '' && actual.includes(value)
    default:
      return false
  }
}

/** States of a page that somebody uses, and pieces that are no elements. */
const STATES = new Set(
  ('hover active focus focus-within focus-visible visited target checked before after first-line first-letter selection placeholder '
    + 'marker').split(
    ' ',
  ),
)
const MAX_COMPOUNDS = 12

// Null where the selector names nothing that is there without somebody's doing.
function readSelector(selector: Selector): { compounds: Compound[], specificity: number, doubtful: boolean } | null {
  const compounds: Compound[] = []
  let tests: Test[] = []
  let specificity = 0
  let doubtful = false
  for (const node of selector.children) {
    switch (node.type) {
      case 'TypeSelector':
        tests.push({ kind: 'tag', value: ident.decode(node.name).toLowerCase() })
        if (node.name !== '*') specificity += 1
        break
      case 'ClassSelector':
        tests.push({ kind: 'class', value: ident.decode(node.name) })
        specificity += 100
        break
      case 'IdSelector':
        tests.push({ kind: 'id', value: ident.decode(node.name) })
        specificity += 10_000
        break
      case 'AttributeSelector':
        tests.push({
          kind: 'attribute',
          name: ident.decode(node.name.name).toLowerCase(),
          operator: node.matcher,
          value: node.value === null ? '' : node.value.type === 'String' ? node.value.value : ident.decode(node.value.name),
        })
        specificity += 100
        break
      case 'Combinator':
        compounds.push({ tests, relation: node.name === '>' ? '>' : ' ' })
        // "~" and "+": what stands before is not known here; that it lies in the same element is left out too.
        if (node.name === '~' || node.name === '+') {
          doubtful = true
          compounds.pop()
        }
        tests = []
        break
      case 'PseudoClassSelector':
      case 'PseudoElementSelector':
        if (STATES.has(node.name.toLowerCase())) return null
        doubtful = true
        specificity += 100
        break
      default:
        return null
    }
  }
  compounds.push({ tests, relation: '' })
  if (compounds.length > MAX_COMPOUNDS || (doubtful && tests.length === 0)) return null
  return { compounds: compounds.reverse(), specificity, doubtful }
}

// What is inside @media counts where every reader's screen is meant; @supports and @layer as if they were not there.
function appliesAlways(node: Atrule): boolean {
  const name = node.name.toLowerCase()
  if (name === 'supports' || name === 'layer') return true
  if (name !== 'media') return false
  const prelude = node.prelude?.type === 'Raw' ? node.prelude.value : ''
  return prelude
    .toLowerCase()
    .slice(0, 200)
    .split(',')
    .some(query => /^(?:only\s+)?(?:screen|all)$/.test(query.trim()))
}

const inlineStyles = new Map<string, Declared>()
const MAX_INLINE = 1000
const LONGEST_KEPT = 500

/** The declarations of a style attribute. The same one stands at many elements. */
function inlineStyle(text: string): Declared {
  const there = inlineStyles.get(text)
  if (there) return there
  const list = quietly(() =>
    parse(text, { context: 'declarationList', parseValue: false, parseCustomProperty: false, onParseError: () => undefined }),
  )
  const read = list?.type === 'DeclarationList' ? readBlock(list.children) : IN_DOUBT
  if (text.length > LONGEST_KEPT) return read
  if (inlineStyles.size >= MAX_INLINE) inlineStyles.clear()
  inlineStyles.set(text, read)
  return read
}

function readBlock(nodes: Iterable<CssNode>): Declared {
  const normal: Record<string, string> = {}
  const important: Record<string, string> = {}
  for (const node of nodes) {
    if (node.type !== 'Declaration') continue
    const property = (node.property.includes('\\') ? ident.decode(node.property) : node.property).toLowerCase()
    if (RELEVANT.has(property)) (node.important ? important : normal)[property] = valueOf(node)
  }
  return { normal, important }
}

function valueOf({ value }: Declaration): string {
  const text = value.type === 'Raw' ? value.value.slice(0, 2000) : ''
  const decoded = text.includes('\\') ? ident.decode(text) : text
  return withoutCssComments(decoded).trim().toLowerCase()
}

function withoutCssComments(text: string): string {
  let out = ''
  let at = 0
  for (let start = text.indexOf('/*'); start >= 0; start = text.indexOf('/*', at)) {
    out += `${text.slice(at, start)} `
    const end = text.indexOf('*/', start + 2)
    if (end < 0) return out
    at = end + 2
  }
  return out + text.slice(at)
}

// The parser fixes errors as the standard says. Null where it fails all the same.
function quietly<T>(run: () => T): T | null {
  try {
    return run()
  }
  catch {
    return null
  }
}
