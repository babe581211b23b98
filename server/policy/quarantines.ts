import { randomUUID } from 'node:crypto'
import { Joi } from '#core'
import type { Actor } from '../access/roles'
import { notFound } from '../platform/problem'
import { changeClauses, type Done } from './apply'
import { mustBeVersion } from './quarantine-settings'

export const quarantineName = Joi.string()
  .trim()
  .min(1)
  .max(60)
  .required()
  .messages({ 'string.empty': 'enter a name for the quarantine', 'any.required': 'enter a name for the quarantine' })

/** Makes a named quarantine besides the general one. */
export async function makeQuarantine(actor: Actor, name: string): Promise<{ id: string, name: string } & Done> {
  const id = randomUUID()
  const { eventId, version } = await changeClauses(actor, [{ type: 'put', kind: 'quarantine', value: { id, name } }])
  return { id, name, eventId, version }
}

/**
 * Gives a quarantine another name; what refers to it goes on.
 * @param seen its version as the caller saw it @throws 409 where it was changed since
 */
export async function renameQuarantine(actor: Actor, id: string, name: string, seen: number): Promise<{ id: string, name: string } & Done> {
  const { eventId, version } = await changeClauses(actor, async ({ tx, policy }) => {
    await mustBeVersion(tx, id, seen)
    const there = policy.quarantines.find(q => q.id === id)
    if (!there) throw notFound('This quarantine')
    return [{ type: 'put', kind: 'quarantine', value: { ...there, name } }]
  })
  return { id, name, eventId, version }
}
