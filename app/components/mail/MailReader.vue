<script setup lang="ts">
import type { Lane } from '#core'
import { isKeptAway } from '#core/policy'
import DOMPurify from 'dompurify'
import { laneInSentence, placeOfCopy, withVisibleControls, LANE_NAMES } from '#core/words'
import { shortSize } from '#core/wording'
import { api, type CopyDetail, type CopyView } from '~/api/client'
import { FRAME_STYLE } from '~/frame-style'

const { line, copy } = defineProps<{
  line: CopyView
  /** All of it, as soon as it is there. */
  copy: CopyDetail | null
}>()
const emit = defineEmits<{ fixed: [] }>()
const tab = defineModel<'text' | 'reasons' | 'source'>('tab', { required: true })
const directory = useDirectoryStore()
const lit = ref<string | null>(null)
const asSent = ref(false)
const source = ref<{ id: number, text: string } | null>(null)
const sourceError = ref('')

const from = computed(() => copy?.facts.from[0])
const verdict = computed(() => VERDICTS[copy?.facts.attempt.authentication.verdict ?? 'none'])
const since = computed(() => {
  const now = directory.data?.policy.version
  return copy?.decision?.policyVersion === now ? '' : `; version ${now} is active now`
})
const laneName = computed(() => placeOfCopy(line, directory.names))
const defects = computed(() => (copy ? [...copy.facts.defects, ...copy.facts.attempt.defects] : []))
// Harmless already at the server; once more here, and in a frame that runs and fetches nothing.
const FRAME_POLICY = 'default-src \'none\'; style-src \'unsafe-inline\''
const MAX_INSIDE = 20
/** The names of files in an archive, the first of them. */
function insideWords(names: readonly string[]): string {
  const shown = names.slice(0, MAX_INSIDE).map(withVisibleControls).join(', ')
  return names.length > MAX_INSIDE ? `${shown} and ${names.length - MAX_INSIDE} more` : shown
}
const fromWords = computed(() => (from.value ? `${from.value.local}@${from.value.domainUnicode}` : line.sender || 'no sender'))
const frame = computed(() =>
  copy?.html
    ? [
        '<!doctype html><meta charset="utf-8">',
        `<meta http-equiv="Content-Security-Policy" content="${FRAME_POLICY}">`,
        `<base target="_blank"><style>${FRAME_STYLE}</style>`,
        DOMPurify.sanitize(copy.html, { FORBID_TAGS: ['style', 'form', 'img'] }),
      ].join('')
    : '',
)

watch(
  () => line.id,
  () => {
    asSent.value = false
    lit.value = null
  },
)
watch(
  [tab, () => copy?.id],
  async () => {
    if (!copy || tab.value !== 'source' || source.value?.id === copy.id) return
    const { id } = copy
    sourceError.value = ''
    try {
      source.value = { id, text: await api.source(id) }
    }
    catch (error) {
      sourceError.value = error instanceof Error ? error.message : String(error)
    }
  },
  { immediate: true },
)

// Of what was refused or erased only the record is here, and nothing to decide.
const { supposed, without } = useWhatIf(() => (copy && tab.value === 'reasons' && !line.gone && line.lane !== 'refused' ? copy.id : null))
const nowWords = computed(() => {
  const now = supposed.value?.now
  if (!now || now.version === copy?.decision?.policyVersion) return ''
  const same = now.lane === copy?.decision?.lane && now.quarantine === copy.decision.quarantine
  const under = `With the active policy version ${now.version} it would go`
  if (same) return `${under} to the same location.`
  return `${under} to ${laneInSentence(now.lane, now.quarantine, directory.names)}. ${now.sentence}`
})

const fixes = useTemplateRef<{ look(): Promise<void> }>('fixes')
/** Shows what would fix it; false where it lies where it should, as far as anybody said. */
function fix(): boolean {
  if (!wentWrong(line)) return false
  tab.value = 'reasons'
  void nextTick(() => fixes.value?.look())
  return true
}
defineExpose({ fix })

const actions = useMailActions()
const release = computed(() => {
  if (!isKeptAway(line.lane) || !line.can.move.includes('inbox')) return ''
  return line.lane === 'quarantine' ? 'Release only this message' : 'Move only this message to Inbox'
})

