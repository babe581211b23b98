<script setup lang="ts">
import { useEventListener } from '@vueuse/core'

/** How mail comes in: the port, and what lies in files. */
const settings = useSettingsStore()
const imports = useImportStore()
const files = ref<File[]>([])
const recipient = ref('')
const choose = (event: Event) => (files.value = [...((event.target as HTMLInputElement).files ?? [])])
const begin = () => imports.begin(files.value, recipient.value.trim() || undefined)
const came = computed(() => {
  const { taken, repeats, faults, going, stopped } = imports
  const parts = [
    `${taken.toLocaleString('en')} taken`,
    ...(repeats ? [`${repeats.toLocaleString('en')} were here already`] : []),
    ...(faults.length ? [`${faults.length} could not be`] : []),
  ]
  return `${parts.join(', ')}.${going ? '' : stopped ? ' Stopped; begun again it goes on with the rest.' : ' Done.'}`
})
watch(() => imports.going, going => !going && settings.load())
// Other pages can be looked at meanwhile; closing the tab would end it.
useEventListener(window, 'beforeunload', event => imports.going && event.preventDefault())
</script>

<template>
  <SettingsPart
    id="mail"
    title="How mail comes in"
    @save="begin"
  >
    <template #sentence>
      <template v-if="settings.data?.smtp">
        Any mail server hands it over by SMTP to <span class="mono">{{ settings.data.smtp.host }}:{{ settings.data.smtp.port }}</span>. What
        is here already can be read from files: it is decided as if it came now, and dated as it says.
      </template>
      <template v-else>
        This process takes no mail in by SMTP; another one with the role intake does.
      </template>
    </template>
    <div class="row">
      <label class="file">Files, .eml or mbox <input
        type="file"
        multiple
        accept=".eml,.mbox,.mbx,message/rfc822,application/mbox"
        @change="choose"
      ></label>
    </div>
    <div class="row">
      <span class="second small">into the mailbox of</span>
      <TextField
        v-model="recipient"
        label="Mailbox that they go to"
        placeholder="whoever each message is for"
        :width="240"
        code
      />
      <PressButton
        type="submit"
        :disabled="imports.going || !files.length"
      >
        Read them
      </PressButton>
      <PressButton
        v-if="imports.going"
        plain
        @click="imports.stop()"
      >
        Stop
      </PressButton>
    </div>
    <div
      v-if="imports.total"
      class="progress"
      role="status"
    >
      <progress
        :value="imports.done"
        :max="imports.total"
        aria-label="Messages read"
      />
      <p class="small">
        {{ imports.done.toLocaleString('en') }} of {{ imports.total.toLocaleString('en') }} messages:
        {{ came }}
      </p>
      <ul
        v-if="imports.faults.length"
        class="small wrong"
      >
        <li
          v-for="f in imports.faults"
          :key="f"
        >
          {{ f }}
        </li>
      </ul>
      <NuxtLink
        v-if="imports.taken"
        to="/mail"
      >
        See it in Mail
      </NuxtLink>
    </div>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 10px; align-items: center; }
.file { display: flex; gap: 10px; align-items: center; font-size: 14px; }
.progress { display: grid; gap: 6px; justify-items: start; }
progress { width: 320px; height: 8px; accent-color: var(--water); }
ul { margin: 0; padding-left: 18px; }
</style>
