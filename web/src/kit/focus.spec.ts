import { mount } from '@vue/test-utils'
import { afterEach, expect, it } from 'vitest'
import { nextTick, ref } from 'vue'
import { useKeptFocus } from './focus'

const shows = ref(true)
const other = ref(true)
const App = {
  setup() {
    const content = ref<HTMLElement>()
    useKeptFocus(content)
    return { content, shows, other }
  },
  template: `<main ref="content" tabindex="-1"><button v-if="shows" id="one">One</button>
    <button v-if="other" id="two">Two</button></main>`,
}
const turn = () => new Promise((resolve) => setTimeout(resolve))
const app = mount(App, { attachTo: document.body })
afterEach(() => {
  shows.value = other.value = true
})
const focused = () => document.activeElement?.id || document.activeElement?.tagName

it('gives the focus to the content when what had it goes', async () => {
  app.get<HTMLElement>('#one').element.focus()
  shows.value = false
  await nextTick()
  await turn()
  expect(focused()).toBe('MAIN')
})

it('leaves it where it is when something else goes', async () => {
  app.get<HTMLElement>('#one').element.focus()
  other.value = false
  await nextTick()
  await turn()
  expect(focused()).toBe('one')
})

it('leaves it alone once somebody put it down', async () => {
  app.get<HTMLElement>('#one').element.focus()
  app.get<HTMLElement>('#one').element.blur()
  other.value = false
  await nextTick()
  await turn()
  expect(focused()).toBe('BODY')
})
