import { realpathSync } from 'node:fs'
import { isMainThread, parentPort, Worker } from 'node:worker_threads'
import { EXTENTS, parseContent, type Content, type Extent } from '#core'

/** How long one message may take before less of it is read, in seconds. */
const MOST_SECONDS = 5
/** What is smaller than this, and brings no document, is read at once. */
const SMALL = 64 * 1024

/**
 * Reads a message. What may take long is read on a thread of its own, which is given up when its time is over; then less
 * of the message is read, and the defects say so.
 */
export async function readMessage(bytes: Uint8Array): Promise<Content> {
  if (bytes.length < SMALL) {
    const closed = await parseContent(bytes, { extent: 'closed' })
    if (!closed.defects.some(d => d.code === 'attachment not readable')) return closed
  }
  for (const extent of EXTENTS.slice(0, -1)) {
    const read = await elsewhere({ bytes, extent })
    if (read) return read
  }
  return parseContent(bytes, { extent: EXTENTS.at(-1) })
}

/** What the reading thread is asked. */
interface Asked {
  bytes: Uint8Array
  extent: Extent
}

let reader: Worker | null = null

// Null where it took too long.
function elsewhere(asked: Asked): Promise<Content | null> {
  // This very program, which on a thread does nothing but read.
  const worker = reader ??= new Worker(realpathSync(process.argv[1]!))
  worker.ref()
  return new Promise<Content | null>((resolve, reject) => {
    const clock = setTimeout(giveUp, MOST_SECONDS * 1000)
    worker.once('message', done).once('error', failed)
    worker.postMessage(asked)

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
  parentPort!.on('message', async ({ bytes, extent }: Asked) => parentPort!.postMessage(await parseContent(bytes, { extent })))
  return true
}
