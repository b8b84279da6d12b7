import { createRouter, createWebHistory } from 'vue-router'
import { openAnew, opened } from './late'
import { me } from './me'
import { forgetPressed } from './tell'

export function makeRouter() {
  const r = createRouter({
    history: createWebHistory(),
    routes: [
      { path: '/sign-in', name: 'sign-in', component: () => import('./entry/SignIn.vue'), meta: { open: true } },
      { path: '/begin', name: 'begin', component: () => import('./entry/BeginPage.vue'), meta: { open: true } },
      {
        path: '/',
        name: 'start',
        component: () =>
          me.value?.role === 'student'
            ? import('./student/StudentHome.vue')
            : me.value?.role === 'office'
              ? import('./school/OfficeStart.vue')
              : import('./class/StaffStart.vue'),
        meta: { frame: true },
      },
      {
        path: '/classes/:classId',
        component: () => import('./class/ClassPage.vue'),
        meta: { staff: true, frame: true },
        children: [
          { path: '', name: 'register', component: () => import('./register/RegisterPage.vue') },
          { path: 'handouts', name: 'handouts', component: () => import('./handout/HandoutsPage.vue') },
          { path: 'handouts/:handoutId', name: 'handout', component: () => import('./handout/HandoutPage.vue') },
          { path: 'room', name: 'room', component: () => import('./room/RoomPage.vue') },
          { path: 'doors', name: 'doors', component: () => import('./doors/DoorCheckPage.vue') },
          { path: 'links', name: 'links', component: () => import('./doors/LinksPage.vue') },
          { path: 'log', name: 'log', component: () => import('./register/LogPage.vue') },
          { path: 'roster', name: 'roster', component: () => import('./roster/RosterPage.vue') },
        ],
      },
      {
        path: '/classes/:classId/eyes/:rowId',
        name: 'eyes',
        component: () => import('./register/EyesPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/classes/:classId/slips',
        name: 'slips',
        component: () => import('./register/SlipsPage.vue'),
        meta: { staff: true },
      },
      {
        path: '/everywhere',
        name: 'everywhere',
        component: () => import('./packing/EverywherePage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/standins',
        name: 'standins',
        component: () => import('./school/StandinsPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/postroom/:mail?',
        name: 'postroom',
        component: () => import('./telling/PostroomPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/book',
        name: 'book',
        component: () => import('./school/BookPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/log',
        name: 'school-log',
        component: () => import('./school/SchoolLogPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/doors',
        name: 'school-doors',
        component: () => import('./doors/SchoolDoorsPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/doors/:accountId',
        name: 'account-reach',
        component: () => import('./doors/AccountReachPage.vue'),
        meta: { staff: true, frame: true },
      },
      {
        path: '/settings',
        name: 'settings',
        component: () => import('./school/SettingsPage.vue'),
        meta: { staff: true, frame: true },
      },
      { path: '/account', name: 'account', component: () => import('./entry/OwnAccount.vue') },
      { path: '/join/:link', name: 'join', component: () => import('./entry/JoinPage.vue') },
      { path: '/bin', name: 'bin', component: () => import('./things/BinPage.vue') },
      { path: '/door/:classId/:handoutId?', name: 'door', component: () => import('./things/DoorPage.vue') },
      { path: '/mates/:handoutId', name: 'mates', component: () => import('./student/MatesPage.vue') },
      { path: '/things/:thingId', name: 'thing', component: () => import('./things/ThingPage.vue') },
      { path: '/go/:link', name: 'go', component: () => import('./things/GoPage.vue') },
      { path: '/:rest(.*)*', name: 'nothing', component: () => import('./entry/NothingHere.vue') },
    ],
  })
  r.beforeEach((to) => {
    if (!me.value && !to.meta.open) return { name: 'sign-in', query: { to: to.fullPath } }
    if (me.value?.role === 'student' && to.meta.staff)
      return { name: 'nothing', params: { rest: to.path.slice(1).split('/') } }
    return true
  })
  // A page's program didn't come: it was renewed since this one was loaded, or the connection is away.
  r.onError((_e, to) => openAnew(to.fullPath))
  r.afterEach((to, from, failure) => {
    if (to.path !== from.path) forgetPressed()
    if (!failure) opened()
  })
  return r
}
