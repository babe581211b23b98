<script setup lang="ts">
/** A part of the house: what it is for in a sentence, its fields, and at their foot how they are save . */
const { title, changed = false, error = '', busy = false } = defineProps<{
  title: string
  /** Something stands in the fields that is not active. */
  changed?: boolean
  error?: string
  busy?: boolean
}>()
const emit = defineEmits<{ save: [], leave: [] }>()
const id = useId()
</script>

<template>
  <section
    class="part"
    :aria-labelledby="id"
  >
    <h2 :id>
      {{ title }}
    </h2>
    <p class="second">
      <slot name="sentence" />
    </p>
    <form @submit.prevent="emit('save')">
      <slot />
      <p
        v-if="error"
        class="wrong"
        role="alert"
      >
        {{ error }}
      </p>
      <div
        v-if="changed"
        class="actions"
      >
        <PressButton
          first
          type="submit"
          :disabled="busy"
        >
          Save
        </PressButton>
        <PressButton
          plain
          @click="emit('leave')"
        >
          Cancel
        </PressButton>
      </div>
    </form>
    <slot name="below" />
  </section>
</template>

<style scoped>
.part { border-top: 1px solid var(--hairline); padding: 16px 0 18px; display: grid; gap: 8px; scroll-margin-top: 8px; }
form { display: grid; gap: 10px; justify-items: start; }
</style>
