import { counted, dayWords, oneOf } from '../../wording'
import { conditionKind } from './kind'

/** An instant, or a span of days before the time of the decision. */
export interface DateTest {
  of: 'sent' | 'received'
  /** ISO 8601. */
  before?: string
  after?: string
  /** Days. */
  olderThan?: number
  newerThan?: number
}

const DAY = 24 * 60 * 60 * 1000

export const date = conditionKind({
  name: 'date',
  label: 'date or age',
  schema: ({ Joi, instant }) => {
    const days = Joi.number().min(0).max(100_000)
    return Joi.object({
      of: Joi.string().valid('sent', 'received').required(),
      before: instant,
      after: instant,
      olderThan: days,
      newerThan: days,
    }).or('before', 'after', 'olderThan', 'newerThan')
  },
  holds: ({ message: { content, attempt }, now }, test: DateTest) => {
    const said = test.of === 'sent' ? content.date : attempt.envelope.receivedAt
    if (!said) return null
    const at = Date.parse(said)
    const age = (Date.parse(now) - at) / DAY
    const holds =
      (test.before === undefined || at < Date.parse(test.before)) &&
      (test.after === undefined || at >= Date.parse(test.after)) &&
      (test.olderThan === undefined || age > test.olderThan) &&
      (test.newerThan === undefined || age < test.newerThan)
    return holds ? said : null
  },
  prefilter: null,
  words: (d) => {
    const parts = [
      ...(d.before === undefined ? [] : [`before ${dayWords(d.before, 'UTC')}`]),
      ...(d.after === undefined ? [] : [`on or after ${dayWords(d.after, 'UTC')}`]),
      ...(d.olderThan === undefined ? [] : [`more than ${counted(d.olderThan, 'day')} ago`]),
      ...(d.newerThan === undefined ? [] : [`less than ${counted(d.newerThan, 'day')} ago`]),
    ]
    return `it was ${d.of} ${oneOf(parts, 'and')}`
  },
  found: (shown, { of }) => `${of} on ${dayWords(shown, 'UTC')}`,
  blank: { of: 'sent', olderThan: 30 } as DateTest,
  field: 'DateFields',
})
