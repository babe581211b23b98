import { randomUUID } from 'node:crypto'
import type { Asker } from '../access/roles'
import { changeClauses, type Done } from './apply'

/** Makes a named quarantine besides the general one. */
export async function makeQuarantine(asker: Asker, name: string): Promise<{ id: string, name: string } & Done> {
  const id = randomUUID()
  const { act, version } = await changeClauses(asker, [{ put: 'quarantine', quarantine: { id, name } }])
  return { id, name, act, version }
}
