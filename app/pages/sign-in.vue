<script setup lang="ts">
definePageMeta({ layout: 'bare', title: 'Sign in' })
const session = useSessionStore()
const route = useRoute()
const email = ref('')
const password = ref('')
const { error, busy, submit } = useForm()

onMounted(() => submit(session.load))

const enter = () => submit(async () => {
  await session.signIn(email.value, password.value)
  await navigateTo(pathHere(String(route.query.to ?? '/')))
})

function take(account: string) {
  email.value = account
  password.value = session.demo?.password ?? ''
}
</script>

<template>
  <form
    class="sheet"
    @submit.prevent="enter"
  >
    <div class="brand">
      <AppLogo /> <h1>Sober Gate</h1>
    </div>
    <p class="second">
      Mail filtering. Sign in to see your mail and why it was stopped.
    </p>
    <label>Address
      <el-input
        v-model="email"
        name="email"
        type="email"
        autocomplete="username"
        autofocus
      />
    </label>
    <label>Password
      <el-input
        v-model="password"
        name="password"
        type="password"
        autocomplete="current-password"
        show-password
      />
    </label>
    <FormFoot
      :error
      action="Sign in"
      :busy
      staying
    />
    <div
      v-if="session.demo"
      class="demo"
    >
      <h2>This is the demo</h2>
      <p class="second small">
        It shows an invented harbour office. The password is <code>{{ session.demo.password }}</code>; select an address to fill in
        the form.
      </p>
      <ul>
        <li
          v-for="account in session.demo.accounts"
          :key="account"
        >
          <PressButton
            plain
            @click="take(account)"
          >
            <code>{{ account }}</code>
          </PressButton>
        </li>
      </ul>
    </div>
  </form>
</template>

<style scoped>
form { width: min(430px, 100%); padding: 28px 30px; display: grid; gap: 14px; }
.brand { display: flex; gap: 12px; align-items: center; color: var(--water); }
.brand h1 { color: var(--ink); }
label { display: grid; gap: 4px; font-size: 14px; }
.press.first { justify-self: start; padding: 7px 16px; }
.demo { border-top: 1px solid var(--hairline); padding-top: 14px; }
ul { list-style: none; margin: 6px 0 0; padding: 0; }
</style>
