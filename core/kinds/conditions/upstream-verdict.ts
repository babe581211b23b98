import type { Message, Trust, UpstreamMark } from '../../message'
import { matchesWildcard } from '../wildcard'
import { conditionKind } from './kind'

/** Any mark that the administrator named under whom we believe, or the one with that id. */
export const markedUpstream = conditionKind({
  name: 'markedUpstream',
  label: 'marked upstream',
  schema: ({ Joi }) => Joi.alternatives().try(Joi.valid(true), Joi.string().max(80).pattern(/^[\w.:-]{1,80}$/)),
  holds: ({ message, trust }, value: true | string) =>
    (trust.marks ?? [])
      .filter(m => value === true || m.id === value)
      .map(m => markIn(m, message))
      .find(found => found !== null) ?? null,
  wakes: { by: () => 'any', opened: (message, trust) => (marks(trust).some(m => markIn(m, message) !== null) ? ['any'] : []) },
  words: (value, { trust }) => {
    if (value === true) return 'an upstream system marked it'
    return `it bears the upstream mark ${marks(trust).find(m => m.id === value)?.name ?? `that is gone (${value})`}`
  },
  found: shown => `the upstream mark “${shown}”`,
  blank: true as true | string,
  refers: value => (value === true ? null : { mark: value }),
  field: 'MarkedUpstreamField',
})

function marks(trust: Pick<Trust, 'marks'> | undefined): readonly UpstreamMark[] {
  return trust?.marks ?? []
}

const LONGEST_SHOWN = 80

/** What of a mark a message bears: the header field, or the words before its subject; case is ignored. */
function markIn(mark: UpstreamMark, { content }: Message): string | null {
  if ('before' in mark) {
    const subject = content.subject.trimStart()
    return subject.toLowerCase().startsWith(mark.before.toLowerCase()) ? subject.slice(0, mark.before.length) : null
  }
  const wanted = (mark.text ?? '*').toLowerCase()
  const field = content.headers.find(h => h.name.toLowerCase() === mark.header && matchesWildcard(wanted, h.value.trim().toLowerCase()))
  return field ? `${field.name}: ${field.value.trim().slice(0, LONGEST_SHOWN)}` : null
}
