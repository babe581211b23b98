// Finds every text for people in the sources: what templates show, and the sentences in scripts, in the core and in the server.
import { extname } from 'node:path'
import { parse as parseVue } from 'vue/compiler-sfc'
import ts from 'typescript'

/** Attributes and directives whose values are not texts for people. */
const UNREAD = new Set([
  'as', 'autocomplete', 'class', 'classes', 'field', 'for', 'href', 'icon', 'id', 'inputmode', 'is', 'key', 'method', 'name', 'ref',
  'rel', 'role', 'scope', 'src', 'style', 'target', 'to', 'type', 'size', 'slot', 'width', 'rows', 'accept', 'align', 'popper-class',
])
const UNREAD_ARIA = new Set([
  'aria-controls', 'aria-current', 'aria-describedby', 'aria-haspopup', 'aria-labelledby', 'aria-live', 'aria-sort',
])

/** Functions whose first argument is code, a name or a statement. */
const UNREAD_CALLS = new Set([
  'import', 'require', 'sql', 'raw', 'defineStore', 'querySelector', 'querySelectorAll', 'closest', 'split', 'join', 'includes',
  'startsWith', 'endsWith', 'RegExp', 'Symbol', 'matchMedia', 'unsafe', 'setHeader', 'getHeader', 'addEventListener', 'debug',
])
const STATEMENT = new RegExp(
  '^\\s*(?:select|insert|update|delete|with|create|alter|drop|lock|begin|commit|rollback|listen|notify|set|grant|vacuum|analyze'
  + '|savepoint|copy)\\s[\\s\\S]*(?:\\b(?:from|into|set|table|where|as|on|local|mode|transaction|role|database)\\b)',
  'i',
)
/** Modules that are made of words: a single word in them is a text too. */
const OF_WORDS =
  /core\/(?:words|check|fix|kinds|suggest|change)\/|core\/policy\/(?:problems|tree)|server\/audit\/|app\/(?:composables|stores)\//

/**
 * Every text for people in one source file.
 *
 * @param {string} path as it is named in the output; its ending tells how the source is read
 * @param {string} source
 * @returns {{ line: number, text: string }[]} in order; an expression within a text is shown as `${…}`
 */
export function textsOf(path, source) {
  const found = []
  const add = (line, text) => {
    const shown = text.replace(/\s+/g, ' ').trim()
    if (/\p{L}{2}/u.test(shown)) found.push({ line, text: shown })
  }
  if (extname(path) === '.vue') {
    const { descriptor } = parseVue(source, { filename: path })
    for (const script of [descriptor.scriptSetup, descriptor.script])
      if (script) inScript(script.content, { path, first: script.loc.start.line, singles: false, add })
    if (descriptor.template?.ast) inTemplate(descriptor.template.ast, { path, add })
  }
  else {
    inScript(source, { path, first: 1, singles: OF_WORDS.test(path), add })
  }
  return found.sort((a, b) => a.line - b.line)
}

/**
 * The captions of the buttons of a component.
 *
 * @param {string} path
 * @param {string} source of a .vue file
 * @returns {{ line: number, text: string }[]} an expression within a text is shown as `${…}`, a key beside it is left out
 */
export function buttonsOf(path, source) {
  const found = []
  const look = (node) => {
    if (node.tag === 'PressButton') {
      const text = (node.children ?? []).map(c => (c.type === 2 ? c.content : c.type === 5 ? '${…}' : '')).join('')
      found.push({ line: node.loc.start.line, text: text.replace(/\s+/g, ' ').trim() })
    }
    for (const child of node.children ?? []) look(child)
  }
  const { descriptor } = parseVue(source, { filename: path })
  if (descriptor.template?.ast) look(descriptor.template.ast)
  return found
}

