<script setup lang="ts">
import { isWhole } from '#core/simulate'
import type { useImpact } from '~/composables/impact'

/** The impact of what is being made, beside it: nothing yet, looking, found, or why it cannot be said. */
const {
  of,
  most = 12,
  nothing = 'Add a condition to see its impact on existing mail.',
} = defineProps<{
  of: ReturnType<typeof useImpact>
  /** What is said while there is nothing to look for. */
  nothing?: string
  /** So many of the mail are shown. */
  most?: number
}>()
const { impact, state, why, own } = of
</script>

<template>
  <section
    class="panel"
    aria-label="Impact on existing mail"
    :aria-busy="state === 'looking'"
  >
    <p
      v-if="state === 'idle'"
      class="second small"
    >
      {{ nothing }}
    </p>
    <p
      v-else-if="state === 'failed'"
      class="second small"
    >
      No impact yet: {{ why }}
    </p>
    <p
      v-else-if="!impact"
      class="second small"
    >
      Counting existing mail…
    </p>
    <template v-else>
      <p
        v-if="impact.broad"
        class="warn small broad"
      >
        Warning: affects many messages. {{ isWhole(impact) ? '' : 'So far: ' }}{{ impact.broad }}
      </p>
      <p
        v-if="own"
        class="second small"
      >
        Counted among your own mail. The administrator sees the impact on all mail.
      </p>
      <ImpactFigures
        :impact
      />
      <slot />
      <ImpactSample :sample="impact.sample.slice(0, most)" />
    </template>
  </section>
</template>

<style scoped>
.panel { display: grid; gap: 10px; align-content: start; min-width: 0; }
.broad { border-left: 3px solid var(--warn); padding-left: 10px; }
</style>
