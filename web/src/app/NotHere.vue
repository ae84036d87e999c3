<script setup lang="ts">
// An address that leads nowhere.
import PageFrame from '../kit/PageFrame.vue'
</script>

<template>
  <PageFrame title="No such page">
    <h1>There is no such page</h1>
    <p class="quiet">The address may be mistyped. <RouterLink to="/line">Go to the line</RouterLink></p>
  </PageFrame>
</template>

<style scoped>
a {
  text-decoration: underline;
}
</style>
