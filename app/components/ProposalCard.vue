<script setup lang="ts">
import { oneOf, plural } from '#core/wording'
import { api, type ChangingForm, type ProposalView, type SavedChanges } from '~/api/client'
import { useImpact } from '~/composables/impact'
import { useSaveChanges } from '~/composables/saveChanges'
import { allThatComes, existingOf } from '~/composables/whichMail'

/** One proposal: what it says, why, about which mail; its impact, and the answer of whoever may give it. */
const { proposal } = defineProps<{ proposal: ProposalView }>()
const emit = defineEmits<{ answered: [] }>()
const directory = useDirectoryStore()
const notices = useNoticeStore()
const work = useJobStore()
const along = ref(true)
const which = ref(allThatComes())
const declining = ref(false)
const reason = ref('')
/** The version on which it was looked at again, once it was seen what came in between. */
const over = ref<number | null>(null)
const impact = useImpact(() => (proposal.canAnswer && !proposal.hindered ? proposal.changes : null))
/** What its impact says, and the attached messages. */
function existing(): ChangingForm['existing'] {
  const ids = along.value ? proposal.copies.map(c => c.id) : []
  const moved = existingOf(which.value, false, impact.impact.value)
  return moved || ids.length ? { lanes: [], ...moved, ids } : undefined
}
const putting = useSaveChanges(
  () => ({
    base: over.value ?? proposal.base,
    changes: proposal.changes ?? [],
    coming: true,
    ...(existing() ? { existing: existing() } : {}),
  }),
  done,
  undefined,
  {
    send: ({ base, existing, confirmed }) => api.answerProposal(proposal.id, { accept: true, base, existing, confirmed }),
    ready: () => impact.settledFor(which.value),
  },
)
const { error, busy, submit } = useForm()

async function done(active: SavedChanges) {
  const words = `Accepted the proposal of ${proposal.by}. Policy version ${active.version} is active.`
  work.tellSaved(active, { words, nothing: 'Nothing to save: this was already saved.' })
  await directory.load()
  emit('answered')
}
const decline = () =>
  submit(async () => {
    const { eventId } = await api.answerProposal(proposal.id, { accept: false, reason: reason.value.trim() })
    notices.say(`Declined. ${proposal.by} can read the reason.`, eventId)
    emit('answered')
  }, reason.value.trim() ? {} : { reason: 'Enter a reason. The proposer can read it.' })
async function undoEvent() {
  if (await notices.undoEvent(proposal.takesBack!)) emit('answered')
}
async function putOver() {
  await directory.load()
  over.value = directory.data?.policy.version ?? null
  putting.leave()
  await putting.put()
}
const STATES = { open: 'waiting for an answer', accepted: 'accepted', declined: 'declined', withdrawn: 'withdrawn' }
const form = useTemplateRef<HTMLElement>('form')
useFocusOn(form, () => declining.value)
</script>

<template>
  <article
    :id="`proposal-${proposal.id}`"
    class="sheet"
    :aria-label="proposal.words"
  >
    <header>
      <h2>{{ proposal.words }}</h2>
      <p class="second small">
        {{ proposal.mine ? 'proposed by you' : `proposed by ${proposal.by}` }}, {{ longDateTime(proposal.at) }}
        · <strong>{{ STATES[proposal.state] }}</strong><template v-if="proposal.answeredBy && proposal.answeredAt">
          by {{ proposal.answeredBy }}, {{ longDateTime(proposal.answeredAt) }}
        </template>
      </p>
    </header>
    <blockquote v-if="proposal.note">
      {{ proposal.note }}
    </blockquote>
    <p v-if="proposal.reason">
      Reason: {{ proposal.reason }}
    </p>
    <div
      v-if="proposal.since"
      class="stale small"
    >
      <p><strong>Outdated.</strong> What it changes was changed after it was proposed:</p>
      <p
        v-for="s in proposal.since"
        :key="s.version"
      >
        {{ s.words }} <span class="second">— {{ s.by ?? 'Sober Gate' }}, {{ longDateTime(s.at) }}</span>
      </p>
      <p
        v-if="proposal.replaces.length"
        class="warn"
      >
        Accepting the proposal replaces {{ oneOf(proposal.replaces, 'and', 6) }} as
        {{ plural(proposal.replaces.length, 'it is', 'they are') }} now.
      </p>
      <p v-else>
        These changes stay when you accept the proposal.
      </p>
    </div>
    <p
      v-if="proposal.hindered"
      class="small warn"
    >
      It can no longer be accepted: {{ proposal.hindered }}
    </p>
    <ImpactSample
      v-if="proposal.copies.length"
      :sample="proposal.copies"
      :label="proposal.about === 1 ? 'Attached message' : `${proposal.about} attached messages`"
    />
    <p v-if="proposal.takesBack !== null">
      <PressButton
        plain
        @click="undoEvent"
      >
        Withdraw
      </PressButton>
    </p>
    <template v-if="proposal.canAnswer">
      <p
        v-if="!proposal.changes"
        class="small"
      >
        This proposal is too large to show its impact.
      </p>
      <ImpactPanel
        v-else-if="!proposal.hindered"
        :of="impact"
        :most="4"
      />
      <WhichMail
        v-if="proposal.changes && !proposal.hindered"
        v-model="which"
        :impact="impact.impact.value"
        only
      />
      <el-checkbox
        v-if="proposal.copies.length && !proposal.hindered"
        v-model="along"
      >
        Also move the attached {{ plural(proposal.copies.length, 'message') }} to where
        {{ plural(proposal.copies.length, 'it belongs', 'they belong') }} then
      </el-checkbox>
      <p
        v-if="putting.error.value || error"
        class="wrong"
        role="alert"
      >
        {{ putting.error.value || error }}
      </p>
      <ChangeQuestion
        v-if="putting.isAsking.value"
        :putting
        :yours="proposal.words"
        @over="putOver"
        @load="putting.leave(); emit('answered')"
      />
      <form
        v-else-if="declining"
        ref="form"
        @submit.prevent="decline"
      >
        <FormField
          label="Reason"
          :error="reason.trim() ? '' : error"
        >
          <el-input
            v-model="reason"
            :maxlength="2000"
            :placeholder="`${proposal.by} can read it`"
          />
        </FormField>
        <div class="actions">
          <PressButton
            first
            type="submit"
            :disabled="busy || !reason.trim()"
          >
            Decline
          </PressButton>
          <PressButton
            plain
            @click="declining = false"
          >
            Cancel
          </PressButton>
        </div>
      </form>
      <div
        v-else
        class="actions"
      >
        <PressButton
          v-if="!proposal.hindered"
          first
          :disabled="putting.busy.value"
          @click="proposal.since ? putOver() : putting.put()"
        >
          {{ proposal.replaces.length ? 'Accept anyway' : 'Accept' }}
        </PressButton>
        <PressButton @click="declining = true">
          Decline…
        </PressButton>
      </div>
    </template>
  </article>
</template>

<style scoped>
article { padding: 16px 22px; display: grid; gap: 10px; min-width: 0; }
header { display: grid; gap: 2px; }
h2 { margin: 0; font-size: 16px; overflow-wrap: anywhere; }
blockquote { margin: 0; border-left: 2px solid var(--field); padding-left: 12px; overflow-wrap: anywhere; white-space: pre-line; }
.stale { border-left: 3px solid var(--warn); padding-left: 12px; display: grid; gap: 4px; }
.actions { display: flex; flex-wrap: wrap; gap: 6px 10px; }
form { display: grid; gap: 8px; }
</style>
