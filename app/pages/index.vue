<script setup lang="ts">
// A reviewer begins with what waits for them; everybody else with their mail.
definePageMeta({
  middleware: () => navigateTo(useSessionStore().person?.role === 'reviewer' ? '/review' : '/mail', { replace: true }),
})
</script>

<template>
  <div />
</template>
