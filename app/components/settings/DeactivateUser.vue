<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { UNDO_MINUTES } from '#core/limits'
import { counted, numberWords, oneOf, quoted } from '#core/wording'
import { api, type Member } from '~/api/client'

/** What is at stake where a user is deactivated, and who takes it over: one user, or for each address another. */
const { member } = defineProps<{ member: Member }>()
const emit = defineEmits<{ done: [], cancel: [] }>()
const notices = useNoticeStore()
const { error, busy, submit } = useForm()
const { data: stake, failure, load } = useReading(() => api.atStake(member.id))
/** The names of who can be a successor, as far as they were looked for, and who was found last. */
const found = ref<string[]>([])
const known = ref(new Map<string, string>())
const successor = ref('')
/** By address; without an entry it goes to the successor. */
const single = ref<Record<string, string>>({})

async function search(words: string) {
  try {
    const { items } = await api.members({ words: words.trim() })
    const active = items.filter(p => p.id !== member.id && !p.deactivatedAt)
    for (const p of active) known.value.set(p.id, p.name)
    found.value = active.map(p => p.id)
  }
  catch (e) {
    notices.failed(e)
  }
}
const searchSoon = useDebounceFn(search, 200)
onMounted(() => search(''))
const REFUSED = 'none: mail to it is refused'
// Who is chosen stays among them, so that the field shows a name.
const people = computed(() => {
  const ids = new Set([...found.value, successor.value, ...Object.values(single.value)].filter(Boolean))
  return [...ids].map(value => ({ value, name: known.value.get(value) ?? value }))
})
const successors = computed(() => [{ value: '', name: 'none: mail to their addresses is refused' }, ...people.value])
const forOne = computed(() => [{ value: '', name: REFUSED }, ...people.value])
const mail = (a: { messages: number, lastMonth: number }) =>
  `${counted(a.messages, 'message')}, ${numberWords(a.lastMonth)} in the last 30 days`

const lines = computed(() => {
  if (!stake.value) return []
  const { lists, rules, phraseSets, messages, held, requests, quarantines } = stake.value
  const own = [
    ...(lists ? [counted(lists, 'list')] : []),
    ...(rules ? [counted(rules, 'rule')] : []),
    ...(phraseSets ? [counted(phraseSets, 'phrase set')] : []),
  ]
  const goTo = successor.value ? 'go to the successor' : 'no longer work, and belong to no active user'
  return [
    own.length ? `${oneOf(own, 'and')} ${goTo}.` : 'No personal lists or rules.',
    messages
      ? `${counted(messages, 'message')}, ${numberWords(held)} of them in quarantine: ${
        successor.value ? 'the successor reads them.' : 'only administrators see them.'}`
      : 'No messages.',
    ...(requests ? [`${counted(requests, 'request')} for release without an answer.`] : []),
    ...(quarantines.length
      ? [`The only reviewer of quarantine ${oneOf(quarantines.map(quoted), 'and')}: from then on all reviewers see it.`]
      : []),
  ]
})

const deactivate = () => submit(async () => {
  const addresses = Object.entries(single.value)
    .filter(([, to]) => to !== successor.value)
    .map(([address, to]) => ({ address, successor: to || null }))
  const { eventId } = await api.deactivate(member, { successor: successor.value || null, addresses })
  notices.say(`User “${member.name}” deactivated. This can be undone for an hour.`, eventId)
  emit('done')
})
</script>

<template>
  <section
    class="deactivate"
    :aria-label="`Deactivate ${member.name}`"
  >
    <p class="small">
      {{ member.name }} is signed out and can no longer sign in. Before you decide:
    </p>
    <ReadingState
      :failure
      :ready="stake !== null"
      what="what is at stake"
      @again="load()"
    />
    <template v-if="stake">
      <ul class="small">
        <li
          v-for="line in lines"
          :key="line"
        >
          {{ line }}
        </li>
      </ul>
      <p class="row">
        <span class="small">Successor:</span>
        <ChoiceField
          v-model="successor"
          :options="successors"
          label="Successor"
          :search="searchSoon"
          :width="290"
        />
      </p>
      <table class="small">
        <thead>
          <tr><th>Address</th><th>Mail to it</th><th>Successor</th></tr>
        </thead>
        <tbody>
          <tr
            v-for="a in stake.addresses"
            :key="a.address"
          >
            <td class="mono">
              {{ a.address }}<span
                v-if="a.shared"
                class="second"
              > (shared)</span>
            </td>
            <td>{{ mail(a) }}</td>
            <td>
              <ChoiceField
                :model-value="single[a.address] ?? successor"
                :options="forOne"
                :label="`Successor for ${a.address}`"
                :search="searchSoon"
                :width="230"
                @update:model-value="(to: string) => single[a.address] = to"
              />
            </td>
          </tr>
        </tbody>
      </table>
      <p
        v-if="error"
        class="wrong"
        role="alert"
      >
        {{ error }}
      </p>
      <p class="actions">
        <PressButton
          small
          danger
          :disabled="busy"
          @click="deactivate"
        >
          {{ successor ? 'Deactivate and transfer' : 'Deactivate user' }}
        </PressButton>
        <PressButton
          plain
          small
          @click="emit('cancel')"
        >
          Cancel
        </PressButton>
        <span class="second small">Can be undone for {{ counted(UNDO_MINUTES, 'minute') }}.</span>
      </p>
    </template>
  </section>
</template>

<style scoped>
.deactivate { border-left: 3px solid var(--water); padding: 4px 12px; margin: 4px 0 8px; display: grid; gap: 6px; }
ul { margin: 0; padding-left: 18px; display: grid; gap: 2px; }
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
table { border-collapse: collapse; }
th { text-align: left; font-weight: 400; color: var(--ink-2); }
th, td { padding: 2px 16px 2px 0; vertical-align: baseline; overflow-wrap: anywhere; }
</style>
