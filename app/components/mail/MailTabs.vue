<script setup lang="ts">
import { logQuery, mailQuery } from '~/composables/mailViews'

/** The head of Mail: its two views, one press apart; what is filtered comes along. Beside them, what belongs to all that is shown. */
const route = useRoute()
const directory = useDirectoryStore()
const isLog = computed(() => route.path.startsWith('/mail/log'))
const people = computed(() => directory.data?.people ?? [])
const messages = computed(() => ({ path: '/mail', query: isLog.value ? mailQuery(route.query, people.value) : route.query }))
const log = computed(() => ({ path: '/mail/log', query: isLog.value ? route.query : logQuery(route.query, people.value) }))
</script>

<template>
  <div class="head">
    <nav
      class="views"
      aria-label="Views of Mail"
    >
      <NuxtLink
        :to="messages"
        :aria-current="isLog ? undefined : 'page'"
      >
        Messages
      </NuxtLink>
      <NuxtLink
        :to="log"
        :aria-current="isLog ? 'page' : undefined"
      >
        Message log
      </NuxtLink>
    </nav>
    <slot />
  </div>
</template>

<style scoped>
.head { display: flex; flex-wrap: wrap; align-items: center; gap: 2px 16px; }
.views { display: flex; gap: 14px; white-space: nowrap; }
.views a { padding: 3px 0 2px; border-bottom: 2px solid transparent; }
.views a:hover { text-decoration: none; border-bottom-color: var(--field); }
.views a[aria-current] { color: var(--ink); border-bottom-color: var(--water); }
</style>
