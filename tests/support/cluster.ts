import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { startCluster } from '../../scripts/lib/cluster.mjs'

/**
 * A throwaway cluster for a whole run of tests: the one that `npm test` started for all parts, else one of its own.
 * @returns its folder, and a function that removes what was started here
 */
export async function testCluster(): Promise<{ folder: string, remove: () => void }> {
  const shared = process.env.SOBER_GATE_TEST_CLUSTER
  if (shared) return { folder: shared, remove: () => undefined }
  const cluster = await startCluster(mkdtempSync(join(tmpdir(), 'sober-gate-test-')), { quick: true })
  return { folder: cluster.folder, remove: () => cluster.remove() }
}
