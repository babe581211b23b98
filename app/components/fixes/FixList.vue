<script setup lang="ts">
import { numberWords } from '#core/wording'
import { isWhole } from '#core/simulate'
import { api, type FixView, type TogetherView } from '~/api/client'
import { soFarWords } from '~/composables/impactWords'

/** The changes that would put copies right that went wrong, the best first, each saved or asked for in one press. */
const { ids, likely = false, release = '', doubted = false } = defineProps<{
  ids: number[]
  /** Nothing verified the sender of some of them. */
  doubted?: boolean
  /** How just these messages are let in, as its button says; empty where that is not possible. */
  release?: string
  /** They are likely mistakes: looked into by itself, once somebody stays with them. */
  likely?: boolean
}>()
const emit = defineEmits<{ fixed: [], /** Just these messages are to be let in. */ release: [] }>()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const work = useJobStore()
const { found, reading, failure, about, look: lookAt, leave } = useFixes()
const offers = useTemplateRef<HTMLElement>('offers')

const LINGERS = 700
let timer: ReturnType<typeof setTimeout> | undefined
watch([() => ids.join(), () => likely], () => {
  clearTimeout(timer)
  if (about.value !== ids.join()) leave()
  if (ids.length && likely) timer = setTimeout(() => void lookAt(ids), LINGERS)
}, { immediate: true })
onUnmounted(() => clearTimeout(timer))

/** Looks for fixes now, and puts the focus on the first of them. */
async function look() {
  if (!ids.length) return
  clearTimeout(timer)
  await lookAt(ids)
  await nextTick()
  offers.value?.querySelector<HTMLElement>('button:not(:disabled)')?.focus()
}
defineExpose({ look })

/** The best ones; the rest where it is asked for. */
const MAX_OFFERED = 4
const all = ref(false)
watch(about, () => (all.value = false))
const offered = computed(() => (found.value ?? []).slice(0, all.value ? 20 : MAX_OFFERED))
/** Every change opens the way for anybody’s mail, or there is none: to let in just these messages comes first. */
const onlyThese = computed(() => release !== '' && !reading.value && (found.value?.length === 0 || found.value?.[0]?.opens !== undefined))
const onlyWords = computed(() => {
  if (found.value?.length) return 'Each of these changes would also let in mail that nothing verifies.'
  return doubted
    ? 'Any change of lists or rules would also let in mail that nothing verifies.'
    : 'No change of lists or rules would fix this.'
})
/** All mail was looked at: before, none of them is the best, and none can be applied. */
const isKnown = computed(() => !reading.value && (found.value ?? []).every(m => isWhole(m.impact)))
const scale = computed(() => Math.max(1, ...offered.value.map(m => m.moved.wanted + m.moved.unwanted + m.moved.unmarked)))
const fixing = ref(false)
const chosen = shallowRef<FixView | TogetherView | null>(null)
/** Where one fix does not do it alone: those that do most together. */
const cover = computed(() => {
  const members = isKnown.value ? (found.value ?? []).filter(m => m.inCover) : []
  return members.length > 1 ? members : []
})
const isTogether = computed(() => chosen.value !== null && !('kind' in chosen.value))
const aboutIds = ref<number[]>([])

const putting = useSaveChanges(
  () => ({
    base: chosen.value!.base,
    changes: chosen.value!.changes,
    coming: true,
    note: shortened(chosen.value!.sentence),
    existing: {
      lanes: chosen.value!.should === 'delivered' ? ['spam', 'quarantine', 'bin'] : ['inbox', 'lowPriority'],
      ids: aboutIds.value,
    },
  }),
  ({ eventId, job }) => {
    const { sentence, should } = chosen.value!
    const moved = should === 'delivered' ? 'Moved {n} to Inbox.' : 'Moved {n} out of Inbox.'
    const words = `Saved: ${shortened(sentence)}. ${moved}`
    leave()
    void directory.load()
    if (job === null) {
      notices.say('Nothing to save: this was already saved.')
      return emit('fixed')
    }
    work.follow(job, { eventId, words, ended: () => emit('fixed') })
  },
)
const { isAsking, error: putError } = putting

/** On what somebody else saved meanwhile, they are others. */
async function again() {
  putting.leave()
  await directory.load()
  leave()
  await lookAt(ids)
}

/** A note has room for so much. */
const MAX_NOTE = 400
const shortened = (text: string) => (text.length > MAX_NOTE ? `${text.slice(0, MAX_NOTE - 1)}…` : text)

