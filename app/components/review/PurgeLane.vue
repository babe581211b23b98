<script setup lang="ts">
import { LANE_NAMES } from '#core/words'
import { counted, plural } from '#core/wording'
import { api } from '~/api/client'

/** Permanent deletion: of all messages in a location, or of those from the chosen sender. */
const emit = defineEmits<{ leave: [] }>()
const review = useReviewStore()
const work = useJobStore()
const { error, busy, submit } = useForm()
const said = ref('')
// At the foot of a long list: it comes into view.
const form = useTemplateRef<HTMLElement>('form')
onMounted(() => form.value?.querySelector<HTMLElement>('input[aria-label]')?.focus())
const lane = computed(() => (review.place.lane === 'spam' ? 'spam' as const : 'bin' as const))
const where = computed(() => LANE_NAMES[lane.value])
const one = computed(() => (review.place.by === 'sender' && review.group?.sender ? { ...review.group, sender: review.group.sender } : null))
const onlyOne = ref(false)
// Exact up to a number that nobody would type.
const lies = ref<number | null>(null)
watch([onlyOne, () => review.total], async () => {
  lies.value = null
  try {
    const { total } = await api.copyCount({ lane: [lane.value], ...(onlyOne.value && one.value ? { sender: one.value.sender } : {}) })
    lies.value = total
  }
  catch (e) {
    error.value = e instanceof Error ? e.message : String(e)
  }
}, { immediate: true })
const likely = computed(() => (onlyOne.value && one.value ? one.value.likelyWanted : (review.here?.likely ?? 0)))

const session = useSessionStore()
const ofAll = computed(() => {
  const n = lies.value
  if (n === null) return ''
  const whose = session.can('read all mail') ? 'of all users' : 'in your mailbox'
  return `This deletes ${counted(n, 'message')} ${whose}. Type ${n} to confirm:`
})

const erase = () => submit(async () => {
  const senders = onlyOne.value && one.value ? [one.value.sender] : undefined
  const { job, eventId } = await api.empty({ lane: lane.value, senders, count: Number(said.value) })
  work.follow(job, { eventId, words: `Permanently deleted {n} from ${where.value}.`, ended: () => void review.load() })
  emit('leave')
}, /^\d+$/.test(said.value.trim()) ? {} : { count: 'Type the number of messages.' })
</script>

<template>
  <form
    ref="form"
    class="empty"
    @submit.prevent="erase"
  >
    <p class="small">
      Permanently deleted messages cannot be restored, not even by an administrator. Messages with an open release request are kept.
    </p>
    <p
      v-if="one"
      class="small"
    >
      <el-checkbox v-model="onlyOne">
        only messages from {{ cutMiddle(one.sender, 24) }}, verified or not
      </el-checkbox>
    </p>
    <p
      v-if="likely"
      class="small warn"
    >
      {{ counted(likely, 'message') }} {{ plural(likely, 'is', 'are') }} probably wanted. Check {{ plural(likely, 'it', 'them') }} first.
    </p>
    <p class="small row">
      <span>{{ ofAll }} </span><TextField
        v-model="said"
        label="Number of messages"
        :width="70"
        code
      />
    </p>
    <p
      v-if="error"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
    <div class="actions">
      <PressButton
        danger
        small
        type="submit"
        :disabled="busy || !said.trim()"
      >
        Delete permanently
      </PressButton>
      <PressButton
        plain
        small
        @click="emit('leave')"
      >
        Cancel
      </PressButton>
    </div>
  </form>
</template>

<style scoped>
.empty { display: grid; grid-template-columns: minmax(0, 1fr); gap: 6px; }
.el-checkbox { height: auto; white-space: normal; }
.row { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
</style>
