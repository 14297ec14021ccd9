import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/jetbrains-mono/wght.css'
import '@fontsource-variable/literata/wght.css'
import './theme/tokens.css'
import './theme/element.css'
import './theme/tables.css'
import './theme/base.css'
import { QueryCache, QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import { Problem } from './api/client'
import { keys } from './api/queries'
import { fetchAhead } from './ahead'
import App from './App.vue'
import { i18n, learn } from './messages'
import { router } from './router'

const queryClient: QueryClient = new QueryClient({
  defaultOptions: { queries: { staleTime: 10_000 } },
  queryCache: new QueryCache({
    // Whoever is told to sign in has perhaps been signed out elsewhere: the frame finds out, and says so.
    onError: (error, query) => {
      if (error instanceof Problem && error.status === 401 && query.queryKey[0] !== keys.me[0])
        void queryClient.invalidateQueries({ queryKey: keys.me })
    },
  }),
})

fetchAhead(router)
await learn()
createApp(App).use(i18n).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
