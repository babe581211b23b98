import { realpathSync } from 'node:fs'
import { isMainThread, parentPort, Worker } from 'node:worker_threads'
import { EXTENTS } from '#core'
import { answer, type Answer, type WorkOrder, type Question } from './work'

/** How much processor time one message may take before less of it is read, in seconds. */
const MAX_SECONDS = 5
/** Reading is also ended after this many times the limit as elapsed time: it may wait for something that never happens. */
const PATIENCE = 10
const CHECK_MS = 100
/** What is smaller than this, and brings no document, is read at once. */
const SMALL = 64 * 1024

/**
 * Reads a message and answers a question about it, with a JSON object as text. What may take long is done on a thread of
 * its own, which is given up when its time is over; then less of the message is read, and the defects say so.
 */
export async function ask(bytes: Uint8Array, question: Question): Promise<string> {
  if (bytes.length < SMALL) {
    const item = await answer({ bytes, extent: 'closed', ...question })
    if (!item.closed) return item.json
  }
  const shared = new Uint8Array(new SharedArrayBuffer(bytes.length))
  shared.set(bytes)
  for (const extent of EXTENTS.slice(0, -1)) {
    const item = await readInWorker({ bytes: shared, extent, ...question })
    if (item) return item.json
  }
  return (await answer({ bytes: shared, extent: EXTENTS.at(-1)!, ...question })).json
}

let reader: Worker | null = null

// Null where it took too long.
function readInWorker(asked: WorkOrder): Promise<Answer | null> {
  // This very program, which on a thread does nothing but answer.
  const worker = (reader ??= new Worker(realpathSync(process.argv[1]!)))
  worker.ref()
  return new Promise<Answer | null>((resolve, reject) => {
    // This thread only waits, so the processor time of the process is that of the reading thread. With elapsed time, other load
    // on the machine would cause messages to be read in part.
    const begun = performance.now()
    const used = process.cpuUsage()
    const clock = setInterval(() => {
      const { user, system } = process.cpuUsage(used)
      const worked = (user + system) / 1_000_000
      if (worked > MAX_SECONDS || performance.now() - begun > PATIENCE * MAX_SECONDS * 1000) giveUp()
    }, CHECK_MS)
    worker.once('message', done).once('error', failed)
    worker.postMessage(asked)

    function leave() {
      clearInterval(clock)
      worker.off('message', done).off('error', failed)
      // Waiting for the next message it keeps nobody from going home.
      worker.unref()
    }
    function done(item: Answer) {
      leave()
      resolve(item)
    }
    function failed(error: unknown) {
      leave()
      reader = null
      reject(error)
    }
    function giveUp() {
      leave()
      reader = null
      worker.terminate().then(() => resolve(null), reject)
    }
  })
}

/** True on the thread that only reads; it then answers each question. */
export function readsOnly(): boolean {
  if (isMainThread) return false
  parentPort!.on('message', async (asked: WorkOrder) => parentPort!.postMessage(await answer(asked)))
  return true
}
