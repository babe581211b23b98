<script setup lang="ts">
/** A choice of files that looks as our buttons do; the field itself is there for keyboard and screen reader. */
const { label, caption = 'Choose file…', accept, multiple = false } = defineProps<{
  label: string
  caption?: string
  accept: string
  multiple?: boolean
}>()
const emit = defineEmits<{ choose: [files: File[]] }>()
const names = ref('')
function chosen(event: Event) {
  const input = event.target as HTMLInputElement
  const files = [...(input.files ?? [])]
  names.value = files.map(f => f.name).join(', ')
  // Choosing the same file again is a choice too.
  input.value = ''
  if (files.length) emit('choose', files)
}
</script>

<template>
  <span class="file">
    <label class="press"><input
      class="visually-hidden"
      type="file"
      :aria-label="label"
      :accept
      :multiple
      @change="chosen"
    >{{ caption }}</label>
    <span
      v-if="names"
      class="second small names"
    >{{ names }}</span>
  </span>
</template>

<style scoped>
.file { display: inline-flex; gap: 10px; align-items: center; min-width: 0; }
.press { position: relative; }
.press:focus-within { outline: 2px solid var(--water); outline-offset: 2px; }
.names { overflow: hidden; text-overflow: ellipsis; white-space: nowrap; max-width: 420px; }
</style>
