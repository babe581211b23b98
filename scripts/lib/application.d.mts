import type { ChildProcess } from 'node:child_process'

export interface Application {
  url: string
  child: ChildProcess
  /** Settles with the exit code or signal. */
  ended: Promise<number | string>
  stop(): Promise<void>
}
export function startApplication(
  env: Record<string, string>,
  logFile: string,
  options?: { onWait?: (waited: number) => void, signal?: AbortSignal },
): Promise<Application>
