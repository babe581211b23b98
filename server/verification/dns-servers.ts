import { DEFAULT_VERIFICATION, setting, VERIFICATION, type VerificationSettings } from '../db/settings'
import { dnsIsOff, wholeNumber } from '../platform/variables'

/** Milliseconds for which the setting is not read again: each message asks for it. */
const READ_AGAIN = 2000

let read: { at: number, settings: Promise<VerificationSettings> } | null = null
let standIn: string | null = null

/** Whether the stand-in is to answer: for the demo, unless the environment names servers; or where it names the stand-in. */
export function wantsStandIn(isDemo: boolean): boolean {
  const named = process.env.SOBER_GATE_DNS
  return named === 'stand-in' || (isDemo && !named)
}

/** The address of the stand-in of the demo, once it runs. */
export function useStandIn(address: string | null): void {
  standIn = address
}

/** Settings were changed: they are read again. */
export function forgetVerificationSettings(): void {
  read = null
}

export function verificationSettings(): Promise<VerificationSettings> {
  if (!read || Date.now() - read.at > READ_AGAIN) {
    const settings = setting(VERIFICATION, DEFAULT_VERIFICATION)
    read = { at: Date.now(), settings }
    // What failed is asked again by the next message.
    settings.catch(() => {
      read = null
    })
  }
  return read.settings
}

export async function isVerifying(): Promise<boolean> {
  return !dnsIsOff() && (await verificationSettings()).enabled
}

/** The servers that are asked; empty for the system's. */
export async function dnsServers(): Promise<string[]> {
  const { servers } = await verificationSettings()
  if (servers.length) return servers
  if (standIn !== null) return [standIn]
  return (process.env.SOBER_GATE_DNS ?? '').split(/[\s,]+/).filter(server => server !== '')
}

/** Milliseconds for all look-ups of a message. The stand-in always answers, though late on a busy machine: nobody can make it silent. */
const USUAL_MS = 3000
const STAND_IN_MS = 30_000
const SET_MS = wholeNumber('SOBER_GATE_DNS_MS', 0, { least: 100, most: 60_000 })

/** Which DNS is asked, and for how long. */
export async function dnsToAsk(): Promise<{ servers: string[], ms: number }> {
  const servers = await dnsServers()
  const isStandIn = standIn !== null && servers.includes(standIn)
  return { servers, ms: SET_MS || (isStandIn ? STAND_IN_MS : USUAL_MS) }
}

/** Where the servers that are asked come from. */
export async function serversFrom(): Promise<'settings' | 'stand-in' | 'environment' | 'system'> {
  if ((await verificationSettings()).servers.length) return 'settings'
  if (standIn !== null) return 'stand-in'
  return process.env.SOBER_GATE_DNS ? 'environment' : 'system'
}
