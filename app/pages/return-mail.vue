<script setup lang="ts">
import { oneOf } from '#core/kinds'
import { laneInSentence } from '#core/words'
import { api, type ReturnPreview, type ReturnForm } from '~/api/client'

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
  notices.say(`${seen.value!.words.replace(/^the/, 'The')} is off, and what it took is given back.`, eventId)
  if (job !== null) work.follow(job, { eventId, words: `Gave {n} back that ${seen.value!.words} took.`, ended: look })
  await directory.load()
})
const all = computed(() => (seen.value?.goes ?? []).reduce((n, g) => n + g.copies, 0))
const stays = computed(() => {
  if (!seen.value) return ''
  const { markedUnwanted, byHand, looked } = seen.value
  const without = looked - all.value
  const parts = [
    ...(markedUnwanted ? [`${markedUnwanted.toLocaleString('en')} judged unwanted`] : []),
    ...(byHand ? [`${byHand.toLocaleString('en')} that somebody moved by hand`] : []),
    ...(without ? [`${without.toLocaleString('en')} that would lie there without it, too`] : []),
  ]
  return parts.length ? oneOf(parts, 'and') : ''
})
const counted = (n: number) => (n === 1 ? 'one message' : `${n.toLocaleString('en')} messages`)
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>Give back what {{ seen?.words ?? 'it' }} took</h1>
        <p class="second">
          Each message goes where it would have gone without it, by the lists and rules of now; and it is switched off.
        </p>
      </div>
    </div>
    <section class="sheet giving">
      <p class="row">
        What came since <DayField
          v-model="after"
          label="Since"
          placeholder="ever"
        /> until <DayField
          v-model="before"
          label="Until"
          placeholder="now"
        /> <span class="second small">empty is all of it</span>
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
        Looking at what it took …
      </p>
      <template v-if="seen">
        <p class="big">
          It took {{ counted(seen.took) }} that {{ seen.took === 1 ? 'lies' : 'lie' }} here<template v-if="!all">
            ; none of it would go elsewhere
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
            /> {{ counted(g.copies) }} would go to {{ laneInSentence(g.lane, g.quarantine, directory.names) }}
          </li>
        </ul>
        <p
          v-if="seen.looked < seen.took - seen.markedUnwanted - seen.byHand"
          class="small second"
        >
          Counted among the newest {{ seen.looked.toLocaleString('en') }}; all of it is given back.
        </p>
        <p
          v-if="stays"
          class="small"
        >
          Where they are stay {{ stays }}.
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
          <h2>What cannot be brought back</h2>
          <p class="small second">
            It was refused, dropped or erased: only the record is here. These senders may write again.
          </p>
          <ul class="sample small">
            <li
              v-for="g in seen.gone"
              :key="g.sender"
            >
              <span class="mono">{{ g.sender || 'no sender' }}</span> <span class="second">{{ counted(g.copies) }}</span>
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
            {{ all ? `Switch it off and give ${all === 1 ? 'it' : `the ${all.toLocaleString('en')}`} back` : 'Switch it off' }}
          </PressButton>
          <NuxtLink :to="clause.kind === 'rule' ? `/rules/${clause.id}` : '/lists'">
            Leave it
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
