import { defineStore } from 'pinia'
import { looksLikeMbox, readMbox } from '#core/formats'
import { api, ApiProblem } from '~/api/client'

const BATCH_SIZE = 3
const MAX_FAULTS = 50

interface Message {
  name: string
  bytes: Uint8Array
}

/**
 * Mail from files, handed to the server message by message. It goes on while other pages are looked at; broken off it can be begun
 * again, since what is here already is not taken twice.
 */
export const useImportStore = defineStore('imports', () => {
  const total = ref(0)
  const done = ref(0)
  const taken = ref(0)
  const repeats = ref(0)
  const faults = ref<string[]>([])
  const going = ref(false)
  const stopped = ref(false)

  /** @param recipient whose mailbox it goes to; left out, each message says */
  async function begin(files: readonly File[], recipient: string | undefined) {
    if (going.value) return
    going.value = true
    stopped.value = false
    total.value = done.value = taken.value = repeats.value = 0
    faults.value = []
    try {
      for (const file of files) {
        const messages = messagesIn(file.name, new Uint8Array(await file.arrayBuffer()))
        total.value += messages.length
        await Promise.all(Array.from({ length: BATCH_SIZE }, () => work(messages, recipient)))
        if (stopped.value) break
      }
    }
    catch (error) {
      fault(error instanceof Error ? error.message : String(error))
    }
    finally {
      going.value = false
    }
  }

  function messagesIn(name: string, bytes: Uint8Array): Message[] {
    if (!looksLikeMbox(bytes)) return [{ name, bytes }]
    return [...readMbox(bytes)].map(({ message }, i) => ({ name: `${name}, message ${i + 1}`, bytes: message }))
  }

  async function work(messages: Message[], recipient: string | undefined) {
    for (let next = messages.shift(); next && !stopped.value; next = messages.shift()) {
      try {
        const { copies } = await api.importMessage(next.bytes, recipient)
        if (copies.every(c => c.repeat)) repeats.value++
        else taken.value++
      }
      catch (error) {
        // One that cannot be taken keeps no other out; without a server, or a right, none would go through.
        fault(`${next.name}: ${error instanceof Error ? error.message : String(error)}`)
        if (error instanceof ApiProblem && [0, 401, 403].includes(error.status)) stopped.value = true
      }
      done.value++
    }
  }

  function fault(words: string) {
    if (faults.value.length < MAX_FAULTS) faults.value.push(words)
  }

  function stop() {
    stopped.value = true
  }

  return { total, done, taken, repeats, faults, going, stopped, begin, stop }
})
