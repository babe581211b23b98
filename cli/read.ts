import { realpathSync } from 'node:fs'
import { isMainThread, parentPort, Worker } from 'node:worker_threads'
import { EXTENTS } from '#core'
import { answer, type Answer, type WorkOrder, type Question } from './work'

/** How long one message may take before less of it is read, in seconds. */
const MAX_SECONDS = 5
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
    const clock = setTimeout(giveUp, MAX_SECONDS * 1000)
    worker.once('message', done).once('error', failed)
    worker.postMessage(asked)

    function leave() {
      clearTimeout(clock)
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
