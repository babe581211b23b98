<script setup lang="ts">
import { effectKindOf } from '#core/kinds'
import { isPersonal } from '#core/policy'
import { effectFieldOf } from '~/composables/kindFields'
import { RULE_JOINTS, RULE_STATES, useRuleEditor } from '~/composables/ruleEditor'
import { EFFECTS_OFFERED } from '~/composables/ruleSheet'

const route = useRoute()
const id = String(route.params.id)
const from = typeof route.query.from === 'string' ? route.query.from : null
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
  mayChange,
  sentence,
  goneWords,
  mayMust,
  protects,
  stops,
  effects,
  ENDS,
  rowErrors,
  elsewhere,
  save,
  remove,
  which,
  putting,
  watchFirst,
  impact,
  broadPhrases,
} = useRuleEditor(id, from)
const reloadPage = () => reloadNuxtApp({ force: true })
</script>

<template>
  <div
    v-if="failure"
    class="wrong"
    role="alert"
  >
    {{ failure }} <NuxtLink to="/rules">
      Back to the rules
    </NuxtLink>
  </div>
  <p
    v-else-if="!sheet"
    class="second"
  >
    Reading the rule …
  </p>
  <form
    v-else
    class="rule"
    @submit.prevent="save"
  >
    <section class="sheet main">
      <div class="head">
        <h1>{{ sheet.name || 'New rule' }}</h1>
        <p class="second sentence">
          {{ sentence }}
        </p>
        <p
          v-if="!mayChange"
          class="small warn"
        >
          This rule belongs to {{ rule?.ownerName === 'organisation' ? 'the organisation' : rule?.ownerName }}: you may
          read it, an administrator changes it.
        </p>
      </div>
      <fieldset
        :disabled="!mayChange"
        :inert="!mayChange"
      >
        <h2>
          Catch when <span
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
          add="condition"
          :spares="protects"
          :errors="rowErrors('when')"
        />
        <p
          v-for="b in broadPhrases"
          :key="b.phrase"
          class="small warn"
        >
          “{{ b.phrase }}” is broad. {{ b.why }}
        </p>
        <h2>
          Except when <span
            v-if="sheet.except.length > 1"
            class="second small"
          >any of these</span>
        </h2>
        <ConditionRows
          v-model="sheet.except"
          add="exception"
          :spares="stops"
          :errors="rowErrors('except')"
        />
        <h2>Then</h2>
        <div class="then">
          <ChoiceField
            v-model="sheet.main"
            :options="effects"
            label="What happens"
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
            placeholder="its name"
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
          What lies in the bin can be fetched back.
        </p>
        <p
          v-if="sheet.main === 'refuse'"
          class="small second"
        >
          Refused mail is never here: nobody can fetch it back, and the sender is told so.
        </p>
        <div
          v-if="sheet.main === 'erase' || sheet.main === 'drop'"
          class="warning"
        >
          <p class="warn">
            {{ goneWords }}
            Without your confirmation it goes to the bin instead.
          </p>
          <el-checkbox v-model="sheet.confirmed">
            I confirm that it may be {{ sheet.main === 'erase' ? 'erased' : 'dropped' }} for good
          </el-checkbox>
        </div>
        <div class="then">
          <component
            :is="effectFieldOf(kind)"
            v-for="kind in EFFECTS_OFFERED.filter(k => !effectKindOf(k).form!.further)"
            :key="kind"
            v-model="sheet.effects[kind]"
          />
        </div>
        <p
          v-for="text in elsewhere"
          :key="text"
          class="wrong"
        >
          {{ text }}
        </p>
        <div class="more">
          <el-checkbox
            v-if="mayMust"
            v-model="sheet.must"
          >
            before everybody’s own lists and rules
          </el-checkbox>
          <WordHelp
            v-if="mayMust"
            word="must"
            :help="WORD_HELPS.must"
          />
          <el-checkbox
            v-if="stops && !sheet.must"
            v-model="sheet.raised"
          >
            even for senders on {{ isPersonal(sheet.owner) ? 'my' : 'the allow' }} lists
          </el-checkbox>
          <ChoiceField
            v-model="sheet.end"
            :options="ENDS"
            label="What comes after it"
            :width="230"
          />
        </div>
        <RuleFurther
          v-model="sheet"
          :administrator="mayMust"
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
          :disabled="!mayChange"
          :inert="!mayChange"
        >
          <label class="inline">Name <el-input
            v-model="sheet.name"
            style="width: 160px"
            @input="named = true"
          /></label>
          <label class="inline">for <WhoseSelect
            v-model="sheet.owner"
            :fixed="!fresh"
            :width="152"
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
        <PutInForce
          v-model="which"
          :readonly="!mayChange"
          :of="impact"
          :putting
          :yours="sentence"
          :mine="isPersonal(sheet.owner)"
          :protects
          :watchable="sheet.state === 'acting'"
          @watch="watchFirst"
          @load="reloadPage"
        >
          <div class="acts">
            <PressButton
              v-if="mayChange"
              first
              type="submit"
              :disabled="busy"
            >
              Put in force
            </PressButton>
            <WordHelp
              v-if="mayChange"
              class="small"
              word="from when?"
              :help="WORD_HELPS[sheet.state === 'watching' ? 'watching' : 'put in force']"
            />
            <NuxtLink
              class="press"
              to="/try"
            >
              Try a message
            </NuxtLink>
            <NuxtLink
              v-if="!fresh"
              class="press plain"
              :to="{ path: '/rules/new', query: { from: id } }"
            >
              Duplicate
            </NuxtLink>
            <SureDelete
              v-if="!fresh && mayChange"
              label="Delete"
              :question="`Delete “${rule?.name}”? Mail to come is no longer touched by it.`"
              @sure="remove"
            />
          </div>
        </PutInForce>
      </footer>
    </section>
    <div class="beside">
      <div
        v-if="mayChange && impact.state.value !== 'idle'"
        class="sheet impact"
      >
        <h2>Among the mail that is here</h2>
        <ImpactPanel :of="impact" />
      </div>
      <RuleRecord
        :rule
        :touched
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
fieldset { border: 0; margin: 0; padding: 0; min-width: 0; }
h2 { margin: 12px 0 0; }
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
