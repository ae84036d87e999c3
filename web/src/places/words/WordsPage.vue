<script setup lang="ts">
// The words of this program, one sentence each.
import PageFrame from '../../kit/PageFrame.vue'
import { WORDS } from './words'
</script>

<template>
  <PageFrame title="Words">
    <h1>Words</h1>
    <p class="quiet">What things are called here, on every screen and in the manual.</p>
    <div class="all">
      <section v-for="part in WORDS" :key="part.about" class="section">
        <header>
          <h2>{{ part.about }}</h2>
        </header>
        <dl>
          <div v-for="one in part.words" :key="one.word">
            <dt>{{ one.word }}</dt>
            <dd>{{ one.means }}</dd>
          </div>
        </dl>
      </section>
    </div>
  </PageFrame>
</template>

<style scoped>
.all {
  columns: 2 420px;
  column-gap: 40px;
}
.section {
  break-inside: avoid;
}
dl {
  margin: 0;
}
dl div {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 4px 16px;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
dt {
  font-weight: 600;
}
dd {
  margin: 0;
}
@media (max-width: 700px) {
  dl div {
    grid-template-columns: 1fr;
  }
}
</style>
