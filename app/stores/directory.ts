import { defineStore } from 'pinia'
import { api, type Directory } from '~/api/client'

/** Names of lists, quarantines, owners and people, and which policy version is active. */
export const useDirectoryStore = defineStore('directory', () => {
  const data = ref<Directory | null>(null)

  async function load() {
    if (useSessionStore().person) data.value = await api.directory()
  }

  const names = computed(() => ({
    quarantines: data.value?.quarantines ?? [],
    lists: (data.value?.lists ?? []).map(l => ({ ...l, entries: [] })),
    phraseSets: data.value?.phraseSets ?? [],
    trust: { upstreamVerdicts: data.value?.upstreamVerdicts ?? [] },
  }))

  /** Whether what is of this owner can only be proposed. */
  function isBeyond(owner: string | undefined): boolean {
    return data.value?.proposable.some(o => o.id === owner) === true
  }

  function ownerName(owner: string): string {
    if (owner === 'organisation') return 'organisation'
    return (
      data.value?.owners.find(o => o.id === owner)?.name ??
      data.value?.departments.find(d => `department:${d.id}` === owner)?.name ??
      data.value?.people.find(p => `person:${p.id}` === owner)?.name ??
      // Whom one does not see.
      (owner.startsWith('person:') ? 'a colleague' : 'another department')
    )
  }

  return { data, load, names, ownerName, isBeyond }
})
