import plain, { type CustomHelpers, type ErrorReport, type Root } from 'joi'

const EARLIEST = Date.UTC(1970, 0, 1)
const LATEST = Date.UTC(9999, 11, 31, 23, 59, 59, 999)

/** True for text that can be neither stored nor shown: U+0000, or half of a surrogate pair. */
export function isOddText(text: string): boolean {
  return text.includes('\0') || !text.isWellFormed()
}

/** True for an instant whose year every clock, calendar and database here can hold. */
export function isUsualTime(ms: number): boolean {
  return ms >= EARLIEST && ms <= LATEST
}

/**
 * Joi with the types that everything from outside is read by: strings hold no U+0000 and no lone surrogate, dates lie in the
 * years 1970 to 9999. Nobody uses the package itself.
 */
export const Joi = plain.extend(
  {
    type: 'string',
    base: plain.string(),
    messages: { 'string.odd': '{{#label}} contains a character that cannot be stored (U+0000, or half of a surrogate pair)' },
    validate(value: string, { error }: CustomHelpers<string>) {
      return isOddText(value) ? { value, errors: error('string.odd') } : { value }
    },
  },
  {
    type: 'date',
    base: plain.date(),
    messages: { 'date.odd': '{{#label}} must be between the years 1970 and 9999' },
    validate(value: Date, { error }: CustomHelpers<Date>) {
      return isUsualTime(value.getTime()) ? { value } : { value, errors: error('date.odd') }
    },
  },
) as Root

/** An instant or a day as text (ISO 8601), as the policy's JSON has it. */
export const instant = Joi.string()
  .isoDate()
  .custom((text: string, helpers: CustomHelpers<string>): string | ErrorReport =>
    isUsualTime(Date.parse(text)) ? text : helpers.message({ custom: '{{#label}} must be a date between the years 1970 and 9999' }),
  )
  .messages({ 'string.isoDate': '{{#label}} must be a date such as 2027-03-01' })
