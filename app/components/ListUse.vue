<script setup lang="ts">
import type { BindingForm } from '~/api/client'

/** How a list is put to use. */
const binding = defineModel<BindingForm | null>({ required: true })
const { owner, fields = {} } = defineProps<{ owner: string, fields?: Record<string, string> }>()
const directory = useDirectoryStore()
const session = useSessionStore()
const mayMust = computed(() => session.person?.role === 'administrator' && !owner.startsWith('person:'))

const use = computed({
  get: () => binding.value?.side ?? 'none',
  set: (side: 'none' | 'allow' | 'block') => {
    binding.value = side === 'none' ? null : side === 'block' ? { side, state: 'acting', stop: { to: 'spam' } } : { side, state: 'acting' }
  },
})
const stop = computed({
  get: () => binding.value?.stop?.to ?? 'spam',
  set: (to: 'spam' | 'quarantine' | 'bin') => {
    if (binding.value) binding.value = { ...binding.value, stop: to === 'quarantine' ? { to, quarantine: 'general' } : { to } }
  },
})
const byDefault = computed(() => owner.startsWith('person:') ? 'not fail' : 'pass')
const counts = computed({
  get: () => binding.value?.counts ?? byDefault.value,
  set: (value) => {
    if (binding.value) binding.value = { ...binding.value, counts: value }
  },
})
</script>

<template>
  <div class="use">
    <el-select
      v-model="use"
      aria-label="What the list does"
      style="width: 250px"
    >
      <el-option
        value="block"
        label="block: keep from the inbox"
      />
      <el-option
        value="allow"
        label="allow: protect"
      />
      <el-option
        value="none"
        label="nothing by itself; rules refer to it"
      />
    </el-select>
    <template v-if="binding?.side === 'block'">
      <span>and</span>
      <el-select
        v-model="stop"
        aria-label="Where blocked mail goes"
        style="width: 200px"
      >
        <el-option
          value="spam"
          label="send to spam"
        />
        <el-option
          value="quarantine"
          :label="`hold in ${directory.names.quarantines.find(q => q.general)?.name ?? 'General'}`"
        />
        <el-option
          value="bin"
          label="send to the bin"
        />
      </el-select>
      <span
        v-if="fields['binding.stop.to']"
        class="wrong"
      >{{ fields['binding.stop.to'] }}</span>
    </template>
    <template v-if="binding?.side === 'allow'">
      <span>counts</span>
      <el-select
        v-model="counts"
        aria-label="When an allow entry counts"
        style="width: 250px"
      >
        <el-option
          value="pass"
          label="when the sender is verified"
        />
        <el-option
          value="not fail"
          label="unless authentication fails"
        />
        <el-option
          value="any"
          label="always"
        />
      </el-select>
    </template>
    <el-select
      v-if="binding"
      v-model="binding.state"
      aria-label="State"
      style="width: 118px"
    >
      <el-option
        value="acting"
        label="acting"
      />
      <el-option
        value="watching"
        label="watching"
      />
      <el-option
        value="off"
        label="off"
      />
    </el-select>
    <el-checkbox
      v-if="binding && mayMust"
      :model-value="binding.must === true"
      @update:model-value="(v: unknown) => binding = { ...binding!, must: v === true }"
    >
      must: nobody may soften it
    </el-checkbox>
    <p
      v-if="counts === 'any' && binding?.side === 'allow'"
      class="small warn note"
    >
      A From is easily forged: whoever writes one of these addresses into it gets past.
    </p>
    <p
      v-else-if="binding?.side === 'allow' && counts === 'pass' && directory.data && !directory.data.authenticator"
      class="small warn note"
    >
      No relay that verifies senders is configured, so no entry of this list can count yet.
    </p>
  </div>
</template>

<style scoped>
.use { display: flex; flex-wrap: wrap; gap: 8px 10px; align-items: center; }
.note { flex-basis: 100%; }
</style>
