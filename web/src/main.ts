import '@fontsource-variable/jetbrains-mono/index.css'
import '@fontsource-variable/source-sans-3/index.css'
import './app/theme/base.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './app/App.vue'
import { ApiError } from './api/client'
import { router } from './app/router'

const queryClient = new QueryClient({
  defaultOptions: {
    queries: {
      staleTime: 5_000,
      // What is not on record will not be there at the second asking.
      retry: (count, error) => !(error instanceof ApiError && error.problem.code !== 'unreachable') && count < 2,
    },
  },
})

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
