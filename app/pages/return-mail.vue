<script setup lang="ts">
import { capitalised, counted, numberWords, oneOf } from '#core/wording'
import { laneInSentence } from '#core/words'
import { api, type ReturnPreview, type ReturnForm } from '~/api/client'

definePageMeta({ title: 'Return mail' })

/** What a list or a rule took by mistake, returned. */
const route = useRoute()
const notices = useNoticeStore()
const work = useJobStore()
const directory = useDirectoryStore()
const { error, busy, submit } = useForm()
const clause = computed<ReturnForm['clause']>(() => ({
  kind: route.query.kind === 'list' ? 'list' : 'rule',
  id: String(route.query.id ?? ''),
}))
const after = ref('')
const before = ref('')
const seen = shallowRef<ReturnPreview | null>(null)
const done = ref(false)

// The day that is named belongs to it.
const DAY = 24 * 3600_000
const form = computed<ReturnForm>(() => ({
  clause: clause.value,
  ...(after.value ? { after: after.value } : {}),
  ...(before.value ? { before: new Date(new Date(before.value).getTime() + DAY).toISOString() } : {}),
}))
let asked = 0
async function look() {
  const mine = ++asked
  try {
    const found = await api.previewReturn(form.value)
    if (mine !== asked) return
    seen.value = found
    error.value = ''
  }
  catch (e) {
    if (mine === asked) error.value = e instanceof Error ? e.message : String(e)
  }
}
onMounted(look)
watch([after, before], look)

const give = () => submit(async () => {
  const { eventId, job } = await api.returnMail(form.value)
  done.value = true
  notices.say(`${capitalised(seen.value!.words)} is disabled.`, eventId)
  if (job !== null) work.follow(job, { eventId, words: `Returned {n} that ${seen.value!.words} had stopped.`, ended: look })
  await directory.load()
})
const all = computed(() => (seen.value?.goes ?? []).reduce((n, g) => n + g.copies, 0))
const stays = computed(() => {
  if (!seen.value) return ''
  const { markedUnwanted, byHand, looked } = seen.value
  const without = looked - all.value
  const parts = [
    ...(markedUnwanted ? [`${numberWords(markedUnwanted)} marked unwanted`] : []),
    ...(byHand ? [`${numberWords(byHand)} moved by hand`] : []),
    ...(without ? [`${numberWords(without)} also stopped by another list or rule`] : []),
  ]
  return parts.length ? oneOf(parts, 'and') : ''
})
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>Return the mail that {{ seen?.words ?? 'it' }} stopped</h1>
        <p class="second">
          {{ capitalised(seen?.words ?? 'it') }} is disabled, and each message is moved to where it would be without it, by today’s
          other lists and rules.
        </p>
      </div>
    </div>
    <section class="sheet giving">
      <p class="row">
        Received since <DayField
          v-model="after"
          label="Since"
          placeholder="the beginning"
        /> until <DayField
          v-model="before"
          label="Until"
          placeholder="now"
        /> <span class="second small">empty: all messages</span>
      </p>
      <p
        v-if="error"
        class="wrong"
        role="alert"
      >
        {{ error }}
      </p>
      <p
        v-if="!seen && !error"
        class="second"
      >
        Loading messages…
      </p>
      <template v-if="seen">
        <p class="big">
          It stopped {{ counted(seen.took, 'message') }}<template v-if="!all">
            ; none of them would be moved
          </template>.
        </p>
        <ul v-if="all">
          <li
            v-for="g in seen.goes"
            :key="`${g.lane} ${g.quarantine}`"
          >
            <LaneIcon
              :lane="g.lane"
              name=""
            /> {{ counted(g.copies, 'message') }} to {{ laneInSentence(g.lane, g.quarantine, directory.names) }}
          </li>
        </ul>
        <p
          v-if="stays"
          class="small"
        >
          Not moved: {{ stays }}.
        </p>
        <ul
          v-if="seen.sample.length"
          class="sample small"
        >
          <li
            v-for="c in seen.sample"
            :key="c.id"
          >
            <span class="second">{{ shortWhen(c.receivedAt) }}</span> {{ c.subject || 'no subject' }}
            <span class="second">{{ cutMiddle(c.sender) }}, for {{ c.recipientName }}</span>
          </li>
        </ul>
        <template v-if="seen.gone.length">
          <h2>What cannot be returned</h2>
          <p class="small second">
            These messages were refused, discarded or deleted permanently. Ask the senders to send them again.
          </p>
          <ul class="sample small">
            <li
              v-for="g in seen.gone"
              :key="g.sender"
            >
              <span class="mono">{{ g.sender || 'no sender' }}</span> <span class="second">{{ counted(g.copies, 'message') }}</span>
            </li>
          </ul>
        </template>
        <div
          v-if="!done"
          class="actions"
        >
          <PressButton
            first
            :disabled="busy"
            @click="give"
          >
            {{ all ? `Disable it and return ${counted(all, 'message')}` : 'Disable it' }}
          </PressButton>
          <NuxtLink :to="clause.kind === 'rule' ? `/rules/${clause.id}` : '/lists'">
            Cancel
          </NuxtLink>
        </div>
      </template>
    </section>
  </div>
</template>

<style scoped>
.giving { padding: 18px 22px; display: grid; gap: 12px; max-width: 860px; }
.row { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
.big { font-size: 17px; }
ul { list-style: none; margin: 0; padding: 0; display: grid; gap: 5px; }
.sample li { border-top: 1px solid var(--hairline); padding: 4px 0; overflow-wrap: anywhere; }
</style>