/** Puts a fix active and the copies right; what is not one's own to change is asked for. */
async function fix(one: FixView | TogetherView) {
  if (fixing.value) return
  chosen.value = one
  aboutIds.value = [...ids]
  fixing.value = true
  putting.leave()
  try {
    if (one.permission === 'ask') await ask(one)
    else await putting.put()
  }
  finally {
    fixing.value = false
  }
}
async function ask({ base, changes, sentence }: FixView | TogetherView) {
  const them = aboutIds.value.length === 1 ? 'it' : 'them'
  try {
    const { eventId } = await api.propose({ base, changes, note: shortened(`This would fix ${them}: ${sentence}.`), ids: aboutIds.value })
    const words = 'Proposed. The answer appears under Proposals.'
    notices.say(words, eventId, { to: '/proposals', text: 'Open proposal' })
  }
  catch (error) {
    notices.failed(error)
  }
}
</script>

<template>
  <section class="fixes">
    <h2>Prevent this from happening again</h2>
    <p class="second small">
      <WordHelp
        word="Suggested fixes"
        term="fix"
      />, least harm for each fixed message first. Apply saves the change and moves the affected messages; one Undo reverts both.
    </p>
    <p v-if="!found && !reading && !failure">
      <PressButton
        small
        :disabled="!ids.length"
        @click="look"
      >
        Suggest fixes <kbd>M</kbd>
      </PressButton>
    </p>
    <p
      v-if="reading"
      class="second small"
      role="status"
    >
      {{ found?.length ? `Checking all mail… ${soFarWords(found[0]!.impact)}. The order follows.` : 'Checking all mail…' }}
    </p>
    <p
      v-if="failure"
      class="wrong"
      role="alert"
    >
      {{ failure }}
    </p>
    <p
      v-if="found && !found.length && !reading && !onlyThese"
      class="second small"
    >
      No change of lists or rules would fix this.
    </p>
    <div
      v-if="onlyThese"
      class="only"
    >
      <p class="small">
        {{ onlyWords }}
      </p>
      <PressButton
        first
        small
        @click="emit('release')"
      >
        {{ release }}
      </PressButton>
    </div>
    <div
      v-if="found?.length"
      ref="offers"
    >
      <FixCover
        v-if="cover.length"
        :ids
        :members="cover"
        :busy="fixing"
        @apply="fix"
      >
        <ChangeQuestion
          v-if="isAsking && isTogether"
          :putting
          :yours="chosen!.sentence"
          @over="putting.putOver()"
          @load="again"
        />
        <p
          v-if="putError && isTogether"
          class="wrong"
          role="alert"
        >
          {{ putError }}
        </p>
      </FixCover>
      <ol>
        <li
          v-for="(m, i) in offered"
          :key="m.sentence"
        >
          <span class="numbers second">{{ isKnown ? i + 1 : '' }}</span>
          <div class="what">
            <p><strong>{{ m.sentence }}</strong></p>
            <p class="second small">
              {{ m.why }}
            </p>
            <ImpactBar
              :impact="m.moved"
              :scale
              empty="no other mail"
            />
          </div>
          <PressButton
            :first="i === 0 && !m.opens && m.publicProvider === undefined && isKnown && !cover.length"
            small
            :disabled="fixing || !isKnown"
            @click="fix(m)"
          >
            {{ m.permission === 'own' ? 'Apply' : 'Propose' }}
          </PressButton>
          <ChangeQuestion
            v-if="isAsking && chosen === m"
            class="question"
            :putting
            :yours="m.sentence"
            @over="putting.putOver()"
            @load="again"
          />
          <p
            v-if="putError && chosen === m"
            class="wrong question"
            role="alert"
          >
            {{ putError }}
          </p>
        </li>
      </ol>
    </div>
    <p v-if="found && found.length > offered.length">
      <PressButton
        plain
        small
        @click="all = true"
      >
        Show {{ numberWords(found.length - offered.length) }} more, with more side effects
      </PressButton>
    </p>
  </section>
</template>

<style scoped>
.fixes { display: grid; gap: 8px; }
ol { list-style: none; margin: 0; padding: 0; }
li {
  display: grid;
  grid-template-columns: 14px minmax(0, 1fr) auto;
  gap: 8px;
  padding: 11px 0;
  border-top: 1px solid var(--hairline);
  align-items: start;
}
.only { display: grid; gap: 8px; justify-items: start; padding: 4px 0 11px; }
.what { display: grid; gap: 2px; --bar: 84px; }
.what strong { overflow-wrap: anywhere; }
.question { grid-column: 1 / -1; }
</style>
