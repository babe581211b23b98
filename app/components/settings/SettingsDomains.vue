<script setup lang="ts">
import { linesOf, useSettingsPart } from '~/composables/settingsPart'
import { api } from '~/api/client'

const { fields, changed, error, firstOf, busy, save, leave } = useSettingsPart(
  h => ({ text: h.domains.join('\n') }),
  f => ({ domains: linesOf(f.text) }),
  'Own domains saved.',
)
const address = ref('')
const tried = ref<{ taken: boolean, words: string } | null>(null)
const traceTest = useForm()
const tryIt = () => traceTest.submit(async () => {
  tried.value = await api.testAddress(address.value.trim())
})
</script>

<template>
  <SettingsPart
    id="domains"
    title="Own domains"
    :changed
    :error
    :busy
    @save="save"
    @leave="leave"
  >
    <template #sentence>
      Inbound mail with one of these domains in From is flagged as possible forgery (“claims own domain”). Allow entries count for
      own domains only if the sender is verified.
    </template>
    <el-input
      v-model="fields.text"
      type="textarea"
      :autosize="{ minRows: 1, maxRows: 8 }"
      aria-label="Own domains, one per line"
      placeholder="saltmere-harbour.example"
      spellcheck="false"
      style="width: 360px"
    />
    <p
      v-if="firstOf('domains')"
      class="wrong"
    >
      {{ firstOf('domains') }}
    </p>
    <template #below>
      <form
        class="traceTest"
        @submit.prevent="tryIt"
      >
        <span class="second small">Test an address:</span>
        <el-input
          v-model="address"
          class="line-field"
          aria-label="Address to test"
          placeholder="name@domain"
          style="width: 240px"
          spellcheck="false"
        />
        <PressButton
          small
          type="submit"
        >
          Test
        </PressButton>
        <span
          v-if="tried || traceTest.error.value"
          class="small"
          :class="{ warn: tried && !tried.taken, wrong: traceTest.error.value }"
          role="status"
        >{{ traceTest.error.value || tried?.words }}</span>
      </form>
    </template>
  </SettingsPart>
</template>

<style scoped>
.traceTest { display: flex; flex-wrap: wrap; gap: 8px; align-items: center; }
</style>
