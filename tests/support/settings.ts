// What an administrator sets, each time as it is seen right before.
import type { Caller } from './http'

interface Versioned { id: string, version: number }

async function quarantineVersion(who: Caller, id: string): Promise<number> {
  const { body } = await who('GET', '/api/settings')
  return (body.quarantines as Versioned[] | undefined)?.find(q => q.id === id)?.version ?? 0
}

export const setQuarantine = async (who: Caller, id: string, form: object) =>
  who('PUT', `/api/quarantines/${id}`, { version: await quarantineVersion(who, id), ...form })

export const removeQuarantine = async (who: Caller, id: string, to = 'general') =>
  who('DELETE', `/api/quarantines/${id}?to=${to}&version=${await quarantineVersion(who, id)}`)

/** A user as the page of users shows them. */
export async function userOf(who: Caller, id: string) {
  const { body } = await who('GET', '/api/users?limit=200')
  return (body.items as (Versioned & Record<'name' | 'role', string> & Record<'addresses' | 'shared' | 'departments', string[]>)[])
    .find(u => u.id === id)
}

export const changeUser = async (who: Caller, id: string, form: object) =>
  who('PUT', `/api/users/${id}`, { version: (await userOf(who, id))?.version ?? 0, ...form })

export const userLeaves = async (who: Caller, id: string, successor: string | null = null) =>
  who('POST', `/api/users/${id}/deactivation`, { version: (await userOf(who, id))?.version ?? 0, successor })
