<script setup lang="ts">
import { numberWords } from '#core/wording'
import type { JobView } from '~/api/client'
/** A line of its own at the foot of the window: what just happened, what goes on, and else which policy is active. */
const notices = useNoticeStore()
const work = useJobStore()
const directory = useDirectoryStore()
const deactivation = useLeaving()
useKeys({ 'ctrl+z': () => void notices.undoLast() })

/** How far it is: what was moved of what is to be moved, as far as that is known. */
function progressWords({ kind, done, total, moved, expected }: JobView, words: string | null): string {
  const far = kind === 'existing' ? moved : done
  const of = kind === 'existing' ? expected : total
  const how = `${numberWords(far)}${of === null ? '' : ` of ${numberWords(of)}`}`
  return words ? `${words.replace('{n}', how).replace(/\.$/, '')}…` : `Job running: ${how}`
}
const active = computed(() => directory.data?.policy ?? null)
</script>

<template>
  <footer class="strip">
    <div
      v-for="{ job, words } in work.going"
      :key="job.id"
      class="going small"
    >
      <span>{{ progressWords(job, words) }}</span>
      <progress
        :value="job.expected === null ? job.done : job.moved"
        :max="(job.expected ?? job.total) || 1"
        :aria-label="`Done of ${job.expected ?? job.total ?? 'all'}`"
      />
      <PressButton
        plain
        small
        @click="work.stop(job.id)"
      >
        Stop
      </PressButton>
    </div>
    <div
      v-if="deactivation.asked.value !== null"
      class="notice bad"
      role="alert"
    >
      <span>Your changes on this page are not saved.</span>
      <PressButton
        plain
        @click="deactivation.leave()"
      >
        Discard changes
      </PressButton>
      <PressButton
        plain
        @click="deactivation.stay()"
      >
        Keep editing
      </PressButton>
    </div>
    <div
      v-show="deactivation.asked.value === null"
      class="said"
      role="status"
      aria-live="polite"
    >
      <div
        v-if="notices.current"
        class="notice"
        :class="{ bad: notices.current.bad }"
      >
        <span>{{ notices.current.text }}</span>
        <NuxtLink
          v-if="notices.current.link"
          :to="notices.current.link.to"
        >
          {{ notices.current.link.text }}
        </NuxtLink>
        <PressButton
          v-if="notices.current.eventId"
          plain
          @click="notices.undoEvent(notices.current.eventId)"
        >
          Undo <kbd>Ctrl Z</kbd>
        </PressButton>
        <PressButton
          plain
          aria-label="Close this notice"
          @click="notices.close()"
        >
          Close
        </PressButton>
      </div>
    </div>
    <p
      v-if="!notices.current && deactivation.asked.value === null && active?.version"
      class="second small quiet"
    >
      <WordHelp
        word="Policy version"
        term="policyVersion"
      /> <span class="numbers">{{ active.version }}</span>{{ active.since ? `, active since ${longDateTime(active.since)}` : '' }}
    </p>
  </footer>
</template>

<style scoped>
.strip {
  flex: none;
  min-height: 36px;
  padding: 0 24px;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  border-top: 1px solid var(--hairline);
  background: var(--paper);
}
.said { min-width: 0; }
.going { margin-right: 24px; }
.notice {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 10px;
  align-items: center;
  border-left: 3px solid var(--water);
  padding: 1px 0 1px 10px;
  font-size: 14px;
}
.notice.bad { border-left-color: var(--wrong); }
.going { display: flex; gap: 10px; align-items: center; }
progress { width: 120px; height: 8px; accent-color: var(--water); }
@media (max-width: 720px) { .strip { padding: 0 10px; } }
</style>
