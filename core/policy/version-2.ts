type Fields = Record<string, unknown>

/**
 * A whole policy in version 3 of the format, in which only verified senders count where nothing is said, whoever owns the clause. Until
 * version 2 a personal clause counted unless authentication failed, and a mandatory one could count on less; what a personal one counted
 * on is written out, so that it decides as before. What it cannot read it leaves as it is: the schema says what is wrong.
 * @param value JSON of format version 2
 */
export function fromVersion2(value: unknown): unknown {
  if (!isFields(value)) return value
  return {
    ...value,
    formatVersion: 3,
    ...partOf(value, 'assignments', a => (a.mandatory === true ? without(a) : isPersonal(a) && a.side === 'allow' ? withLess(a) : a)),
    ...partOf(value, 'rules', r => (r.mandatory === true || isPersonal(r) ? ruleOf(r) : r)),
  }
}

function ruleOf(rule: Fields): Fields {
  const has = (claim: string) => Array.isArray(rule.claims) && rule.claims.some(c => isFields(c) && claim in c)
  const turned = (condition: unknown, favours: boolean): unknown => {
    if (Array.isArray(condition)) return condition.map(c => turned(c, favours))
    if (!isFields(condition)) return condition
    if ('sender' in condition || 'senderOn' in condition)
      return rule.mandatory === true ? without(condition) : favours ? withLess(condition) : condition
    return Object.fromEntries(Object.entries(condition).map(([key, inner]) => {
      if (key === 'all' || key === 'any') return [key, turned(inner, favours)]
      // Under “none” what protects works against the mail, and the other way round.
      return [key, key === 'none' ? turned(inner, !favours) : inner]
    }))
  }
  return { ...rule, when: turned(rule.when, has('protect')), ...('except' in rule ? { except: turned(rule.except, has('stop')) } : {}) }
}

function withLess(clause: Fields): Fields {
  return { counts: 'notFailed', ...clause }
}

function without({ counts: _, ...clause }: Fields): Fields {
  return clause
}

function isPersonal({ owner }: Fields): boolean {
  return typeof owner === 'string' && owner.startsWith('person:')
}

function partOf(policy: Fields, name: string, by: (clause: Fields) => Fields): Fields {
  const part = policy[name]
  return Array.isArray(part) ? { [name]: part.map((c: unknown) => (isFields(c) ? by(c) : c)) } : {}
}

function isFields(value: unknown): value is Fields {
  return typeof value === 'object' && value !== null && !Array.isArray(value)
}
