<script setup lang="ts">
import { effectKindOf } from '#core/kinds'
import { isPersonal } from '#core/policy'
import { ruleSentence } from '#core/words'
import { api, type CopyCount, type CopyLine, type RuleLine } from '~/api/client'
import { lacks } from '~/composables/conditionRows'
import { effectFieldOf } from '~/composables/kindFields'
import {
  blankSheet,
  EFFECTS_OFFERED,
  proposedName,
  ruleOf,
  sheetOf,
  stopsMail,
  type Main,
  type Sheet,
} from '~/composables/ruleSheet'

const route = useRoute()
const notices = useNoticeStore()
const session = useSessionStore()
const directory = useDirectoryStore()
const id = String(route.params.id)
const fresh = id === 'new'
const rule = ref<RuleLine | null>(null)
const sheet = ref<Sheet | null>(null)
const touched = ref<{ items: CopyLine[], count: CopyCount } | null>(null)
const failure = ref('')
const { error, fields, busy, submit } = useForm()
const named = ref(false)

async function load() {
  try {
    if (!directory.data) await directory.load()
    if (fresh) {
      const from = typeof route.query.from === 'string' ? await api.rule(route.query.from) : null
      sheet.value = from
        ? { ...sheetOf(formOf(from)), name: `${from.name}, copy`, state: 'off' }
        : blankSheet(directory.data?.owners[0]?.id ?? `person:${session.person?.id}`)
      named.value = from !== null
      return
    }
    rule.value = await api.rule(id)
    sheet.value = sheetOf(formOf(rule.value))
    named.value = true
    const [page, count] = await Promise.all([
      api.copies({ touchedBy: id, limit: 12 }),
      api.copyCount({ touchedBy: id }),
    ])
    touched.value = { items: page.items, count }
  }
  catch (e) {
    failure.value = e instanceof Error ? e.message : String(e)
  }
}
onMounted(load)

// The line of the list carries more than the rule.
function formOf({
  id: _id,
  ownerName: _name,
  sentence: _sentence,
  impact: _impact,
  findings: _findings,
  version: _version,
  mayChange: _may,
  ...form
}: RuleLine) {
  return form
}

const form = computed(() => (sheet.value ? ruleOf(sheet.value) : null))
const mayChange = computed(() => fresh || rule.value?.mayChange === true)
const sentence = computed(() => {
  if (!form.value) return ''
  return ruleSentence(form.value, directory.names)
})
const proposed = computed(() =>
  sheet.value ? proposedName(sheet.value, l => directory.names.lists.find(x => x.id === l)?.name ?? l) : '',
)
watch(proposed, (name) => {
  if (sheet.value && !named.value) sheet.value.name = name
})
const goneWords = computed(() =>
  sheet.value?.main === 'erase'
    ? 'Erased mail has no way back.'
    : 'Dropped mail has no way back, and its sender believes that it arrived.',
)
const mayMust = computed(
  () => session.may('change everybody’s clauses') && sheet.value?.owner !== undefined && !isPersonal(sheet.value.owner),
)
const protects = computed(() => sheet.value?.main === 'keep' || sheet.value?.main === 'protect')
const stops = computed(() => stopsMail(sheet.value?.main ?? 'none'))
const forPerson = computed(() => (sheet.value ? isPersonal(sheet.value.owner) : false))
const EFFECTS: { value: Main, name: string, notMine?: boolean }[] = [
  { value: 'spam', name: 'send to spam' },
  { value: 'quarantine', name: 'hold in a quarantine' },
  { value: 'bin', name: 'send to the bin' },
  { value: 'refuse', name: 'refuse it', notMine: true },
  { value: 'erase', name: 'erase it' },
  { value: 'drop', name: 'drop it in silence', notMine: true },
  { value: 'keep', name: 'keep in the inbox' },
  { value: 'protect', name: 'protect it from …' },
  { value: 'slow lane', name: 'put in the slow lane' },
  { value: 'folder', name: 'file in the folder …' },
  { value: 'filed', name: 'file out of the inbox' },
  { value: 'none', name: 'leave it where it goes' },
]
const effects = computed(() => [
  ...EFFECTS.filter(e => !(forPerson.value && e.notMine)),
  ...(sheet.value?.main === 'other' ? [{ value: 'other' as const, name: 'as it stands' }] : []),
])
const JOINTS = [
  { value: 'all', name: 'all of these' },
  { value: 'any', name: 'any of these' },
] as const
const ENDS = computed(() => [
  { value: '' as const, name: 'later rules still count' },
  { value: 'owner' as const, name: 'no later rule of the same owner' },
  ...(sheet.value?.must || sheet.value?.end === 'all'
    ? [{ value: 'all' as const, name: 'no later rule of anybody' }]
    : []),
])
const STATES = [
  { value: 'off', name: 'off' },
  { value: 'watching', name: 'watching' },
  { value: 'acting', name: 'acting' },
] as const

