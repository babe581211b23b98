/**
 * A whole number that the environment may set.
 * @throws where it is set to something else, so that nobody believes in a limit that is not there
 */
export function wholeNumber(name: string, usual: number, { least = 1, most = 1_000_000_000 } = {}): number {
  const text = process.env[name]
  if (text === undefined || text === '') return usual
  const value = /^\d{1,10}$/.test(text) ? Number(text) : Number.NaN
  if (!(value >= least && value <= most)) throw new Error(`${name} must be a whole number from ${least} to ${most}, not “${text}”.`)
  return value
}

/** SOBER_GATE_DNS=off: senders are not verified here, whatever Settings say. */
export function dnsIsOff(): boolean {
  return process.env.SOBER_GATE_DNS === 'off'
}
