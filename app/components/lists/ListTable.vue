<script setup lang="ts">
import { STATE_NAMES } from '#core/words'
import { counted, numberWords } from '#core/wording'
import type { ListView } from '~/api/client'
import { useSorted } from '~/composables/sortedBy'

/** All lists in a table: grouped by owner, narrowed by what is searched for, sorted by a column. */
const { lists } = defineProps<{ lists: readonly ListView[] }>()
const directory = useDirectoryStore()

const USES = [
  { value: '', name: 'All lists' },
  { value: 'block', name: 'Lists that block' },
  { value: 'allow', name: 'Lists that allow' },
  { value: 'unused', name: 'Lists without effect' },
  { value: 'findings', name: 'Lists with findings' },
]
const words = ref('')
const use = ref('')
const isUsed = (l: ListView) => l.enabled && (l.rules.length > 0 || l.assignments.some(a => a.state !== 'disabled'))
const USED: Record<string, (l: ListView) => boolean> = {
  block: l => l.assignments.some(a => a.side === 'block'),
  allow: l => l.assignments.some(a => a.side === 'allow'),
  unused: l => !isUsed(l),
  findings: l => l.findingsInAll > 0,
}
const wordsOf = (l: ListView) => [l.name, l.ownerName, ...l.assignments.map(a => a.sentence), ...l.rules].join('\n').toLowerCase()
const narrowed = computed(() => {
  const all = words.value.toLowerCase().split(/\s+/).filter(Boolean)
  return lists.filter(l => (!use.value || USED[use.value]!(l)) && all.every(w => wordsOf(l).includes(w)))
})

const marked = (l: ListView) => l.marked.wanted + l.marked.unwanted
/** What was never marked comes after all that was. */
const unwantedShare = (l: ListView) => (marked(l) ? l.marked.unwanted / marked(l) : -1)
const { sorted, sortBy, direction } = useSorted(() => narrowed.value, {
  name: l => l.name,
  assignments: l => l.assignments[0]?.sentence ?? '',
  size: l => l.size,
  hits: l => l.hits,
  unwanted: unwantedShare,
  lastHit: l => (l.lastHit ? Date.parse(l.lastHit) : 0),
  findings: l => l.findingsInAll,
}, { column: 'name', down: false })
const COLUMNS = [
  { name: 'name', title: 'Name' },
  { name: 'assignments', title: 'Assignments' },
  { name: 'size', title: 'Entries' },
  { name: 'hits', title: 'Messages matched' },
  { name: 'unwanted', title: 'Share of unwanted' },
  { name: 'lastHit', title: 'Last match' },
  { name: 'findings', title: 'Findings' },
] as const
const groups = computed(() => {
  const rank = (owner: string) => (owner === 'organisation' ? 0 : owner.startsWith('department:') ? 1 : 2)
  return [...Map.groupBy(sorted.value, l => l.owner)].sort(([a], [b]) => rank(a) - rank(b) || a.localeCompare(b))
})
const groupName = (owner: string, [first]: readonly ListView[]) =>
  (owner === 'organisation' ? 'The whole organisation' : directory.ownerName(owner) === 'me' ? 'My lists' : first!.ownerName)
const scale = computed(() => Math.max(1, ...lists.map(l => l.hits)))
const parts = (l: ListView) => ({ ...l.marked, unmarked: Math.max(0, l.hits - marked(l)) })
</script>

