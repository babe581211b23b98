<script setup lang="ts">
/** A field with its name above it, and what is wrong with it below. */
defineProps<{ label: string, error?: string }>()
</script>

<template>
  <label class="field">{{ label }}
    <slot /><span
      v-if="error"
      class="wrong"
    >{{ error }}</span>
  </label>
</template>
