// An ESLint rule: names that the product does not use any more may not come back, in identifiers, in texts that are values, or in
// comments. What each is called now stands beside it here.

/** Words that no identifier and no comment has in it. */
const WORDS = {
  asker: 'actor',
  askers: 'actors',
  blame: 'cause',
  blamed: 'caused',
  deed: 'action',
  deeds: 'actions',
  doorkeeper: 'connectionGuard',
  fate: 'outcome',
  fates: 'outcomes',
  heir: 'successor',
  heirs: 'successors',
  ledger: 'list of messages',
  mend: 'fix',
  mended: 'fixed',
  mends: 'fixes',
  needle: 'lookupKey',
  needles: 'lookupKeys',
  rehearsal: 'simulation',
  rehearse: 'simulate',
  rehearsed: 'simulated',
  ruling: 'decision',
  rulings: 'decisions',
  rung: 'reason line',
  rungs: 'reason lines',
  sketch: 'suggestion',
  sketched: 'suggested',
  tally: 'counter',
  undisguised: 'obfuscated',
}

/** Whole identifiers that mean something else today, or nothing. */
const IDENTIFIERS = {
  act: 'eventId or auditEvent',
  acts: 'auditEvents',
  actId: 'eventId',
  binding: 'assignment',
  bindings: 'assignments',
  companion: 'near',
  house: 'settings',
  inForce: 'active',
  judge: 'mark',
  judged: 'marked',
  may: 'can',
  must: 'mandatory',
  policyInForce: 'activePolicy',
  putInForce: 'saveChanges',
  raised: 'overridesLists',
  somebodyFaster: 'conflict',
  spares: 'exempts',
  told: 'result, view or message',
  unjudged: 'unmarked',
  AT_ONCE: 'BATCH_SIZE',
}
const PREFIXES = { MOST_: 'MAX_', LEAST_: 'MIN_' }

/** Values of version 1 of the format, and of tables of that time. */
const VALUES = {
  'acting': 'enabled',
  'domain and below': 'domainAndSubdomains',
  'dropped': 'discarded',
  'slow lane': 'lowPriority',
  'subject mark': 'subjectPrefix',
  'undisguised': 'obfuscated',
  'upstream mark': 'upstreamVerdict',
  'watching': 'monitor',
}

const has = (of, name) => Object.prototype.hasOwnProperty.call(of, name)
const wordsIn = name => name.replace(/([a-z\d])([A-Z])/g, '$1 $2').toLowerCase().split(/[\s_]+/)

function retired(name) {
  if (has(IDENTIFIERS, name)) return IDENTIFIERS[name]
  const prefix = Object.keys(PREFIXES).find(p => name.startsWith(p))
  if (prefix) return PREFIXES[prefix]
  const word = wordsIn(name).find(w => has(WORDS, w))
  return word && WORDS[word]
}

/** @type {import('eslint').Rule.RuleModule} */
const retiredNames = {
  meta: { type: 'suggestion', schema: [], messages: { retired: '“{{name}}” is a retired name; it is called {{now}} today.' } },
  create(context) {
    const { sourceCode } = context
    const report = (node, name, now) => context.report({ node, messageId: 'retired', data: { name, now } })
    const visitor = {
      Identifier(node) {
        const now = retired(node.name)
        if (now) report(node, node.name, now)
      },
      Literal(node) {
        if (typeof node.value === 'string' && has(VALUES, node.value)) report(node, node.value, VALUES[node.value])
      },
      Program() {
        for (const comment of sourceCode.getAllComments()) {
          const word = comment.value.toLowerCase().split(/[^a-z]+/).find(w => has(WORDS, w))
          if (word) context.report({ loc: comment.loc, messageId: 'retired', data: { name: word, now: WORDS[word] } })
        }
      },
    }
    const inTemplates = sourceCode.parserServices?.defineTemplateBodyVisitor
    return inTemplates ? inTemplates({ Identifier: visitor.Identifier, Literal: visitor.Literal }, visitor) : visitor
  },
}

export default { rules: { 'retired-names': retiredNames } }
