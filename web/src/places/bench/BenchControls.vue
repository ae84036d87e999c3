<script setup lang="ts">
// The bar under the live bench: the one next thing to do, and Off, which nothing covers.
import { ref } from 'vue'
import { openLayers } from '../../kit/keys'
import type { OffState } from './switchOff'

defineProps<{
  /** The next thing to do, in words. */
  words: string
  busy: boolean
  blocked: boolean
  live: boolean
  /** Whether somebody else's work is watched here; a watcher has no button that acts. */
  watched: boolean
  off: OffState
  /** Whose run an Off from here would end, where it is not this person's on this page. */
  another: string
  switchedOffBy: string | null
}>()
const emit = defineEmits<{ act: []; off: [] }>()
const main = ref<{ $el: HTMLElement }>()
/** The next thing to do has the focus. */
defineExpose({ focus: () => main.value?.$el.focus() })
</script>

<template>
  <div v-if="off === 'unanswered'" class="unanswered" role="alert">
    <strong>Switch off at the supply.</strong> The server does not answer; Off is tried again until it does.
  </div>
  <footer class="controls" :class="{ veiled: openLayers > 0 }">
    <div class="rest" :inert="openLayers > 0">
      <p v-if="watched" class="act watching">
        Watching<span class="quiet">{{ words }}</span>
      </p>
      <a-button
        v-else
        ref="main"
        size="large"
        type="primary"
        class="act"
        :loading="busy"
        :disabled="blocked"
        :danger="live"
        @click="emit('act')"
      >
        {{ words }} <kbd>Space</kbd>
      </a-button>
      <slot />
      <span class="spacer" />
      <span v-if="switchedOffBy" class="by" role="status">Switched off by {{ switchedOffBy }}</span>
      <slot name="holder" />
    </div>
    <span v-if="off === 'asking'" class="asks" role="alert">
      Switch off <strong>{{ another }}</strong>? Press again.
    </span>
    <a-button size="large" danger class="off" :class="{ asking: off === 'asking' }" @click="emit('off')">
      {{ off === 'pending' || off === 'unanswered' ? 'Off …' : 'Off' }} <kbd>Esc</kbd>
    </a-button>
  </footer>
</template>

<style scoped>
.controls {
  position: sticky;
  bottom: 0;
  /* Over the veil of a dialog: Off stays in reach. */
  z-index: 1100;
  display: flex;
  gap: 12px;
  align-items: center;
  padding: 12px 0;
  margin-top: 12px;
  background: var(--paper);
  border-top: 1px solid var(--rule);
}
/* Under a dialog only Off is left to press. */
.veiled {
  background: none;
  border-color: transparent;
}
.rest {
  display: flex;
  flex: 1;
  gap: 12px;
  align-items: center;
}
.veiled .rest {
  visibility: hidden;
}
.act {
  min-width: 330px;
  height: 60px;
  font-size: 24px;
  font-weight: 600;
}
.controls .act {
  height: 60px;
}
.watching {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin: 0;
  padding-top: 14px;
}
.watching .quiet {
  font-size: 16px;
  font-weight: 400;
}
.controls :deep(kbd) {
  margin-left: 8px;
}
/* White on a full red in both themes: the dark one's red is made for letters, not to stand under them. */
.controls .act.ant-btn-dangerous,
.controls .off.asking {
  background: #a5332b;
  color: #fff;
}
.controls .act.ant-btn-dangerous:hover:enabled {
  background: #bb4037;
}
.act kbd,
.off.asking kbd {
  color: inherit;
  border-color: currentColor;
}
.controls :deep(.ant-btn-lg) {
  height: 48px;
}
.off {
  min-width: 120px;
  font-weight: 600;
}
.spacer {
  flex: 1;
}
.by,
.asks {
  font-size: 14px;
}
.asks {
  color: var(--warn-ink);
  background: var(--warn-ground);
  padding: 8px 12px;
}
.unanswered {
  position: sticky;
  bottom: 85px;
  z-index: 1100;
  padding: 12px 16px;
  margin-top: 12px;
  font-size: 18px;
  background: #a5332b;
  color: #fff;
}
</style>
