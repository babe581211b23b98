<script setup lang="ts">
import { MIN_PASSWORD } from '#core/limits'
import { api } from '~/api/client'

definePageMeta({ layout: 'bare', title: 'Choose a password' })
const token = String(useRoute().query.token ?? '')
const session = useSessionStore()
const whose = ref<{ name: string, address: string } | null>(null)
const { failure, load } = useReading(async () => (whose.value = await api.invitation(token)))
const { error, fields, busy, submit } = useForm()
const form = reactive({ password: '' })
const choose = () =>
  submit(async () => {
    const { address } = await api.acceptInvitation(token, form.password)
    if (!address) return void (await navigateTo('/sign-in'))
    await session.signIn(address, form.password)
    await navigateTo('/')
  })
</script>

<template>
  <div class="sheet invited">
    <div class="brand">
      <AppLogo /> <h1>Sober Gate</h1>
    </div>
    <p
      v-if="failure"
      role="alert"
    >
      {{ failure }} <PressButton
        plain
        @click="load"
      >
        Try again
      </PressButton>
    </p>
    <p
      v-else-if="!whose"
      class="second"
    >
      Checking the link…
    </p>
    <form
      v-else
      @submit.prevent="choose"
    >
      <p>
        Welcome, {{ whose.name }}. Choose a password. You sign in with <span class="mono">{{ whose.address }}</span>.
      </p>
      <input
        class="visually-hidden"
        type="text"
        autocomplete="username"
        tabindex="-1"
        aria-hidden="true"
        :value="whose.address"
        readonly
      >
      <FormField
        :label="`Password (at least ${MIN_PASSWORD} characters, not counting spaces)`"
        :error="fields.password"
      >
        <el-input
          v-model="form.password"
          type="password"
          autocomplete="new-password"
          show-password
        />
      </FormField>
      <FormFoot
        :error
        action="Save password and sign in"
        :busy
        staying
      />
    </form>
  </div>
</template>

<style scoped>
.invited { width: min(460px, 100%); padding: 28px 30px; display: grid; gap: 14px; }
.brand { display: flex; gap: 12px; align-items: center; color: var(--water); }
.brand h1 { color: var(--ink); }
form { display: grid; gap: 12px; justify-items: start; }
.field { width: 100%; }
</style>
