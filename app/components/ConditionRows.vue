<script setup lang="ts">
import { conditionWords } from '#core/words'
import { newRow, type Row } from '~/composables/ruleForm'

const rows = defineModel<Row[]>({ required: true })
const { add, spares, errors = {} } = defineProps<{
  /** What the button to add one says. */
  add: string
  /** These conditions speak for the copy: a sender counts only when verified. */
  spares: boolean
  /** What is wrong, by number of row. */
  errors?: Record<number, string>
}>()
const directory = useDirectoryStore()
const KINDS = [{ value: 'phrases', name: 'words' }, { value: 'sender', name: 'the sender is' }, { value: 'list', name: 'the sender is on' }, { value: 'every', name: 'every message' }] as const

function change(index: number, kind: Row['kind']) {
  rows.value = rows.value.map((r, i) => i === index ? newRow(kind) : r)
}
function remove(index: number) {
  rows.value = rows.value.filter((_, i) => i !== index)
}
const sizeOf = (id: string) => directory.data?.lists.find(l => l.id === id)
</script>

<template>
  <div
    v-for="(row, i) in rows"
    :key="row.key"
    class="condition"
  >
    <el-select
      v-if="row.kind !== 'other'"
      class="line-field"
      :model-value="row.kind"
      aria-label="Kind of condition"
      style="width: 146px"
      @change="(k: Row['kind']) => change(i, k)"
    >
      <el-option
        v-for="k in KINDS.filter(k => !(spares && k.value === 'every'))"
        :key="k.value"
        :value="k.value"
        :label="k.name"
      />
    </el-select>
    <div class="fields">
      <template v-if="row.kind === 'phrases'">
        <el-input
          v-model="row.text"
          type="textarea"
          :autosize="{ minRows: 2, maxRows: 8 }"
          placeholder="one a line, or with commas between"
          aria-label="Words and phrases"
          style="width: 250px"
        />
        <div class="how">
          <el-select
            v-model="row.where"
            class="line-field"
            aria-label="Where"
            style="width: 180px"
          >
            <el-option
              value="default"
              :label="spares ? 'in subject or own text' : 'anywhere in it'"
            />
            <el-option
              value="subject"
              label="in the subject"
            />
            <el-option
              value="own"
              label="in the writer’s own text"
            />
            <el-option
              value="quoted"
              label="in quoted text"
            />
            <el-option
              v-if="row.where === 'as it stands'"
              value="as it stands"
              :label="`in ${row.places?.join(', ')}`"
            />
          </el-select>
          <el-select
            v-model="row.whole"
            class="line-field"
            aria-label="Whole words or parts"
            style="width: 180px"
          >
            <el-option
              :value="true"
              label="as whole words"
            />
            <el-option
              :value="false"
              label="also inside words"
            />
          </el-select>
        </div>
      </template>
      <template v-else-if="row.kind === 'sender'">
        <el-select
          v-model="row.entry"
          class="line-field"
          aria-label="How wide"
          style="width: 166px"
        >
          <el-option
            value="address"
            label="this address"
          />
          <el-option
            value="domain"
            label="this domain"
          />
          <el-option
            value="domain and below"
            label="domain and below"
          />
        </el-select>
        <el-input
          v-model="row.value"
          :placeholder="row.entry === 'address' ? 'name@quayline.example' : 'quayline.example'"
          aria-label="Sender"
          style="width: 230px"
          spellcheck="false"
        />
        <span
          v-if="spares"
          class="second small"
        >counts when verified</span>
      </template>
      <template v-else-if="row.kind === 'list'">
        <el-select
          v-model="row.list"
          class="line-field"
          filterable
          placeholder="a list"
          aria-label="List"
          style="width: 200px"
        >
          <el-option
            v-for="l in directory.data?.lists ?? []"
            :key="l.id"
            :value="l.id"
            :label="l.name"
          />
        </el-select>
        <span
          v-if="sizeOf(row.list)"
          class="second small"
        >{{ sizeOf(row.list)!.size.toLocaleString('en') }} entries<template v-if="spares"> · counts when verified</template><template v-if="!sizeOf(row.list)!.on"> · switched off, so it matches nobody</template></span>
      </template>
      <span v-else-if="row.kind === 'other'">{{ conditionWords(row.condition, directory.names) }}</span>
      <p
        v-if="errors[i]"
        class="wrong"
      >
        {{ errors[i] }}
      </p>
    </div>
    <button
      class="press plain"
      type="button"
      :aria-label="`Take condition ${i + 1} out`"
      @click="remove(i)"
    >
      ×
    </button>
  </div>
  <button
    class="press plain add"
    type="button"
    @click="rows = [...rows, newRow('phrases')]"
  >
    + {{ add }}
  </button>
</template>

<style scoped>
.condition { display: grid; grid-template-columns: 146px 1fr auto; gap: 12px; padding: 8px 0; border-bottom: 1px solid var(--hairline); align-items: start; }
.fields { display: flex; flex-wrap: wrap; gap: 8px 12px; align-items: center; min-height: 30px; }
.how { display: grid; gap: 4px; }
.wrong { flex-basis: 100%; }
.add { margin: 6px 0 0 -5px; justify-self: start; }
</style>
