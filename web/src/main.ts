import '@fontsource-variable/inter'
import { VueQueryPlugin } from '@tanstack/vue-query'
import { createApp } from 'vue'
import App from '@/shell/App.vue'
import { queryClient } from '@/api/queries'
import { router } from '@/shell/router'
import '@/look/style.css'
import { vuetify } from '@/look/theme'

createApp(App).use(router).use(VueQueryPlugin, { queryClient }).use(vuetify).mount('#app')
