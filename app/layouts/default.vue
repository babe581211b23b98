<script setup lang="ts">
const session = useSessionStore()
const keysShown = ref(false)

useKeys({
  '?': () => keysShown.value = true,
})
onMounted(() => useDirectoryStore().load())
</script>

<template>
  <div class="frame">
    <a
      class="skip"
      href="#work"
    >Go to the work</a>
    <StationLine
      v-if="session.person"
      @keys="keysShown = true"
    />
    <main
      id="work"
      tabindex="-1"
    >
      <slot />
    </main>
    <NoticeStrip />
    <KeyHelp v-model="keysShown" />
  </div>
</template>

<style scoped>
.frame { flex: 1; display: flex; flex-direction: column; min-height: 100vh; }
main { flex: 1; display: flex; flex-direction: column; padding: 0 24px 20px; outline: none; min-height: 0; }
.skip { position: absolute; left: -9999px; }
.skip:focus { left: 24px; top: 8px; background: var(--sheet); padding: 6px 10px; z-index: 10; }
@media (max-width: 720px) { main { padding: 0 10px 12px; } }
</style>
