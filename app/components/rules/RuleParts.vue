<script setup lang="ts">
import { conditionWords, favouring } from '#core/words'
import { numberWords, quoted } from '#core/wording'
import { ruleStops } from '#core/policy'
import { isWhole, type PartImpact } from '#core/simulate'
import type { RuleForm, TakenApart } from '~/api/client'
import { amongWords } from '~/composables/impactWords'

/** What each condition, phrase and exception of a rule matches among existing mail. */
const { parts, form } = defineProps<{ parts: TakenApart, form: RuleForm }>()
const stops = computed(() => ruleStops(form))
const emit = defineEmits<{ takeOut: [phrase: string, path: string] }>()
const directory = useDirectoryStore()
const MAX = 12
const all = ref(false)

const members = computed(() => ('all' in form.when ? form.when.all : 'any' in form.when ? form.when.any : [form.when]))
function wordsOf({ path, phrase }: PartImpact): string {
  if (phrase !== null) return quoted(phrase)
  const [part, index] = path.split('.')
  const condition = part === 'except' ? form.except[Number(index)] : members.value[Number(index)]
  const words = condition ? conditionWords(condition, directory.names, favouring(form, part === 'except' ? 'except' : 'when')) : ''
  return part === 'except' ? `exception: ${words}` : words
}
const total = ({ wanted, unwanted, unmarked }: PartImpact['catches']) => wanted + unwanted + unmarked
const lines = computed(() =>
  parts.parts.map(p => ({ ...p, words: wordsOf(p), n: total(p.catches), bad: isBad(p) })).filter(p => p.words !== ''))
/** A phrase that brings more wanted mail than unwanted, by itself. */
function isBad({ phrase, only }: PartImpact): boolean {
  return stops.value && phrase !== null && only !== null && only.wanted > 0 && only.wanted >= only.unwanted
}
// Of a part of the mail nothing is said against a phrase.
const bad = computed(() => (isWhole(parts) ? lines.value.filter(l => l.bad) : []))
</script>

<template>
  <div
    v-if="lines.length"
    class="parts"
  >
    <table class="small">
      <caption class="second">
        {{ amongWords(parts) }}
      </caption>
      <thead class="visually-hidden">
        <tr>
          <th scope="col">
            condition or exception
          </th><th scope="col">
            wanted
          </th><th scope="col">
            unwanted
          </th><th scope="col">
            not marked
          </th>
        </tr>
      </thead>
      <tbody>
        <tr
          v-for="l in all ? lines : lines.slice(0, MAX)"
          :key="`${l.path} ${l.phrase}`"
          :class="{ none: !l.n }"
        >
          <th scope="row">
            {{ l.words }} <span
              v-if="total(l.excepted)"
              class="second"
            >{{ numberWords(total(l.excepted)) }} more under an exception</span>
          </th>
          <td
            class="numbers"
            :class="{ warn: stops && l.catches.wanted && !l.path.startsWith('except') }"
          >
            {{ numberWords(l.catches.wanted) }} <span class="second">wanted</span>
          </td>
          <td class="numbers">
            {{ numberWords(l.catches.unwanted) }} <span class="second">unwanted</span>
          </td>
          <td class="numbers">
            {{ numberWords(l.catches.unmarked) }} <span class="second">not marked</span>
          </td>
        </tr>
      </tbody>
    </table>
    <PressButton
      v-if="!all && lines.length > MAX"
      plain
      small
      @click="all = true"
    >
      Show all {{ numberWords(lines.length) }}
    </PressButton>
    <div
      v-for="b in bad.slice(0, 2)"
      :key="`bad ${b.phrase}`"
      class="bad small"
    >
      <p>
        Only because of {{ b.words }} the rule matches {{ numberWords(b.only!.wanted) }} wanted and
        {{ numberWords(b.only!.unwanted) }} unwanted messages.
        <PressButton
          plain
          small
          @click="emit('takeOut', b.phrase!, b.path)"
        >
          Remove {{ b.words }}
        </PressButton>
      </p>
    </div>
  </div>
</template>

<style scoped>
.parts { display: grid; gap: 6px; min-width: 0; }
table { border-collapse: collapse; width: 100%; }
caption { text-align: left; padding-bottom: 2px; }
th { font-weight: 400; text-align: left; padding: 2px 8px 2px 0; overflow-wrap: anywhere; }
td { text-align: right; padding: 2px 0 2px 10px; white-space: nowrap; }
tr { border-bottom: 1px solid var(--hairline); }
td .second { font-family: var(--text); }
.none th, .none td { color: var(--ink-2); }
.bad { border-left: 3px solid var(--warn); padding-left: 10px; }
</style>
