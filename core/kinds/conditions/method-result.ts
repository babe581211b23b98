import { METHODS, METHOD_RESULTS, type Authentication, type Method, type MethodResult } from '../../message'
import { conditionKind } from './kind'

export interface MethodTest {
  method: Method
  result: MethodResult
}

const NAMES: Record<Method, string> = { spf: 'SPF', dkim: 'DKIM', dmarc: 'DMARC' }

/** What one method found. Of several DKIM signatures one with that result is enough; a message without any has the result none. */
export const methodResult = conditionKind({
  name: 'methodResult',
  label: 'SPF, DKIM or DMARC result',
  schema: ({ Joi }) =>
    Joi.object({ method: Joi.string().valid(...METHODS).required(), result: Joi.string().valid(...METHOD_RESULTS).required() }),
  holds: ({ message: { attempt } }, { method, result }: MethodTest) =>
    (resultsOf(attempt.authentication, method).includes(result) ? `${NAMES[method]} ${result}` : null),
  prefilter: null,
  words: ({ method, result }) => `its ${NAMES[method]} result is ${result}`,
  found: shown => shown,
  blank: { method: 'dmarc', result: 'fail' } as MethodTest,
  field: 'MethodResultField',
})

// What was not verified has no result, not even none.
function resultsOf({ found }: Authentication, method: Method): MethodResult[] {
  if (!found) return []
  if (method !== 'dkim') return [found[method].result]
  return found.dkim.length ? found.dkim.map(s => s.result) : ['none']
}
