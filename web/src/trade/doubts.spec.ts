import { mount } from '@vue/test-utils'
import { nextTick } from 'vue'
import { describe, expect, it, vi } from 'vitest'
import { useRule } from '../api/rule'
import PickOne from '../kit/PickOne.vue'
import DecisionRule from './DecisionRule.vue'
import { useSpreads } from './spreads'
import VerdictMark from './VerdictMark.vue'
import WattsFigure from './WattsFigure.vue'

describe('what a figure says of its own doubt', () => {
  it('± U is in the tip always, and beside the watts on demand', async () => {
    const figure = mount(WattsFigure, { props: { value: 80.52, u: 1.24 } })
    expect(figure.text()).toBe('80.5')
    expect(figure.attributes('title')).toBe('± 1.2 W at 95 %')
    useSpreads().toggle()
    await nextTick()
    expect(figure.text()).toBe('80.5 ± 1.2')
    expect(mount(WattsFigure, { props: { value: 80.52, u: null } }).text()).toBe('80.5')
    useSpreads().toggle()
  })

  it('a verdict in doubt says so by a sign and a word', () => {
    const bare = mount(VerdictMark, { props: { kind: 'backed', bare: true, doubted: true } })
    expect(bare.text()).toBe('?')
    expect(bare.find('svg').attributes('aria-label')).toBe('Backed, in doubt')
    expect(mount(VerdictMark, { props: { kind: 'backed', doubted: true } }).text()).toBe('Backed, in doubt')
    expect(mount(VerdictMark, { props: { kind: 'backed', bare: true } }).text()).toBe('')
  })

  it('the decision rule is changed in place, remembered, and followed by other tabs', async () => {
    const chooser = mount(DecisionRule, { props: { inForce: 'guarded' } })
    expect(chooser.find('strong').text()).toBe('guarded rule: ± U kept free (stored with the campaign)')
    // The list comes after the words.
    await vi.waitFor(() => expect(chooser.findComponent(PickOne as never).exists()).toBe(true))
    chooser.getComponent(PickOne as unknown as { new (): { $emit: unknown } }).vm.$emit('update:modelValue', 'simple')
    await nextTick()
    expect(useRule().value).toBe('simple')
    expect(localStorage.getItem('rulvek.rule')).toBe('simple')
    expect(chooser.find('strong').text()).toBe('simple rule: the figure as it is')
    window.dispatchEvent(new StorageEvent('storage', { key: 'rulvek.rule', newValue: 'guarded' }))
    expect(useRule().value).toBe('guarded')
    window.dispatchEvent(new StorageEvent('storage', { key: 'rulvek.rule', newValue: 'nonsense' }))
    expect(useRule().value).toBe('as_stored')
  })
})
