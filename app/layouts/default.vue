<script setup lang="ts">
const session = useSessionStore()
const work = useJobStore()
useKeptFocus()

useKeys({
  '?': () => void navigateTo('/help'),
})
onMounted(async () => {
  await useDirectoryStore().load()
  if (session.person) await work.findAgain()
})
</script>

<template>
  <div class="frame">
    <a
      class="skip"
      href="#work"
    >Skip to content</a>
    <StationLine v-if="session.person" />
    <main
      id="work"
      tabindex="-1"
    >
      <slot />
    </main>
    <NoticeStrip />
  </div>
</template>

<style scoped>
.frame { display: flex; flex-direction: column; height: 100vh; height: 100dvh; }
/* Positioned: what is only for those who hear it would otherwise make the whole window scroll. */
main {
  position: relative;
  flex: 1;
  display: flex;
  flex-direction: column;
  padding: 0 24px 14px;
  outline: none;
  min-height: 0;
  overflow-y: auto;
}
.skip { position: absolute; left: -9999px; }
.skip:focus { left: 24px; top: 8px; background: var(--sheet); padding: 6px 10px; z-index: 10; }
@media (max-width: 720px) { main { padding: 0 10px 12px; } }
</style>
