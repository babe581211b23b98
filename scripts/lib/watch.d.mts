import type { Cluster } from './cluster.mjs'

export function watchCluster(
  cluster: Pick<Cluster, 'runs' | 'hasRoom' | 'start' | 'complaint'>,
  onChange: (message: { why: string, more: string } | null) => void,
  every?: number,
): () => void
