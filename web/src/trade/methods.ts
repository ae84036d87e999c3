// The lab's own methods, as several places ask for them.
import { useQuery } from '@tanstack/vue-query'
import client, { answered } from '../api/client'

export const useLabMethods = () =>
  useQuery({ queryKey: ['lab methods'], queryFn: () => answered(client.GET('/api/methods/versions')) })
