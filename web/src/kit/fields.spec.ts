// Fields and dialogs: what is typed is taken as it stands, what is wrong stands beside it, nothing is answered twice.
import { mount } from '@vue/test-utils'
import { nextTick } from 'vue'
import { afterEach, describe, expect, it, vi } from 'vitest'
import DateField from './DateField.vue'
import FormDialog from './FormDialog.vue'
import NumberField from './NumberField.vue'
import PickOne from './PickOne.vue'
import TextField from './TextField.vue'

describe('a number', () => {
  const field = (props: object = {}) =>
    mount(NumberField, { props: { label: 'Load', unit: 'Ω', modelValue: null, ...props }, attachTo: document.body })

  it('is taken with a comma or a point, and its label has the unit', async () => {
    const wrapper = field()
    expect(wrapper.get('label').text()).toBe('Load, Ω')
    for (const [text, value] of [
      ['4,5', 4.5],
      ['4.5', undefined],
      ['', null],
    ] as const) {
      await wrapper.get('input').setValue(text)
      if (value !== undefined) expect(wrapper.emitted('update:modelValue')!.at(-1)).toEqual([value])
    }
    expect(wrapper.emitted('update:modelValue')).toHaveLength(2) // 4,5 and 4.5 are one number
  })

  it('that is none, or out of its range, is not taken and says why', async () => {
    const wrapper = field({ min: 1, max: 8 })
    await wrapper.get('input').setValue('1,234.5')
    expect(wrapper.get('[role="alert"]').text()).toContain('without signs between thousands')
    await wrapper.get('input').setValue('9')
    expect(wrapper.get('[role="alert"]').text()).toBe('Load is from 1 to 8 Ω.')
    const input = wrapper.get('input')
    expect(input.attributes('aria-invalid')).toBe('true')
    expect(input.attributes('aria-describedby')).toBe(wrapper.get('[role="alert"]').attributes('id'))
    expect(wrapper.emitted('update:modelValue')).toBeUndefined()
  })

  it('keeps what is being typed: “1.” does not become “1” under the hand', async () => {
    const wrapper = field()
    await wrapper.get('input').setValue('1.')
    await wrapper.setProps({ modelValue: 1 })
    expect(wrapper.get('input').element.value).toBe('1.')
    await wrapper.setProps({ modelValue: 7 }) // from outside
    expect(wrapper.get('input').element.value).toBe('7')
  })

  it('is missed once somebody went by', async () => {
    const wrapper = field({ required: true })
    expect(wrapper.find('[role="alert"]').exists()).toBe(false)
    await wrapper.get('input').trigger('blur')
    expect(wrapper.get('[role="alert"]').text()).toBe('Load is missing.')
  })

  it('does not follow the wheel', () => {
    expect(field().get('input').attributes('type')).not.toBe('number')
  })

  it('says what the server says of it', () => {
    expect(field({ problem: 'Too low.' }).get('[role="alert"]').text()).toBe('Too low.')
  })
})

describe('a line of text', () => {
  it('is bound, and has its problem beside it', async () => {
    const wrapper = mount(TextField, { props: { label: 'Document', modelValue: null, problem: 'Name it.' } })
    expect(wrapper.get('[role="alert"]').text()).toBe('Name it.')
    await wrapper.get('input').setValue('Manual')
    expect(wrapper.emitted('update:modelValue')).toEqual([['Manual']])
  })
})

describe('one of a few, and a day', () => {
  const SELECT = { ASelect: { props: ['value', 'options'], template: '<i :data-value="value" />' } }
  it('shows nothing as chosen that is no choice', () => {
    const choices = [{ value: 'a', label: 'A' }]
    const of = (modelValue: string) =>
      mount(PickOne<string>, { props: { label: 'L', choices, modelValue }, global: { stubs: SELECT } })
    expect(of('a').get('i').attributes('data-value')).toBe('a')
    expect(of('gone').get('i').attributes('data-value')).toBeUndefined()
  })

  it('an emptied day is none', () => {
    const ADatePicker = { emits: ['update:value'], template: "<i @click=\"$emit('update:value', '')\" />" }
    const wrapper = mount(DateField, {
      props: { label: 'Due', modelValue: '2026-03-31' },
      global: { stubs: { ADatePicker } },
    })
    void wrapper.get('i').trigger('click')
    expect(wrapper.emitted('update:modelValue')).toEqual([[null]])
  })
})

describe('a dialog', () => {
  const dialog = (props: object = {}) =>
    mount(FormDialog, {
      props: { open: true, title: 'Why?', act: 'Do it', ...props },
      slots: { default: '<input class="first" /><textarea /><input class="listed" aria-expanded="true" />' },
      attachTo: document.body,
    })
  afterEach(() => (document.body.innerHTML = ''))

  it('has the focus in its first field each time it opens', async () => {
    const wrapper = dialog()
    for (let times = 0; times < 2; times++) {
      await wrapper.setProps({ open: false })
      await wrapper.setProps({ open: true })
      await vi.waitFor(() => expect(document.activeElement).toBe(wrapper.get('.first').element))
      ;(document.activeElement as HTMLElement).blur()
    }
  })

  it('is answered by Enter in a line, not in a text, not in an open list, not while it is not ready or under way', async () => {
    const wrapper = dialog()
    await wrapper.get('textarea').trigger('keydown', { key: 'Enter' })
    await wrapper.get('.listed').trigger('keydown', { key: 'Enter' })
    expect(wrapper.emitted('done')).toBeUndefined()
    await wrapper.get('.first').trigger('keydown', { key: 'Enter' })
    expect(wrapper.emitted('done')).toHaveLength(1)
    await wrapper.setProps({ ready: false })
    await wrapper.get('.first').trigger('keydown', { key: 'Enter' })
    await wrapper.setProps({ ready: true, pending: true })
    await wrapper.get('.first').trigger('keydown', { key: 'Enter' })
    expect(wrapper.emitted('done')).toHaveLength(1)
  })

  it('closes at Escape, and shows what went wrong inside', async () => {
    const wrapper = dialog({ problem: { problem: { what: 'Claimed already.' } } })
    expect(wrapper.get('[role="dialog"] [role="alert"]').text()).toContain('Claimed already.')
    window.dispatchEvent(new KeyboardEvent('keydown', { key: 'Escape' }))
    await nextTick()
    expect(wrapper.emitted('cancel')).toHaveLength(1)
  })
})
