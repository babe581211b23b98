<script setup lang="ts">
import { markedWords } from '~/composables/impactWords'
import { STATE_NAMES } from '#core/words'
import { departmentIn, isPersonal, ruleStops } from '#core/policy'
import { VueDraggable } from 'vue-draggable-plus'
import { api, type RuleView } from '~/api/client'

definePageMeta({ title: 'Rules' })

const notices = useNoticeStore()
const directory = useDirectoryStore()
const { data, failure, load } = useReading(api.rules)
afterUndo(load)
const rules = computed(() => data.value?.items)
const words = ref('')
const ofGroup = ref('')
const named = computed(() => [...new Set((rules.value ?? []).flatMap(r => r.group ?? []))].sort((a, b) => a.localeCompare(b)))
const groupOptions = computed(() => [{ value: '', name: 'All groups' }, ...named.value.map(g => ({ value: g, name: g }))])
const narrowed = computed(() => words.value.trim() !== '' || ofGroup.value !== '')
const fits = (r: RuleView) => {
  const wanted = words.value.trim().toLowerCase()
  const text = [r.name, r.sentence, r.description, r.group].join(' ').toLowerCase()
  return (!wanted || text.includes(wanted)) && (!ofGroup.value || r.group === ofGroup.value)
}
const shown = computed(() => (rules.value ?? []).filter(fits))

// In the order in which they count: mandatory rules of the organisation first, a person's own, departments, the organisation.
const TIERS: [string, (r: RuleView) => boolean][] = [
  ['Mandatory, for the whole organisation', r => r.mandatory === true && r.owner === 'organisation'],
  ['Mandatory, for a department', r => r.mandatory === true && r.owner !== 'organisation'],
  ['My rules', r => !r.mandatory && isPersonal(r.owner)],
  ['Departments', r => !r.mandatory && departmentIn(r.owner) !== null],
  ['The whole organisation', r => !r.mandatory && r.owner === 'organisation'],
]
const groups = computed(() =>
  TIERS.flatMap(([name, belongs]) =>
    [...Map.groupBy(shown.value.filter(belongs), r => r.owner)].map(([owner, own]) => ({
      key: `${name} ${owner}`,
      name:
        departmentIn(owner) !== null ? `${name === 'Departments' ? '' : 'Mandatory, '}${directory.ownerName(owner)}` : name,
      owner,
      own,
    })),
  ),
)
const most = computed(() =>
  Math.max(1, ...(rules.value ?? []).map(r => r.impact.wanted + r.impact.unwanted + r.impact.unmarked)),
)

async function reorder(owner: string, own: RuleView[]) {
  // Rules of this owner that stand in another group keep their order among themselves.
  const others = rules.value!.filter(r => r.owner === owner && !own.includes(r))
  try {
    const { eventId } = await api.orderRules(
      owner,
      [...others, ...own].map(r => r.id),
      data.value!.version,
    )
    notices.say('The new order is saved.', eventId)
  }
  catch (e) {
    notices.failed(e)
  }
  await Promise.all([load(), directory.load()])
}

function nudge(group: { owner: string, own: RuleView[] }, index: number, by: number) {
  const to = index + by
  if (to < 0 || to >= group.own.length || !group.own[index]!.canChange) return
  const order = [...group.own]
  order.splice(to, 0, ...order.splice(index, 1))
  void reorder(group.owner, order)
}
</script>

