import { mount } from '@vue/test-utils'
import { describe, expect, it, vi } from 'vitest'
import { createMemoryHistory, createRouter } from 'vue-router'
import { useAddress, useAddressNumber } from './address'
import type { Column } from './columns'
import * as csv from './csv'
import DataTable from './DataTable.vue'
import PageFrame from './PageFrame.vue'

interface Row {
  id: number
  name: string
  watts: number | null
}
const ROWS: Row[] = [
  { id: 1, name: 'b', watts: 75.04 },
  { id: 2, name: '=a', watts: null },
  { id: 3, name: 'c', watts: 100 },
]
const COLUMNS: Column<Row>[] = [
  { key: 'name', head: 'Name', text: (r) => r.name },
  { key: 'watts', head: 'Power', unit: 'W', num: true, text: (r) => r.watts?.toFixed(1) ?? '–', value: (r) => r.watts },
]
async function routed() {
  const router = createRouter({ history: createMemoryHistory(), routes: [{ path: '/:rest(.*)*', component: {} }] })
  await router.push('/here?mode=burst')
  return router
}
async function table(props: object = {}, slots: Record<string, string> = {}) {
  const router = await routed()
  const wrapper = mount(DataTable<Row>, {
    props: { name: 'All rows', rows: ROWS, columns: COLUMNS, id: (r: Row) => r.id, ...props },
    slots,
    global: { plugins: [router] },
  })
  const names = () => wrapper.findAll('tbody tr').map((row) => row.findAll('td')[0]!.text())
  return { wrapper, router, names }
}

const many = Array.from({ length: 1000 }, (_, id) => ({ id, name: `row ${id}`, watts: id }))

describe('a long table', () => {
  it('draws what is looked at, says how many there are, and draws all for print', async () => {
    const { wrapper } = await table({ rows: many })
    const drawn = () => wrapper.findAll('tbody tr').filter((row) => row.findAll('td').length)
    await vi.waitFor(() => expect(drawn().length).toBeGreaterThan(10))
    expect(drawn().length).toBeLessThan(120)
    expect(drawn()[0]!.text()).toContain('row 0')
    expect(wrapper.get('table').attributes('aria-rowcount')).toBe('1001')
    expect(drawn()[3]!.attributes('aria-rowindex')).toBe('5')
    window.dispatchEvent(new Event('beforeprint'))
    await vi.waitFor(() => expect(drawn()).toHaveLength(1000))
    window.dispatchEvent(new Event('afterprint'))
    await vi.waitFor(() => expect(drawn().length).toBeLessThan(120))
  })

  it('takes all of it along', async () => {
    const download = vi.spyOn(csv, 'download').mockImplementation(() => undefined)
    const { wrapper } = await table({ rows: many })
    await wrapper.get('.take').trigger('click')
    expect(String(download.mock.calls[0]![1]).split('\r\n')).toHaveLength(1002)
    download.mockRestore()
  })
})

describe('a table', () => {
  it('is sorted by a click, nothing last either way, and the order stands in the address', async () => {
    const { wrapper, router, names } = await table()
    expect(names()).toEqual(['b', '=a', 'c'])
    const [, head] = wrapper.findAll('th')
    expect(head!.text()).toBe('Power, W')
    const orders = []
    for (let times = 0; times < 2; times++) {
      await head!.get('button').trigger('click')
      await vi.waitFor(() => expect(router.currentRoute.value.query.sort).toBeDefined())
      await new Promise((resolve) => setTimeout(resolve, 5))
      orders.push([router.currentRoute.value.query.sort, names().join(' '), head!.attributes('aria-sort')])
    }
    expect(orders.map(([, list]) => list).sort()).toEqual(['b c =a', 'c b =a'])
    expect(new Set(orders.map(([sort]) => sort))).toEqual(new Set(['watts', '-watts']))
    expect(router.currentRoute.value.query.mode).toBe('burst') // the rest of the address stays
  })

  it('has rows at its foot that are not sorted', async () => {
    const { wrapper } = await table({}, { foot: '<tr><td>all</td><td>175.0</td></tr>' })
    expect(wrapper.get('tfoot').text()).toBe('all175.0')
    const bare = await table()
    expect(bare.wrapper.find('tfoot').exists()).toBe(false)
  })

  it('has a link over the whole of a row that leads somewhere', async () => {
    const { wrapper } = await table({ to: (r: Row) => (r.id === 2 ? undefined : `/rows/${r.id}`) })
    expect(wrapper.findAll('a.whole').map((a) => a.attributes('href'))).toEqual(['/rows/1', '/rows/3'])
    expect(wrapper.findAll('tr.leads')).toHaveLength(2)
  })

  it('is taken along as it is shown, with units, and no cell is a formula', async () => {
    const download = vi.spyOn(csv, 'download').mockImplementation(() => undefined)
    const { wrapper } = await table()
    await wrapper.get('.take').trigger('click')
    expect(download.mock.calls[0]!.slice(0, 2)).toEqual([
      'all-rows.csv',
      'Name,"Power, W"\r\nb,75.04\r\n\'=a,\r\nc,100\r\n',
    ])
    download.mockRestore()
  })

  it('is read on where there is more, and shows what a slot makes of a cell', async () => {
    const { wrapper } = await table(
      { more: { has: true, loading: false }, moreWords: 'Show more rows' },
      { name: '<template #name="{ row }"><b>{{ row.name }}!</b></template>' },
    )
    expect(wrapper.findAll('tbody b').map((b) => b.text())).toEqual(['b!', '=a!', 'c!'])
    await wrapper.get('footer button').trigger('click')
    expect(wrapper.emitted('more')).toHaveLength(1)
  })
})

describe('what is picked on a page', () => {
  it('is read from the address and written into it, several at once', async () => {
    const router = await routed()
    let mode!: ReturnType<typeof useAddress<string>>
    let run!: ReturnType<typeof useAddressNumber>
    const setup = () => {
      mode = useAddress<string>('mode', 'all', ['all', 'burst', 'certified'])
      run = useAddressNumber('run')
      return () => null
    }
    mount({ setup }, { global: { plugins: [router] } })
    expect([mode.value, run.value]).toEqual(['burst', null])
    mode.value = 'certified'
    run.value = 7
    await vi.waitFor(() => expect(router.currentRoute.value.fullPath).toBe('/here?mode=certified&run=7'))
    mode.value = 'all' // what is usual is not said
    await vi.waitFor(() => expect(router.currentRoute.value.fullPath).toBe('/here?run=7'))
    await router.replace('/here?mode=nonsense&run=x')
    expect([mode.value, run.value]).toEqual(['all', null])
  })
})

describe('the frame of a page', () => {
  const frame = (props: object) =>
    mount(PageFrame, { props: { title: 'Gear', ...props }, slots: { default: '<i>all</i>', empty: '<b>First …</b>' } })
  it('shows what there is, or why there is nothing, and names the tab', async () => {
    expect(frame({}).find('i').exists()).toBe(true)
    expect(document.title).toBe('Gear – Rulvek')
    expect(frame({ pending: true }).get('[role="status"]').text()).toBe('Reading the records …')
    expect(frame({ empty: true }).get('b').text()).toBe('First …')
    const stuck = frame({ error: new Error('Gone.') })
    expect(stuck.get('[role="alert"]').text()).toContain('Gone.')
    await stuck.get('button').trigger('click')
    expect(stuck.emitted('retry')).toHaveLength(1)
  })
})
