import { createRouter, createWebHistory } from 'vue-router'
import type { RouteLocationNormalized } from 'vue-router'
import { BASE } from '../kit/base'
import { keepRuleInAddress } from '../api/rule'
import LinePage from '../places/line/LinePage.vue'

const byId = (route: RouteLocationNormalized) => ({ id: Number(route.params.id) })

export const router = createRouter({
  history: createWebHistory(BASE || '/'),
  routes: [
    { path: '/', redirect: '/line' },
    { path: '/line', component: LinePage, meta: { place: 'Line' } },
    {
      path: '/line/spreadsheet',
      component: () => import('../places/line/LineSpreadsheet.vue'),
      meta: { place: 'Line' },
    },
    {
      path: '/line/bundle',
      component: () => import('../places/line/BundleIn.vue'),
      meta: { place: 'Line' },
    },
    {
      path: '/models/:id(\\d+)',
      component: () => import('../places/line/ModelPage.vue'),
      props: byId,
      meta: { place: 'Line' },
    },
    {
      path: '/models/:id(\\d+)/bears',
      component: () => import('../places/ratings/BearsPage.vue'),
      props: byId,
      meta: { place: 'Ratings' },
    },
    { path: '/ratings', component: () => import('../places/ratings/BoardPage.vue'), meta: { place: 'Ratings' } },
    {
      path: '/ratings/audits',
      component: () => import('../places/ratings/AuditsPage.vue'),
      meta: { place: 'Ratings' },
    },
    {
      path: '/ratings/compare',
      component: () => import('../places/ratings/ComparePage.vue'),
      meta: { place: 'Ratings' },
    },
    {
      path: '/ratings/:id(\\d+)',
      component: () => import('../places/ratings/RatingPage.vue'),
      props: byId,
      meta: { place: 'Ratings' },
    },
    {
      path: '/units/:id(\\d+)',
      component: () => import('../places/line/UnitPage.vue'),
      props: byId,
      meta: { place: 'Line' },
    },
    {
      path: '/models/:id(\\d+)/receive',
      component: () => import('../places/line/ReceiveUnit.vue'),
      props: byId,
      meta: { place: 'Line' },
    },
    {
      path: '/units/:id(\\d+)/file',
      component: () => import('../places/dossier/UnitFile.vue'),
      props: byId,
      meta: { place: 'Line' },
    },
    { path: '/side-by-side', component: () => import('../places/dossier/SideBySide.vue'), meta: { place: 'Line' } },
    {
      path: '/history/:kind([a-z]+)/:id([0-9a-f]+)',
      component: () => import('../places/dossier/HistoryPage.vue'),
      props: true,
      meta: { place: 'Line' },
    },
    {
      path: '/units/:id(\\d+)/plan',
      component: () => import('../places/bench/PlannerPage.vue'),
      props: byId,
      meta: { place: 'Bench' },
    },
    {
      path: '/units/:id(\\d+)/typed',
      component: () => import('../places/outside/TypeReading.vue'),
      props: byId,
      meta: { place: 'Bench' },
    },
    {
      path: '/units/:id(\\d+)/sheet',
      component: () => import('../places/outside/UnitSheet.vue'),
      props: byId,
      meta: { place: 'Evidence' },
    },
    {
      path: '/units/:id(\\d+)/recorded',
      component: () => import('../places/outside/ReadRecording.vue'),
      props: byId,
      meta: { place: 'Evidence' },
    },
    { path: '/people', component: () => import('../places/people/PeoplePage.vue'), meta: { place: 'People' } },
    { path: '/backups', component: () => import('../places/people/BackupsPage.vue'), meta: { place: 'People' } },
    { path: '/account', component: () => import('../places/people/AccountPage.vue'), meta: { place: 'Account' } },
    { path: '/begin', component: () => import('../places/people/BeginPage.vue'), meta: { place: 'Line' } },
    { path: '/bench/today', component: () => import('../places/bench/TodayPage.vue'), meta: { place: 'Bench' } },
    { path: '/bench', component: () => import('../places/bench/BenchPage.vue'), meta: { place: 'Bench' } },
    { path: '/practice', component: () => import('../places/practice/PracticePage.vue'), meta: { place: 'Bench' } },
    {
      path: '/practice/:id(\\d+)',
      component: () => import('../places/practice/PracticeJob.vue'),
      props: byId,
      meta: { place: 'Bench' },
    },
    {
      path: '/campaigns/:id(\\d+)/live',
      component: () => import('../places/bench/LiveBench.vue'),
      props: byId,
      meta: { place: 'Bench' },
    },
    {
      path: '/campaigns/:id(\\d+)',
      component: () => import('../places/bench/CampaignSheet.vue'),
      props: byId,
      meta: { place: 'Evidence' },
    },
    {
      path: '/evidence/earlier',
      component: () => import('../places/outside/EarlierResults.vue'),
      meta: { place: 'Evidence' },
    },
    {
      path: '/evidence/read-again',
      component: () => import('../places/evidence/ReadAgain.vue'),
      meta: { place: 'Evidence' },
    },
    { path: '/evidence', component: () => import('../places/evidence/EvidencePage.vue'), meta: { place: 'Evidence' } },
    {
      path: '/attempts/:id(\\d+)',
      component: () => import('../places/evidence/AttemptPage.vue'),
      props: byId,
      meta: { place: 'Evidence' },
    },
    { path: '/gear/methods', component: () => import('../places/gear/MethodsPage.vue'), meta: { place: 'Gear' } },
    { path: '/gear/benches/new', component: () => import('../places/gear/AssembleBench.vue'), meta: { place: 'Gear' } },
    {
      path: '/gear/benches/:id(\\d+)/change',
      component: () => import('../places/gear/AssembleBench.vue'),
      props: byId,
      meta: { place: 'Gear' },
    },
    {
      path: '/gear/benches/:id(\\d+)',
      component: () => import('../places/gear/BenchMade.vue'),
      props: byId,
      meta: { place: 'Gear' },
    },
    { path: '/gear', component: () => import('../places/gear/GearPage.vue'), meta: { place: 'Gear' } },
    { path: '/desk', component: () => import('../places/desk/DeskPage.vue'), meta: { place: 'Desk' } },
    { path: '/words', component: () => import('../places/words/WordsPage.vue'), meta: { place: '' } },
    {
      path: '/shared/:token',
      component: () => import('../places/ratings/SharedPage.vue'),
      props: true,
      meta: { place: '', open: true },
    },
    { path: '/:rest(.*)*', component: () => import('./NotHere.vue') },
  ],
})
keepRuleInAddress(router)
