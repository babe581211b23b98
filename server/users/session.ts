import { getCookie, unsealSession, type H3Event, type SessionConfig } from 'h3'
import type { Actor } from '../access/roles'
import { findPerson } from './people'

interface Signed {
  id: string
  epoch: number
}

/** Who signed in with the cookie of this request, as it was sealed then; null without one that opens. Sets no cookie. */
export async function readSession(event: H3Event): Promise<Signed | null> {
  // The one of the process: made for each request anew, it cost more than opening the cookie.
  const config = useRuntimeConfig().session as SessionConfig
  const sealed = getCookie(event, config.name ?? 'nuxt-session')
  if (!sealed) return null
  try {
    const { data } = await unsealSession(event, config, sealed)
    const user = data?.user as Signed | undefined
    return user && typeof user.id === 'string' && typeof user.epoch === 'number' ? user : null
  }
  catch {
    return null // of another key, too old, or no cookie of ours: whoever sends it is nobody
  }
}

/** Whoever that is, if the session still goes on: a sealed cookie alone cannot be undone; the epoch can. */
export async function sessionPerson(event: H3Event): Promise<Actor | null> {
  const user = await readSession(event)
  const person = user ? await findPerson(user.id) : null
  return person && person.epoch === user!.epoch ? person : null
}
