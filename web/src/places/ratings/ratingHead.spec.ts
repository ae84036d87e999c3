// Since when a rating stands where it stands.
import { mount } from '@vue/test-utils'
import { expect, it } from 'vitest'
import type { RatingView } from '../../api/types'
import RatingHead from './RatingHead.vue'

const step = (kind: string, at: string) => ({ kind, at, by: 'Maren', reason: '' })

it('is published since it was, however often it was confirmed, and valid for as long as that says', () => {
  const rating = {
    state: 'published',
    terms: { watts: 370 },
    model: 'Tern 2',
    wording: '370 W',
    unsettled: [],
    simulated: false,
    valid_until: '2027-01-01',
    steps: [step('published', '2026-10-22T09:00:00Z'), step('confirmed', '2026-12-01T09:00:00Z')],
  }
  const shown = mount(RatingHead, { props: { rating: rating as unknown as RatingView } })
  expect(shown.get('.state').text()).toContain('published since 22 Oct 2026, valid until 1 Jan 2027')
})
