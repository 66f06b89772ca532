import '@fontsource-variable/inter'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from '@/app/App.vue'
import { queryClient } from '@/api/queries'
import { router } from '@/app/router'
import '@/app/style.css'
import { vuetify } from '@/app/theme'

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).use(vuetify).mount('#app')
