<script setup lang="ts">
const house = useHouseStore()
const session = useSessionStore()
onMounted(() => house.load())
</script>

<template>
  <div class="page house">
    <div
      v-if="!session.may('set up the house')"
      class="sheet told"
    >
      <h1>The house</h1>
      <p>An administrator sets up who is here and whom we believe. You may change your own password under your initials.</p>
    </div>
    <template v-else>
      <div>
        <h1>The house</h1>
        <p class="second">
          Who is here, what is ours, and whom we believe. Each change is in force at once.
        </p>
      </div>
      <ReadingState
        :failure="house.failure"
        :ready="house.data !== null"
        what="the house"
        @again="house.load()"
      />
      <template v-if="house.data">
        <div
          v-if="house.data.missing.length"
          class="missing"
          role="status"
        >
          <h2>What is missing</h2>
          <ul>
            <li
              v-for="m in house.data.missing"
              :key="m.words"
            >
              {{ m.words }} <a :href="`#${m.at}`">Mend it</a>
            </li>
          </ul>
        </div>
        <HouseDomains />
        <HousePeople />
        <HouseDepartments />
        <HouseTrust />
        <HouseQuarantines />
        <HouseMail />
        <HouseKeeping />
        <HousePlace />
      </template>
    </template>
  </div>
</template>

<style scoped>
.house { width: min(920px, 100%); margin: 0 auto; }
.told { padding: 24px; display: grid; gap: 8px; }
.missing { border-left: 3px solid var(--warn); padding: 4px 16px; }
.missing ul { margin: 6px 0 4px; padding-left: 18px; display: grid; gap: 6px; }
</style>
