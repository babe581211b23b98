<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { writtenEntry } from '#core/kinds'
import { counted, numberWords } from '#core/wording'
import { api, type KnownSender } from '~/api/client'

/** Chooses senders of mail that is here, instead of typing them: one or several, as lines of a list. */
const { kinds = ['address', 'domain', 'mailingList'], one = false } = defineProps<{
  kinds?: KnownSender['kind'][]
  /** A single one, that takes the place of what the field has. */
  one?: boolean
}>()
const emit = defineEmits<{ add: [senders: KnownSender[], lines: string[]] }>()
const open = ref(false)
const words = ref('')
const items = shallowRef<KnownSender[]>([])
const chosen = ref(new Map<string, KnownSender>())
const failure = ref('')
const panel = useTemplateRef<HTMLElement>('panel')
useFocusOn(panel, () => open.value)
const keyOf = (s: KnownSender) => `${s.kind} ${s.value}`
const KINDS: Record<KnownSender['kind'], string> = { address: '', domain: 'all of the domain', mailingList: 'mailing list' }

let asked = 0
async function look() {
  const mine = ++asked
  try {
    const found = await api.senders({ words: words.value.trim(), kinds })
    if (mine !== asked) return
    items.value = found.items
    failure.value = ''
  }
  catch (e) {
    if (mine === asked) failure.value = e instanceof Error ? e.message : String(e)
  }
}
const lookSoon = useDebounceFn(look, 200)
function toggle() {
  open.value = !open.value
  chosen.value = new Map()
  if (open.value) void look()
}
function choose(sender: KnownSender) {
  if (one) return add([sender])
  const now = new Map(chosen.value)
  if (!now.delete(keyOf(sender))) now.set(keyOf(sender), sender)
  chosen.value = now
}
function add(senders: KnownSender[]) {
  const lines = senders.map(({ kind, value }) => writtenEntry({ kind, value })).filter(line => line !== null)
  emit('add', senders, lines)
  open.value = false
}
const figures = ({ messages, verified }: KnownSender) =>
  `${counted(messages, 'message')}, ${verified === messages ? 'all' : numberWords(verified)} verified`
</script>

<template>
  <span class="picker">
    <PressButton
      plain
      small
      :aria-expanded="open"
      @click="toggle"
    >
      Choose known {{ one ? 'sender' : 'senders' }}…
    </PressButton>
    <div
      v-if="open"
      ref="panel"
      class="panel small"
      role="group"
      aria-label="Known senders"
      @keydown.esc.stop="open = false"
    >
      <el-input
        v-model="words"
        placeholder="search names and addresses"
        aria-label="Search known senders"
        clearable
        @input="lookSoon"
        @keydown.enter.prevent="chosen.size ? add([...chosen.values()]) : undefined"
      />
      <p
        v-if="failure"
        class="wrong"
        role="alert"
      >
        {{ failure }}
      </p>
      <p
        v-else-if="!items.length"
        class="second"
      >
        No sender of the mail here matches.
      </p>
      <ul>
        <li
          v-for="s in items"
          :key="keyOf(s)"
        >
          <button
            type="button"
            :aria-pressed="one ? undefined : chosen.has(keyOf(s))"
            @click="choose(s)"
          >
            <span
              v-if="!one"
              aria-hidden="true"
            >{{ chosen.has(keyOf(s)) ? '✓' : '+' }}</span>
            <span class="who"><span class="mono">{{ s.kind === 'domain' ? `@${s.value}` : s.value }}</span><span class="second name">{{
              s.name || KINDS[s.kind]
            }}</span></span>
            <span class="second figures">{{ figures(s) }}</span>
          </button>
        </li>
      </ul>
      <p class="actions">
        <PressButton
          v-if="!one"
          small
          :disabled="!chosen.size"
          @click="add([...chosen.values()])"
        >
          {{ chosen.size ? `Add ${numberWords(chosen.size)}` : 'Add' }}
        </PressButton>
        <PressButton
          plain
          small
          @click="open = false"
        >
          Close
        </PressButton>
      </p>
    </div>
  </span>
</template>

<style scoped>
.picker { display: grid; justify-items: start; gap: 4px; min-width: 0; max-width: 100%; }
.panel { border-left: 3px solid var(--water); padding: 4px 12px; display: grid; gap: 6px; width: min(560px, 100%); min-width: 0; }
ul { list-style: none; margin: 0; padding: 0; max-height: 210px; overflow-y: auto; }
li button {
  display: flex;
  gap: 8px;
  align-items: baseline;
  width: 100%;
  padding: 3px 0;
  border: 0;
  border-bottom: 1px solid var(--hairline);
  background: none;
  color: inherit;
  font: inherit;
  text-align: left;
  cursor: pointer;
}
li button:hover { background: var(--hover); }
.who { flex: 1; min-width: 0; overflow-wrap: anywhere; }
.name { margin-left: 8px; }
.figures { white-space: nowrap; }
</style>
