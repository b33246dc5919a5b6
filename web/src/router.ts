import { createRouter, createWebHistory } from 'vue-router';
import { stationList } from './shared/stations';
import { pages } from './workspace/stations';

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
      children: stationList.map(({ id }) => ({ path: id, name: id, component: pages[id] })),
    },
    { path: '/:rest(.*)*', redirect: '/' },
  ],
});
