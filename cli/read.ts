import { realpathSync } from 'node:fs'
import { isMainThread, parentPort, Worker } from 'node:worker_threads'
import { parseContent, type Content } from '#core'

/** How long the documents in one message may take before they stay closed, in seconds. */
const MOST_SECONDS = 10

/**
 * Reads a message. Documents are opened on a thread of their own, which is given up where one of them takes too long; they
 * then stay closed, and the defects say so.
 */
export async function readMessage(bytes: Uint8Array): Promise<Content> {
  const closed = await parseContent(bytes, { closedDocuments: true })
  // Most messages bring no document, and are read by now.
  if (!closed.defects.some(d => d.code === 'attachment not readable')) return closed
  return await elsewhere(bytes) ?? closed
}

let reader: Worker | null = null

function elsewhere(bytes: Uint8Array): Promise<Content | null> {
  // This very program, which on a thread does nothing but read.
  const worker = reader ??= new Worker(realpathSync(process.argv[1]!))
  worker.ref()
  return new Promise<Content | null>((resolve, reject) => {
    const clock = setTimeout(giveUp, MOST_SECONDS * 1000)
    worker.once('message', done).once('error', failed)
    worker.postMessage(bytes)

    function leave() {
      clearTimeout(clock)
      worker.off('message', done).off('error', failed)
      // Waiting for the next message it keeps nobody from going home.
      worker.unref()
    }
    function done(content: Content) {
      leave()
      resolve(content)
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

/** True on the thread that only reads; it then answers each message's bytes with what it read. */
export function readsOnly(): boolean {
  if (isMainThread) return false
  parentPort!.on('message', async (bytes: Uint8Array) => parentPort!.postMessage(await parseContent(bytes)))
  return true
}