/** What is wrong with the conditions of one part, by number of row. */
function rowErrors(part: 'when' | 'except'): Record<number, string> {
  const out: Record<number, string> = {}
  for (const [path, text] of Object.entries(fields.value)) {
    const steps = path.split('.')
    if (steps[0] !== part) continue
    const index = part === 'except' ? Number(steps[1]) : sheet.value!.when.length > 1 ? Number(steps[2]) : 0
    out[Number.isNaN(index) ? 0 : index] ??= text
  }
  return out
}
const elsewhere = computed(() =>
  Object.entries(fields.value)
    .filter(([path]) => !/^(?:when|except|name)\b/.test(path))
    .map(([, text]) => text),
)

// What the sheet itself can see, before the server is asked.
function emptyRows(): Record<string, string> {
  const out: Record<string, string> = {}
  const look = (part: 'when' | 'except') =>
    sheet.value![part].forEach((row, i) => {
      const missing = lacks(row)
      if (missing) out[part === 'when' ? `when.${sheet.value!.joint}.${i}` : `except.${i}`] = missing
    })
  look('when')
  look('except')
  if (!sheet.value!.when.length) out['when.all.0'] = 'Add a condition; “every message” is one too.'
  if (!sheet.value!.name.trim()) out.name = 'A rule needs a name.'
  if (form.value && !form.value.claims.length) out.claims = 'Say what happens: a lane, a tag, or important.'
  if (sheet.value!.main === 'protect' && !sheet.value!.hazards.length) out.claims = 'Say from what it protects.'
  if (sheet.value!.main === 'folder' && !sheet.value!.folder.trim()) out.claims = 'Name the folder.'
  return out
}

const save = () =>
  submit(async () => {
    const saved = fresh
      ? await api.makeRule(form.value!)
      : await api.changeRule(id, { ...form.value!, version: rule.value!.version })
    await directory.load()
    notices.say(
      `“${saved.name}” is in force as version ${directory.data?.policy.version}${saved.state === 'acting' ? '' : `, ${saved.state}`}.`,
      saved.act,
    )
    await navigateTo('/rules')
  }, emptyRows())

async function remove() {
  try {
    const { act } = await api.removeRule(id, rule.value!.version)
    notices.say(`The rule “${rule.value!.name}” is deleted.`, act)
    await directory.load()
    await navigateTo('/rules')
  }
  catch (e) {
    notices.failed(e)
  }
}
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
            :options="JOINTS"
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
            must: before everybody’s own lists and rules
          </el-checkbox>
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
        <div class="base">
          <FormField
            label="Name"
            :error="fields.name"
          >
            <el-input
              v-model="sheet.name"
              style="width: 240px"
              @input="named = true"
            />
          </FormField>
          <label class="field">For <WhoseSelect
            v-model="sheet.owner"
            :fixed="!fresh"
          /></label>
          <div class="field">
            <span id="state">State</span>
            <div
              class="states"
              role="radiogroup"
              aria-labelledby="state"
            >
              <label
                v-for="s in STATES"
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
        </div>
        <RuleFurther
          v-model="sheet"
          :administrator="mayMust"
        />
        <p
          v-if="sheet.state === 'watching'"
          class="small second"
        >
          A watching rule records what it would have done, and does nothing.
        </p>
      </fieldset>
      <footer>
        <p
          v-if="error"
          class="wrong"
          role="alert"
        >
          {{ error }}
        </p>
        <div class="acts">
          <PressButton
            v-if="mayChange"

            first
            type="submit"
            :disabled="busy"
          >
            Put in force
          </PressButton>
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
      </footer>
    </section>
    <RuleRecord
      :rule
      :touched
    />
  </form>
</template>

<style scoped>
.warning { border-left: 3px solid var(--warn); padding: 2px 12px; margin: 6px 0; }
.rule { display: grid; grid-template-columns: minmax(0, 680px) minmax(300px, 1fr); gap: 18px; align-items: start; }
.main { padding: 18px 22px; }
.head { display: grid; gap: 4px; }
.sentence { font-size: 15px; }
fieldset { border: 0; margin: 0; padding: 0; min-width: 0; }
h2 { margin: 18px 0 2px; }
.joint { font-family: var(--text); font-weight: 400; display: inline-block; }
.then, .more { display: flex; flex-wrap: wrap; gap: 6px 20px; align-items: center; padding: 6px 0; }
.then label { display: flex; gap: 8px; align-items: center; font-size: 14px; }
.base { display: flex; flex-wrap: wrap; gap: 18px; margin-top: 12px; border-top: 1px solid var(--hairline); padding-top: 14px; }
.states { display: inline-flex; border: 1px solid var(--water); }
.states label { padding: 4px 13px; cursor: pointer; color: var(--water); }
.states label + label { border-left: 1px solid var(--water); }
.states label.on { background: var(--water); color: var(--water-ink); font-weight: 700; }
.states label:focus-within { outline: 2px solid var(--water); outline-offset: 2px; }
footer { border-top: 1px solid var(--hairline); margin-top: 16px; padding-top: 14px; display: grid; gap: 8px; }
@media (max-width: 980px) { .rule { grid-template-columns: minmax(0, 1fr); } }
</style>
