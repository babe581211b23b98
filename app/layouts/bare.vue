<template>
  <main class="bare">
    <slot />
  </main>
</template>

<style scoped>
.bare { flex: 1; display: grid; place-items: start center; padding: 9vh 20px 40px; }
</style>
