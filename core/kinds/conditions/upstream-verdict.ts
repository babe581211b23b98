import { quoted } from '../../wording'
import type { Message, Trust, UpstreamVerdict } from '../../message'
import { matchesWildcard } from '../wildcard'
import { conditionKind } from './kind'

/** Any mark that the administrator named under whom we believe, or the one with that id. */
export const upstreamVerdict = conditionKind({
  name: 'upstreamVerdict',
  label: 'upstream filter',
  schema: ({ Joi }) => Joi.alternatives().try(Joi.valid(true), Joi.string().max(80).pattern(/^[\w.:-]{1,80}$/)),
  holds: ({ message, trust }, value: true | string) =>
    (trust.upstreamVerdicts ?? [])
      .filter(m => value === true || m.id === value)
      .map(m => verdictIn(m, message))
      .find(found => found !== null) ?? null,
  prefilter: {
    by: () => 'any',
    opened: (message, trust) => (upstreamVerdicts(trust).some(m => verdictIn(m, message) !== null) ? ['any'] : []),
  },
  words: (value, { trust }) => {
    if (value === true) return 'an upstream filter flagged it'
    return `an upstream filter flagged it: ${quoted(upstreamVerdicts(trust).find(m => m.id === value)?.name ?? `deleted header ${value}`)}`
  },
  found: shown => `the upstream filter header “${shown}”`,
  blank: true as true | string,
  refers: value => (value === true ? null : { verdict: value }),
  field: 'UpstreamVerdictField',
})

function upstreamVerdicts(trust: Pick<Trust, 'upstreamVerdicts'> | undefined): readonly UpstreamVerdict[] {
  return trust?.upstreamVerdicts ?? []
}

const LONGEST_SHOWN = 80

/** What of a mark a message bears: the header field, or the words before its subject; case is ignored. */
function verdictIn(verdict: UpstreamVerdict, { content }: Message): string | null {
  if ('before' in verdict) {
    const subject = content.subject.trimStart()
    return subject.toLowerCase().startsWith(verdict.before.toLowerCase()) ? subject.slice(0, verdict.before.length) : null
  }
  const wanted = (verdict.text ?? '*').toLowerCase()
  const field = content.headers.find(h => h.name.toLowerCase() === verdict.header && matchesWildcard(wanted, h.value.trim().toLowerCase()))
  return field ? `${field.name}: ${field.value.trim().slice(0, LONGEST_SHOWN)}` : null
}
