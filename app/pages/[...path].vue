<script setup lang="ts">
definePageMeta({ title: 'Page not found' })
</script>

<template>
  <div class="page">
    <h1>This page does not exist</h1>
    <p>
      Check the address, or go to <NuxtLink to="/mail">
        Mail
      </NuxtLink>.
    </p>
  </div>
</template>
