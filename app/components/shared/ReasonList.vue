<script setup lang="ts">
import type { Lane, Reason } from '#core'
import { laneInSentence, claimText, clauseWords, entryWords, evidenceWords, fateWords, notCountedWords } from '#core/words'

const { reasons, decidedBy, without = {}, beside = null, copy = null } = defineProps<{
  reasons: Reason[]
  decidedBy: number | null
  /** Where the copy would end without a clause, by its id. */
  without?: Record<string, { lane: Lane, quarantine: string | null }>
  /** The reasons on the other side, where two are compared: what is otherwise there is marked. */
  beside?: Reason[] | null
  /** The copy that was stopped, where a rule that stopped it can be loosened for it. */
  copy?: number | null
}>()
const lit = defineModel<string | null>('lit', { default: null })
const directory = useDirectoryStore()

const rungs = computed(() => rungsOf(reasons, decidedBy))
const ownerLabel = (r: Reason) =>
  r.owner === 'organisation'
    ? r.must
      ? 'must'
      : 'organisation'
    : `${directory.ownerName(r.owner)}${r.must ? ', must' : ''}`
// Ids of clauses with what became of each of their claims.
const said = (list: readonly Reason[]) => Map.groupBy(list, r => r.clause.id)
function fates(list: readonly Reason[] | undefined): string {
  return (list ?? []).map(r => `${claimText(r, directory.names)} ${fateWords(r, directory.names)}`).join()
}
function differs(rung: { reasons: Reason[] }): string {
  if (!beside) return ''
  const { id } = rung.reasons[0]!.clause
  const [here, there] = [said(reasons).get(id), said(beside).get(id)]
  if (!there) return 'only on this side'
  return fates(here) === fates(there) ? '' : 'otherwise on the other side'
}
const look = (rung: { reasons: Reason[], decided: boolean }) =>
  rung.decided ? 'solid' : rung.reasons.every(r => r.fate.kind === 'watching') ? 'dashed' : 'open'
// A rule that stopped it, or would have.
const loosens = (rung: { reasons: Reason[] }) =>
  rung.reasons.some(r => r.clause.kind === 'rule' && !r.clause.others && 'stop' in r.claim && LOOSENED.has(r.fate.kind))
const LOOSENED = new Set(['decided', 'agreed', 'outranked'])
const toRoute = (r: Reason) =>
  r.clause.kind === 'rule' ? `/rules/${r.clause.id}` : r.clause.kind === 'list' ? `/lists/${r.clause.list}` : null
</script>

<template>
  <p
    v-if="!rungs.length"
    class="second"
  >
    No list and no rule matched. Without any, a message goes to the inbox.
  </p>
  <ol
    v-else
    class="ladder"
    aria-label="Reasons, from the door to the lane"
  >
    <li
      v-for="rung in rungs"
      :key="rung.key"
      :class="look(rung)"
      tabindex="0"
      @mouseenter="lit = rung.key"
      @mouseleave="lit = null"
      @focusin="lit = rung.key"
      @focusout="lit = null"
    >
      <span class="owner second small">{{ ownerLabel(rung.reasons[0]!) }}</span>
      <svg
        viewBox="0 0 20 20"
        width="17"
        height="17"
        aria-hidden="true"
      ><path d="M10 1.5 18.5 10 10 18.5 1.5 10z" /></svg>
      <div>
        <p>
          <span class="visually-hidden">{{ rung.decided ? 'Decided: ' : '' }}</span>
          <NuxtLink
            v-if="toRoute(rung.reasons[0]!)"
            :to="toRoute(rung.reasons[0]!)!"
            class="clause"
          >
            {{ clauseWords(rung.reasons[0]!.clause) }}
          </NuxtLink>
          <span
            v-else
            class="clause"
          >{{ clauseWords(rung.reasons[0]!.clause) }}</span>
        </p>
        <p
          v-if="rung.reasons[0]!.clause.entry"
          class="second small"
        >
          {{ entryWords(rung.reasons[0]!.clause.entry) }}
        </p>
        <p
          v-else-if="rung.reasons[0]!.evidence.length"
          class="second small"
        >
          {{ evidenceWords(rung.reasons[0]!.evidence) }}
        </p>
        <p
          v-if="differs(rung)"
          class="small differs"
        >
          {{ differs(rung) }}
        </p>
        <p
          v-for="(reason, i) in rung.reasons"
          :key="i"
          class="small"
        >
          {{ claimText(reason, directory.names) }} <span class="second">— {{ fateWords(reason, directory.names) }}</span>
        </p>
        <p
          v-if="copy !== null && loosens(rung)"
          class="small"
        >
          <NuxtLink :to="{ path: `/rules/${rung.reasons[0]!.clause.id}`, query: { loosen: copy } }">
            make an exception for mail like this
          </NuxtLink>
        </p>
        <p
          v-if="without[rung.reasons[0]!.clause.id]"
          class="small second"
        >
          without this:
          {{ laneInSentence(without[rung.reasons[0]!.clause.id]!.lane, without[rung.reasons[0]!.clause.id]!.quarantine, directory.names) }}
        </p>
        <p
          v-for="(lost, i) in rung.reasons[0]!.lostExceptions"
          :key="`lost${i}`"
          class="small warn"
        >
          its exception {{ evidenceWords(lost.evidence) }} did not count: {{ notCountedWords(lost.why) }}
        </p>
      </div>
    </li>
  </ol>
</template>

<style scoped>
.ladder { list-style: none; margin: 0; padding: 0; }
li { display: grid; grid-template-columns: 82px 17px 1fr; gap: 9px; padding: 5px 0 9px; position: relative; }
li::before { content: ''; position: absolute; left: 99px; top: 0; bottom: 0; width: 1px; background: var(--field); }
li:first-child::before { top: 12px; }
.owner { text-align: right; overflow-wrap: anywhere; padding-top: 2px; }
svg { position: relative; margin-top: 3px; fill: var(--sheet); stroke: var(--ink-2); stroke-width: 1.5; overflow: visible; }
.solid svg { fill: var(--water); stroke: var(--water); }
.dashed svg { stroke-dasharray: 2.4 2.4; }
.clause { color: var(--ink); font-weight: 400; }
.differs { font-weight: 700; }
.differs::before { content: '≠ '; }
.solid .clause { font-weight: 700; }
</style>
