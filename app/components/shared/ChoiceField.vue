<script setup lang="ts" generic="T extends string | boolean">
/** A choice among some: on a line, or in a box as the other fields of a form. */
const chosen = defineModel<T>({ required: true })
const {
  options,
  label,
  width = 178,
  boxed = false,
} = defineProps<{
  options: readonly { value: T, name: string }[]
  /** For those who do not see it. */
  label: string
  /** Pixels; null for all the room that there is. */
  width?: number | null
  boxed?: boolean
  placeholder?: string
  /** Names can be typed to find one. */
  filterable?: boolean
  /** What is typed and is none of them can be chosen too. */
  creatable?: boolean
  disabled?: boolean
  /** Where there are more options than are listed: looks for those that have what is typed. */
  search?: (words: string) => unknown
}>()

const field = useTemplateRef<{ $el: HTMLElement }>('field')
/** After a choice the field keeps the focus, but not its text: keys of the page work again. */
function choose(value: T) {
  chosen.value = value
  setTimeout(() => {
    const frame = field.value?.$el.querySelector<HTMLElement>('.el-select__wrapper')
    if (!frame?.contains(document.activeElement)) return
    frame.tabIndex = -1
    frame.focus({ preventScroll: true })
  })
}
</script>

<template>
  <el-select
    ref="field"
    :model-value="chosen"
    :class="{ 'line-field': !boxed }"
    :aria-label="label"
    :style="{ width: width === null ? '100%' : `${width}px` }"
    :placeholder
    :filterable="filterable || creatable || Boolean(search)"
    :remote="Boolean(search)"
    :remote-method="search"
    remote-show-suffix
    :allow-create="creatable"
    :default-first-option="creatable"
    :disabled
    @change="choose"
  >
    <el-option
      v-for="o in options"
      :key="String(o.value)"
      :value="o.value"
      :label="o.name"
    >
      <slot :option="o">
        {{ o.name }}
      </slot>
    </el-option>
  </el-select>
</template>
