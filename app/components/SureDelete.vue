<script setup lang="ts">
const { label, question } = defineProps<{ label: string, question: string }>()
const emit = defineEmits<{ sure: [] }>()
const asking = ref(false)
</script>

<template>
  <button
    v-if="!asking"
    class="press plain danger"
    type="button"
    @click="asking = true"
  >
    {{ label }}
  </button>
  <template v-else>
    <span class="small">{{ question }}</span>
    <button
      class="press danger"
      type="button"
      @click="emit('sure')"
    >
      Delete it
    </button>
    <button
      class="press plain"
      type="button"
      @click="asking = false"
    >
      Keep it
    </button>
  </template>
</template>
