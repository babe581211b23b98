<script setup lang="ts">
import { effectKindOf } from '#core/kinds'
import { isPersonal } from '#core/policy'
import { effectFieldOf } from '~/composables/kindFields'
import { RULE_JOINTS, RULE_STATES, useRuleEditor } from '~/composables/ruleEditor'
import { splitPhrases } from '#core/text'
import { MANDATORY_RULE } from '~/composables/senderCounts'
import { copiedWords } from '~/composables/copiedTo'
import { EFFECTS_OFFERED, isBlank, ruleOf } from '~/composables/ruleSheet'
import { readyRules, startingSentences, type StartingSentence } from '~/composables/startingSentences'

const route = useRoute()
const id = String(route.params.id)
const from = typeof route.query.from === 'string' ? route.query.from : null
const to = typeof route.query.to === 'string' ? route.query.to : null
const addException = Number(route.query.addException) || null
const directory = useDirectoryStore()
const {
  fresh,
  rule,
  sheet,
  touched,
  failure,
  error,
  fields,
  busy,
  named,
  canChange,
  sentence,
  goneWords,
  canSetMandatory,
  protects,
  stops,
  effects,
  ENDS,
  rowErrors,
  otherProblems,
  save,
  remove,
  which,
  putting,
  watchFirst,
  impact,
  broadPhrases,
  parts,
  changes,
  beyond,
  original,
  exempted,
  exceptionWays,
  exceptBy,
  enable,
  reread,
} = useRuleEditor(id, { from, to }, addException)
useHead({ title: () => sheet.value?.name || 'New rule' })
const reloadPage = () => reloadNuxtApp({ force: true })
const COMMON_EFFECTS = EFFECTS_OFFERED.filter(k => !effectKindOf(k).form!.further)
/** Effects besides where it goes are shown once one is wanted. */
const unfolded = ref(false)
const withEffects = computed(() => unfolded.value || COMMON_EFFECTS.some(k => sheet.value?.effects[k]))
const trying = ref(false)
const form = computed(() => (sheet.value ? ruleOf(sheet.value) : null))
const place = computed(() => {
  const record = rule.value?.stats
  const whose = sheet.value ? directory.ownerName(sheet.value.owner) : ''
  const position = record ? `place ${record.place} of ${record.of}` : ''
  return [position, `${whose}${sheet.value?.mandatory ? ', mandatory' : ''}`].filter(Boolean).join(' · ')
})
const copied = computed(() =>
  original.value && form.value
    ? copiedWords({ ...form.value, mandatory: original.value.mandatory }, original.value.owner, form.value.owner)
    : [])
// Whom one lets in anyway are no strangers.
const known = computed(() => {
  const own = (directory.data?.lists ?? []).filter(l => l.enabled && l.size && l.usualSide === 'allow' && l.owner === sheet.value?.owner)
  return own.sort((a, b) => b.size - a.size)[0]?.id ?? null
})
/** For whom else a copy can be made. */
const copyOwners = computed(() => (directory.data?.owners ?? []).filter(o => o.id !== sheet.value?.owner))
const starts = computed(() => startingSentences(known.value))
const untouched = computed(() => fresh && !from && sheet.value !== null && isBlank(sheet.value))
function begin(start: StartingSentence) {
  sheet.value = start.sheet(sheet.value!.owner)
  hint.value = start.hint
  void nextTick(() => document.querySelector<HTMLElement>('.main textarea, .main input[type="text"]')?.focus())
}
const noExceptionWords = computed(() =>
  (exempted.value?.facts.attempt.authentication.verdict === 'pass'
    ? 'This rule has an exception for this sender already.'
    : 'Nothing verified the sender of this message. An exception for its address would let in anyone who writes that address.'))
const hint = ref('')
// A link may begin with one of them.
watch(untouched, (is) => {
  const start = is ? [...starts.value, ...readyRules()].find(s => s.id === route.query.start) : undefined
  if (start) begin(start)
}, { immediate: true })
provide(MANDATORY_RULE, computed(() => sheet.value?.mandatory === true))
/** Takes a phrase out of the condition in which it stands. */
function takeOut(phrase: string, path: string) {
  const row = sheet.value!.when[Number(path.split('.')[1])]!
  const lines = row.text.split(/\r?\n/)
  const others = lines.filter(l => l.trim() !== phrase)
  row.text = others.length < lines.length ? others.join('\n') : splitPhrases(row.text).filter(p => p !== phrase).join('\n')
}
</script>

