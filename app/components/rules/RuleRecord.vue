<script setup lang="ts">
import type { CopyCount, CopyLine, RuleLine } from '~/api/client'

/** What the checks find in a rule and what it has touched; for a new one, how rules are read. */
const { rule, touched } = defineProps<{ rule: RuleLine | null, touched: { items: CopyLine[], count: CopyCount } | null }>()
const counted = computed(() => rule ? rule.impact.wanted + rule.impact.unwanted + rule.impact.unjudged : 0)
const others = computed(() => (touched?.count.total ?? 0) - counted.value)
</script>

<template>
  <aside class="sheet">
    <FindingNotes :findings="rule?.findings ?? []" />
    <template v-if="rule && touched">
      <h2>So far</h2>
      <p class="big">
        {{ countWords(touched.count) }} where it matched
      </p>
      <ImpactBar
        v-if="counted || !touched.count.total"
        :impact="rule.impact"
        :scale="Math.max(1, counted)"
      />
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
            <LaneMark
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
.number { font: 600 30px/1 var(--heading); }
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
