<script setup lang="ts">
import { ruleStops } from '#core/policy'
import { clauseWords } from '#core/words'
import { capitalised, counted, numberWords } from '#core/wording'
import type { CopyCount, CopyView, RuleView, RuleStats } from '~/api/client'

/** Findings and statistics of a rule; for a new one, how rules are read. */
const { rule, touched, canFix = true } = defineProps<{
  rule: (RuleView & { stats: RuleStats }) | null
  touched: { items: CopyView[], count: CopyCount } | null
  /** Nothing is written on the sheet that a fix would lose. */
  canFix?: boolean
}>()
const emit = defineEmits<{ enable: [], fixed: [] }>()
const hits = computed(() => rule ? rule.impact.wanted + rule.impact.unwanted + rule.impact.unmarked : 0)
const others = computed(() => (touched?.count.total ?? 0) - hits.value)
const ofWords = computed(() => {
  const { looked = 0, hits = 0 } = rule?.stats ?? {}
  return `${looked < hits ? 'newest ' : ''}${counted(looked, 'match', 'matches')}`
})
const would = computed(() => rule?.stats.would ?? [])
</script>

<template>
  <aside class="sheet">
    <FindingNotes
      :findings="rule?.findings ?? []"
      :can-fix="rule?.canChange && canFix"
      @fixed="emit('fixed')"
    />
    <template v-if="rule && touched">
      <template v-if="rule.state === 'monitor'">
        <h2>What the rule would have done</h2>
        <p class="second small">
          <WordHelp
            word="Monitor only"
            term="monitor"
          /><template v-if="rule.stats.monitoringSince">
            since {{ longDateTime(rule.stats.monitoringSince) }}
          </template>.
          <template v-if="!would.length">
            No message would have gone to another location.
          </template>
        </p>
        <LaneMoves
          :moves="would"
          label="Moves it would have made"
        />
        <p v-if="rule.canChange">
          <PressButton @click="emit('enable')">
            Enable
          </PressButton>
        </p>
      </template>
      <h2>Statistics</h2>
      <p class="big">
        {{ countWords(touched.count) }} matched{{ rule.stats.lastHit ? `, last ${shortWhen(rule.stats.lastHit)}` : '' }}
      </p>
      <ImpactBar
        v-if="hits || !touched.count.total"
        :impact="rule.impact"
        :scale="Math.max(1, hits)"
      />
      <p class="small second">
        <MarkCounts
          v-bind="rule.impact"
          :blocks="ruleStops(rule)"
        />
      </p>
      <p
        v-if="rule.canChange && rule.stats.stopped && ruleStops(rule)"
        class="small"
      >
        <NuxtLink :to="{ path: '/return-mail', query: { kind: 'rule', id: rule.id } }">
          Return the mail that this rule stopped…
        </NuxtLink>
      </p>
      <p
        v-for="t in rule.stats.takenBy"
        :key="t.clause?.id ?? 'own'"
        class="small"
      >
        <template v-if="t.clause">
          <NuxtLink
            v-if="t.clause.kind === 'rule'"
            :to="`/rules/${t.clause.id}`"
          >
            Rule “{{ t.clause.name }}”
          </NuxtLink><template v-else>
            {{ capitalised(clauseWords(t.clause)) }}
          </template>
        </template><template v-else>
          Personal lists or rules
        </template> {{ t.clause ? 'has' : 'have' }} precedence and decided {{ numberWords(t.copies) }} of its {{ ofWords }}.
      </p>
      <p
        v-if="hits && others > 0"
        class="second small"
      >
        {{ counted(others, 'more match', 'more matches') }} without effect: an exception or another list or rule had precedence.
      </p>
      <ul>
        <li
          v-for="c in touched.items"
          :key="c.id"
        >
          <NuxtLink :to="{ path: '/mail', query: { touchedBy: rule.id, open: c.id } }">
            <LaneIcon
              :lane="c.lane"
              :name="c.gone ?? undefined"
              quiet
            />
            <span class="cut">{{ c.senderName || c.sender }}</span>
            <span class="cut">{{ c.subject }}</span>
            <span class="second numbers">{{ shortWhen(c.receivedAt) }}</span>
          </NuxtLink>
        </li>
      </ul>
      <NuxtLink
        v-if="touched.count.total"
        :to="{ path: '/mail', query: { touchedBy: rule.id } }"
      >
        Show all in Mail
      </NuxtLink>
    </template>
    <template v-else>
      <h2>How rules are read</h2>
      <div class="second help">
        <p>
          Phrases are literal: <code>?</code> and brackets match themselves, capital letters do not matter, and a space matches any
          white space. They can also match <WordHelp
            word="obfuscated spellings"
            term="obfuscated"
          />.
        </p>
        <p>
          A rule that stops mail checks From, Sender and the envelope sender. Rules that allow mail, and exceptions, check From
          only. A From is easily forged, so there the sender counts only if verified, unless you choose otherwise. In mandatory rules,
          and for addresses of your own domains, only verified senders count.
        </p>
        <p>
          A new rule that allows mail is placed at the top of its group, all others at the end. Drag it to another place in the list
          of rules.
        </p>
        <p>Not sure? Choose “monitor only” first: the rule then records what it would have done.</p>
      </div>
    </template>
  </aside>
</template>

<style scoped>
aside h2 { margin: 0; }
aside { padding: 20px 22px; display: grid; gap: 12px; }
.big { display: flex; align-items: baseline; gap: 10px; }
ul { list-style: none; margin: 0; padding: 0; }
li { border-bottom: 1px solid var(--hairline); }
li a {
  display: grid;
  grid-template-columns: 14px 1fr 1.4fr auto;
  gap: 8px;
  padding: 7px 0;
  font-size: 14px;
  align-items: center;
  color: var(--ink);
  font-weight: 400;
}
li a:hover { background: var(--hover); text-decoration: none; }
.cut { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; min-width: 0; }
.help { display: grid; gap: 10px; }
</style>
