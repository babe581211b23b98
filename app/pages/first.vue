<script setup lang="ts">
import { MIN_PASSWORD } from '#core/limits'
import { api, type Role } from '~/api/client'

definePageMeta({ layout: 'bare', title: 'First steps' })
const route = useRoute()
const session = useSessionStore()
const token = String(route.query.token ?? '')
const open = ref<boolean | null>(null)
const form = reactive({ name: '', address: '', password: '', domains: '' })
const ROLES: { value: Role, name: string }[] = [
  { value: 'worker', name: 'office worker' },
  { value: 'reviewer', name: 'reviewer' },
  { value: 'administrator', name: 'administrator' },
]

interface Line { name: string, address: string, role: Role, password: string }
const people = ref<Line[]>([])
const { error, fields, submit, firstOf } = useForm()

onMounted(async () => {
  try {
    open.value = (await api.setupOpen(token)).open
  }
  catch (e) {
    error.value = e instanceof Error ? e.message : String(e)
  }
})

const make = () => submit(async () => {
  await api.setUp({
    token, name: form.name, address: form.address, password: form.password,
    domains: form.domains.split(/[\s,]+/).filter(Boolean),
    people: people.value.map(p => ({ name: p.name, address: p.address, role: p.role, ...(p.password ? { password: p.password } : {}) })),
  })
  await session.signIn(form.address, form.password)
  await navigateTo('/settings')
})
</script>

<template>
  <div class="sheet first">
    <div class="brand">
      <AppLogo /> <h1>Sober Gate: first steps</h1>
    </div>
    <p
      v-if="open === null && !error"
      class="second"
    >
      Checking the link…
    </p>
    <template v-else-if="open === false">
      <p>This link has already been used, or a newer one was printed.</p>
      <p>
        <NuxtLink to="/sign-in">Sign in</NuxtLink>, or restart Sober Gate: it prints a new link as long as there is no administrator.
      </p>
    </template>
    <form
      v-else
      @submit.prevent="make"
    >
      <h2>The first administrator</h2>
      <label>Name <el-input
        v-model="form.name"
        autocomplete="name"
      /><span
        v-if="fields.name"
        class="wrong"
      >{{ fields.name }}</span></label>
      <label>Address <el-input
        v-model="form.address"
        type="email"
        autocomplete="username"
      /><span
        v-if="fields.address"
        class="wrong"
      >{{ fields.address }}</span></label>
      <label>Password <el-input
        v-model="form.password"
        type="password"
        autocomplete="new-password"
        show-password
        aria-describedby="password-rule"
      /><span
        id="password-rule"
        class="second small"
      >At least {{ MIN_PASSWORD }} characters, not counting spaces</span><span
        v-if="fields.password"
        class="wrong"
      >{{ fields.password }}</span></label>
      <h2>Your domains</h2>
      <label>One per line <el-input
        v-model="form.domains"
        type="textarea"
        :rows="2"
        placeholder="saltmere-harbour.example"
        spellcheck="false"
      /><span
        v-if="firstOf('domains')"
        class="wrong"
      >{{ firstOf('domains') }}</span></label>
      <h2>The first users</h2>
      <p class="second small">
        Mail is accepted only for addresses of users. Without a password a user gets mail but cannot sign in.
        A password needs at least {{ MIN_PASSWORD }} characters, not counting spaces.
      </p>
      <div
        v-for="(p, i) in people"
        :key="i"
        class="person"
      >
        <el-input
          v-model="p.name"
          placeholder="name"
          :aria-label="`Name of user ${i + 1}`"
        />
        <el-input
          v-model="p.address"
          placeholder="address"
          :aria-label="`Address of user ${i + 1}`"
        />
        <ChoiceField
          v-model="p.role"
          :options="ROLES"
          :label="`Role of user ${i + 1}`"
          boxed
          :width="null"
        />
        <el-input
          v-model="p.password"
          type="password"
          placeholder="password"
          autocomplete="new-password"
          :aria-label="`Password of user ${i + 1}`"
        />
        <PressButton
          plain
          :aria-label="`Remove user ${i + 1}`"
          @click="people.splice(i, 1)"
        >
          ×
        </PressButton>
        <span
          v-if="firstOf(`people.${i}`)"
          class="wrong"
        >{{ firstOf(`people.${i}`) }}</span>
      </div>
      <PressButton
        plain
        @click="people.push({ name: '', address: '', role: 'worker', password: '' })"
      >
        + Add user
      </PressButton>
      <FormFoot
        :error
        action="Set up"
        staying
      />
    </form>
    <p
      v-if="error && open === null"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
  </div>
</template>

<style scoped>
.first { width: min(720px, 100%); padding: 28px 30px; display: grid; gap: 14px; }
.press.first { width: auto; padding: 7px 16px; justify-self: start; }
form { display: grid; gap: 12px; justify-items: start; }
form > label { display: grid; gap: 4px; font-size: 14px; width: min(420px, 100%); }
.brand { display: flex; gap: 12px; align-items: center; color: var(--water); }
.brand h1 { color: var(--ink); }
.person { display: grid; grid-template-columns: 1fr 1.3fr 150px 130px auto; gap: 8px; width: 100%; }
.person .wrong { grid-column: 1 / -1; }
@media (max-width: 720px) { .person { grid-template-columns: 1fr 1fr; } }
</style>