<template>
  <div
    v-if="failure"
    class="wrong"
    role="alert"
  >
    {{ failure }} <NuxtLink to="/rules">
      Back to rules
    </NuxtLink>
  </div>
  <p
    v-else-if="!sheet"
    class="second"
  >
    Loading the rule…
  </p>
  <form
    v-else
    class="rule"
    @submit.prevent="save"
  >
    <section class="sheet main">
      <div class="head">
        <div class="title">
          <h1>{{ sheet.name || 'New rule' }}</h1>
          <p class="second small">
            {{ place }}
          </p>
        </div>
        <p
          v-if="!untouched"
          class="second sentence"
        >
          {{ sentence }}
        </p>
        <p
          v-if="hint"
          class="small"
        >
          {{ hint }}
        </p>
        <p
          v-if="!canChange"
          class="small warn"
        >
          This rule belongs to {{ rule?.ownerName === 'organisation' ? 'the organisation' : rule?.ownerName }}. You can read it;
          only an administrator can change it.
        </p>
        <p
          v-else-if="beyond && !fresh"
          class="small warn"
        >
          This rule belongs to {{ rule?.ownerName === 'organisation' ? 'the organisation' : rule?.ownerName }}. You can propose
          changes; an administrator decides.
        </p>
        <ul
          v-if="copied.length"
          class="small copied"
          aria-label="What is different for the new owner"
        >
          <li
            v-for="words in copied"
            :key="words"
          >
            {{ words }}
          </li>
        </ul>
      </div>
      <fieldset
        :disabled="!canChange"
        :inert="!canChange"
      >
        <h2>
          Conditions <span class="second small">(when)</span> <span
            v-if="sheet.when.length > 1"
            class="joint"
          ><ChoiceField
            v-model="sheet.joint"
            :options="RULE_JOINTS"
            label="How conditions are joined"
            :width="130"
          /></span>
        </h2>
        <ConditionRows
          v-model="sheet.when"
          :focused="fresh"
          add="condition"
          :exempts="protects"
          :errors="rowErrors('when')"
        />
        <p
          v-for="b in broadPhrases"
          :key="b.phrase"
          class="small warn"
        >
          “{{ b.phrase }}” affects many messages. {{ b.why }}
        </p>
        <h2>
          Exceptions <span class="second small">(unless)</span> <span
            v-if="sheet.except.length > 1"
            class="second small"
          >any of these applies</span>
        </h2>
        <div
          v-if="exempted"
          class="exempting small"
          role="group"
          aria-label="Exception for"
        >
          <span v-if="exceptionWays.length">To let mail like “{{ exempted.subject || 'no subject' }}” through if its sender is
            verified, add an exception for</span>
          <PressButton
            v-for="way in exceptionWays"
            :key="way.words"
            small
            :aria-pressed="sheet.except.some(r => r.text === way.row.text)"
            @click="exceptBy(way)"
          >
            {{ way.words }}
          </PressButton>
          <template v-if="!exceptionWays.length">
            <span class="warn">{{ noExceptionWords }}</span>
            <NuxtLink :to="{ path: '/mail', query: { open: exempted.id } }">
              Open the message to let in only this one
            </NuxtLink>
          </template>
        </div>
        <ConditionRows
          v-model="sheet.except"
          fresh-kind="sender"
          add="exception"
          :exempts="stops"
          :errors="rowErrors('except')"
        />
        <h2>Actions <span class="second small">(then)</span></h2>
        <div class="then">
          <ChoiceField
            v-model="sheet.main"
            :options="effects"
            label="Action"
            :width="200"
          />
          <HazardFields
            v-if="sheet.main === 'protect'"
            v-model="sheet.hazards"
          />
          <TextField
            v-if="sheet.main === 'folder'"
            v-model="sheet.folder"
            label="Folder"
            placeholder="name"
          />
          <QuarantineSelect
            v-if="sheet.main === 'quarantine'"
            v-model="sheet.quarantine"
          />
          <label v-if="sheet.main === 'refuse'">reply <el-input
            v-model="sheet.reply"
            class="line-field"
            placeholder="what the sender is told"
            style="width: 260px"
          /></label>
        </div>
        <p
          v-if="sheet.main === 'bin'"
          class="small second"
        >
          Messages in Bin can be restored until they are deleted permanently.
        </p>
        <p
          v-if="sheet.main === 'refuse'"
          class="small second"
        >
          Refused mail is not stored and cannot be restored. The sender gets an error message.
        </p>
        <div
          v-if="sheet.main === 'erase' || sheet.main === 'discard'"
          class="warning"
        >
          <p class="warn">
            {{ goneWords }}
            Without your confirmation, messages are moved to Bin instead.
          </p>
          <el-checkbox v-model="sheet.confirmed">
            I confirm that messages are {{ sheet.main === 'erase' ? 'deleted permanently' : 'discarded' }}
          </el-checkbox>
        </div>
        <div
          v-if="withEffects"
          class="then"
        >
          <component
            :is="effectFieldOf(kind)"
            v-for="kind in COMMON_EFFECTS"
            :key="kind"
            v-model="sheet.effects[kind]"
          />
        </div>
        <div
          v-else
          class="add"
        >
          <PressButton
            plain
            @click="unfolded = true"
          >
            + Add action
          </PressButton>
        </div>
        <p
          v-for="text in otherProblems"
          :key="text"
          class="wrong"
        >
          {{ text }}
        </p>
        <div class="more">
          <el-checkbox
            v-if="canSetMandatory"
            v-model="sheet.mandatory"
          >
            Users cannot override it:
          </el-checkbox>
          <WordHelp
            v-if="canSetMandatory"
            word="mandatory"
            term="mandatory"
          />
          <el-checkbox
            v-if="stops && !sheet.mandatory"
            v-model="sheet.overridesLists"
          >
            Also applies to senders on {{ isPersonal(sheet.owner) ? 'my ' : '' }}allow lists
          </el-checkbox>
        </div>
        <RuleFurther
          v-model="sheet"
          :ends="ENDS"
          :administrator="canSetMandatory"
        />
      </fieldset>
      <footer>
        <p
          v-if="error"
          class="wrong"
          role="alert"
        >
          {{ error }}
        </p>
        <fieldset
          class="base"
          :disabled="!canChange"
          :inert="!canChange"
        >
          <label class="inline">Name <el-input
            v-model="sheet.name"
            style="width: 160px"
            @input="named = true"
          /></label>
          <label class="inline">Owner <WhoseSelect
            v-model="sheet.owner"
            proposing
            :fixed="!fresh"
            :width="190"
          /></label>
          <div class="inline">
            <span
              id="state"
              class="visually-hidden"
            >State</span>
            <div
              class="states"
              role="radiogroup"
              aria-labelledby="state"
            >
              <label
                v-for="s in RULE_STATES"
                :key="s.value"
                :class="{ on: sheet.state === s.value }"
              ><input
                v-model="sheet.state"
                type="radio"
                name="state"
                :value="s.value"
                class="visually-hidden"
              >{{ s.name }}</label>
            </div>
          </div>
          <p
            v-if="fields.name"
            class="wrong"
          >
            {{ fields.name }}
          </p>
        </fieldset>
        <SaveChanges
          v-model="which"
          :readonly="!canChange"
          :of="impact"
          :putting
          :yours="sentence"
          :mine="isPersonal(sheet.owner)"
          :protects
          :watchable="sheet.state === 'enabled'"
          @watch="watchFirst"
          @load="reloadPage"
        >
          <div class="actions">
            <PressButton
              v-if="canChange"
              first
              type="submit"
              :disabled="busy"
            >
              {{ beyond ? 'Propose' : 'Save' }}
            </PressButton>
            <WordHelp
              v-if="canChange && !beyond"
              class="small"
              word="Applies to"
              :term="sheet.state === 'monitor' ? 'monitor' : 'appliesTo'"
            />
            <PressButton
              :aria-pressed="trying"
              @click="trying = !trying"
            >
              Test a message
            </PressButton>
            <NuxtLink
              v-if="!fresh"
              class="press plain"
              :to="{ path: '/rules/new', query: { from: id } }"
            >
              Duplicate
            </NuxtLink>
            <el-dropdown
              v-if="!fresh && copyOwners.length"
              trigger="click"
              placement="top-start"
              @command="(owner: string) => navigateTo({ path: '/rules/new', query: { from: id, to: owner } })"
            >
              <PressButton
                plain
              >
                Copy to another {{ directory.data?.departments.length ? 'department' : 'owner' }}…
              </PressButton>
              <template #dropdown>
                <el-dropdown-menu aria-label="Copy to">
                  <el-dropdown-item
                    v-for="o in copyOwners"
                    :key="o.id"
                    :command="o.id"
                  >
                    {{ o.name }}
                  </el-dropdown-item>
                </el-dropdown-menu>
              </template>
            </el-dropdown>
            <SureDelete
              v-if="rule?.canChange"
              label="Delete"
              :question="`Delete rule “${rule?.name}”?`"
              @sure="remove"
            />
          </div>
        </SaveChanges>
      </footer>
    </section>
    <div class="beside">
      <div
        v-if="trying"
        class="sheet impact"
      >
        <DryRunCompare :changes />
      </div>
      <RuleStarts
        v-if="untouched && sheet"
        class="sheet impact"
        :starts
        :owner="sheet.owner"
        @begin="begin"
      />
      <div
        v-if="canChange && impact.state.value !== 'idle'"
        class="sheet impact"
      >
        <h2>
          <WordHelp
            word="Impact"
            term="impact"
          /> on existing mail
        </h2>
        <ImpactPanel :of="impact">
          <RuleParts
            v-if="parts && form"
            :parts
            :form
            @take-out="takeOut"
          />
        </ImpactPanel>
      </div>
      <div
        v-else-if="canChange && parts?.parts.length && form"
        class="sheet impact"
      >
        <h2>Conditions and exceptions</h2>
        <RuleParts
          :parts
          :form
          @take-out="takeOut"
        />
      </div>
      <RuleStats
        :rule
        :touched
        :can-fix="!changes"
        @enable="enable"
        @fixed="reread"
      />
      <ClauseHistory
        v-if="rule && !fresh"
        :key="rule.version"
        class="sheet impact"
        :rule="id"
      />
    </div>
  </form>
