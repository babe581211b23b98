export interface Cluster {
  /** Address of the database "postgres". */
  url: string
  address(name: string): string
  folder: string
  stop(mode?: 'fast' | 'immediate' | 'smart'): void
  start(): void
  runs(): boolean
  hasRoom(): boolean
  complaint(): { why: string, more: string }
  remove(): void
}
export function startCluster(folder: string, options?: { quick?: boolean }): Promise<Cluster>
export function freePort(): Promise<number>
