import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startCluster } from '../../../scripts/lib/cluster.mjs'
import { install } from '../../server/support/installation'

/** The real build with the demo, on a throwaway cluster, for all browser tests. */
export default async function start() {
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-browser-'))
  const cluster = await startCluster(folder, { quick: true })
  const gate = await install(cluster.folder, 'browser', { SOBER_GATE_DEMO_MESSAGES: '300' })
  const empty = await install(cluster.folder, 'browser_empty', { SOBER_GATE_DEMO: '0' })
  process.env.EMPTY_URL = empty.url
  process.env.EMPTY_SMTP = String(empty.smtpPort)
  process.env.GATE_URL = gate.url
  process.env.GATE_SMTP = String(gate.smtpPort)
  return async () => {
    await gate.stop()
    await empty.stop()
    cluster.remove()
  }
}
