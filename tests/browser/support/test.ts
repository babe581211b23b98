import { test as base } from '@playwright/test'
import type { Caller } from '../../support/http'
import { signIn as signInByApi } from '../../support/http'
import { EMPTY, install, MEDIUM, type Installation } from '../../support/installation'

/** The installation of the test file that runs in this process; a process runs one test at a time. */
let office: { file: string, gate: Installation, sessions: Map<string, Promise<Caller>> } | null = null

export function gate(): Installation {
  if (!office) throw new Error('Use the test of tests/browser/support/test.ts: it starts the installation.')
  return office.gate
}

/** Somebody's session by their name in the demo's office: begun once a file, for the browser and for calls of the API. */
export function sessionOf(account: string): Promise<Caller> {
  const { gate, sessions } = office!
  const session = sessions.get(account) ?? signInByApi(gate, account)
  sessions.set(account, session)
  return session
}

/** Somebody's sessions have ended. */
export const forgetSession = (account: string) => office!.sessions.delete(account)

const clusterFolder = () => process.env.TEST_CLUSTER!

/**
 * A test of the real build. Each file has an installation of its own with the demo's mail, so that no file depends on what another
 * did, nor on the order in which they run.
 */
export const test = base.extend<{ inOffice: true, empty: Installation }, { closing: true }>({
  closing: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use) => {
      await use(true)
      await office?.gate.stop()
      office = null
    },
    { scope: 'worker', auto: true },
  ],
  inOffice: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, use, { file, workerIndex }) => {
      if (office?.file !== file) {
        await office?.gate.stop()
        office = { file, gate: await install(clusterFolder(), `browser_${workerIndex}`, { contents: MEDIUM }), sessions: new Map() }
      }
      await use(true)
    },
    { auto: true, timeout: 300_000 },
  ],
  /** An installation in which nobody has set up anything yet. */
  empty: async ({}, use, { workerIndex }) => { // eslint-disable-line no-empty-pattern
    const empty = await install(clusterFolder(), `browser_empty_${workerIndex}`, { contents: EMPTY })
    await use(empty)
    await empty.stop()
  },
})
