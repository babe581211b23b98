<script setup lang="ts">
defineEmits<{ keys: [] }>()
const session = useSessionStore()
const directory = useDirectoryStore()
const route = useRoute()

// The way of a message, from left to right.
const STATIONS = [
  { name: 'Mail', to: '/mail' },
  { name: 'Lists', to: '/lists' },
  { name: 'Rules', to: '/rules' },
]
const here = computed(() => STATIONS.findIndex(s => route.path.startsWith(s.to)))
const initials = computed(
  () =>
    session.person?.name
      .split(/\s+/)
      .map(p => p[0])
      .join('')
      .slice(0, 2) ?? '',
)
const inForce = computed(() =>
  directory.data?.policy.since
    ? `Policy version ${directory.data.policy.version}, in force since ${longDateTime(directory.data.policy.since)}`
    : '',
)

async function leave() {
  await session.signOut()
  await navigateTo('/sign-in')
}
</script>

<template>
  <header>
    <NuxtLink
      class="wordmark"
      to="/mail"
    >
      <GateMark /> <span>Sober Gate</span>
    </NuxtLink>
    <nav aria-label="Stations">
      <ol>
        <li
          v-for="(station, i) in STATIONS"
          :key="station.to"
          :class="{ here: i === here }"
        >
          <NuxtLink
            :to="station.to"
            :aria-current="i === here ? 'page' : undefined"
          >
            {{ station.name }}
          </NuxtLink>
        </li>
      </ol>
    </nav>
    <div class="right">
      <span
        class="second small version"
        :title="inForce"
      >version <span class="numbers">{{ directory.data?.policy.version ?? '–' }}</span> in force</span>
      <NuxtLink
        to="/try"
        :aria-current="route.path === '/try' ? 'page' : undefined"
      >
        Try
      </NuxtLink>
      <details class="person">
        <summary :aria-label="`${session.person?.name}, ${session.person?.role}`">
          {{ initials }}
        </summary>
        <div class="sheet menu">
          <p><strong>{{ session.person?.name }}</strong></p>
          <p class="second small">
            {{ session.person?.role }}, {{ session.person?.addresses[0] }}
          </p>
          <PressButton
            plain
            @click="$emit('keys')"
          >
            Keys <kbd>?</kbd>
          </PressButton>
          <PressButton
            @click="leave"
          >
            Sign out everywhere
          </PressButton>
        </div>
      </details>
    </div>
  </header>
</template>

<style scoped>
header { display: grid; grid-template-columns: auto 1fr auto; align-items: center; gap: 40px; padding: 14px 24px 14px; }
.wordmark { display: flex; gap: 10px; align-items: center; color: var(--water); font: 600 19px/1 var(--heading); }
.wordmark span { color: var(--ink); }
.wordmark:hover { text-decoration: none; }
nav { max-width: 480px; width: 100%; justify-self: center; }
ol { display: flex; list-style: none; margin: 0; padding: 0; }
li { flex: 1; text-align: center; border-top: 1px solid var(--field); padding-top: 11px; position: relative; }
li a { color: var(--ink-2); font-weight: 400; padding: 2px 8px; }
/* The line opens like a gate, between two posts, over the station where one is. */
li.here { border-top-color: transparent; }
li.here::before, li.here::after { content: ''; position: absolute; top: -10px; height: 18px; width: 3px; background: var(--water); }
li.here::before { left: 25%; }
li.here::after { right: 25%; }
li.here {
  background: linear-gradient(var(--field) 0 0) 0 0 / 25% 1px no-repeat, linear-gradient(var(--field) 0 0) 100% 0 / 25% 1px no-repeat;
  background-origin: border-box;
}
li.here a { color: var(--ink); font-weight: 700; }
.right { display: flex; align-items: center; gap: 20px; font-size: 14px; }
.person { position: relative; }
summary {
  list-style: none;
  width: 30px;
  height: 30px;
  display: grid;
  place-items: center;
  border: 1px solid var(--ink-2);
  background: var(--sheet);
  font-weight: 700;
  font-size: 12.5px;
  cursor: pointer;
}
summary::-webkit-details-marker { display: none; }
.menu {
  position: absolute;
  right: 0;
  top: 36px;
  z-index: 20;
  padding: 14px;
  width: 250px;
  display: grid;
  gap: 6px;
  justify-items: start;
  border-color: var(--field);
}
@media (max-width: 900px) { .version { display: none; } header { gap: 16px; } }
@media (max-width: 720px) {
  header { grid-template-columns: auto auto; justify-content: space-between; padding: 10px; }
  nav { grid-row: 2; grid-column: 1 / -1; max-width: none; }
}
</style>