/** Elements, attributes and expressions of a template; the numbers are Vue's NodeTypes. */
function inTemplate(node, { path, add }) {
  const expression = (content, line, singles) => inScript(`(${content})`, { path, first: line, singles, add })
  for (const child of node.children ?? []) {
    if (child.type === 2) add(child.loc.start.line, child.content)
    else if (child.type === 5) expression(child.content.content, child.loc.start.line, true)
    else if (child.type === 1) {
      for (const prop of child.props) {
        const name = prop.type === 7 ? prop.arg?.content ?? prop.name : prop.name
        if (UNREAD.has(name) || UNREAD_ARIA.has(name)) continue
        if (prop.type === 6 && prop.value) add(prop.loc.start.line, prop.value.content)
        if (prop.type === 7 && prop.exp && !['for', 'slot', 'model'].includes(prop.name))
          expression(prop.exp.content, prop.loc.start.line, /label|placeholder|title|text|caption|words/.test(name))
      }
      inTemplate(child, { path, add })
    }
  }
}

function inScript(source, { path, first, singles, add }) {
  const file = ts.createSourceFile(`${path}.ts`, source, ts.ScriptTarget.Latest, true)
  const lineOf = node => first + file.getLineAndCharacterOfPosition(node.getStart(file)).line
  const visit = (node) => {
    if (isUnread(node)) return
    const text = literalText(node)
    if (text === null) return ts.forEachChild(node, visit)
    if (isText(text, node, singles)) add(lineOf(node), text)
    // Its parts are texts of their own.
    if (ts.isTemplateExpression(node)) for (const span of node.templateSpans) visit(span.expression)
  }
  ts.forEachChild(file, visit)
}

function literalText(node) {
  if (ts.isStringLiteralLike(node)) return node.text
  if (!ts.isTemplateExpression(node)) return null
  return node.head.text + node.templateSpans.map(s => '${…}' + s.literal.text).join('')
}

function isUnread(node) {
  if (ts.isImportDeclaration(node) || ts.isExportDeclaration(node) || ts.isTypeNode(node) || ts.isInterfaceDeclaration(node)) return true
  if (ts.isTypeAliasDeclaration(node) || ts.isRegularExpressionLiteral(node)) return true
  if (ts.isTaggedTemplateExpression(node)) return UNREAD_CALLS.has(lastName(node.tag))
  return false
}

const lastName = node => (ts.isPropertyAccessExpression(node) ? node.name.text : ts.isIdentifier(node) ? node.text : '')

function isText(text, node, singles) {
  const { parent } = node
  if (ts.isCallExpression(parent) && parent.arguments[0] === node && UNREAD_CALLS.has(lastName(parent.expression))) return false
  // Compared with something, or the key of something: a value.
  if (ts.isBinaryExpression(parent) && /^[!=]==?$/.test(parent.operatorToken.getText())) return false
  if (ts.isPropertyAssignment(parent) && parent.name === node) return false
  if (ts.isElementAccessExpression(parent) || ts.isCaseClause(parent) || ts.isLiteralTypeNode(parent)) return false
  if (STATEMENT.test(text)) return false
  const plain = text.replaceAll('${…}', '').trim()
  if (!/\p{L}{2}/u.test(plain)) return false
  // Paths, class names, MIME types, headers of HTTP, names of events.
  if (/^[/.#@]|^[a-z]+:\/\/|^[\w-]+\/[\w.+-]+$|^[a-z]+(?:[-_.:][a-z]+)+$/.test(plain)) return false
  if (/\s/.test(plain)) return true
  if (/…$|^[A-Z][a-z]/.test(plain)) return true
  return singles && /^[a-z]+$/.test(plain) && isSaid(node)
}

/** A single word of small letters is a text where the name of what it is given to says so, or where it is shown at once. */
function isSaid(node) {
  let { parent } = node
  while (ts.isConditionalExpression(parent) || ts.isParenthesizedExpression(parent) || ts.isBinaryExpression(parent)) parent = parent.parent
  if (ts.isPropertyAssignment(parent)) return /label|words|text|title|name|caption|unit|plural|singular/i.test(parent.name.getText())
  return ts.isArrowFunction(parent) || ts.isTemplateSpan(parent) || ts.isReturnStatement(parent) || ts.isExpressionStatement(parent)
}
