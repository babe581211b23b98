<script setup lang="ts">
import { MIN_PASSWORD } from '#core/limits'
import { api } from '~/api/client'

definePageMeta({ title: 'Password and keys' })

const session = useSessionStore()
const notices = useNoticeStore()
const settings = useKeySettings()
const { error, fields, busy, submit } = useForm()
const form = reactive({ current: '', password: '', again: '' })
useUnsaved(() => form.password !== '')

const save = () =>
  submit(async () => {
    await api.changePassword(form.current, form.password)
    Object.assign(form, { current: '', password: '', again: '' })
    notices.say('Password changed. You are signed out on all other devices.')
  }, form.password === form.again ? {} : { again: 'The two passwords are different.' })
</script>

<template>
  <div class="page me">
    <h1>{{ session.person?.name }}</h1>
    <p class="second">
      {{ session.person?.role }} · <span class="mono">{{ session.person?.addresses.join(', ') }}</span>
    </p>
    <form @submit.prevent="save">
      <h2>Password</h2>
      <FormField
        label="Current password"
        :error="fields.current"
      >
        <el-input
          v-model="form.current"
          type="password"
          autocomplete="current-password"
        />
      </FormField>
      <FormField
        :label="`New password (at least ${MIN_PASSWORD} characters, not counting spaces)`"
        :error="fields.password"
      >
        <el-input
          v-model="form.password"
          type="password"
          autocomplete="new-password"
          show-password
        />
      </FormField>
      <FormField
        label="Repeat new password"
        :error="fields.again"
      >
        <el-input
          v-model="form.again"
          type="password"
          autocomplete="new-password"
        />
      </FormField>
      <FormFoot
        :error
        action="Change password"
        :busy
        staying
      />
    </form>
    <section>
      <h2>Keys</h2>
      <el-checkbox v-model="settings.letters">
        Single letters and digits work as keys
      </el-checkbox>
      <p class="second small">
        All keys are listed in the <NuxtLink to="/help#keys">
          help
        </NuxtLink>.
      </p>
    </section>
  </div>
</template>

<style scoped>
.me { width: min(620px, 100%); }
form, section { display: grid; gap: 12px; justify-items: start; border-top: 1px solid var(--hairline); padding: 14px 0; }
form .field { width: 320px; }
</style>
