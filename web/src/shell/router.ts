import type { Component } from 'vue'
import { createRouter, createWebHistory } from 'vue-router'
import FitPage from '@/fit/FitPage.vue'
import GatherPage from '@/gather/GatherPage.vue'
import LaterPage from './LaterPage.vue'
import SpotPage from '@/spot/SpotPage.vue'
import { STEPS } from './steps'

const PAGES: Record<string, Component> = { gather: GatherPage, spot: SpotPage, fit: FitPage }

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/fit' },
    ...STEPS.map((step) => ({
      path: `/${step.id}`,
      component: PAGES[step.id] ?? LaterPage,
      props: PAGES[step.id] ? {} : { step },
    })),
    { path: '/:rest(.*)*', redirect: '/fit' },
  ],
})
