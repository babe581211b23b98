<template>
  <!-- An empty choice ("every lane") is a choice, not a missing one. -->
  <el-config-provider
    :empty-values="[null, undefined]"
    :value-on-clear="null"
  >
    <NuxtLayout>
      <NuxtPage />
    </NuxtLayout>
  </el-config-provider>
</template>
