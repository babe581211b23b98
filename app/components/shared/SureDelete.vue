<script setup lang="ts">
const { label, question, action = 'Delete' } = defineProps<{ label: string, question: string, action?: string }>()
const emit = defineEmits<{ sure: [] }>()
const asking = ref(false)
</script>

<template>
  <PressButton
    v-if="!asking"

    plain
    danger
    @click="asking = true"
  >
    {{ label }}
  </PressButton>
  <template v-else>
    <span class="small">{{ question }}</span>
    <PressButton

      danger
      @click="emit('sure')"
    >
      {{ action }}
    </PressButton>
    <PressButton
      plain
      @click="asking = false"
    >
      Cancel
    </PressButton>
  </template>
</template>
