<script setup lang="ts">
import { api, type CopyDetail, type CopyView } from '~/api/client'

/** Some of the mail that a change is about, the worst first; each opens in its place. */
const { sample, label = 'Examples, likely mistakes first' } = defineProps<{ sample: readonly CopyView[], label?: string }>()
const open = ref<CopyDetail | null>(null)
const asked = ref<number | null>(null)
/** The one that is open, and where it is shown. */
let place: { at: number, copy: CopyView } | null = null
const failure = ref('')

/** While mail is still being counted the worst change: what somebody reads stays where it is. */
const shown = computed(() => {
  if (asked.value === null || !place || sample.some(c => c.id === asked.value)) return sample
  return sample.toSpliced(place.at, 0, place.copy)
})

async function toggle({ id }: CopyView, at: number) {
  if (asked.value === id) {
    asked.value = null
    open.value = null
    return
  }
  place = { at, copy: shown.value[at]! }
  asked.value = id
  open.value = null
  failure.value = ''
  try {
    const found = await api.copy(id)
    if (asked.value === id) open.value = found
  }
  catch (error) {
    if (asked.value === id) failure.value = error instanceof Error ? error.message : String(error)
  }
}
</script>

<template>
  <div v-if="sample.length">
    <h3 class="small second">
      {{ label }}
    </h3>
    <ul>
      <li
        v-for="(c, i) in shown"
        :key="c.id"
      >
        <button
          type="button"
          class="line"
          :aria-expanded="asked === c.id"
          @click="toggle(c, i)"
        >
          <LaneIcon
            :lane="c.lane"
            quiet
          /> <span class="who">{{ c.senderName || c.sender || 'no sender' }}</span>
          <span class="what second">{{ c.subject || 'no subject' }}</span>
          <span
            v-if="c.judgement"
            class="small"
            :class="{ warn: c.judgement === 'wanted' }"
          >{{ c.judgement }}</span>
          <span
            v-else-if="c.opened"
            class="small second"
          >opened</span>
        </button>
        <div
          v-if="asked === c.id"
          class="in-place small"
          role="group"
          aria-label="Opened message"
        >
          <p
            v-if="failure"
            class="wrong"
          >
            {{ failure }}
          </p>
          <p
            v-else-if="!open"
            class="second"
          >
            Loading…
          </p>
          <template v-else>
            <p class="second">
              to {{ c.recipientName }} · {{ longDateTime(c.receivedAt) }}
            </p>
            <MessageText
              :attachments="open.facts.attachments"
              :headers="open.facts.headers"
              :segments="open.facts.segments"
              :reasons="open.reasons"
              :lit="null"
              with-subject
            />
          </template>
        </div>
      </li>
    </ul>
  </div>
</template>

<style scoped>
h3 { font-family: var(--text); font-weight: 400; margin: 0 0 2px; }
ul { list-style: none; margin: 0; padding: 0; font-size: 14px; }
li { border-bottom: 1px solid var(--hairline); }
.line {
  display: grid;
  grid-template-columns: 14px minmax(60px, 34%) 1fr auto;
  gap: 8px;
  align-items: center;
  width: 100%;
  padding: 4px 0;
  border: 0;
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.line:hover { background: var(--hover); }
.who, .what { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; }
.in-place { max-height: 220px; overflow-y: auto; padding: 2px 0 8px 22px; overflow-wrap: anywhere; }
</style>
