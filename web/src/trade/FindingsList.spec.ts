// Findings are told by shape and word, keep their advice, and can be set aside where they matter.
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { FindingView } from '../api/types'
import FindingsList from './FindingsList.vue'

const finding = (changes: Partial<FindingView>): FindingView => ({
  code: 'channels-apart',
  severity: 'doubt',
  message: 'The channels lie 0.85 dB apart.',
  advice: 'Match the gains.',
  overruled_by: null,
  overruled_because: '',
  ...changes,
})
const three = [
  finding({ code: 'figures-disagree', severity: 'invalid' }),
  finding({}),
  finding({ code: 'protection', severity: 'note' }),
]

it('tells severities apart by shape and word', () => {
  const wrapper = mount(FindingsList, { props: { findings: three } })
  expect(wrapper.findAll('strong').map((word) => word.text())).toEqual(['Invalid:', 'Doubt:', 'Note:'])
  expect(new Set(wrapper.findAll('path').map((path) => path.attributes('d'))).size).toBe(3)
  expect(wrapper.text()).toContain('Match the gains.')
  expect(mount(FindingsList, { props: { findings: three, brief: true } }).text()).not.toContain('Match the gains.')
  expect(
    mount(FindingsList, { props: { findings: [] } })
      .find('ul')
      .exists(),
  ).toBe(false)
})

it('lets what keeps or doubts a reading be set aside, and shows who did', async () => {
  const aside = finding({ code: 'bad-start', overruled_by: 'Tamsin', overruled_because: 'It was the fan' })
  const wrapper = mount(FindingsList, { props: { findings: [...three, aside], overrules: ['doubt', 'invalid'] } })
  const buttons = wrapper.findAll('button')
  expect(buttons.map((button) => button.attributes('aria-label'))).toEqual([
    'Set figures-disagree aside',
    'Set channels-apart aside',
  ])
  await buttons[1]!.trigger('click')
  expect(wrapper.emitted('overrule')).toEqual([['channels-apart']])
  expect(wrapper.text()).toContain('Set aside by Tamsin: It was the fan')
})
