<template>
  <h1>There is no such page</h1>
  <p class="quiet">The address may be mistyped. <RouterLink to="/line">Go to the line</RouterLink></p>
</template>
