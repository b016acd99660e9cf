import { createRouter, createWebHistory } from 'vue-router'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./shelf/ShelfPage.vue') },
    { path: '/settings', component: () => import('./settings/SettingsPage.vue') },
    { path: '/p/:id/checks', component: () => import('./checks/ChecksPage.vue'), props: true },
    { path: '/d/:id/compare', component: () => import('./revisions/ComparePage.vue'), props: true },
    { path: '/d/:id', component: () => import('./document/DocumentPage.vue'), props: true },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
})
