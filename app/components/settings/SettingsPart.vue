<script setup lang="ts">
/** A part of the house: what it is for in a sentence, its fields, and at their foot how they are saved. */
const { title, changed = false, error = '', busy = false, asking = false } = defineProps<{
  title: string
  /** Something stands in the fields that is not active. */
  changed?: boolean
  error?: string
  busy?: boolean
  /** Something is asked before it is saved: the slot of that name is its foot. */
  asking?: boolean
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
      <slot
        v-if="asking"
        name="asking"
      />
      <div
        v-else-if="changed"
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
