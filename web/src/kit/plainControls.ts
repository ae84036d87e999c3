/* eslint-disable vue/one-component-per-file -- stand-ins of a few lines each */
// In unit tests the library's controls are what they come to in a browser, without its styles and animations.
import { config } from '@vue/test-utils'
import { defineComponent, h } from 'vue'

config.global.stubs = {
  AInput: defineComponent({
    props: { value: { type: String, default: '' } },
    emits: ['update:value'],
    setup: (props, { attrs, emit }) => {
      const typed = (event: Event) => emit('update:value', (event.target as HTMLInputElement).value)
      return () => h('input', { ...attrs, value: props.value, onInput: typed })
    },
  }),
  AButton: { template: '<button><slot /></button>' },
  AModal: defineComponent({
    props: { open: Boolean, title: { type: String, default: '' }, okText: { type: String, default: 'OK' } },
    emits: ['ok', 'cancel'],
    setup: (props, { attrs, emit, slots }) => {
      const disabled = () => (attrs.okButtonProps as { disabled?: boolean } | undefined)?.disabled
      const ok = () => h('button', { class: 'ok', disabled: disabled(), onClick: () => emit('ok') }, props.okText)
      return () =>
        props.open ? h('div', { role: 'dialog', 'aria-label': props.title }, [slots.default?.(), ok()]) : null
    },
  }),
}
