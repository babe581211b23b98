<script setup lang="ts">
import {
  SettingsDepartments, SettingsDomains, SettingsMail, SettingsPlace, SettingsQuarantines, SettingsRetention, SettingsTrust, SettingsUsers,
  SettingsVerification,
} from '#components'
import { readyRules } from '~/composables/startingSentences'

definePageMeta({ title: 'Settings' })
const settings = useSettingsStore()
const session = useSessionStore()
const route = useRoute()
onMounted(() => settings.load())

/** The parts, each with an address of its own. */
const PARTS = [
  { name: 'users', title: 'Users', component: SettingsUsers },
  { name: 'departments', title: 'Departments', component: SettingsDepartments },
  { name: 'domains', title: 'Own domains', component: SettingsDomains },
  { name: 'verification', title: 'Sender verification', component: SettingsVerification },
  { name: 'trust', title: 'Trusted relays and networks', component: SettingsTrust },
  { name: 'quarantines', title: 'Quarantines', component: SettingsQuarantines },
  { name: 'retention', title: 'Retention', component: SettingsRetention },
  { name: 'mail', title: 'Receiving and importing mail', component: SettingsMail },
  { name: 'time-and-address', title: 'Time zone and web address', component: SettingsPlace },
] as const
const part = computed(() => PARTS.find(p => p.name === (route.params.part || PARTS[0].name)) ?? null)
const isReady = ({ at }: { at: string }) => readyRules().some(s => s.id === at)
const titleOf = (name: string) => PARTS.find(p => p.name === name)?.title ?? name
useHead({ title: () => (part.value ? `${part.value.title} · Settings` : 'Settings') })
</script>

<template>
  <div
    v-if="!session.can('change settings')"
    class="page"
  >
    <div class="sheet result">
      <h1>Settings</h1>
      <p>Only administrators can open Settings. You can change your password in your user menu.</p>
    </div>
  </div>
  <div
    v-else
    class="settings"
  >
    <h1 class="visually-hidden">
      Settings
    </h1>
    <nav aria-label="Settings">
      <ul>
        <li
          v-for="p in PARTS"
          :key="p.name"
        >
          <NuxtLink
            :to="`/settings/${p.name}`"
            :aria-current="p === part ? 'page' : undefined"
          >
            {{ p.title }}
          </NuxtLink>
        </li>
      </ul>
    </nav>
    <div class="page">
      <ReadingState
        :failure="settings.failure"
        :ready="settings.data !== null"
        what="the settings"
        @again="settings.load()"
      />
      <template v-if="settings.data">
        <div
          v-if="settings.data.missing.length"
          class="missing"
          role="status"
        >
          <h2>Still missing</h2>
          <ul>
            <li
              v-for="m in settings.data.missing"
              :key="m.words"
            >
              {{ m.words }}
              <NuxtLink
                v-if="isReady(m)"
                :to="{ path: '/rules/new', query: { start: m.at } }"
              >
                Review and save the rule
              </NuxtLink>
              <NuxtLink
                v-else-if="m.at !== part?.name"
                :to="`/settings/${m.at}`"
              >
                {{ titleOf(m.at) }}
              </NuxtLink>
            </li>
          </ul>
        </div>
        <component
          :is="part.component"
          v-if="part"
        />
        <p v-else>
          There are no settings at this address. Choose a part on the left.
        </p>
      </template>
    </div>
  </div>
</template>

<style scoped>
.settings { display: grid; grid-template-columns: 190px minmax(0, 880px); gap: 34px; align-items: start; }
.result { padding: 24px; display: grid; gap: 8px; }
nav { position: sticky; top: 0; }
nav ul { list-style: none; margin: 8px 0; padding: 0; display: grid; gap: 8px; font-size: 14px; }
nav a { font-weight: 400; }
nav a[aria-current] { color: var(--ink); font-weight: 700; }
.missing { border-left: 3px solid var(--warn); padding: 4px 16px; }
.missing ul { margin: 6px 0 4px; padding-left: 18px; display: grid; gap: 6px; }
@media (max-width: 820px) { .settings { grid-template-columns: minmax(0, 1fr); gap: 10px; } nav { position: static; } }
</style>
