<script setup lang="ts">
import type { Added } from '~/api/client'

const { added } = defineProps<{ added: Added }>()
</script>

<template>
  <div
    class="report small"
    role="status"
  >
    <p v-if="added.added.length || added.there.length">
      {{ added.added.length === 1 ? '1 entry' : `${added.added.length.toLocaleString('en')} entries` }}
      added{{ added.there.length ? `, ${added.there.length.toLocaleString('en')} on the list already` : '' }}.
    </p>
    <template v-if="added.wrong.length">
      <p class="wrong">
        {{ added.wrong.length === 1 ? 'One line was' : `${added.wrong.length} lines were` }} left out;
        {{ added.wrong.length === 1 ? 'it stays' : 'they stay' }} in the field, to be put right:
      </p>
      <ul>
        <li
          v-for="w in added.wrong.slice(0, 8)"
          :key="w.line"
        >
          line {{ w.line }}: {{ w.error }}
        </li>
      </ul>
    </template>
  </div>
</template>

<style scoped>
ul { margin: 2px 0 0; padding-left: 18px; }
</style>