const MAX_SHOWN = 200_000
const EVENTS: Record<string, string> = {
  moved: 'moved',
  released: 'released it',
  binned: 'moved it to Bin as unwanted',
  opened: 'opened it',
  changed: 'moved it by a policy change',
  applied: 'moved it by lists and rules',
  marked: 'marked',
  undone: 'undid that',
}
function eventWords(auditEvent: CopyDetail['history'][number]): string {
  const detail = auditEvent.detail as { lane?: string, value?: string | null }
  const what =
    auditEvent.kind === 'moved'
      ? `moved it to ${LANE_NAMES[detail.lane as Lane]}`
      : auditEvent.kind === 'marked'
        ? detail.value
          ? `marked it as ${detail.value}`
          : 'removed the mark'
        : (EVENTS[auditEvent.kind] ?? auditEvent.kind)
  return `${auditEvent.by ?? 'somebody'} ${what}`
}
</script>

<template>
  <article
    class="reader"
    :aria-label="line.subject || 'no subject'"
    :aria-busy="copy === null"
  >
    <header>
      <h2 class="subject">
        {{ line.subject || 'no subject' }}
      </h2>
      <p>
        <span v-if="line.senderName">{{ line.senderName }}&ensp;</span><span class="mono second address">{{ fromWords }}</span>
      </p>
      <p
        v-if="wentWrong(line)"
        class="under"
      >
        <PressButton
          plain
          small
          @click="fix"
        >
          Suggest fixes <kbd>M</kbd>
        </PressButton>
      </p>
      <p class="second small">
        to {{ line.recipientName }} · {{ longDateTime(line.receivedAt) }}<template v-if="copy">
          · <WordHelp
            :word="verdict"
            term="verified"
          />
        </template><template v-if="line.important">
          · important
        </template><template v-if="line.folder">
          · in folder “{{ line.folder }}”
        </template><template v-if="line.notRefused">
          · not refused, because the message was accepted for another recipient
        </template><template
          v-for="t in line.tags"
          :key="t"
        >
          · <span class="tag">{{ t }}</span>
        </template>
      </p>
      <p class="small where">
        <span><LaneIcon
          :lane="line.lane"
          :filed="line.filed"
          name=""
        /> <WordHelp
          :word="laneName"
          :term="line.filed ? 'filed' : LANE_TERMS[line.lane]"
        /></span> <span
          v-if="copy?.leaves"
          class="second"
        >until {{ shortWhen(copy.leaves) }}</span> <span
          v-if="line.movedBy"
          class="second"
        >moved by {{ line.movedBy }}</span><span
          v-if="line.judgement"
          class="second"
        ><WordHelp
          word="marked"
          term="mark"
        /> {{ line.judgement }}{{ line.judgementStrength === 'said' ? '' : ' (assumed from a move)' }}</span>
      </p>
    </header>
    <div
      class="tabs"
      role="tablist"
      aria-label="Parts of the message"
    >
      <button
        v-for="t in (['text', 'reasons', 'source'] as const)"
        :id="`tab-${t}`"
        :key="t"
        role="tab"
        type="button"
        :aria-selected="tab === t"
        aria-controls="panel"
        @click="tab = t"
      >
        {{ { text: 'Text', reasons: 'Reasons', source: 'Source' }[t] }}
      </button>
    </div>
    <div
      id="panel"
      class="panel"
      role="tabpanel"
      :aria-labelledby="`tab-${tab}`"
      tabindex="0"
    >
      <p
        v-if="!copy"
        class="second"
      >
        Loading…
      </p>
      <template v-else-if="tab === 'text'">
        <div
          v-if="defects.length"
          class="defects small"
        >
          <p>Malformed:</p>
          <ul>
            <li
              v-for="d in defects"
              :key="d.code"
            >
              <strong>{{ d.code }}</strong> <span class="second">{{ d.detail }}</span>
            </li>
          </ul>
        </div>
        <p
          v-if="copy.html"
          class="small switch"
        >
          <PressButton
            plain
            :aria-pressed="asSent"
            @click="asSent = !asSent"
          >
            {{ asSent ? 'Show text with highlights' : 'Show original HTML' }}
          </PressButton>
        </p>
        <iframe
          v-if="asSent && copy.html"
          class="as-sent"
          sandbox=""
          referrerpolicy="no-referrer"
          title="Original HTML of the message"
          :srcdoc="frame"
        />
        <MessageText
          v-else
          :attachments="copy.facts.attachments"
          :headers="copy.facts.headers"
          :segments="copy.facts.segments"
          :reasons="copy.reasons"
          :lit
          with-subject
        />
        <p
          v-for="(a, i) in copy.facts.attachments"
          :key="i"
          class="mono small second attachment"
        >
          {{ withVisibleControls(a.name) || 'without a name' }} · {{ a.detectedType ?? a.declaredType }} ·
          {{ shortSize(a.size) }}<template v-if="a.inside">
            · contains
            {{ insideWords(a.inside) }}
          </template>
        </p>
      </template>
      <template v-else-if="tab === 'reasons'">
        <p class="sentence">
          {{ copy.sentence }}
        </p>
        <SenderFound
          :authentication="copy.facts.attempt.authentication"
          :content="copy.facts"
        />
        <ReasonList
          v-model:lit="lit"
          :reasons="copy.reasons"
          :decided-by="copy.decision?.decidedBy ?? null"
          :without
          :copy="line.gone || line.lane === 'refused' ? null : line.id"
        />
        <p
          v-if="nowWords"
          class="small now"
        >
          {{ nowWords }}
        </p>
        <FixList
          v-if="wentWrong(line)"
          ref="fixes"
          class="fixes"
          :ids="[line.id]"
          likely
          :release
          :doubted="line.doubted"
          @fixed="emit('fixed')"
          @release="actions.move('inbox', [line])"
        />
        <div
          class="excerpt"
          role="group"
          aria-label="Text of the message"
          tabindex="0"
        >
          <MessageText
            :attachments="copy.facts.attachments"
            :headers="copy.facts.headers"
            :segments="copy.facts.segments"
            :reasons="copy.reasons"
            :lit
            with-subject
          />
        </div>
        <p
          v-if="copy.decision"
          class="second small"
        >
          Decided {{ longDateTime(copy.decision.at) }} under policy version
          {{ copy.decision.policyVersion }}{{ since }}.
        </p>
        <ul
          v-if="copy.history.length"
          class="history small second"
        >
          <li
            v-for="auditEvent in copy.history"
            :key="auditEvent.eventId"
            :class="{ undone: auditEvent.undone }"
          >
            {{ longDateTime(auditEvent.at) }}: {{ eventWords(auditEvent) }}<template v-if="auditEvent.undone">
              (undone)
            </template>
          </li>
        </ul>
      </template>
      <template v-else>
        <p
          v-if="sourceError"
          class="wrong"
        >
          {{ sourceError }}
        </p>
        <template v-else-if="source?.id === copy.id">
          <p class="small">
            <a
              :href="`/api/copies/${copy.id}/source`"
              download
            >Save as file</a><span
              v-if="source.text.length > MAX_SHOWN"
              class="second"
            > · only the beginning is shown</span>
          </p>
          <pre class="mono">{{ source.text.slice(0, MAX_SHOWN) }}</pre>
        </template>
        <p
          v-else
          class="second"
        >
          Loading…
        </p>
      </template>
    </div>
  </article>
