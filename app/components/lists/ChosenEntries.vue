<script setup lang="ts">
import { counted, numberWords } from '#core/wording'
import type { PolicyChange } from '#core/change'
import { KEPT_LANES } from '#core/policy'
import { api, type EntryView } from '~/api/client'
import { MAX_SIMULATED, useImpact } from '~/composables/impact'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf } from '~/composables/whichMail'

/** What can be done with selected entries of a list: remove them, or change note or expiry. */
const { list, name, seen, entries, used = false } = defineProps<{
  /** Something follows from what is on the list. */
  used?: boolean
  list: string
  name: string
  /** In which version of the policy they were seen. */ seen: number
  entries: EntryView[]
}>()
const emit = defineEmits<{ changed: [] }>()
const notices = useNoticeStore()
const { error, fields, submit } = useForm()
const changing = ref(false)
const form = reactive({ note: '', withNote: true, expires: '', withExpiry: true })

// Of several, only what one asks for is changed: their notes are seldom the same.
function begin() {
  const [one] = entries
  const alone = entries.length === 1
  Object.assign(form, {
    note: alone ? (one!.note ?? '') : '',
    withNote: alone,
    expires: alone ? (one!.expires ?? '') : '',
    withExpiry: true,
  })
  changing.value = true
}

const say = (n: number, what: string, eventId: number | null) =>
  notices.say(`${counted(n, 'entry', 'entries')} ${what}`, eventId)

const change = () =>
  submit(async () => {
    const { changed, eventId } = await api.changeEntries(list, {
      ids: entries.map(e => e.id),
      seen,
      ...(form.withNote ? { note: form.note || null } : {}),
      ...(form.withExpiry ? { expires: form.expires || null } : {}),
    })
    changing.value = false
    say(changed, 'changed.', eventId)
    emit('changed')
  })

// What they stopped comes back with them: how much that is, is shown before they are removed.
const which = ref(allThatComes())
const changes = computed<PolicyChange[] | null>(() =>
  (used && entries.length <= MAX_SIMULATED
    ? [{ type: 'remove', kind: 'entries', list, entries: entries.map(({ kind, value }) => ({ kind, value })) }]
    : null))
const impact = useImpact(() => changes.value)
const isBack = computed(() => {
  const found = impact.impact.value
  return found !== null && found.unwantedStay + KEPT_LANES.reduce((sum, lane) => sum + found.freed[lane], 0) > 0
})
const putting = useSaveChanges(
  () => ({ changes: changes.value!, coming: true, existing: existingOf(which.value, false, impact.impact.value) }),
  (saved) => {
    work.tellSaved(saved, { words: `${entriesWords.value} removed from list “${name}”.` })
    emit('changed')
  },
  undefined,
  { ready: () => impact.settledFor(which.value) },
)
const work = useJobStore()
const entriesWords = computed(() => counted(entries.length, 'entry', 'entries'))

async function takeOut() {
  if (changes.value) return putting.put()
  try {
    const { removed, eventId } = await api.removeEntries(
      list,
      entries.map(e => e.id),
    )
    say(removed, `removed from list “${name}”.`, eventId)
    emit('changed')
  }
  catch (e) {
    notices.failed(e)
  }
}
</script>

<template>
  <template v-if="!changing">
    <PressButton
      danger
      @click="takeOut"
    >
      Remove {{ numberWords(entries.length) }}
    </PressButton>
    <PressButton
      @click="begin"
    >
      Edit note and expiry
    </PressButton>
    <div
      v-if="isBack || putting.error.value || putting.isAsking.value"
      class="removing"
    >
      <WhichMail
        v-if="isBack"
        v-model="which"
        :impact="impact.impact.value"
        only
      />
      <p
        v-if="putting.error.value"
        class="wrong"
        role="alert"
      >
        {{ putting.error.value }}
      </p>
      <ChangeQuestion
        v-if="putting.isAsking.value"
        :putting
        :yours="`Remove ${entriesWords} from list “${name}”`"
        @over="putting.putOver()"
        @load="putting.leave(); emit('changed')"
      />
    </div>
  </template>
  <form
    v-else
    class="change"
    @submit.prevent="change"
  >
    <el-checkbox
      v-if="entries.length > 1"
      v-model="form.withNote"
    >
      one note for all {{ entries.length }}
    </el-checkbox>
    <TextField
      v-if="form.withNote"
      v-model="form.note"
      label="Note"
      placeholder="reason, for colleagues"
      :width="240"
    />
    <el-checkbox
      v-if="entries.length > 1"
      v-model="form.withExpiry"
    >
      expiry
    </el-checkbox>
    <label
      v-if="form.withExpiry"
      class="until"
    >Expires <DayField
      v-model="form.expires"
      label="Expiry"
      placeholder="never"
    /></label>
    <FormFoot
      :error="error || (Object.values(fields)[0] ?? '')"
      @leave="changing = false"
    />
  </form>
</template>

<style scoped>
.removing { flex-basis: 100%; display: grid; gap: 8px; min-width: 0; }
.change { display: flex; flex-wrap: wrap; gap: 8px 14px; align-items: center; }
.until { display: flex; gap: 8px; align-items: center; }
</style>
