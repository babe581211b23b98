<script setup lang="ts">
import { ruleStops } from '#core/policy'
import { clauseWords } from '#core/words'
import type { CopyCount, CopyView, RuleView, RuleStats } from '~/api/client'

/** What the checks find in a rule and what it has touched; for a new one, how rules are read. */
const { rule, touched, canFix = true } = defineProps<{
  rule: (RuleView & { stats: RuleStats }) | null
  touched: { items: CopyView[], count: CopyCount } | null
  /** Nothing is written on the sheet that a fix would lose. */
  canFix?: boolean
}>()
const emit = defineEmits<{ enable: [], fixed: [] }>()
const counted = computed(() => rule ? rule.impact.wanted + rule.impact.unwanted + rule.impact.unmarked : 0)
const others = computed(() => (touched?.count.total ?? 0) - counted.value)
const ofWords = computed(() => {
  const { looked = 0, hits = 0 } = rule?.stats ?? {}
  return `${looked < hits ? 'newest ' : ''}${looked.toLocaleString('en')}`
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
        <h2>What it would have done</h2>
        <p class="second small">
          Watching<template v-if="rule.stats.monitoringSince">
            since {{ longDateTime(rule.stats.monitoringSince) }}
          </template>.
          <template v-if="!would.length">
            Nothing came that would have ended elsewhere.
          </template>
        </p>
        <LaneMoves
          :moves="would"
          label="From where to where it would have taken mail"
        />
        <p v-if="rule.canChange">
          <PressButton @click="emit('enable')">
            Let it act
          </PressButton>
        </p>
      </template>
      <h2>So far</h2>
      <p class="big">
        {{ countWords(touched.count) }} where it matched{{ rule.stats.lastHit ? `, the last ${shortWhen(rule.stats.lastHit)}` : '' }}
      </p>
      <ImpactBar
        v-if="counted || !touched.count.total"
        :impact="rule.impact"
        :scale="Math.max(1, counted)"
      />
      <p class="small second">
        <MarkCounts v-bind="rule.impact" />
      </p>
      <p
        v-if="rule.canChange && counted && ruleStops(rule)"
        class="small"
      >
        <NuxtLink :to="{ path: '/return-mail', query: { kind: 'rule', id: rule.id } }">
          give back what it took …
        </NuxtLink>
      </p>
      <p
        v-for="t in rule.stats.takenBy"
        :key="t.clause?.id ?? 'own'"
        class="small"
      >
        After <template v-if="t.clause">
          <NuxtLink
            v-if="t.clause.kind === 'rule'"
            :to="`/rules/${t.clause.id}`"
          >
            {{ t.clause.name }}
          </NuxtLink><template v-else>
            the {{ clauseWords(t.clause) }}
          </template>
        </template><template v-else>
          somebody’s own lists or rules
        </template>, which {{ t.clause ? 'takes' : 'take' }} {{ t.copies }} of its {{ ofWords }}.
      </p>
      <p
        v-if="counted && others > 0"
        class="second small"
      >
        In {{ others.toLocaleString('en') }} more it was spared by an exception, or came to nothing.
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
        See all of it in Mail
      </NuxtLink>
    </template>
    <template v-else>
      <h2>How it is read</h2>
      <div class="second help">
        <p>
          Phrases are taken as they are written: <code>?</code> and brackets match themselves, capitals do not count, a
          space is any white space.
        </p>
        <p>
          A rule that stops looks at From, Sender and the envelope. What protects or spares looks at From alone, since
          a From is easily forged: for the organisation and its departments it counts only where the sender is verified,
          in your own rules unless authentication fails. An address of our own has to be verified in either.
        </p>
        <p>A new rule that keeps mail starts on top of its group, any other at the end. Drag it where it belongs.</p>
        <p>Not sure? Let it watch first: it then records what it would have done.</p>
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
