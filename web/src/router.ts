import { createRouter, createWebHistory } from 'vue-router'
import FitPage from './pages/FitPage.vue'
import LaterPage from './pages/LaterPage.vue'
import { STEPS } from './steps'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/fit' },
    ...STEPS.map((step) => ({
      path: `/${step.id}`,
      component: step.id === 'fit' ? FitPage : LaterPage,
      props: { step },
    })),
    { path: '/:rest(.*)*', redirect: '/fit' },
  ],
})
