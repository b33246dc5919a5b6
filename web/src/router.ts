import { createRouter, createWebHistory } from 'vue-router';
import { stations } from './workspace/stations';

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./shelf/ShelfPage.vue') },
    {
      path: '/rigs/:rigId',
      component: () => import('./workspace/WorkspacePage.vue'),
      props: true,
      redirect: (to) => `/rigs/${String(to.params.rigId)}/measure`,
      children: stations.map(({ id, page }) => ({ path: id, name: id, component: page })),
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
