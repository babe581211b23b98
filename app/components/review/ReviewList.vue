<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { LANE_NAMES } from '#core/words'
import { capitalised, counted, numberWords } from '#core/wording'
import type { ReviewPlaceView } from '~/api/client'

const review = useReviewStore()
const directory = useDirectoryStore()

const valueOf = (p: Pick<ReviewPlaceView, 'lane' | 'quarantine'>) => `${p.lane}/${p.quarantine ?? ''}`
const options = computed(() => (review.places ?? []).map(p => ({ value: valueOf(p), name: nameOf(p) })))
function nameOf({ name, copies, lane, own }: ReviewPlaceView): string {
  const title = lane === 'quarantine' ? `${own ? 'Your mail in quarantine' : 'Quarantine'} “${name}”` : name
  return copies ? `${title} (${numberWords(copies)})` : title
}
const chosen = computed({
  get: () => valueOf({ lane: review.place.lane, quarantine: review.place.quarantine ?? null }),
  set(value) {
    const to = review.places?.find(p => valueOf(p) === value)
    if (to) void review.load({ ...review.place, lane: to.lane, quarantine: to.quarantine })
  },
})
const by = computed({
  get: () => review.place.by,
  set: to => void review.load({ ...review.place, by: to }),
})
const GROUPINGS = [
  { value: 'clause' as const, name: 'list or rule' },
  { value: 'sender' as const, name: 'sender' },
  { value: 'subject' as const, name: 'subject' },
]
const sentence = computed(() => {
  const { total, here } = review
  if (!total) return review.place.words ? 'No messages with these words.' : 'No messages to review.'
  const groups = review.groups.length + review.more
  const waits = `${numberWords(total)} to review in ${counted(groups, 'group')}`
  return here?.oldest && !review.place.words ? `${waits}; oldest: ${shortWhen(here.oldest)}` : waits
})
const THEN: Record<ReviewPlaceView['then'], string> = { erase: 'deleted permanently', release: 'released', bin: 'moved to Bin' }
const leaving = computed(() => {
  const { here } = review
  if (!here?.soon) return ''
  return `${numberWords(here.soon)} of all ${counted(here.all, 'message')} here will be ${THEN[here.then]} within 7 days`
})
const words = ref(review.place.words ?? '')
watch(() => review.place.words, now => (words.value = now ?? ''))
const search = useDebounceFn(() => void review.load({ ...review.place, words: words.value.trim() || undefined }), 250)
const isOn = (key: string) => review.going?.kind === 'group' && review.going.key === key
const purging = ref(false)
</script>

<template>
  <section
    class="queue"
    aria-label="Messages to review"
  >
    <header>
      <div class="choices">
        <ChoiceField
          v-model="chosen"
          :options
          label="Location"
          :width="null"
        />
        <span class="second small">Group by</span>
        <ChoiceField
          v-model="by"
          :options="GROUPINGS"
          label="Group by"
          :width="150"
        />
      </div>
      <el-input
        v-model="words"
        clearable
        placeholder="Search these messages"
        aria-label="Search messages to review"
        @input="search"
        @clear="search"
      />
      <p class="second small">
        {{ sentence }}
      </p>
      <p
        v-if="directory.data && !directory.data.authenticator"
        class="small second"
      >
        No sender can be verified at present. So no message is ranked by its sender.
      </p>
      <p
        v-if="leaving"
        class="small"
      >
        <PressButton
          plain
          small
          :aria-pressed="review.going?.kind === 'soon'"
          @click="review.go({ kind: 'soon' })"
        >
          {{ leaving }}
        </PressButton>
      </p>
      <p
        v-if="review.total > 5"
        class="small"
      >
        <PressButton
          plain
          small
          :aria-pressed="review.going?.kind === 'informative'"
          @click="review.go({ kind: 'informative' })"
        >
          Mark 5 sample messages
        </PressButton>
      </p>
    </header>
    <p
      v-if="review.state === 'reading'"
      class="second pad"
    >
      Loading…
    </p>
    <ol
      v-else
      class="groups"
    >
      <li
        v-for="g in review.groups"
        :key="g.key"
      >
        <button
          type="button"
          class="group"
          :class="{ on: isOn(g.key) }"
          :aria-current="isOn(g.key) ? 'true' : undefined"
          @click="review.go({ kind: 'group', key: g.key })"
        >
          <span class="top"><strong>{{ g.sender ? cutMiddle(g.sender, 28) : capitalised(g.words) }}</strong>
            <span class="numbers second">{{ numberWords(g.copies) }}</span></span>
          <span
            v-if="g.sender && !g.verified"
            class="small"
          >not verified: may be forged</span>
          <span class="second small">{{ counted(g.recipients, 'recipient') }}{{
            g.why ? ` · ${g.why}` : ''
          }}</span>
          <span
            v-if="g.likelyWanted"
            class="small warn"
          >{{ counted(g.likelyWanted, 'likely mistake') }}, listed first</span>
        </button>
      </li>
    </ol>
    <p
      v-if="review.more"
      class="second small pad"
    >
      and {{ counted(review.more, 'smaller group') }}
    </p>
    <RequestAnswers />
    <footer v-if="(review.place.lane === 'bin' || review.place.lane === 'spam') && review.total">
      <PurgeLane
        v-if="purging"
        @leave="purging = false"
      />
      <PressButton
        v-else
        plain
        small
        danger
        @click="purging = true"
      >
        Empty {{ LANE_NAMES[review.place.lane] }}…
      </PressButton>
    </footer>
  </section>
</template>

<style scoped>
.queue { display: flex; flex-direction: column; min-height: 0; overflow-y: auto; }
header { padding: 14px 14px 12px; display: grid; gap: 5px; border-bottom: 1px solid var(--hairline); }
header .press { margin-left: -5px; text-align: left; }
.choices { display: flex; flex-wrap: wrap; gap: 4px 6px; align-items: center; }
.groups { list-style: none; margin: 0; padding: 0; }
.group {
  display: grid;
  gap: 2px;
  width: 100%;
  padding: 11px 14px;
  border: 1px solid transparent;
  border-bottom-color: var(--hairline);
  background: none;
  text-align: left;
  cursor: pointer;
}
.group:hover { background: var(--hover); }
.group:focus-visible { outline-offset: -3px; }
.group.on { background: var(--chosen); border-color: var(--water); }
.top { display: flex; justify-content: space-between; gap: 10px; align-items: baseline; }
.top strong { overflow-wrap: anywhere; min-width: 0; }
.pad { padding: 12px 14px; }
footer { padding: 12px 14px; margin-top: auto; border-top: 1px solid var(--hairline); }
</style>
