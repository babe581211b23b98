import { Joi, normaliseIp, upstreamVerdictSchema, readEntryLine, type UpstreamVerdict } from '#core'
import type { CustomHelpers, ErrorReport } from 'joi'
import type { VerificationSettings } from '../db/settings'
import { nameField } from './schemas'

/** What is so of a whole installation, apart from its people and its quarantines. */
export interface Settings {
  domains: string[]
  /** Without an id: to be made. */
  departments: { id?: string, name: string, parent?: string | null }[]
  relays: { network: string, authservId: string }[]
  ownNetworks: string[]
  upstreamVerdicts: UpstreamVerdict[]
  publicProviders: string[]
  /** An IANA name. */
  timeZone: string
  /** Where people reach it, as an origin; empty where that is not known. */
  publicAddress: string
  retention: Retention
  verification: VerificationSettings
}

/** Days for which things are kept; null is for good. */
export interface Retention {
  bin: number | null
  spam: number | null
  attempts: number | null
}

export type SettingsPart = keyof Settings
export const SETTINGS_PARTS: readonly SettingsPart[] = [
  'domains',
  'departments',
  'relays',
  'ownNetworks',
  'upstreamVerdicts',
  'publicProviders',
  'timeZone',
  'publicAddress',
  'retention',
  'verification',
]

/** Unless it is said otherwise. 30 days in the bin and in spam are common practice, no source. */
export const DEFAULT_RETENTION: Retention = { bin: 30, spam: 30, attempts: null }

function network(text: string, helpers: CustomHelpers<string>): string | ErrorReport {
  const read = readEntryLine(text, false, 'network')
  return 'error' in read
    ? helpers.message({ custom: `“${text}” is not an IP address or network; write it as 192.0.2.7 or 192.0.2.0/24` })
    : read.value
}

function timeZone(text: string, helpers: CustomHelpers<string>): string | ErrorReport {
  try {
    return new Intl.DateTimeFormat('en', { timeZone: text }).resolvedOptions().timeZone
  }
  catch {
    return helpers.message({ custom: `time zone “${text}” does not exist; use one such as Europe/Copenhagen` })
  }
}

function origin(text: string, helpers: CustomHelpers<string>): string | ErrorReport {
  const url = URL.canParse(text) ? new URL(text) : null
  return url && /^https?:$/.test(url.protocol) && !url.username
    ? url.origin
    : helpers.message({ custom: 'write it as https://gate.saltmere-harbour.example' })
}

// "192.0.2.53", "2001:db8::53", "192.0.2.53:5353", "[2001:db8::53]:5353".
function dnsServer(text: string, helpers: CustomHelpers<string>): string | ErrorReport {
  const [, bracketed, plain, port] = /^(?:\[([\da-f:.]+)\]|([\d.]+))(?::(\d{1,5}))?$/i.exec(text) ?? []
  const address = normaliseIp(bracketed ?? plain ?? text)
  return address !== null && (port === undefined || (Number(port) > 0 && Number(port) < 65_536))
    ? text
    : helpers.message({ custom: `“${text}” is not the IP address of a DNS server; write it as 192.0.2.53, or with a port as 192.0.2.53:5353` })
}
const dnsServerField = Joi.string().trim().max(60).custom(dnsServer)

const networkField = Joi.string().trim().max(60).custom(network)
const domainField = Joi.string().trim().min(1).max(255)
const DAYS = 'enter a number of days from 1 to 3,650, or leave the field empty'
const days = Joi.number()
  .integer()
  .min(1)
  .max(3650)
  .allow(null)
  .required()
  .messages({ 'number.base': DAYS, 'number.min': DAYS, 'number.max': DAYS, 'number.integer': DAYS })

/** A change of some parts of it, on the version in which they were seen. */
export interface SettingsForm extends Partial<Settings> {
  version: number
  /** So many messages were seen that a shorter retention deletes. */
  confirmed?: { erases: number }
}

export const settingsForm = Joi.object<SettingsForm, true>({
  version: Joi.number().integer().min(0).required(),
  confirmed: Joi.object({ erases: Joi.number().integer().min(0).max(2_147_483_647).required() }),
  domains: Joi.array().items(domainField).max(1000),
  departments: Joi.array()
    .max(500)
    .items(Joi.object({ id: Joi.string().max(80), name: nameField.required(), parent: Joi.string().max(80).allow(null) }))
    .unique('name', { ignoreUndefined: true })
    .messages({ 'array.unique': 'two departments have this name' }),
  relays: Joi.array()
    .max(200)
    .items(
      Joi.object({
        network: networkField.required().messages({ 'string.empty': 'enter the IP address or network from which the relay connects' }),
        authservId: Joi.string().trim().min(1).max(255).required()
          .messages({ 'string.empty': 'enter the authserv-id that the relay writes in Authentication-Results' }),
      }),
    ),
  ownNetworks: Joi.array().items(networkField).max(200),
  upstreamVerdicts: Joi.array().items(upstreamVerdictSchema).unique('id').max(200),
  publicProviders: Joi.array().items(domainField).max(5000),
  timeZone: Joi.string().trim().max(60).custom(timeZone),
  publicAddress: Joi.string().trim().max(300).allow('').custom((text: string, helpers) => (text === '' ? '' : origin(text, helpers))),
  verification: Joi.object({ enabled: Joi.boolean().required(), servers: Joi.array().items(dnsServerField).max(5).required() }),
  retention: Joi.object({ bin: days, spam: days.optional().default(null), attempts: days }),
}).or(...SETTINGS_PARTS)
