<script setup lang="ts">
import { counted } from '#core/wording'
import type { AuditEventView } from '~/api/client'

const session = useSessionStore()
const notices = useNoticeStore()
const proposals = useProposalStore()
const review = useReviewStore()
onMounted(proposals.follow)
onMounted(review.follow)
const route = useRoute()

const PAGES = [
  { name: 'Mail', to: '/mail' },
  { name: 'Review', to: '/review' },
  { name: 'Lists', to: '/lists' },
  { name: 'Rules', to: '/rules' },
  { name: 'Audit log', to: '/audit-log' },
]
/** Parts of Settings that people look for most, without another press. */
const OFTEN_USED = [
  { name: 'Users', to: '/settings/users' },
  { name: 'Quarantines', to: '/settings/quarantines' },
  { name: 'Retention', to: '/settings/retention' },
]
const here = computed(() => PAGES.findIndex(s => route.path.startsWith(s.to)))
const initials = computed(
  () =>
    session.person?.name
      .split(/\s+/)
      .map(p => p[0])
      .join('')
      .slice(0, 2) ?? '',
)

const menu = ref<HTMLDetailsElement | null>(null)
const auditEvents = ref<AuditEventView[]>([])
const failure = ref('')
async function read() {
  if (!menu.value?.open) return
  try {
    auditEvents.value = await notices.lastEvents(5)
    failure.value = ''
  }
  catch (error) {
    failure.value = error instanceof Error ? error.message : String(error)
  }
}
watch(() => notices.undone, read)
watch(() => route.fullPath, () => menu.value?.removeAttribute('open'))

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
      <AppLogo /> <span>Sober Gate</span>
    </NuxtLink>
    <nav aria-label="Main menu">
      <ol>
        <li
          v-for="(station, i) in PAGES"
          :key="station.to"
          :class="{ here: i === here }"
        >
          <NuxtLink
            :to="station.to"
            :aria-current="i === here ? 'page' : undefined"
          >
            {{ station.name }}
          </NuxtLink><span
            v-if="station.to === '/review' && review.waiting"
            class="numbers waits"
            :aria-label="`${counted(review.waiting, 'message')} to review`"
          >{{ review.waiting > 999 ? '999+' : review.waiting }}</span>
        </li>
      </ol>
    </nav>
    <div class="right">
      <NuxtLink
        v-if="proposals.counts.all || route.path === '/proposals'"
        to="/proposals"
        :aria-current="route.path === '/proposals' ? 'page' : undefined"
      >
        Proposals <span
          v-if="proposals.waiting"
          class="numbers"
          :aria-label="`${proposals.waiting} new`"
        >{{ proposals.waiting }}</span>
      </NuxtLink>
      <NuxtLink
        to="/test-message"
        :aria-current="route.path === '/test-message' ? 'page' : undefined"
      >
        Test a message
      </NuxtLink>
      <NuxtLink
        to="/help"
        aria-label="Help"
        :aria-current="route.path === '/help' ? 'page' : undefined"
      >
        ?
      </NuxtLink>
      <details
        ref="menu"
        class="person"
        @toggle="read"
        @keydown.esc="menu?.removeAttribute('open')"
      >
        <summary :aria-label="`${session.person?.name}, ${session.person?.role}`">
          {{ initials }}
        </summary>
        <div class="sheet menu">
          <p><strong>{{ session.person?.name }}</strong></p>
          <p class="second small">
            {{ session.person?.role }}, {{ session.person?.addresses[0] }}
          </p>
          <p v-if="session.can('change settings')">
            <NuxtLink to="/settings">
              Settings</NuxtLink><span class="small">: <template
              v-for="(part, i) in OFTEN_USED"
              :key="part.to"
            >{{ i ? ', ' : '' }}<NuxtLink :to="part.to">{{ part.name }}</NuxtLink></template></span>
          </p>
          <NuxtLink to="/me">
            Password and keys
          </NuxtLink>
          <PressButton
            plain
            class="out"
            title="On all devices where you are signed in"
            @click="leave"
          >
            Sign out
          </PressButton>
          <h2>Your last actions</h2>
          <p
            v-if="failure"
            class="wrong"
          >
            {{ failure }}
          </p>
          <p
            v-else-if="!auditEvents.length"
            class="second small"
          >
            No actions that can be undone.
          </p>
          <ul v-else>
            <li
              v-for="auditEvent in auditEvents"
              :key="auditEvent.id"
              class="small"
            >
              <span>{{ auditEvent.words }} <span class="second">{{ shortWhen(auditEvent.at) }}</span></span>
              <PressButton
                plain
                small
                @click="notices.undoEvent(auditEvent.id)"
              >
                Undo
              </PressButton>
            </li>
          </ul>
        </div>
      </details>
    </div>
  </header>
</template>

<style scoped>
header { flex: none; display: grid; grid-template-columns: auto 1fr auto; align-items: center; gap: 40px; padding: 14px 24px 14px; }
.wordmark { display: flex; gap: 10px; align-items: center; color: var(--water); font: 600 19px/1 var(--heading); }
.wordmark span { color: var(--ink); }
.wordmark:hover { text-decoration: none; }
nav { max-width: 560px; width: 100%; justify-self: center; }
nav ol { display: flex; list-style: none; margin: 0; padding: 0; }
nav li { flex: 1; text-align: center; border-top: 1px solid var(--field); padding-top: 11px; position: relative; }
nav li a { color: var(--ink-2); font-weight: 400; padding: 2px 8px; }
/* The line opens like a gate, between two posts, over the station where one is. */
nav li.here { border-top-color: transparent; }
nav li.here::before, nav li.here::after { content: ''; position: absolute; top: -10px; height: 18px; width: 3px; background: var(--water); }
nav li.here::before { left: 25%; }
nav li.here::after { right: 25%; }
nav li.here {
  background: linear-gradient(var(--field) 0 0) 0 0 / 25% 1px no-repeat, linear-gradient(var(--field) 0 0) 100% 0 / 25% 1px no-repeat;
  background-origin: border-box;
}
.waits { position: absolute; margin-left: -4px; color: var(--warn); font-size: 12px; }
nav li.here a { color: var(--ink); font-weight: 700; }
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
.menu h2 { font-size: 14px; margin-top: 4px; }
.menu ul { list-style: none; margin: 0; padding: 0; width: 100%; flex: none; display: block; }
.menu li {
  display: flex;
  gap: 8px;
  justify-content: space-between;
  align-items: baseline;
  padding: 3px 0;
  border-top: 1px solid var(--hairline);
  text-align: left;
}
.menu li::before, .menu li::after { content: none; }
.menu li .press { white-space: nowrap; }
.out { padding-inline: 0; }
.menu {
  position: absolute;
  right: 0;
  top: 36px;
  z-index: 20;
  padding: 14px;
  width: 330px;
  display: grid;
  gap: 8px;
  justify-items: start;
  border-color: var(--field);
}
@media (max-width: 900px) { header { gap: 16px; } }
@media (max-width: 720px) {
  header { grid-template-columns: auto auto; justify-content: space-between; padding: 10px; }
  nav { grid-row: 2; grid-column: 1 / -1; max-width: none; }
}
</style>
