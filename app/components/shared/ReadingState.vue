<script setup lang="ts">
const { failure, ready, what } = defineProps<{ failure: string, ready: boolean, /** What is read: "the lists". */ what: string }>()
defineEmits<{ again: [] }>()
</script>

<template>
  <p
    v-if="failure"
    class="wrong"
    role="alert"
  >
    {{ failure }} <button
      class="press plain"
      type="button"
      @click="$emit('again')"
    >
      Try again
    </button>
  </p>
  <p
    v-else-if="!ready"
    class="second"
  >
    Reading {{ what }} …
  </p>
  <slot v-else />
</template>
