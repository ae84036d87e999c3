<script setup lang="ts">
// The frame: the bar, and the page; or what asks to sign in.
import { computed, defineAsyncComponent, ref, watch } from 'vue'
import { useRoute } from 'vue-router'
import { useMe } from '../api/me'
import { PRACTICE_JOB } from '../kit/base'
import { useKeptFocus } from '../kit/focus'
import { useKeys } from '../kit/keys'
import { dismissNote, droppedNote } from '../kit/stored'
import { useWho } from '../kit/who'
import { useSpreads } from '../trade/spreads'
import OthersNote from './OthersNote.vue'
import TopBar from './TopBar.vue'
import { antdTheme } from './theme/antd'
import { useThemeMode } from './theme/mode'

const route = useRoute()
const { mode, toggle } = useThemeMode()
const spreads = useSpreads()
const who = useWho()
const { me, lost, ask } = useMe()
void ask()
watch(who.hasLeft, (left) => left && void ask())
watch(lost, (failure) => failure && setTimeout(() => void ask(), 2000))
/** What a link opens is for somebody without an account: no bar, and nobody is asked who they are. */
const isOpen = computed(() => route.meta.open === true)
/** Until it is known who is signed in, the page begins as if somebody were: most often somebody is. */
const mayShow = computed(() => !me.value || !!me.value.person || !!who.name.value)
/** What is on the screen stays there when a session ends, out of reach until its person is back. */
const isIn = computed(() => mayShow.value && !who.hasLeft.value && !isOpen.value)
// Fetched when somebody must sign in: who is signed in sees the first page sooner.
const SignIn = defineAsyncComponent(() => import('../places/people/SignIn.vue'))
const content = ref<HTMLElement>()
useKeptFocus(content)
const tokens = computed(() => antdTheme(mode.value))

useKeys([
  { key: 'Shift+D', does: 'paper or dark', act: toggle },
  { key: 'Shift+U', does: 'every watt with its ± U', act: spreads.toggle },
])
</script>

<template>
  <a-config-provider :theme="tokens">
    <a class="skip" href="#content">Skip to the content</a>
    <p v-if="PRACTICE_JOB && isIn" class="practice no-print" role="note">
      <strong>Practice bench.</strong> Nothing here is evidence, and nothing is kept.
      <a :href="`/practice/${PRACTICE_JOB}`">Back to job {{ PRACTICE_JOB }}, to answer</a>
    </p>
    <template v-if="isIn">
      <TopBar />
      <OthersNote />
    </template>
    <p v-if="droppedNote" class="dropped no-print" role="status">
      {{ droppedNote }} <button class="plain" @click="dismissNote">Understood</button>
    </p>
    <SignIn v-if="me && !isIn && !isOpen" />
    <p v-else-if="lost && !me" class="dropped" role="alert">The server does not answer; it is asked again.</p>
    <main v-if="mayShow || isOpen" v-show="isIn || isOpen" id="content" ref="content" tabindex="-1">
      <!-- A page of its own for each record: nothing typed for one is left standing for the next. -->
      <RouterView :key="route.path" />
    </main>
  </a-config-provider>
</template>

<style scoped>
main:focus {
  outline: none;
}
main {
  max-width: 1440px;
  margin: 0 auto;
  padding: 20px 24px 60px;
}
.practice {
  margin: 0;
  padding: 6px 24px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.practice a {
  margin-left: 12px;
  color: inherit;
  text-decoration: underline;
}
.dropped {
  margin: 0;
  padding: 8px 24px;
  background: var(--warn-ground);
  color: var(--warn-ink);
}
.skip {
  position: absolute;
  left: -999px;
}
.skip:focus {
  left: 8px;
  top: 8px;
  background: var(--sheet);
  padding: 4px 10px;
  z-index: 10;
}
</style>
