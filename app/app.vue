<script setup lang="ts">
// Each page has its title in the tab; a list or a rule sets its own name.
const route = useRoute()
useHead({
  title: () => route.meta.title as string | undefined,
  titleTemplate: title => (title && title !== 'Sober Gate' ? `${title} · Sober Gate` : 'Sober Gate'),
})
</script>

<template>
  <!-- An empty choice ("All locations") is a choice, not a missing one. -->
  <el-config-provider
    :empty-values="[null, undefined]"
    :value-on-clear="null"
  >
    <NuxtLayout>
      <NuxtPage />
    </NuxtLayout>
  </el-config-provider>
</template>
