import { defineStore } from 'pinia'
import { api, type SettingsForm, type SettingsView, type Settings } from '~/api/client'

/** What is so of the whole installation, and how it is changed. */
export const useSettingsStore = defineStore('settings', () => {
  const notices = useNoticeStore()
  const data = ref<SettingsView | null>(null)
  const failure = ref('')

  async function load() {
    try {
      data.value = await api.settings()
      failure.value = ''
    }
    catch (error) {
      failure.value = error instanceof Error ? error.message : String(error)
    }
  }

  /** Changes parts of it on the version that is shown. @throws what the server says against it */
  async function save(parts: Partial<Settings> & Pick<SettingsForm, 'confirmed'>, words: string) {
    const { eventId } = await api.changeSettings({ ...parts, version: data.value!.version })
    await Promise.all([load(), useDirectoryStore().load()])
    notices.say(eventId === null ? 'Nothing to save: no setting was changed.' : words, eventId)
  }

  watch(() => notices.undone, () => data.value && load())

  return { data, failure, load, save }
})
