<script setup lang="ts">
/** What can be pressed. Everything else that it is told goes to the button itself. */
const { first = false, danger = false, plain = false, small = false, second = false, type = 'button' } = defineProps<{
  /** What most people want here. */
  first?: boolean
  /** What cannot be undone easily. */
  danger?: boolean
  /** A word that can be pressed, without a frame. */
  plain?: boolean
  small?: boolean
  /** In the second voice. */
  second?: boolean
  type?: 'button' | 'submit'
}>()
</script>

<template>
  <button
    class="press"
    :class="{ first, danger, plain, small, second }"
    :type
  >
    <slot />
  </button>
</template>
