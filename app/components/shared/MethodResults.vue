<script setup lang="ts">
import type { MethodsFound } from '#core/message'
import { verificationLines } from '#core/words'

/** What each method found about a sender, a row each. */
const { found } = defineProps<{ found: MethodsFound }>()
</script>

<template>
  <table>
    <tbody>
      <tr
        v-for="(l, i) in verificationLines(found)"
        :key="i"
      >
        <th scope="row">
          {{ l.method }}
        </th>
        <td>{{ l.result }}</td>
        <td class="second">
          {{ l.detail }}
        </td>
      </tr>
    </tbody>
  </table>
</template>

<style scoped>
table { border-collapse: collapse; }
th, td { text-align: left; vertical-align: top; padding: 2px 12px 2px 0; font-weight: 400; }
th { font-weight: 600; }
th, td:nth-child(2) { white-space: nowrap; }
</style>