<template>
  <div class="narrow">
    <el-input
      v-model="words"
      class="line-field"
      placeholder="name, action, owner or rule"
      aria-label="Search lists"
      clearable
      style="width: 260px"
    />
    <ChoiceField
      v-model="use"
      :options="USES"
      label="Which lists"
      :width="190"
    />
    <span
      class="second small"
      role="status"
    >{{ counted(narrowed.length, 'list') }}</span>
    <slot />
  </div>
  <div
    class="sheet scroll"
    tabindex="0"
    role="region"
    aria-label="Table of lists"
  >
    <table>
      <thead class="small">
        <tr>
          <th
            v-for="c in COLUMNS"
            :key="c.name"
            :class="c.name"
            :aria-sort="direction(c.name)"
          >
            <button
              type="button"
              @click="sortBy(c.name)"
            >
              {{ c.title }} <span aria-hidden="true">{{ { ascending: '↑', descending: '↓', none: '' }[direction(c.name) ?? 'none'] }}</span>
            </button>
          </th>
        </tr>
      </thead>
      <tbody
        v-for="[owner, own] in groups"
        :key="owner"
      >
        <tr class="whose">
          <th
            colspan="7"
            scope="rowgroup"
          >
            {{ groupName(owner, own) }}
          </th>
        </tr>
        <tr
          v-for="l in own"
          :key="l.id"
          :class="{ off: !l.enabled }"
        >
          <td>
            <NuxtLink :to="`/lists/${l.id}`">
              {{ l.name }}
            </NuxtLink><span
              v-if="!l.enabled"
              class="second small"
            > (disabled)</span>
          </td>
          <td class="small">
            <p
              v-for="a in l.assignments"
              :key="a.id"
            >
              {{ a.sentence }}<template v-if="a.state !== 'enabled'">
                ({{ STATE_NAMES[a.state] }})
              </template>
            </p>
            <p
              v-if="l.rules.length"
              class="second"
            >
              Used in {{ rulesWords(l.rules) }}.
            </p>
            <p
              v-if="!l.assignments.length && !l.rules.length"
              class="second"
            >
              No assignment.
            </p>
          </td>
          <td class="n numbers">
            {{ numberWords(l.size) }}
          </td>
          <td class="small">
            <span class="hits"><NuxtLink
              v-if="l.hits"
              :to="{ path: '/mail', query: { touchedBy: l.id } }"
              :aria-label="`${counted(l.hits, 'message')} matched by ${l.name}`"
            >{{ numberWords(l.hits) }}</NuxtLink><span
              v-else
              class="second"
            >none yet</span><ImpactBar
              :impact="parts(l)"
              :scale
              bare
            /></span>
          </td>
          <td class="small">
            <MarkCounts
              v-bind="l.marked"
              short
              :blocks="l.usualSide === 'block'"
            /><span
              v-if="!marked(l)"
              class="second"
            >none marked</span>
          </td>
          <td class="small second">
            {{ l.lastHit ? shortWhen(l.lastHit) : 'never' }}
          </td>
          <td class="n">
            <NuxtLink
              v-if="l.findingsInAll"
              :to="`/lists/${l.id}`"
              class="warn"
              :aria-label="`${counted(l.findingsInAll, 'finding')} in ${l.name}`"
            >
              {{ l.findingsInAll }}
            </NuxtLink>
          </td>
        </tr>
      </tbody>
    </table>
    <p
      v-if="!narrowed.length"
      class="second none"
    >
      No lists match.
    </p>
  </div>
</template>

<style scoped>
.narrow { display: flex; flex-wrap: wrap; gap: 4px 12px; align-items: start; }
.narrow > span { padding-top: 7px; }
.narrow > :last-child { margin-left: auto; }
.scroll { overflow-x: auto; }
table { width: 100%; border-collapse: collapse; font-size: 14px; }
thead th { text-align: left; border-bottom: 1px solid var(--hairline); padding: 0; vertical-align: bottom; }
thead button {
  border: 0;
  background: none;
  font: inherit;
  color: var(--ink-2);
  padding: 7px 10px;
  text-align: left;
  cursor: pointer;
  min-height: 34px;
}
thead button:hover { color: var(--ink); text-decoration: underline; }
[aria-sort] button { color: var(--ink); font-weight: 700; }
td, .whose th { padding: 7px 10px; border-bottom: 1px solid var(--hairline); vertical-align: baseline; }
.whose th { text-align: left; padding-top: 16px; font: 600 15px/1.3 var(--heading); }
td:first-child { min-width: 150px; font-weight: 600; }
td:nth-child(2) { min-width: 250px; }
td:nth-child(4) { min-width: 170px; --bar: 96px; }
td:nth-child(5) { min-width: 160px; }
.hits { display: grid; grid-template-columns: 48px auto; align-items: center; }
td:nth-child(6) { white-space: nowrap; }
.n, .size, .findings { text-align: right; }
.size button, .findings button { text-align: right; }
.off td { color: var(--ink-2); }
.none { padding: 24px; }
</style>
