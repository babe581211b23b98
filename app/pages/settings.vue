<script setup lang="ts">
definePageMeta({ title: 'Settings' })
const settings = useSettingsStore()
const session = useSessionStore()
onMounted(() => settings.load())
</script>

<template>
  <div class="page settings">
    <div
      v-if="!session.can('change settings')"
      class="sheet result"
    >
      <h1>Settings</h1>
      <p>Only administrators can open Settings. You can change your password in your user menu.</p>
    </div>
    <template v-else>
      <div>
        <h1>Settings</h1>
        <p class="second">
          Users, domains, trusted relays, quarantines and retention. Each change is active at once.
        </p>
      </div>
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
              {{ m.words }} <a :href="`#${m.at}`">Go to setting</a>
            </li>
          </ul>
        </div>
        <SettingsDomains />
        <SettingsUsers />
        <SettingsDepartments />
        <SettingsTrust />
        <SettingsQuarantines />
        <SettingsMail />
        <SettingsRetention />
        <SettingsPlace />
      </template>
    </template>
  </div>
</template>

<style scoped>
.settings { width: min(920px, 100%); margin: 0 auto; }
.result { padding: 24px; display: grid; gap: 8px; }
.missing { border-left: 3px solid var(--warn); padding: 4px 16px; }
.missing ul { margin: 6px 0 4px; padding-left: 18px; display: grid; gap: 6px; }
</style>
