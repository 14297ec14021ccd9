import '@fontsource-variable/atkinson-hyperlegible-next/wght.css'
import '@fontsource-variable/jetbrains-mono/wght.css'
import '@fontsource-variable/literata/wght.css'
import './theme/tokens.css'
import './theme/element.css'
import './theme/base.css'
import { QueryClient, VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { i18n } from './messages'
import { router } from './router'

const queryClient = new QueryClient({ defaultOptions: { queries: { staleTime: 10_000 } } })

createApp(App).use(i18n).use(router).use(VueQueryPlugin, { queryClient }).mount('#app')
