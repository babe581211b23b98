import type { Verdict } from '../../message'
import { conditionKind } from './kind'

const WORDS: Record<Verdict, string> = {
  pass: 'the sender is verified',
  fail: 'authentication fails',
  none: 'nothing authenticates the sender',
}

export const authentication = conditionKind({
  name: 'authentication',
  label: 'authentication',
  schema: ({ Joi }) => Joi.string().valid('pass', 'fail', 'none'),
  holds: ({ message: { attempt } }, value: Verdict) => (attempt.authentication.verdict === value ? value : null),
  prefilter: null,
  words: value => WORDS[value],
  found: (_, value) => WORDS[value],
  blank: 'fail' as Verdict,
  field: 'AuthenticationField',
})
