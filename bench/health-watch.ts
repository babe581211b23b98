import { Worker } from 'node:worker_threads'

/** How long each answer took, in milliseconds, and how many did not say ok. */
export interface Watched {
  times: number[]
  bad: number
  /** The longest, in milliseconds, that the watching thread itself was kept from running: what the machine takes from everybody. */
  paused: number
  /** When that was, in milliseconds from the beginning. */
  pausedAt: number
}

export interface HealthWatch {
  /** Ends watching. */
  stop(): Promise<Watched>
}

/**
 * Asks for the installation's health again and again, from a thread of its own: what the benchmark itself computes, such as writing a
 * large body as JSON, does not count as waiting.
 * @param every milliseconds between an answer and the next request
 */
export async function watchHealth(url: string, every = 100): Promise<HealthWatch> {
  const worker = new Worker(`(${watching.toString()})()`, { eval: true, workerData: { url, every } })
  const message = <T>() => new Promise<T>((resolve, reject) => worker.once('message', resolve).once('error', reject))
  await message()
  return {
    stop() {
      const result = message<Watched>()
      worker.postMessage('stop')
      return result
    },
  }
}

/** Runs in the thread, as text: it can use nothing from outside itself. */
async function watching(): Promise<void> {
  const { parentPort, workerData } = process.getBuiltinModule('node:worker_threads')
  const { url, every } = workerData as { url: string, every: number }
  const times: number[] = []
  let bad = 0
  let over = false
  let paused = 0
  let pausedAt = 0
  const began = performance.now()
  let last = began
  const clock = setInterval(() => {
    const now = performance.now()
    if (now - last - 20 > paused) [paused, pausedAt] = [now - last - 20, last - began]
    last = now
  }, 20)
  parentPort!.once('message', () => (over = true))
  parentPort!.postMessage('monitor')
  while (!over) {
    const start = performance.now()
    const response = await fetch(`${url}/api/health`)
    await response.text()
    times.push(performance.now() - start)
    if (!response.ok) bad++
    await new Promise(resolve => setTimeout(resolve, every))
  }
  clearInterval(clock)
  parentPort!.postMessage({ times, bad, paused, pausedAt })
}
