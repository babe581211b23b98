import type { TestProject } from 'vitest/node'
import { testCluster } from '../support/cluster'

declare module 'vitest' {
  interface ProvidedContext {
    clusterFolder: string
  }
}

export default async function setup(project: TestProject) {
  const { folder, remove } = await testCluster()
  project.provide('clusterFolder', folder)
  return remove
}
