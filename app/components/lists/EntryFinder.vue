<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { entryWords } from '#core/words'
import { api, type FoundEntry } from '~/api/client'

/** Who is on which list, since when, by whom: all lists that one sees, searched at once. */
const words = ref('')
const found = shallowRef<{ items: FoundEntry[], more: boolean } | null>(null)
const failure = ref('')
let asked = 0
const look = useDebounceFn(async () => {
  const mine = ++asked
  if (words.value.trim().length < 2) return (found.value = null)
  try {
    const result = await api.findEntries(words.value.trim())
    if (mine !== asked) return
    found.value = result
    failure.value = ''
  }
  catch (error) {
    if (mine === asked) failure.value = error instanceof Error ? error.message : String(error)
  }
}, 250)
watch(words, () => void look())
</script>

<template>
  <div class="finder">
    <el-input
      v-model="words"
      class="line-field"
      style="width: 340px"
      placeholder="search all lists: address, domain or note"
      aria-label="Search all lists"
      clearable
    />
    <p
      v-if="failure"
      class="wrong small"
      role="alert"
    >
      {{ failure }}
    </p>
    <div
      v-if="found"
      class="sheet"
      role="region"
      aria-label="Entries found"
    >
      <p
        v-if="!found.items.length"
        class="second none"
      >
        Not on any list that you can see.
      </p>
      <table v-else>
        <thead class="second small">
          <tr>
            <th>Entry</th><th>List</th><th>Note</th><th>Since</th><th>By</th><th>Expires</th>
          </tr>
        </thead>
        <tbody>
          <tr
            v-for="e in found.items"
            :key="e.id"
          >
            <td class="mono">
              {{ cutMiddle(entryWords(e), 48) }}<span
                v-if="e.wider"
                class="second small wider"
              >also matches</span>
            </td>
            <td>
              <NuxtLink :to="`/lists/${e.list.id}`">
                {{ e.list.name }}
              </NuxtLink> <span class="second small">{{ e.list.owner }}{{ e.list.enabled ? '' : ', disabled' }}</span>
            </td>
            <td class="second small">
              {{ e.note }}
            </td>
            <td class="small">
              {{ e.since ? shortWhen(e.since) : '' }}
            </td>
            <td class="small">
              {{ e.by ?? '' }}
            </td>
            <td class="small">
              {{ e.expires ? shortWhen(e.expires) : '' }}
            </td>
          </tr>
        </tbody>
      </table>
      <p
        v-if="found.more"
        class="second small none"
      >
        More results. Refine your search.
      </p>
    </div>
  </div>
</template>

<style scoped>
.finder { display: grid; gap: 10px; justify-items: start; }
.sheet { width: 100%; max-height: 50vh; overflow: auto; }
table { width: 100%; border-collapse: collapse; font-size: 14px; }
th { text-align: left; font-weight: 400; }
th, td { padding: 6px 12px; border-bottom: 1px solid var(--hairline); vertical-align: baseline; }
.wider { font-family: var(--text); margin-left: 8px; }
.none { padding: 14px 16px; }
</style>
