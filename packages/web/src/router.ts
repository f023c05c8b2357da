import { createRouter, createWebHistory } from 'vue-router';
import { STAGES } from './stages';
import { useMe } from './stores/me';

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', component: () => import('./pages/ProductionsPage.vue') },
    { path: '/settings', component: () => import('./pages/SettingsPage.vue') },
    { path: '/sign-in', component: () => import('./people/SignInPage.vue'), meta: { isOpen: true } },
    { path: '/join', component: () => import('./people/JoinPage.vue'), meta: { isOpen: true } },
    { path: '/settings/people', component: () => import('./people/PeoplePage.vue') },
    { path: '/settings/running', component: () => import('./running/RunningPage.vue') },
    { path: '/settings/api', component: () => import('./running/ApiPage.vue') },
    { path: '/space', component: () => import('./space/SpacePage.vue') },
    { path: '/productions/:id(\\d+)', component: () => import('./pages/ShotBoardPage.vue') },
    { path: '/productions/:id(\\d+)/deliveries', component: () => import('./hand-over/DeliveriesPage.vue') },
    { path: '/productions/:id(\\d+)/library', component: () => import('./library/LibraryPage.vue') },
    { path: '/productions/:id(\\d+)/notes', component: () => import('./notes/NotesPage.vue') },
    { path: '/contents/:id(\\d+)', component: () => import('./content/ContentPage.vue') },
    { path: '/shots/:id(\\d+)/report', component: () => import('./report/ReportPage.vue') },
    { path: '/shots/:id(\\d+)', redirect: (to) => `/shots/${String(to.params['id'])}/plate` },
    { path: `/shots/:id(\\d+)/:stage(${STAGES.join('|')})`, component: () => import('./pages/ShotPage.vue') },
    { path: '/:any(.*)*', component: () => import('./pages/LostPage.vue') },
  ],
});

/** Strangers sign in first, and come then to where they wanted to go. */
router.beforeEach(async (to) => {
  const me = useMe();
  await me.load();
  if (!me.isStranger || to.meta['isOpen'] === true) return true;
  return { path: '/sign-in', query: { then: to.fullPath } };
});
