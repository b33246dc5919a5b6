import { createRouter, createWebHistory } from 'vue-router';
import { stations } from './workspace/stations';

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'shelf', component: () => import('./shelf/ShelfPage.vue') },
    { path: '/new/:preset?', name: 'new', component: () => import('./new-arm/NewArmPage.vue'), props: true },
    {
      path: '/new/:preset/sheet',
      name: 'measuring-sheet',
      component: () => import('./new-arm/MeasuringSheet.vue'),
      props: true,
    },
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
