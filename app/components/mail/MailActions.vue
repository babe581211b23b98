<script setup lang="ts">
import { isKeptAway } from '#core/policy'
import { LANE_NAMES } from '#core/words'
import { counted } from '#core/wording'
import type { useMailActionList } from '~/composables/mailActions'

/** What can be done with what is meant. */
const { actions } = defineProps<{ actions: ReturnType<typeof useMailActionList> }>()
const emit = defineEmits<{ sender: [], rule: [] }>()
const mail = useMailStore()
const directory = useDirectoryStore()
const isMarked = (value: 'wanted' | 'unwanted') =>
  mail.meant.length > 0 && !mail.all && mail.meant.every(c => c.judgement === value && c.judgementStrength === 'said')
const MARKS = [{ value: 'wanted', key: 'W' }, { value: 'unwanted', key: 'U' }] as const
const several = computed(() => mail.all || mail.meant.length > 1)
const senderWords = computed(() =>
  `${mail.meant.every(c => isKeptAway(c.lane)) ? 'Allow' : 'Block'} ${several.value ? 'senders' : 'sender'}…`)
const releaseWords = computed(() => (several.value ? `Release ${counted(actions.releasable.value.length, 'message')}` : 'Release'))

/** Places to move to, each quarantine by its name; where all of it is already is none. */
const places = computed(() => actions.moves.value.flatMap(({ lane, key }) => {
  const quarantines = lane === 'quarantine' ? directory.names.quarantines.filter(q => q.reviews) : [undefined]
  return quarantines.flatMap((quarantine) => {
    const isThere = mail.meant.every(c => c.lane === lane && !c.filed && (!quarantine || c.quarantine === quarantine.id))
    const name = quarantine ? `${LANE_NAMES.quarantine} “${quarantine.name}”` : LANE_NAMES[lane]
    return isThere && !mail.all ? [] : [{ lane, key, quarantine, name }]
  })
}))
type Place = (typeof places.value)[number]

const typed = ref('')
const deletion = useTemplateRef<HTMLElement>('deletion')
watch(() => actions.deleting.value, () => (typed.value = ''))
useFocusOn(deletion, () => actions.deleting.value !== null)
const note = ref('')
const field = useTemplateRef<HTMLElement>('field')
watch(() => actions.requesting.value, () => (note.value = ''))
useFocusOn(field, () => actions.requesting.value)
</script>

<template>
  <footer v-if="mail.meant.length && (mail.opened || mail.chosenCount)">
    <ForgeryQuestion
      v-if="actions.question.value"
      :question="actions.question.value"
      @leave="actions.leave()"
    />
    <template v-else-if="actions.holding.value">
      <p class="small">
        Hold {{ counted(actions.holding.value.length, 'message') }} in which quarantine?
      </p>
      <div class="actions">
        <PressButton
          v-for="q in directory.names.quarantines.filter(known => known.reviews)"
          :key="q.id"
          @click="actions.hold(q.id)"
        >
          {{ q.name }}
        </PressButton>
        <PressButton
          plain
          @click="actions.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </template>
    <form
      v-else-if="actions.deleting.value"
      ref="deletion"
      class="request"
      role="alertdialog"
      aria-label="Delete permanently"
      @submit.prevent="typed.trim() === '1' && actions.deletePermanently()"
      @keydown.esc="actions.leave()"
    >
      <p class="small">
        A permanently deleted message cannot be restored, not even by an administrator. Only its log entry is kept.
      </p>
      <p class="small row">
        <span>This deletes 1 message{{ actions.deleting.value.recipientName ? ` of ${actions.deleting.value.recipientName}` : '' }}.
          Type 1 to confirm:</span><TextField
          v-model="typed"
          label="Number of messages"
          :width="50"
          code
        />
      </p>
      <div class="actions">
        <PressButton
          danger
          type="submit"
          :disabled="typed.trim() !== '1'"
        >
          Delete permanently
        </PressButton>
        <PressButton
          plain
          @click="actions.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </form>
    <div
      v-else-if="actions.requesting.value"
      ref="field"
      class="request"
    >
      <TextField
        v-model="note"
        label="Note to the reviewer"
        placeholder="note to the reviewer (optional)"
        :width="370"
        @keydown.enter.prevent="actions.requestRelease(note)"
        @keydown.esc="actions.leave()"
      />
      <div class="actions">
        <PressButton
          first
          @click="actions.requestRelease(note)"
        >
          Send request
        </PressButton>
        <PressButton
          plain
          @click="actions.leave()"
        >
          Cancel
        </PressButton>
      </div>
    </div>
    <template v-else>
      <div class="actions">
        <PressButton
          v-if="actions.releasable.value.length && !mail.all"
          first
          @click="actions.release()"
        >
          {{ releaseWords }}
        </PressButton>
        <PressButton
          v-else-if="actions.requestable.value.length && !mail.all"
          first
          @click="actions.beginRequest()"
        >
          Request release…
        </PressButton>
        <PressButton
          v-for="{ value, key } in MARKS"
          :key="value"
          :aria-pressed="isMarked(value)"
          :title="isMarked(value) ? 'Marked. Press again to clear the mark.' : undefined"
          @click="actions.mark(isMarked(value) ? null : value)"
        >
          Mark {{ value }} <kbd>{{ key }}</kbd>
        </PressButton>
      </div>
      <div class="actions">
        <el-dropdown
          v-if="places.length || actions.deletable.value"
          trigger="click"
          placement="top-start"
          @command="(to: Place | 'delete') => to === 'delete' ? actions.beginDeletion() : actions.move(to.lane, to.quarantine)"
        >
          <PressButton
            plain
            class="move"
          >
            Move to <span aria-hidden="true">▾</span>
          </PressButton>
          <template #dropdown>
            <el-dropdown-menu aria-label="Move to">
              <el-dropdown-item
                v-for="place in places"
                :key="`${place.lane} ${place.quarantine?.id}`"
                :command="place"
              >
                <LaneIcon
                  :lane="place.lane"
                  :name="place.name"
                /> <kbd>{{ place.key }}</kbd>
              </el-dropdown-item>
              <el-dropdown-item
                v-if="actions.deletable.value"
                divided
                command="delete"
              >
                Delete permanently…
              </el-dropdown-item>
            </el-dropdown-menu>
          </template>
        </el-dropdown>
        <PressButton
          plain
          @click="emit('sender')"
        >
          {{ senderWords }} <kbd>B</kbd>
        </PressButton>
        <PressButton
          plain
          @click="emit('rule')"
        >
          New rule from this… <kbd>R</kbd>
        </PressButton>
      </div>
      <p
        v-if="actions.stays.value && !actions.requestable.value.length"
        class="second small"
      >
        {{ actions.stays.value }}
      </p>
    </template>
  </footer>
</template>

<style scoped>
footer { border-top: 1px solid var(--hairline); padding: 10px 18px; display: grid; gap: 6px; }
.actions { gap: 6px; }
.actions .press { white-space: nowrap; }
.actions .press.plain { padding-inline: 3px; gap: 6px; }
.move { border-bottom-color: var(--field); color: var(--ink); font-weight: 400; }
.request { display: grid; gap: 8px; }
.row { display: flex; flex-wrap: wrap; gap: 6px; align-items: center; }
</style>