</template>

<style scoped>
.warning { border-left: 3px solid var(--warn); padding: 2px 12px; margin: 6px 0; }
.rule { display: grid; grid-template-columns: minmax(0, 680px) minmax(300px, 1fr); gap: 18px; align-items: start; }
.main { padding: 14px 22px 18px; }
.beside { display: grid; gap: 18px; align-content: start; min-width: 0; }
.impact { padding: 16px 20px; display: grid; gap: 8px; }
.impact h2 { margin: 0; }
.head { display: grid; gap: 4px; }
.sentence { font-size: 15px; }
.title { display: flex; gap: 12px; justify-content: space-between; align-items: baseline; }
.copied { margin: 0; padding-left: 18px; }
.exempting { display: flex; flex-wrap: wrap; gap: 6px 8px; align-items: center; padding: 4px 0; }
fieldset { border: 0; margin: 0; padding: 0; min-width: 0; }
h2 { margin: 10px 0 0; }
.add { margin: 2px 0 0 -5px; }
.inline { display: flex; gap: 8px; align-items: center; font-size: 14px; }
.more :deep(.el-checkbox) { margin-right: -12px; }
.joint { font-family: var(--text); font-weight: 400; display: inline-block; }
.then, .more { display: flex; flex-wrap: wrap; gap: 4px 20px; align-items: center; padding: 3px 0; }
.then label { display: flex; gap: 8px; align-items: center; font-size: 14px; }
.base { display: flex; flex-wrap: wrap; gap: 8px 18px; }
.states { display: inline-flex; border: 1px solid var(--water); }
.states label { padding: 4px 13px; cursor: pointer; color: var(--water); }
.states label + label { border-left: 1px solid var(--water); }
.states label.on { background: var(--water); color: var(--water-ink); font-weight: 700; }
.states label:focus-within { outline: 2px solid var(--water); outline-offset: 2px; }
/* Always in view, however long the sheet is. */
footer {
  border-top: 1px solid var(--hairline);
  margin: 12px -22px -18px;
  padding: 10px 22px 14px;
  display: grid;
  gap: 10px;
  position: sticky;
  bottom: -14px;
  background: var(--sheet);
  z-index: 2;
}
@media (max-width: 980px) { .rule { grid-template-columns: minmax(0, 1fr); } }
</style>
