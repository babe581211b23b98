<script setup lang="ts">
import { useEventListener } from '@vueuse/core'
import { counted, numberWords } from '#core/wording'

/** Receiving and importing mail: the SMTP port, and messages in files. */
const settings = useSettingsStore()
const imports = useImportStore()
const files = ref<File[]>([])
const recipient = ref('')
const begin = () => imports.begin(files.value, recipient.value.trim() || undefined)
const came = computed(() => {
  const { taken, repeats, faults, going, stopped } = imports
  const parts = [
    `${numberWords(taken)} imported`,
    ...(repeats ? [`${numberWords(repeats)} already here`] : []),
    ...(faults.length ? [`${numberWords(faults.length)} failed`] : []),
  ]
  return `${parts.join(', ')}.${going ? '' : stopped ? ' Stopped. Start again to continue with the rest.' : ' Done.'}`
})
watch(() => imports.going, going => !going && settings.load())
// Other pages can be looked at meanwhile; closing the tab would end it.
useEventListener(window, 'beforeunload', event => imports.going && event.preventDefault())
</script>

<template>
  <SettingsPart
    id="mail"
    title="Receiving and importing mail"
    @save="begin"
  >
    <template #sentence>
      <template v-if="settings.data?.listening.smtp">
        <ListeningNote
          does="Mail is accepted by SMTP at"
          variable="SMTP_HOST"
          :at="settings.data.listening.smtp"
          :addresses="settings.data.listening.addresses"
        />
        Existing mail can be imported from files: it is filtered with the active policy and keeps its own date.
      </template>
      <template v-else>
        This process does not accept mail by SMTP; processes with the role “intake” do.
      </template>
    </template>
    <div class="row">
      Messages (.eml or mbox): <FileField
        label="Files (.eml or mbox)"
        caption="Choose files…"
        multiple
        accept=".eml,.mbox,.mbx,message/rfc822,application/mbox"
        @choose="(chosen: File[]) => files = chosen"
      />
    </div>
    <div class="row">
      <span class="second small">Recipient</span>
      <TextField
        v-model="recipient"
        label="Recipient"
        placeholder="as named in each message"
        :width="240"
        code
      />
      <PressButton
        type="submit"
        :disabled="imports.going || !files.length"
      >
        Import
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
        aria-label="Messages imported"
      />
      <p class="small">
        {{ numberWords(imports.done) }} of {{ counted(imports.total, 'message') }}:
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
        Show in Mail
      </NuxtLink>
    </div>
  </SettingsPart>
</template>

<style scoped>
.row { display: flex; flex-wrap: wrap; gap: 10px; align-items: center; }
.progress { display: grid; gap: 6px; justify-items: start; }
progress { width: 320px; height: 8px; accent-color: var(--water); }
ul { margin: 0; padding-left: 18px; }
</style>
