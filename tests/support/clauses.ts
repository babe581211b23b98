// Rules and changes as the API takes them.
import type { Called, Caller } from './http'
import { OURS } from './office'

/** A rule's form: enabled, and sends what says its name to spam. */
export const rule = (name: string, over: object = {}) => ({
  name,
  owner: 'organisation',
  state: 'enabled',
  when: { phrases: [name] },
  except: [],
  claims: [{ stop: { to: 'spam' } }],
  ...over,
})

/** The change that makes such a rule, or changes the one of that id. */
export const putRule = (name: string, over: object = {}) => ({ type: 'put', kind: 'rule', value: rule(name, over) })

/** The change that makes a mandatory rule which holds in quarantine what has a phrase. */
export const holding = (id: string, phrase: string, quarantine = 'general', over: object = {}) =>
  putRule(id, { id, mandatory: true, when: { phrases: [phrase] }, claims: [{ stop: { to: 'quarantine', quarantine } }], ...over })

/** A list's form, with no use. */
export const list = (name: string, over: object = {}) => ({
  name,
  owner: 'organisation',
  usualSide: 'block',
  assignment: null,
  entries: '',
  ...over,
})

/** The change that puts an address on a list: the demo's speculators, who are blocked. */
export const blocking = (value: string, list = 'speculators') => ({
  type: 'put',
  kind: 'entries',
  list,
  entries: [{ kind: 'address', value }],
})

/** The version of the policy that a caller sees. */
export const versionFor = async (caller: Caller) => (await caller('GET', '/api/directory')).body.policy.version as number

/** Asks for changes, made on the version of now. */
export async function change(caller: Caller, changes: object[], more: object = {}): Promise<Called> {
  return caller('POST', '/api/changes', { base: await versionFor(caller), changes, coming: true, ...more })
}

/** The same, whatever it affects; throws unless it is done at once. */
export async function changed(caller: Caller, ...changes: object[]): Promise<Called['body']> {
  const { status, body } = await change(caller, changes, { confirmed: { broad: true } })
  if (status !== 200) throw new Error(`a change was refused: ${status} ${JSON.stringify(body)}`)
  return body
}

/** A message that is written and not sent. */
export const tried = (over: object = {}) => ({ recipient: `worker@${OURS}`, from: 'a@b.test', subject: 's', text: 't', ...over })
