<script setup lang="ts">
import { useDebounceFn } from '@vueuse/core'
import { counted } from '#core/wording'
import { api, type Member } from '~/api/client'

const settings = useSettingsStore()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const people = ref<Member[]>([])
const next = ref<string | null>(null)
const total = ref(0)
const route = useRoute()
const words = ref(typeof route.query.find === 'string' ? route.query.find : '')
const editing = ref<string | null>(null)
/** A link that was just made, with whose it is; it is shown once. */
const link = ref<{ id: string, name: string, link: string } | null>(null)
const deactivating = ref<string | null>(null)
const { error, busy, submit } = useForm()

async function load() {
  try {
    const page = await api.members({ words: words.value.trim() })
    people.value = page.items
    next.value = page.next
    total.value = page.total
  }
  catch (e) {
    notices.failed(e)
  }
}
onMounted(load)
const search = useDebounceFn(load, 200)
async function more() {
  try {
    const page = await api.members({ words: words.value.trim(), after: next.value! })
    people.value = [...people.value, ...page.items]
    next.value = page.next
  }
  catch (e) {
    notices.failed(e)
  }
}

const departmentNames = (m: Member) =>
  m.departments.map(id => directory.data?.departments.find(d => d.id === id)?.name ?? id).join(', ')

async function done(saved: Member | null) {
  const wasNew = editing.value === 'new'
  editing.value = null
  if (!saved) return
  await Promise.all([load(), settings.load()])
  if (wasNew) await invite(saved)
}
const invite = (m: Member) => submit(async () => {
  link.value = { id: m.id, name: m.name, link: (await api.invite(m.id)).link }
})
async function copyLink() {
  try {
    await navigator.clipboard.writeText(link.value!.link)
    notices.say('Link copied. It works once, within a week.')
  }
  catch (e) {
    notices.failed(e)
  }
}
async function left() {
  deactivating.value = null
  await reload()
}
const reload = () => Promise.all([load(), settings.load(), directory.load()])
watch(() => notices.undone, reload)
</script>

<template>
  <section
    id="people"
    class="people"
    aria-labelledby="people-title"
  >
    <h2 id="people-title">
      Users
    </h2>
    <p class="second">
      Mail is accepted only for addresses of users. A new user chooses a password by a link that works once.
    </p>
    <div class="row">
      <el-input
        v-model="words"
        class="line-field"
        placeholder="search names and addresses"
        aria-label="Search users"
        clearable
        style="width: 230px"
        @input="search"
      />
      <span class="second small">{{ counted(total, 'user') }}</span>
      <PressButton
        :disabled="editing !== null"
        @click="editing = 'new'"
      >
        Add user…
      </PressButton>
      <a
        class="press plain"
        href="/api/users/csv"
        download
      >Export CSV</a>
      <UserImport @done="reload" />
    </div>
    <p
      v-if="error"
      class="wrong"
      role="alert"
    >
      {{ error }}
    </p>
    <UserForm
      v-if="editing === 'new'"
      :member="null"
      @done="done"
    />
    <ul>
      <li
        v-for="m in people"
        :key="m.id"
        :class="{ gone: m.deactivatedAt }"
      >
        <UserForm
          v-if="editing === m.id"
          :key="m.version"
          :member="m"
          @done="done"
          @reload="load"
        />
        <template v-else>
          <div class="line">
            <span><strong>{{ m.name }}</strong> <span class="second small">{{ m.role === 'worker' ? '' : m.role }}</span></span>
            <span class="mono small second addresses">{{ m.addresses.join(', ') }}<template v-if="m.shared.length">
              · shared: {{ m.shared.join(', ') }}
            </template></span>
            <span class="second small">{{ departmentNames(m) }}</span>
            <span
              v-if="m.deactivatedAt"
              class="second small"
            >deactivated {{ shortWhen(m.deactivatedAt) }}</span>
            <span
              v-else
              class="actions"
            >
              <PressButton
                plain
                small
                :aria-label="`Edit ${m.name}`"
                @click="editing = m.id"
              >
                Edit
              </PressButton>
              <PressButton
                plain
                small
                :disabled="busy"
                :aria-label="m.signsIn ? `New password for ${m.name}` : `Invite ${m.name}`"
                @click="invite(m)"
              >
                {{ m.signsIn ? 'New password' : 'Invite' }}
              </PressButton>
              <PressButton
                plain
                small
                :aria-label="`Deactivate ${m.name}`"
                @click="deactivating = m.id"
              >
                Deactivate…
              </PressButton>
            </span>
          </div>
          <div
            v-if="link?.id === m.id"
            class="link"
            role="status"
            :aria-label="`Link for ${m.name}`"
          >
            <p class="small">
              Give this link to {{ m.name }}. It opens once, within a week, and is shown only now.
            </p>
            <p class="mono small address">
              {{ link.link }}
            </p>
            <p class="actions">
              <PressButton
                small
                @click="copyLink"
              >
                Copy link
              </PressButton><PressButton
                plain
                small
                @click="link = null"
              >
                Close
              </PressButton>
            </p>
          </div>
          <DeactivateUser
            v-if="deactivating === m.id"
            :member="m"
            @done="left"
            @cancel="deactivating = null"
          />
        </template>
      </li>
    </ul>
    <PressButton
      v-if="next"
      plain
      @click="more"
    >
      Show more users
    </PressButton>
  </section>
</template>

<style scoped>
.people { border-top: 1px solid var(--hairline); padding: 16px 0 18px; display: grid; gap: 8px; }
.row { display: flex; flex-wrap: wrap; gap: 14px; align-items: center; }
ul { list-style: none; margin: 0; padding: 0; }
li { border-top: 1px solid var(--hairline); padding: 3px 0; }
.line {
  display: grid;
  grid-template-columns: minmax(150px, 1fr) minmax(0, 1.7fr) minmax(0, 0.9fr) auto;
  gap: 12px;
  align-items: baseline;
  min-height: 32px;
}
.addresses, .address { overflow-wrap: anywhere; }
.gone { opacity: 0.75; }
.link { border-left: 3px solid var(--water); padding: 4px 12px; margin: 4px 0 8px; display: grid; gap: 4px; }
@media (max-width: 820px) { .line { grid-template-columns: 1fr; gap: 2px; } }
</style>
