<script setup lang="ts">
import type { useImpact } from '~/composables/impact'

/** The impact of what is being made, beside it: nothing yet, looking, found, or why it cannot be said. */
const {
  of,
  most = 12,
  nothing = 'As soon as it says something, you see here what it would catch among the mail that is here.',
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
    aria-label="Impact on the mail that is here"
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
      Not yet to be said: {{ why }}
    </p>
    <p
      v-else-if="!impact"
      class="second small"
    >
      Looking through the mail that is here …
    </p>
    <template v-else>
      <p
        v-if="impact.broad"
        class="warn small broad"
      >
        Broad: {{ impact.broad }}
      </p>
      <p
        v-if="own"
        class="second small"
      >
        Among your own mail. Whoever decides sees all of it.
      </p>
      <ImpactFigures
        :impact
        :looking="state === 'looking'"
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
