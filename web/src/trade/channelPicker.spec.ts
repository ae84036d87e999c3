import { mount } from '@vue/test-utils'
import { describe, expect, it } from 'vitest'
import ChannelPicker from './ChannelPicker.vue'
import { spectrumTraces, sweepTraces, waveTraces } from './traces'

describe('what charts of a reading share', () => {
  it('picks a channel by what it is called', async () => {
    const picker = mount(ChannelPicker, {
      props: { channels: [1, 3], called: (one: number) => `${one}+${one + 1}`, modelValue: 1 },
    })
    const [first, second] = picker.findAll('button')
    expect(first!.attributes('aria-pressed')).toBe('true')
    expect(second!.text()).toBe('3+4')
    await second!.trigger('click')
    expect(picker.emitted('update:modelValue')).toEqual([[3]])
  })

  it('has a line for each point, and a gap where a channel was not read', () => {
    const points = [
      { weakest_watts: 1, channels: [{ channel: 1, thd_n_percent: 0.02 }] },
      { weakest_watts: 2, channels: [] },
    ]
    const [watts, first, second] = sweepTraces([1, 2], (one) => `${one}`, points as never)
    expect(watts!.values).toEqual([1, 2])
    expect([first!.head, first!.values]).toEqual(['THD+N 1', [0.02, null]])
    expect(second!.values).toEqual([null, null])
  })

  it('is empty until something has come', () => {
    expect([...waveTraces(undefined), ...spectrumTraces(undefined)].map((one) => one.values)).toEqual([[], [], [], []])
  })
})