<template>
  <div class="page">
    <div class="page-top">
      <div>
        <h1>Rules</h1>
        <p class="second">
          Checked from top to bottom: the first rule that stops a message decides, unless a list or rule above it allows the message.
        </p>
      </div>
      <NuxtLink
        class="press first"
        to="/rules/new"
      >
        New rule
      </NuxtLink>
    </div>
    <div
      v-if="rules && rules.length > 3"
      class="narrow"
    >
      <el-input
        v-model="words"
        class="line-field"
        style="width: 280px"
        placeholder="search rules"
        aria-label="Search rules"
        clearable
      />
      <ChoiceField
        v-if="named.length"
        v-model="ofGroup"
        :options="groupOptions"
        label="Group"
      />
      <span
        v-if="narrowed"
        class="second small"
        role="status"
      >{{ shown.length }} of {{ rules.length }}; to change their order, show all rules</span>
    </div>
    <ReadingState
      :failure
      :ready="rules !== null"
      what="the rules"
      @again="load"
    />
    <div
      v-if="rules?.length === 0"
      class="sheet none"
    >
      <h2>No rules yet</h2>
      <p class="second">
        A rule matches mail by its words, its sender or other facts, and says what happens with it.
      </p>
      <NuxtLink
        class="press"
        to="/rules/new"
      >
        Create the first rule
      </NuxtLink>
    </div>
    <section
      v-for="group in groups"
      :key="group.key"
    >
      <h2>
        <WordHelp
          v-if="group.name.startsWith('Must')"
          word="Mandatory"
          term="mandatory"
        />{{ group.name.replace(/^Must/, '') }}
      </h2>
      <VueDraggable
        :model-value="group.own"
        tag="ol"
        class="sheet"
        handle=".grip"
        :animation="120"
        :disabled="narrowed || !group.own[0]!.canChange"
        @update:model-value="(now: RuleView[]) => reorder(group.owner, now)"
      >
        <li
          v-for="(rule, i) in group.own"
          :key="rule.id"
          :class="rule.state"
        >
          <button
            v-if="rule.canChange && !narrowed"
            class="grip"
            type="button"
            :aria-label="`${rule.name}: move with the arrow keys`"
            title="Drag, or press the arrow keys"
            @keydown.up.prevent="nudge(group, i, -1)"
            @keydown.down.prevent="nudge(group, i, 1)"
          >
            <svg
              viewBox="0 0 10 14"
              width="9"
              height="13"
              aria-hidden="true"
            ><path
              d="M1 2h8M1 7h8M1 12h8"
              stroke="currentColor"
              stroke-width="1.5"
            /></svg>
          </button>
          <span v-else />
          <div>
            <p>
              <NuxtLink
                :to="`/rules/${rule.id}`"
                class="name"
              >{{ rule.name }}</NuxtLink><span
                v-if="rule.state !== 'enabled'"
                class="state small"
              >{{ STATE_NAMES[rule.state] }}</span><span
                v-if="rule.overridesLists && !rule.mandatory"
                class="second small"
              >also for senders on allow lists</span><span
                v-if="rule.group"
                class="second small of-group"
              >{{ rule.group }}</span>
            </p>
            <p class="sentence">
              {{ rule.sentence }}
            </p>
          </div>
          <NuxtLink
            class="record"
            :to="{ path: '/mail', query: { touchedBy: rule.id } }"
            :aria-label="`Mail matched by rule “${rule.name}”`"
          >
            <ImpactBar
              :impact="rule.impact"
              :scale="most"
            /><span
              class="second small last"
            >{{ rule.lastHit ? `last ${shortWhen(rule.lastHit)}` : 'no matches yet' }}<template
              v-if="rule.impact.wanted + rule.impact.unwanted"
            > · {{ markedWords(rule.impact, { blocks: ruleStops(rule), short: true }) }}</template></span><span
              v-if="rule.findings.length"
              class="small warn last"
            >{{ rule.findings[0]!.kind }}{{ rule.findings.length > 1 ? ` and ${rule.findings.length - 1} more` : '' }}</span>
          </NuxtLink>
        </li>
      </VueDraggable>
    </section>
  </div>
</template>

<style scoped>
h2 { margin: 4px 0 6px; }
ol { list-style: none; margin: 0; padding: 0; }
li { display: grid; grid-template-columns: 18px minmax(0, 1fr) 370px; gap: 12px; padding: 9px 16px 10px 10px; align-items: center; }
li + li { border-top: 1px solid var(--hairline); }
.grip { border: 0; background: none; padding: 4px 2px; color: var(--ink-2); cursor: grab; line-height: 0; }
.name { font: 600 15.5px/1.3 var(--heading); color: var(--ink); margin-right: 10px; }
.state { border-bottom: 1px dashed var(--ink-2); margin-right: 10px; }
.sentence { font-size: 14px; color: var(--ink-2); }
li.off .sentence, li.off .name { color: var(--ink-2); font-style: italic; }
.record { font-weight: 400; display: grid; gap: 1px; }
.narrow { display: flex; flex-wrap: wrap; gap: 8px 16px; align-items: center; }
.of-group { margin-left: 10px; }
.none { padding: 22px; display: grid; gap: 10px; justify-items: start; }
@media (max-width: 980px) { li { grid-template-columns: 18px minmax(0, 1fr); } .record { grid-column: 2; } }
</style>
