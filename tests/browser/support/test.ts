import { test as base, type Page } from '@playwright/test'
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

const VIEWPORT = { width: 1280, height: 800 }

const clusterFolder = () => process.env.TEST_CLUSTER!

/**
 * A test of the real build. Each file has an installation of its own with the demo's mail, so that no file depends on what another
 * did, nor on the order in which they run.
 */
export const test = base.extend<{ inOffice: true, empty: Installation, other: Page }, { closing: true, desk: Page }>({
  /** One page for all tests of a process: a fresh one begins a browser's process, and reads the whole application anew. */
  desk: [
    async ({ browser }, assignment) => {
      const context = await browser.newContext({ viewport: VIEWPORT })
      await assignment(await context.newPage())
      await context.close()
    },
    { scope: 'worker' },
  ],
  /** The desk, left as it was found; after a failure the process is a new one. */
  page: async ({ desk }, assignment) => {
    await assignment(desk)
    await desk.unrouteAll({ behavior: 'ignoreErrors' })
    await desk.emulateMedia({ colorScheme: null })
    // Nothing of the application runs on, and the browser's process stays: it is the same site.
    await desk.goto(`${gate().url}/icon.svg`)
    await desk.evaluate(() => localStorage.clear())
    await desk.context().clearCookies()
  },
  /** The page of somebody else, at another machine. */
  other: async ({ browser }, assignment) => {
    const context = await browser.newContext({ viewport: VIEWPORT })
    await assignment(await context.newPage())
    await context.close()
  },
  closing: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, assignment) => {
      await assignment(true)
      await office?.gate.stop()
      office = null
    },
    { scope: 'worker', auto: true },
  ],
  inOffice: [
    // eslint-disable-next-line no-empty-pattern
    async ({}, assignment, { file, workerIndex }) => {
      if (office?.file !== file) {
        await office?.gate.stop()
        office = { file, gate: await install(clusterFolder(), `browser_${workerIndex}`, { contents: MEDIUM }), sessions: new Map() }
      }
      await assignment(true)
    },
    { auto: true, timeout: 300_000 },
  ],
  /** An installation in which nobody has set up anything yet. */
  empty: async ({}, assignment, { workerIndex }) => { // eslint-disable-line no-empty-pattern
    const empty = await install(clusterFolder(), `browser_empty_${workerIndex}`, { contents: EMPTY })
    await assignment(empty)
    await empty.stop()
  },
})
