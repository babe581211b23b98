import { oneOf } from '../phrasing'
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
  label: 'its age',
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
      ...(d.before === undefined ? [] : [`before ${d.before.slice(0, 10)}`]),
      ...(d.after === undefined ? [] : [`since ${d.after.slice(0, 10)}`]),
      ...(d.olderThan === undefined ? [] : [`more than ${d.olderThan} days ago`]),
      ...(d.newerThan === undefined ? [] : [`less than ${d.newerThan} days ago`]),
    ]
    return `it was ${d.of} ${oneOf(parts, 'and')}`
  },
  found: (shown, { of }) => `${of} ${shown.slice(0, 10)}`,
  blank: { of: 'sent', olderThan: 30 } as DateTest,
  field: 'DateFields',
})
