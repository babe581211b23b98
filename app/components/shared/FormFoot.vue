<script setup lang="ts">
/** The end of a form: what is wrong with all of it, and the ways out. */
const {
  action = 'Save',
  busy = false,
  staying = false,
} = defineProps<{
  error: string
  action?: string
  busy?: boolean
  /** There is nothing to go back to. */ staying?: boolean
}>()
const emit = defineEmits<{ leave: [] }>()
</script>

<template>
  <p
    v-if="error"
    class="wrong"
    role="alert"
  >
    {{ error }}
  </p>
  <div class="actions">
    <PressButton

      first
      type="submit"
      :disabled="busy"
    >
      {{ action }}
    </PressButton>
    <PressButton
      v-if="!staying"
      plain
      @click="emit('leave')"
    >
      Cancel
    </PressButton>
    <slot />
  </div>
</template>
