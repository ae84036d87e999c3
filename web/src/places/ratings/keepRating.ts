// A step's answer is the rating after it: the page shows that at once, and asks for the next step from there.
import { useQueryClient } from '@tanstack/vue-query'
import type { RatingView } from '../../api/types'

export function useKeepRating() {
  const queries = useQueryClient()
  return (rating: RatingView) => queries.setQueryData(['rating', rating.id], rating)
}
