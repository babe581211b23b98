<script setup lang="ts">
const { label, question, act = 'Delete it' } = defineProps<{ label: string, question: string, act?: string }>()
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
      {{ act }}
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
