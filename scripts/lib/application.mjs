import { spawn } from 'node:child_process'
import { openSync, readFileSync, statSync } from 'node:fs'
import { join } from 'node:path'
import { setTimeout as sleep } from 'node:timers/promises'
import { ROOT } from './ensure.mjs'

// Each of a dozen threads has a heap of its own. By default V8 lets each grow to four times what it keeps before it collects; growth to
// twice that keeps the whole bounded, and costs no time that can be measured.
const NODE_OPTIONS = ['--enable-source-maps', '--heap-growing-percent=100']
// glibc (mallopt(3), M_ARENA_MAX) gives threads arenas of their own, and returns little of them: two are enough here.
const MALLOC_ARENA_MAX = '2'

/**
 * Starts the built application and waits until it is ready.
 * @param env what it is told besides this process's environment
 * @param logFile where its log goes
 * @param options.onWait called while it is waited for, with how often before
 * @param options.signal aborted where it is no longer wanted
 */
export async function startApplication(env, logFile, { onWait = () => {}, signal } = {}) {
  const log = openSync(logFile, 'a', 0o600)
  const before = statSync(logFile).size
  const child = spawn(process.execPath, [...NODE_OPTIONS, join(ROOT, '.output/server/index.mjs')], {
    cwd: ROOT,
    detached: true,
    stdio: ['ignore', log, log, 'ipc'],
    env: { MALLOC_ARENA_MAX, ...process.env, NODE_ENV: 'production', ...env },
  })
  const ended = new Promise(resolve => child.once('exit', (code, signal) => resolve(signal ?? code)))
  let over = null
  void ended.then(how => (over = how))
  const url = `http://${hostToAsk(env.HOST)}:${env.PORT}`
  const stop = async () => {
    if (over !== null) return
    child.kill('SIGTERM')
    const timer = setTimeout(() => child.kill('SIGKILL'), 15_000)
    await ended
    clearTimeout(timer)
  }
  for (let waited = 0; ; waited++) {
    if (signal?.aborted) {
      await stop()
      throw signal.reason
    }
    if (over !== null)
      throw new Error(
        `The application ended (${over}). The end of its log, ${logFile}:\n`
        + readFileSync(logFile).subarray(before).toString().slice(-3000),
      )
    const health = await fetch(`${url}/api/health`).catch(() => null)
    // Another program on the same port would answer too: only our own child may say that it is ready.
    if (health?.ok && over === null) break
    onWait(waited)
    await sleep(250)
  }
  return {
    url,
    child,
    ended,
    stop,
    /** Tells it why the database is down, as { why, more }, or null once it is up again. */
    tellOfDatabase(message) {
      if (over === null && child.connected) child.send({ database: message })
    },
  }
}

// What listens on all addresses answers on loopback too; what listens on one answers there alone.
function hostToAsk(host = '127.0.0.1') {
  if (host === '0.0.0.0' || host === '::' || host === 'localhost') return '127.0.0.1'
  return host.includes(':') ? `[${host}]` : host
}
