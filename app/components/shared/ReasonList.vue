<script setup lang="ts">
import type { Lane, Reason, Stop } from '#core'
import { laneInSentence, claimText, clauseWords, entryWords, evidenceWords, outcomeWords, notCountedWords } from '#core/words'
import { capitalised } from '#core/wording'

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

const reasonLines = computed(() => reasonLinesOf(reasons, decidedBy))
const ownerLabel = (r: Reason) =>
  r.owner === 'organisation'
    ? r.mandatory
      ? 'mandatory'
      : 'organisation'
    : `${directory.ownerName(r.owner)}${r.mandatory ? ', mandatory' : ''}`
// Ids of clauses with what became of each of their claims.
const said = (list: readonly Reason[]) => Map.groupBy(list, r => r.clause.id)
function outcomes(list: readonly Reason[] | undefined): string {
  return (list ?? []).map(r => `${claimText(r, directory.names)} ${outcomeWords(r, directory.names, stopOf(list ?? []))}`).join()
}
function differs(reasonLine: { reasons: Reason[] }): string {
  if (!beside) return ''
  const { id } = reasonLine.reasons[0]!.clause
  const [here, there] = [said(reasons).get(id), said(beside).get(id)]
  if (!there) return 'only here'
  return outcomes(here) === outcomes(there) ? '' : 'different on the other side'
}
const look = (reasonLine: { reasons: Reason[], decided: boolean }) =>
  reasonLine.decided ? 'solid' : reasonLine.reasons.every(r => r.outcome.kind === 'monitored') ? 'dashed' : 'open'
// A rule that stopped it, or would have.
const addsException = (reasonLine: { reasons: Reason[] }) =>
  reasonLine.reasons.some(r => r.clause.kind === 'rule' && !r.clause.others && 'stop' in r.claim && LOOSENED.has(r.outcome.kind))
const LOOSENED = new Set(['decided', 'sameResult', 'comesAfter'])
const toRoute = (r: Reason) =>
  r.clause.kind === 'rule' ? `/rules/${r.clause.id}` : r.clause.kind === 'list' ? `/lists/${r.clause.list}` : null
/** What stopped the copy, if anything did. */
function stopOf(list: readonly Reason[]): Stop | null {
  const claim = list.find(r => r.outcome.kind === 'decided')?.claim
  return claim && 'stop' in claim ? claim.stop : null
}
const stop = computed(() => stopOf(reasons))
const withoutWords = (id: string) => laneInSentence(without[id]!.lane, without[id]!.quarantine, directory.names)
</script>

<template>
  <p
    v-if="!reasonLines.length"
    class="second"
  >
    No list or rule matched. The message is delivered to Inbox.
  </p>
  <ol
    v-else
    class="ladder"
    aria-label="Reasons, in order of precedence"
  >
    <li
      v-for="reasonLine in reasonLines"
      :key="reasonLine.key"
      :class="look(reasonLine)"
      tabindex="0"
      @mouseenter="lit = reasonLine.key"
      @mouseleave="lit = null"
      @focusin="lit = reasonLine.key"
      @focusout="lit = null"
    >
      <span class="owner second small">{{ ownerLabel(reasonLine.reasons[0]!) }}</span>
      <svg
        viewBox="0 0 20 20"
        width="17"
        height="17"
        aria-hidden="true"
      ><path d="M10 1.5 18.5 10 10 18.5 1.5 10z" /></svg>
      <div>
        <p>
          <span class="visually-hidden">{{ reasonLine.decided ? 'Decided: ' : '' }}</span>
          <NuxtLink
            v-if="toRoute(reasonLine.reasons[0]!)"
            :to="toRoute(reasonLine.reasons[0]!)!"
            class="clause"
          >
            {{ capitalised(clauseWords(reasonLine.reasons[0]!.clause)) }}
          </NuxtLink>
          <span
            v-else
            class="clause"
          >{{ capitalised(clauseWords(reasonLine.reasons[0]!.clause)) }}</span>
        </p>
        <p
          v-if="reasonLine.reasons[0]!.clause.entry"
          class="second small"
        >
          {{ entryWords(reasonLine.reasons[0]!.clause.entry) }}
        </p>
        <p
          v-else-if="reasonLine.reasons[0]!.evidence.length"
          class="second small"
        >
          {{ evidenceWords(reasonLine.reasons[0]!.evidence) }}
        </p>
        <p
          v-if="differs(reasonLine)"
          class="small differs"
        >
          {{ differs(reasonLine) }}
        </p>
        <p
          v-for="(reason, i) in reasonLine.reasons"
          :key="i"
          class="small"
        >
          {{ capitalised(claimText(reason, directory.names)) }}
          <span class="second">— {{ outcomeWords(reason, directory.names, stop) }}</span>
        </p>
        <p
          v-if="copy !== null && addsException(reasonLine)"
          class="small"
        >
          <NuxtLink :to="{ path: `/rules/${reasonLine.reasons[0]!.clause.id}`, query: { addException: copy } }">
            Make an exception for mail like this
          </NuxtLink>
        </p>
        <p
          v-if="without[reasonLine.reasons[0]!.clause.id]"
          class="small second"
        >
          Without this {{ reasonLine.reasons[0]!.clause.kind }}:
          {{ withoutWords(reasonLine.reasons[0]!.clause.id) }}
        </p>
        <p
          v-for="(lost, i) in reasonLine.reasons[0]!.lostExceptions"
          :key="`lost${i}`"
          class="small warn"
        >
          The exception {{ evidenceWords(lost.evidence) }} does not count: {{ notCountedWords(lost.why) }}
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
