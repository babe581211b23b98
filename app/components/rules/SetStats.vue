<script setup lang="ts">
import { phraseText } from '#core/policy'
import { numberWords } from '#core/wording'
import { api, type PhraseSetView, type TakenApart } from '~/api/client'
import { amongWords } from '~/composables/impactWords'

/** What each phrase of a set finds in the mail that is here; those that never hit, and those that only hit wanted mail. */
const { set } = defineProps<{ set: PhraseSetView }>()
const found = shallowRef<TakenApart | null>(null)
const failure = ref('')
const reading = ref(false)
const which = ref<'all' | 'never' | 'wanted'>('all')

async function read() {
  reading.value = true
  try {
    found.value = await api.setStats(set.id)
    failure.value = ''
  }
  catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
  reading.value = false
}

const lines = computed(() => {
  const result = found.value
  if (!result) return []
  // Of one phrase alone the whole says it.
  const parts = set.phrases.length === 1 ? [{ phrase: phraseText(set.phrases[0]!), catches: result.whole }] : result.parts
  return parts
    .map(({ phrase, catches }) => ({ phrase, ...catches, hits: catches.wanted + catches.unwanted + catches.unmarked }))
    .sort((a, b) => b.hits - a.hits)
})
const never = computed(() => lines.value.filter(l => !l.hits))
const wantedOnly = computed(() => lines.value.filter(l => l.wanted && !l.unwanted))
const shown = computed(() => ({ all: lines.value, never: never.value, wanted: wantedOnly.value })[which.value])
const MAX = 20
</script>

<template>
  <PressButton
    v-if="!found"
    plain
    small
    :disabled="reading"
    @click="read"
  >
    {{ reading ? 'Counting existing mail…' : 'Matches per phrase' }}
  </PressButton>
  <p
    v-if="failure"
    class="wrong small"
    role="alert"
  >
    {{ failure }}
  </p>
  <div
    v-if="found"
    class="small record"
  >
    <p
      class="which"
      role="group"
      aria-label="Phrases shown"
    >
      <PressButton
        plain
        small
        :aria-pressed="which === 'all'"
        @click="which = 'all'"
      >
        All {{ numberWords(lines.length) }}
      </PressButton>
      <PressButton
        v-if="never.length"
        plain
        small
        :aria-pressed="which === 'never'"
        @click="which = 'never'"
      >
        {{ numberWords(never.length) }} without matches
      </PressButton>
      <PressButton
        v-if="wantedOnly.length"
        plain
        small
        :aria-pressed="which === 'wanted'"
        @click="which = 'wanted'"
      >
        {{ numberWords(wantedOnly.length) }} matching wanted mail only
      </PressButton>
    </p>
    <table>
      <caption class="second">
        {{ amongWords(found) }}
      </caption>
      <tbody>
        <tr
          v-for="l in shown.slice(0, MAX)"
          :key="l.phrase ?? ''"
        >
          <th scope="row">
            {{ l.phrase }}
          </th>
          <td class="numbers">
            {{ numberWords(l.hits) }}
          </td>
          <td class="second">
            <MarkCounts
              :wanted="l.wanted"
              :unwanted="l.unwanted"
              blocks
            />{{ l.hits && !(l.wanted + l.unwanted) ? 'none marked' : '' }}
          </td>
        </tr>
      </tbody>
    </table>
    <p
      v-if="shown.length > MAX"
      class="second"
    >
      and {{ numberWords(shown.length - MAX) }} more
    </p>
  </div>
</template>

<style scoped>
.record { width: 100%; display: grid; gap: 4px; }
.which { display: flex; flex-wrap: wrap; gap: 0 6px; margin-left: -6px; }
table { border-collapse: collapse; width: 100%; }
caption { text-align: left; }
th { font-weight: 400; text-align: left; overflow-wrap: anywhere; }
td, th { padding: 2px 8px 2px 0; border-bottom: 1px solid var(--hairline); vertical-align: baseline; }
td.numbers { text-align: right; }
</style>
