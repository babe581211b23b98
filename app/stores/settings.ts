import { defineStore } from 'pinia'
import { api, type House, type HouseSettings } from '~/api/client'

/** What is so of the whole installation, and how it is changed. */
export const useHouseStore = defineStore('house', () => {
  const notices = useNoticeStore()
  const data = ref<House | null>(null)
  const failure = ref('')

  async function load() {
    try {
      data.value = await api.house()
      failure.value = ''
    }
    catch (error) {
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  /** Changes parts of it on the version that is shown. @throws what the server says against it */
  async function save(parts: Partial<HouseSettings>, words: string) {
    const { act } = await api.changeHouse({ ...parts, version: data.value!.version })
    await Promise.all([load(), useDirectoryStore().load()])
    notices.say(act === null ? 'Nothing was changed: it is so already.' : words, act)
  }

  watch(() => notices.undone, () => data.value && load())

  return { data, failure, load, save }
})
