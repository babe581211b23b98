<script setup lang="ts">
const notices = useNoticeStore()
useKeys({ 'ctrl+z': () => void notices.takeBack() })
</script>

<template>
  <div
    class="strip"
    role="status"
    aria-live="polite"
  >
    <div
      v-if="notices.current"
      class="notice sheet"
      :class="{ bad: notices.current.bad }"
    >
      <span>{{ notices.current.text }}</span>
      <PressButton
        v-if="notices.current.actId"
        plain
        @click="notices.takeBack()"
      >
        Take back <kbd>Ctrl Z</kbd>
      </PressButton>
      <PressButton
        plain
        aria-label="Close this notice"
        @click="notices.close()"
      >
        Close
      </PressButton>
    </div>
  </div>
</template>

<style scoped>
.strip { position: fixed; left: 24px; bottom: 16px; z-index: 30; }
.notice {
  display: flex;
  gap: 10px;
  align-items: center;
  padding: 8px 12px;
  border-color: var(--field);
  border-left: 3px solid var(--water);
  max-width: 640px;
}
.notice.bad { border-left-color: var(--wrong); }
</style>
