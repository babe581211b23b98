<script setup lang="ts">
const shown = defineModel<boolean>({ required: true })
const settings = useKeySettings()
const KEYS: [string, string][] = [
  ['↑ ↓', 'move through the mail'], ['Enter', 'open'], ['Space', 'choose'], ['1 – 5', 'send to inbox, slow lane, spam, quarantine, bin'],
  ['W', 'judge wanted'], ['U', 'judge unwanted'], ['Y', 'why: the reasons'], ['Ctrl Z', 'take the last act back'], ['?', 'this list'],
]
</script>

<template>
  <el-dialog
    v-model="shown"
    title="Keys"
    width="460px"
  >
    <table>
      <caption class="visually-hidden">
        Keys and what they do
      </caption>
      <tbody>
        <tr
          v-for="[key, what] in KEYS"
          :key="key"
        >
          <th scope="row">
            <kbd>{{ key }}</kbd>
          </th>
          <td>{{ what }}</td>
        </tr>
      </tbody>
    </table>
    <el-checkbox v-model="settings.letters">
      Single letters and figures work as keys
    </el-checkbox>
  </el-dialog>
</template>

<style scoped>
th { text-align: left; padding: 4px 18px 4px 0; font-weight: 400; white-space: nowrap; }
table { margin-bottom: 12px; }
</style>