</template>

<style scoped>
.reader { display: flex; flex-direction: column; min-height: 0; flex: 1; }
header { padding: 16px 20px 10px; display: grid; gap: 3px; }
.subject { font-size: 19px; overflow-wrap: anywhere; }
.address { overflow-wrap: anywhere; }
.under { margin-left: -6px; display: flex; flex-wrap: wrap; gap: 0 14px; }
.where { display: flex; gap: 12px; margin-top: 2px; }
.tag { border-bottom: 1px solid var(--field); }
.tabs { display: flex; gap: 24px; padding: 0 20px; border-bottom: 1px solid var(--hairline); }
.tabs button {
  border: 0;
  background: none;
  padding: 6px 0 8px;
  color: var(--ink-2);
  cursor: pointer;
  border-bottom: 2px solid transparent;
  margin-bottom: -1px;
}
.tabs button[aria-selected='true'] { color: var(--ink); font-weight: 700; border-bottom-color: var(--water); }
.panel { flex: 1; overflow-y: auto; padding: 14px 20px; min-height: 0; }
.panel:focus-visible { outline-offset: -2px; }
.fixes { border-top: 1px solid var(--hairline); margin: 6px 0 12px; padding-top: 12px; }
.now { margin: 4px 0 12px; border-left: 2px solid var(--field); padding-left: 10px; }
.sentence { font-size: 16px; margin-bottom: 14px; }
.excerpt { border-top: 1px solid var(--hairline); margin-top: 6px; padding: 12px 0; max-height: 320px; overflow-y: auto; font-size: 14px; }
.defects { border-left: 3px solid var(--warn); padding: 4px 12px; margin-bottom: 12px; }
.defects ul, .history { margin: 4px 0 0; padding-left: 18px; }
.undone { text-decoration: line-through; }
.switch { margin-bottom: 8px; }
.as-sent { width: 100%; min-height: 380px; border: 1px solid var(--hairline); background: #fff; }
.attachment { margin-top: 12px; border-top: 1px solid var(--hairline); padding-top: 10px; }
pre { white-space: pre-wrap; overflow-wrap: anywhere; font-size: 12.5px; margin: 8px 0 0; }
</style>
