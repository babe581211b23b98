import { mkdtempSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import type { TestProject } from 'vitest/node'
import { startCluster } from '../../scripts/lib/cluster.mjs'

declare module 'vitest' {
  interface ProvidedContext {
    clusterFolder: string
  }
}

/** A throwaway cluster for the whole run. */
export default async function setup(project: TestProject) {
  const folder = mkdtempSync(join(tmpdir(), 'sober-gate-test-'))
  const cluster = await startCluster(folder, { quick: true })
  project.provide('clusterFolder', cluster.folder)
  return () => cluster.remove()
}
