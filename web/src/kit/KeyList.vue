<script setup lang="ts">
// The page of keys: everything that acts on this screen just now, made from what the screens registered.
import { defineAsyncComponent, ref } from 'vue'
import { keysNow, shownName, useKeys, useLayer } from './keys'

// A dialog is fetched when one is first asked for: the first page is drawn sooner.
const Modal = defineAsyncComponent(async () => (await import('ant-design-vue/es/modal')).default)
const open = ref(false)
const wasOpen = ref(false)
const listed = ref<{ keys: string[]; does: string }[]>([])

function show() {
  const byWords = new Map<string, string[]>()
  for (const one of keysNow()) byWords.set(one.does!, [...(byWords.get(one.does!) ?? []), shownName(one)])
  listed.value = [...byWords].map(([does, keys]) => ({ does, keys }))
  wasOpen.value = true
  open.value = true
}
useKeys([{ key: '?', does: 'this list', act: show }])
useLayer(open, () => (open.value = false))
</script>

<template>
  <button class="bar-button" title="What the keys do here" @click="show">Keys <kbd>?</kbd></button>
  <Modal v-if="wasOpen" :open="open" title="Keys on this page" :footer="null" @cancel="open = false">
    <dl class="keylist">
      <template v-for="one in listed" :key="one.does">
        <dt>
          <kbd v-for="key in one.keys" :key="key">{{ key }}</kbd>
        </dt>
        <dd>{{ one.does }}</dd>
      </template>
    </dl>
    <!-- What else explains the page. -->
    <div @click="open = false"><slot /></div>
  </Modal>
</template>

<style scoped>
.keylist {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 8px 16px;
}
.keylist dt {
  display: flex;
  gap: 4px;
}
.keylist dd {
  margin: 0;
}
</style>
