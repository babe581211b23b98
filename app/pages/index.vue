<script setup lang="ts">
definePageMeta({ redirect: '/mail' })
</script>

<template>
  <div />
</template>
