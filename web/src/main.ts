import '@fontsource-variable/inter'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from './App.vue'
import { queryClient } from './api/queries'
import { router } from './router'
import './style.css'
import { vuetify } from './theme'

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).use(vuetify).mount('#app')
