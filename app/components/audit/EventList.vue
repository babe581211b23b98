<script setup lang="ts">
import { dayWords, timeWords } from '#core/wording'
import type { AuditEventView } from '~/api/client'

/** Events of the audit log: who did what, what it was about, and Undo where that can be done. */
const { events, dated = false } = defineProps<{
  events: readonly AuditEventView[]
  /** The day stands in each row, and not above those of a day. */
  dated?: boolean
}>()
const notices = useNoticeStore()
const days = computed(() => (dated ? [['', [...events]] as const] : [...Map.groupBy(events, e => dayWords(e.at))]))
</script>

<template>
  <section
    v-for="[day, own] in days"
    :key="day"
    :class="{ sheet: !dated }"
  >
    <h2 v-if="day">
      {{ day }}
    </h2>
    <ul>
      <li
        v-for="event in own"
        :key="event.id"
        :class="{ dated }"
      >
        <span
          class="second numbers"
          :title="`${dayWords(event.at)}, ${timeWords(event.at)}`"
        >{{ dated ? shortWhen(event.at) : timeWords(event.at) }}</span>
        <div>
          <p>
            <strong>{{ event.by ?? 'Sober Gate' }}</strong> <span :class="{ undone: event.undoneBy }">{{ event.words }}</span><span
              v-if="event.version"
              class="second small"
            > · version {{ event.version }}</span><span
              v-if="event.undoneBy"
              class="second small"
            > · undone</span>
          </p>
          <div
            v-for="(target, i) in event.about.targets"
            :key="i"
            class="small"
          >
            <NuxtLink
              v-if="target.to"
              :to="target.to"
            >
              {{ target.name }}
            </NuxtLink>
            <span
              v-else
              class="second"
            >{{ target.name }}</span>
            <dl v-if="target.before !== undefined">
              <dt>Before</dt>
              <dd>{{ target.before ?? 'did not exist' }}</dd>
              <dt>After</dt>
              <dd>{{ target.after ?? 'deleted' }}</dd>
            </dl>
          </div>
          <p
            v-if="event.about.more"
            class="second small"
          >
            and {{ event.about.more }} more
          </p>
        </div>
        <PressButton
          v-if="event.canUndo"
          plain
          small
          @click="notices.undoEvent(event.id)"
        >
          Undo
        </PressButton>
      </li>
    </ul>
  </section>
</template>

<style scoped>
section.sheet { padding: 14px 20px; }
ul { list-style: none; margin: 6px 0 0; padding: 0; }
li {
  display: grid;
  grid-template-columns: 52px minmax(0, 1fr) auto;
  gap: 12px;
  padding: 6px 0;
  border-top: 1px solid var(--hairline);
  align-items: baseline;
  min-height: 38px;
}
li.dated { grid-template-columns: 70px minmax(0, 1fr) auto; }
p { overflow-wrap: anywhere; }
.undone { text-decoration: line-through; }
dl { display: grid; grid-template-columns: 52px minmax(0, 1fr); gap: 0 10px; margin: 2px 0 4px; }
dt { color: var(--ink-2); }
dd { margin: 0; overflow-wrap: anywhere; }
</style>
