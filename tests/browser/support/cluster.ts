import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startCluster } from '../../../scripts/lib/cluster.mjs'

/** A throwaway cluster for all browser tests. */
export default async function setup() {
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-browser-'))
  const cluster = await startCluster(folder, { quick: true })
  process.env.TEST_CLUSTER = cluster.folder
  return () => cluster.remove()
}
