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
    {{ failure }} <PressButton
      plain
      @click="$emit('again')"
    >
      Try again
    </PressButton>
  </p>
  <p
    v-else-if="!ready"
    class="second"
  >
    Loading {{ what }}…
  </p>
  <slot v-else />
</template>
