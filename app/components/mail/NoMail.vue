<script setup lang="ts">
import { api, type SettingsView } from '~/api/client'

/** Where no message is: since none fits what is asked for, or since none has come yet. */
const { narrowed } = defineProps<{ narrowed: boolean }>()
defineEmits<{ widen: [] }>()
const session = useSessionStore()
const sets = session.can('change settings')
const settings = ref<SettingsView | null>(null)
onMounted(async () => {
  if (!sets || narrowed) return
  try {
    settings.value = await api.settings()
  }
  catch (error) {
    useNoticeStore().failed(error)
  }
})
</script>

<template>
  <template v-if="narrowed">
    <h2>No messages found</h2>
    <p class="second">
      No message matches this filter. Try all locations, an earlier day or fewer words.
    </p>
    <p class="actions">
      <PressButton
        @click="$emit('widen')"
      >
        Show all messages
      </PressButton>
      <NuxtLink to="/mail/log">
        Open message log
      </NuxtLink>
    </p>
  </template>
  <template v-else>
    <h2>No mail yet</h2>
    <template v-if="settings">
      <p
        v-for="m in settings.missing"
        :key="m.words"
        class="second"
      >
        {{ m.words }}
      </p>
      <p v-if="settings.listening.smtp">
        Mail is accepted by SMTP at <span class="mono">{{ settings.listening.smtp.host }}:{{ settings.listening.smtp.port }}</span>.
      </p>
      <p>
        <NuxtLink to="/settings">
          Open Settings
        </NuxtLink>
      </p>
    </template>
    <p
      v-else
      class="second"
    >
      As soon as a message for {{ session.person?.addresses[0] }} arrives, it is listed here, in whatever location.
    </p>
  </template>
</template>

<style scoped>
p { margin-top: 8px; }
</style>
