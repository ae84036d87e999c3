// A chart's data as a table, as CSV, and as a drawing of its own.
import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import ChartFrame from './ChartFrame.vue'
import type { Trace } from './ChartFrame.vue'
import * as csv from './csv'
import { svgOf, ticks } from './svg'

const TRACES: Trace[] = [
  { head: 'Power', unit: 'W', values: [1, 10, 100] },
  { head: 'Channel 1', unit: '%', values: [0.01, null, 1], decimals: 2 },
  { head: 'Channel 2', unit: '%', values: [0.02, 0.1, 2], decimals: 2 },
]

describe('the axis of a drawing', () => {
  it('has round values', () => {
    expect(ticks(0, 10, false)).toEqual([0, 2, 4, 6, 8, 10])
    expect(ticks(-0.3, 0.3, false)).toEqual([-0.2, 0, 0.2])
    expect(ticks(0.5, 2000, true)).toEqual([1, 10, 100, 1000])
    expect(ticks(5, 5, false).length).toBeGreaterThan(0)
  })
})

describe('a drawing', () => {
  const parsed = (text: string) => new DOMParser().parseFromString(text, 'image/svg+xml')
  const points = (text: string) =>
    [...text.matchAll(/points="([^"]*)"/g)].map(([, list]) =>
      list!.split(' ').map((pair) => pair.split(',').map(Number)),
    )

  it('has a line a trace, by decades evenly, with gaps where nothing is known', () => {
    const text = svgOf('THD+N <sweep>', TRACES, true)
    const [first, second] = points(text)
    expect([first!.length, second!.length]).toEqual([2, 3])
    const [a, b, c] = second!.map(([x]) => x!)
    expect(b! - a!).toBeCloseTo(c! - b!, 0) // a decade each
    expect(second![2]![1]).toBeLessThan(second![0]![1]!) // more is higher up
    expect(text).toContain('THD+N &#60;sweep&#62;')
    expect(parsed(text).documentElement.tagName.toLowerCase()).toContain('svg')
  })

  it('of nothing is an empty sheet, and fails nothing', () => {
    expect(points(svgOf('Empty', [], false))).toEqual([])
    expect(points(svgOf('Empty', [{ head: 'x', unit: 's', values: [] }], true))).toEqual([])
    expect(
      svgOf(
        'One',
        [
          { head: 'x', unit: 's', values: [1] },
          { head: 'y', unit: 'V', values: [1] },
        ],
        false,
      ),
    ).not.toContain('NaN')
  })
})

describe('the frame of a chart', () => {
  const frame = () =>
    mount(ChartFrame, {
      props: { title: 'Level sweep', traces: TRACES, log: true },
      slots: { default: '<i>drawn</i>' },
    })

  it('shows the chart, or the same data as a table with units', async () => {
    const wrapper = frame()
    expect(wrapper.find('i').exists()).toBe(true)
    await wrapper.get('button').trigger('click')
    expect(wrapper.findAll('th').map((th) => th.text())).toEqual(['Power, W', 'Channel 1, %', 'Channel 2, %'])
    expect(
      wrapper
        .findAll('tbody tr')[1]!
        .findAll('td')
        .map((td) => td.text()),
    ).toEqual(['10.000', '–', '0.10'])
    await wrapper.get('button').trigger('click')
    expect(wrapper.find('i').exists()).toBe(true)
  })

  it('calls what is drawn by its name where it has one', async () => {
    const download = vi.spyOn(csv, 'download').mockImplementation(() => undefined)
    const traces = [
      { head: 'Unit', unit: '', values: [1, 2], names: ['A-1', '=A-2'] },
      { head: 'Power', unit: 'W', values: [80, 81.25], decimals: 2 },
    ]
    const wrapper = mount(ChartFrame, { props: { title: 'Units', traces } })
    const [asTable, asCsv] = wrapper.findAll('button')
    await asTable!.trigger('click')
    expect(wrapper.findAll('th').map((th) => th.text())).toEqual(['Unit', 'Power, W'])
    expect(wrapper.findAll('td').map((td) => td.text())).toEqual(['A-1', '80.00', '=A-2', '81.25'])
    await asCsv!.trigger('click')
    expect(download.mock.calls[0]![1]).toBe(`Unit,"Power, W"\r\nA-1,80\r\n'=A-2,81.25\r\n`)
    download.mockRestore()
  })

  it('is taken along as CSV and as a drawing', async () => {
    const download = vi.spyOn(csv, 'download').mockImplementation(() => undefined)
    const [, asCsv, asSvg] = frame().findAll('button')
    await asCsv!.trigger('click')
    await asSvg!.trigger('click')
    expect(download.mock.calls.map(([name, , type]) => [name, type])).toEqual([
      ['level-sweep.csv', 'text/csv;charset=utf-8'],
      ['level-sweep.svg', 'image/svg+xml'],
    ])
    expect(download.mock.calls[0]![1]).toBe(
      '"Power, W","Channel 1, %","Channel 2, %"\r\n1,0.01,0.02\r\n10,,0.1\r\n100,1,2\r\n',
    )
    download.mockRestore()
  })
})
