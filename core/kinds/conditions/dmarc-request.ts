import { conditionKind } from './kind'

export const DMARC_REQUESTS = ['quarantine', 'reject'] as const
export type DmarcRequest = (typeof DMARC_REQUESTS)[number]

/** DMARC failed, and the domain in From asks receivers not to deliver such mail (RFC 7489 6.3, p= and sp=). */
export const dmarcRequest = conditionKind({
  name: 'dmarcRequest',
  label: 'DMARC failed, and its domain asks to stop it',
  schema: ({ Joi }) => Joi.string().valid(...DMARC_REQUESTS),
  holds: ({ message: { attempt } }, value: DmarcRequest) => {
    const dmarc = attempt.authentication.found?.dmarc
    if (dmarc?.result !== 'fail' || dmarc.policy === null || dmarc.policy === 'none') return null
    return value === 'quarantine' || dmarc.policy === 'reject' ? `${dmarc.domain}: ${dmarc.policy}` : null
  },
  prefilter: null,
  words: value =>
    value === 'reject' ? 'DMARC failed and its domain asks to refuse it' : 'DMARC failed and its domain asks to quarantine or refuse it',
  found: shown => `the DMARC policy of ${shown}`,
  blank: 'quarantine' as DmarcRequest,
  field: 'DmarcRequestField',
})
