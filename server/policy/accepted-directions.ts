import type { Policy } from '#core'

/** In which directions mail is accepted besides inbound: it is accepted for addresses of users only, so none goes out. */
export function acceptedDirections({ trust }: Pick<Policy, 'trust'>): { outbound: boolean, internal: boolean } {
  return { outbound: false, internal: trust.ownNetworks.length > 0 }
}
