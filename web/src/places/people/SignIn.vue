<script setup lang="ts">
// Coming in: with a password, with a one-time code, as the first of all, or as one of the demo's people. A bench that is
// on can be switched off from here, too.
import { computed, onMounted, ref } from 'vue'
import { useRouter } from 'vue-router'
import client from '../../api/client'
import { useMe } from '../../api/me'
import { useAct } from '../../kit/act'
import { saysOf } from '../../kit/problem'
import ProblemNote from '../../kit/ProblemNote.vue'
import TextField from '../../kit/TextField.vue'
import { useKeys, useLayer } from '../../kit/keys'
import { useTitle } from '../../kit/title'
import { useWho } from '../../kit/who'
import { useSwitchOff } from '../bench/switchOff'
import PasswordField from './PasswordField.vue'
import { ROLE_WORDS } from './roles'

const { me, come, ask } = useMe()
const who = useWho()
const router = useRouter()
const wanted = ref<'password' | 'code'>('password')
const way = computed(() => (me.value?.is_new ? 'first' : wanted.value))
const name = ref(who.name.value)
const password = ref('')
const code = ref('')
const ready = computed(
  () => !!name.value.trim() && !!password.value && (way.value === 'password' || !!code.value.trim()),
)
if (!who.hasLeft.value) useTitle().value = 'Sign in'

const { act, pending, problem, forget } = useAct(
  async () => {
    const given = { name: name.value, password: password.value }
    const coded = { ...given, code: code.value }
    if (way.value === 'first') {
      await come(client.POST('/api/sign-in/first', { body: coded }))
      await router.push('/begin')
    } else if (way.value === 'code') await come(client.POST('/api/sign-in/code', { body: coded }))
    else await come(client.POST('/api/sign-in', { body: given }))
  },
  { asksWho: false, takesLong: true },
)
const demo = useAct((id: number) => come(client.POST('/api/sign-in/demo', { body: { person_id: id } })), {
  asksWho: false,
})
const says = (field: string) => saysOf(problem.value, field)
function turn(to: 'password' | 'code') {
  wanted.value = to
  password.value = ''
  forget()
}
const over = ref<HTMLDialogElement>()
const box = ref<HTMLElement>()
onMounted(() => {
  over.value?.showModal()
  box.value?.querySelector<HTMLElement>(me.value?.demo.length ? '.demo button' : 'input:not([value]), input')?.focus()
})
const off = useSwitchOff(
  () => undefined,
  () => true,
)
const OFF_WORDS = {
  quiet: 'Switch the bench off',
  asking: 'Another person’s run: switch it off?',
  pending: 'Switching off …',
  unanswered: 'No answer: switch off at the supply',
} as const
const offWords = computed(() => OFF_WORDS[off.state.value])
// The page behind takes no key meanwhile; Esc switches off what is on.
useLayer(who.hasLeft, () => me.value?.running && void press())
useKeys([{ key: 'Escape', does: 'switch the bench off', act: () => void press(), when: () => !!me.value?.running }])
async function press() {
  off.press()
  if (off.state.value !== 'asking') await ask()
}
</script>

<template>
  <!-- In the top layer: whatever lies below, a dialog that was open too, is out of reach and takes no focus. -->
  <dialog ref="over" class="over" aria-labelledby="sign-in-head" @cancel.prevent>
    <section ref="box" class="sign-in">
      <p class="name" aria-hidden="true">Rulvek</p>
      <h1 id="sign-in-head">
        {{ way === 'first' ? 'The first account' : who.hasLeft.value ? 'Sign in again' : 'Sign in' }}
      </h1>
      <p v-if="way === 'first'" class="quiet">
        Nobody has an account here yet. The first one looks after all others. Its one-time code stands in the terminal
        where Rulvek was started.
      </p>
      <p v-else-if="who.hasLeft.value" class="quiet">
        Your session has ended. What this page shows stays as it is until you are back.
      </p>
      <ul v-if="me?.demo.length && !who.hasLeft.value" class="demo" aria-label="People of the demo">
        <li v-for="one in me.demo" :key="one.id">
          <button type="button" :disabled="demo.pending.value" @click="demo.act(one.id)">
            <strong>{{ one.name }}</strong>
            <span class="quiet">{{ one.roles.map((role) => ROLE_WORDS[role]).join(', ') }}</span>
          </button>
        </li>
      </ul>
      <p v-if="me?.demo.length && !who.hasLeft.value" class="quiet">
        These are the demo’s people: on this machine you may be any of them. Or sign in with an account of your own.
      </p>
      <form @submit.prevent="ready && act()">
        <TextField
          v-if="way !== 'password'"
          v-model="code"
          class="code"
          label="One-time code"
          :max="40"
          placeholder="ABCDE-FGHJK-MNPQR-STUVW"
        />
        <TextField v-model="name" label="Your name" :max="80" :problem="says('name')" autocomplete="username" />
        <PasswordField
          v-model="password"
          :label="way === 'password' ? 'Password' : 'Password, at least 12 characters'"
          :fresh="way !== 'password'"
          :problem="says('password')"
        />
        <ProblemNote v-if="problem && !says('name') && !says('password')" :error="problem" />
        <a-button type="primary" html-type="submit" :disabled="!ready" :loading="pending">
          {{ way === 'first' ? 'Make the account' : way === 'code' ? 'Set the password and sign in' : 'Sign in' }}
        </a-button>
      </form>
      <p v-if="way !== 'first'" class="quiet">
        <button v-if="way === 'password'" type="button" class="link" @click="turn('code')">I was given a code</button>
        <button v-else type="button" class="link" @click="turn('password')">I have a password</button>
        <template v-if="way === 'password'">
          – for the first time, or as the password is forgotten: ask an admin.</template
        >
      </p>
      <p v-if="me?.running" class="running">
        A bench is on.
        <a-button danger @click="press">{{ offWords }}</a-button>
      </p>
    </section>
  </dialog>
</template>

<style scoped>
.over {
  position: fixed;
  inset: 0;
  width: 100vw;
  max-width: none;
  height: 100vh;
  max-height: none;
  margin: 0;
  padding: 0 12px 24px;
  overflow: auto;
  color: inherit;
  background: var(--paper);
  border: 0;
}
.sign-in {
  max-width: 420px;
  margin: 7vh auto 0;
  padding: 24px 28px;
  background: var(--sheet);
  border: 1px solid var(--rule);
}
.name {
  margin: 0 0 14px;
  font-weight: 700;
  font-size: 18px;
}
form {
  display: grid;
  gap: 12px;
  margin: 12px 0;
}
.code :deep(input) {
  font-family: 'JetBrains Mono Variable', monospace;
}
.demo {
  display: grid;
  gap: 6px;
  margin: 12px 0;
  padding: 0;
  list-style: none;
}
.demo button {
  display: flex;
  flex-wrap: wrap;
  gap: 0 10px;
  justify-content: space-between;
  width: 100%;
  min-height: 44px;
  padding: 8px 12px;
  align-items: center;
  font: inherit;
  color: inherit;
  text-align: left;
  background: none;
  border: 1px solid var(--rule-strong);
  border-radius: 3px;
  cursor: pointer;
}
.demo button:hover {
  background: var(--hover);
}
.link {
  padding: 0;
  font: inherit;
  color: var(--certified);
  background: none;
  border: 0;
  cursor: pointer;
  text-decoration: underline;
}
.running {
  display: flex;
  align-items: center;
  justify-content: space-between;
  margin-top: 20px;
  padding-top: 12px;
  border-top: 1px solid var(--rule);
}
</style>
