<script setup lang="ts">
import { api, type Member, type Role } from '~/api/client'
import { linesOf } from '~/composables/settingsPart'

/** What is known of somebody; null for somebody new. */
const { member } = defineProps<{ member: Member | null }>()
const emit = defineEmits<{ done: [member: Member | null], reload: [] }>()
const notices = useNoticeStore()
const directory = useDirectoryStore()
const { error, stale, firstOf, fields: wrong, busy, submit } = useForm()
const form = reactive({
  name: member?.name ?? '',
  role: member?.role ?? ('worker' as Role),
  addresses: (member?.addresses ?? []).join('\n'),
  shared: (member?.shared ?? []).length > 0,
  departments: [...(member?.departments ?? [])],
})
const before = JSON.stringify(form)
useUnsaved(() => JSON.stringify(form) !== before)
const ROLES: { value: Role, name: string }[] = [
  { value: 'worker', name: 'office worker' },
  { value: 'reviewer', name: 'reviewer' },
  { value: 'administrator', name: 'administrator' },
]
const ROLE_WORDS: Record<Role, string> = {
  worker: 'reads their own mail and has personal lists and rules',
  reviewer: 'also reads and releases messages in quarantine',
  administrator: 'also changes all lists and rules, reads all mail (this is logged) and changes settings',
}
const departments = computed(() => directory.data?.departments ?? [])

const save = () => submit(async () => {
  const addresses = linesOf(form.addresses)
  const body = { name: form.name, role: form.role, addresses, shared: form.shared ? addresses : [], departments: form.departments }
  const saved = member ? await api.changeMember(member.id, { ...body, version: member.version }) : await api.addMember(body)
  await directory.load()
  notices.say(member ? `User “${saved.name}” saved.` : `User “${saved.name}” added. Mail to their addresses is accepted.`)
  emit('done', saved)
})
</script>

<template>
  <form
    class="person"
    @submit.prevent="save"
  >
    <div class="pair">
      <FormField
        label="Name"
        :error="wrong.name"
      >
        <el-input
          v-model="form.name"
          style="width: 240px"
        />
      </FormField>
      <label class="field">Role <ChoiceField
        v-model="form.role"
        :options="ROLES"
        label="Role"
        boxed
        :width="170"
      /></label>
    </div>
    <p class="second small">
      {{ ROLES.find(r => r.value === form.role)!.name }}: {{ ROLE_WORDS[form.role] }}.
    </p>
    <div class="pair">
      <FormField
        label="Addresses, one per line"
        :error="firstOf('addresses')"
      >
        <el-input
          v-model="form.addresses"
          type="textarea"
          :autosize="{ minRows: 2, maxRows: 8 }"
          style="width: 320px"
          spellcheck="false"
        />
      </FormField>
      <div class="field">
        <span>Departments (main department first)</span>
        <el-select
          v-model="form.departments"
          multiple
          aria-label="Departments (main department first)"
          placeholder="none"
          style="width: 280px"
        >
          <el-option
            v-for="d in departments"
            :key="d.id"
            :value="d.id"
            :label="d.name"
          />
        </el-select>
      </div>
    </div>
    <el-checkbox v-model="form.shared">
      some of these are shared mailboxes
    </el-checkbox>
    <FormFoot
      :error
      :action="member ? 'Save' : 'Add user'"
      :busy
      @leave="emit('done', null)"
    >
      <PressButton
        v-if="stale"
        plain
        @click="emit('reload')"
      >
        Reload user
      </PressButton>
    </FormFoot>
  </form>
</template>

<style scoped>
.person { display: grid; gap: 10px; justify-items: start; padding: 12px 0; }
.pair { display: flex; flex-wrap: wrap; gap: 20px; }
</style>
