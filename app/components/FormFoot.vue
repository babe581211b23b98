<script setup lang="ts">
/** The end of a form: what is wrong with all of it, and the ways out. */
const { act = 'Put in force' } = defineProps<{ error: string, act?: string }>()
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
  <div class="acts">
    <button
      class="press first"
      type="submit"
    >
      {{ act }}
    </button>
    <button
      class="press plain"
      type="button"
      @click="emit('leave')"
    >
      Leave it
    </button>
    <slot />
  </div>
</template>
