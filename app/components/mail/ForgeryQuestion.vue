<script setup lang="ts">
import { counted, plural } from '#core/wording'
import type { ForgeryQuestion } from '~/composables/forgeries'

/** Before mail is let in whose sender may be forged: what each message claims and what was found, side by side. */
const { question } = defineProps<{ question: ForgeryQuestion }>()
const emit = defineEmits<{ leave: [] }>()
const MAX_SHOWN = 20
const shown = computed(() => question.forgeries.slice(0, MAX_SHOWN))
const n = computed(() => question.forgeries.length)
const box = useTemplateRef<HTMLElement>('box')
onMounted(() => box.value?.focus())
</script>

<template>
  <div
    ref="box"
    class="question"
    role="alertdialog"
    aria-label="The sender may be forged"
    tabindex="-1"
    @keydown.esc.stop="emit('leave')"
  >
    <p class="warn">
      {{ counted(n, 'message') }} may be forged: {{ plural(n, 'it claims', 'they claim') }} a sender that you trust, and nothing
      verified {{ plural(n, 'it', 'them') }}. Ask the sender in another way, such as by phone.
    </p>
    <dl
      v-for="f in shown"
      :key="f.id"
      class="small"
    >
      <dt class="visually-hidden">
        Message
      </dt>
      <dd class="whole">
        <strong>{{ f.subject || 'no subject' }}</strong>
      </dd>
      <div>
        <dt>Claims to be from</dt>
        <dd>
          <template v-if="f.senderName">
            {{ f.senderName }}
          </template><span class="mono">{{ f.sender }}</span>
        </dd>
        <dd class="second">
          {{ f.claims }}
        </dd>
      </div>
      <div>
        <dt>What was found</dt>
        <dd>{{ f.found }}</dd>
      </div>
    </dl>
    <p
      v-if="n > shown.length"
      class="small second"
    >
      and {{ counted(n - shown.length, 'more message') }}
    </p>
    <div class="actions">
      <PressButton
        v-if="question.others"
        first
        @click="question.without()"
      >
        {{ question.verb }} the other {{ counted(question.others, 'message') }}
      </PressButton>
      <PressButton
        :first="!question.others"
        :plain="question.others > 0"
        @click="emit('leave')"
      >
        Cancel
      </PressButton>
      <PressButton
        danger
        @click="question.anyway()"
      >
        {{ question.verb }} {{ question.others ? 'all' : plural(n, 'it', 'them') }} anyway
      </PressButton>
    </div>
  </div>
</template>

<style scoped>
.question { border-left: 3px solid var(--warn); padding-left: 12px; display: grid; gap: 8px; max-height: 46vh; overflow-y: auto; }
.question:focus { outline: none; }
dl { margin: 0; display: grid; grid-template-columns: 1fr 1fr; gap: 2px 18px; }
dl > .whole { grid-column: 1 / -1; }
dt { font-weight: 700; }
dd { margin: 0; overflow-wrap: anywhere; }
.actions { display: flex; flex-wrap: wrap; gap: 6px 10px; }
</style>
