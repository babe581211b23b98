import { VERDICTS, type Verdict } from '../../message'
import { conditionKind } from './kind'

const WORDS: Record<Verdict, string> = {
  pass: 'the sender is verified',
  fail: 'authentication fails',
  none: 'nothing authenticates the sender',
  temperror: 'the sender could not be verified, because DNS did not answer',
}

export const authentication = conditionKind({
  name: 'authentication',
  label: 'authentication',
  schema: ({ Joi }) => Joi.string().valid(...VERDICTS),
  holds: ({ message: { attempt } }, value: Verdict) => (attempt.authentication.verdict === value ? value : null),
  prefilter: null,
  words: value => WORDS[value],
  found: (_, value) => WORDS[value],
  blank: 'fail' as Verdict,
  field: 'AuthenticationField',
})
