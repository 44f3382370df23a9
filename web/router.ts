import { createRouter, createWebHistory } from 'vue-router'

/** The places of the application. A design's screens stand in one frame. */
export const router = createRouter({
  history: createWebHistory(),
  routes: [
    {
      path: '/',
      name: 'shelf',
      component: () => import('./shelf/ShelfScreen.vue'),
      meta: { title: 'Shelf' }
    },
    {
      path: '/d/:design',
      component: () => import('./frame/DesignFrame.vue'),
      props: true,
      children: [
        { path: '', redirect: { name: 'bench' } },
        {
          path: 'bench/:table?',
          name: 'bench',
          component: () => import('./bench/BenchScreen.vue'),
          meta: { title: 'Bench' }
        },
        {
          path: 'ledger/:table?',
          name: 'ledger',
          component: () => import('./ledger/LedgerScreen.vue'),
          meta: { title: 'Ledger' }
        },
        {
          path: 'diagram',
          name: 'diagram',
          component: () => import('./diagram/DiagramScreen.vue'),
          meta: { title: 'Diagram' }
        },
        {
          path: 'rows/:table?',
          name: 'rows',
          component: () => import('./rows/RowsScreen.vue'),
          meta: { title: 'Rows' }
        },
        {
          path: 'rules',
          name: 'rules',
          component: () => import('./rules/RulesScreen.vue'),
          meta: { title: 'Rules' }
        },
        {
          path: 'rulings',
          name: 'rulings',
          component: () => import('./rulings/RulingsScreen.vue'),
          meta: { title: 'Rulings' }
        },
        {
          path: 'reach/:table?',
          name: 'reach',
          component: () => import('./reach/ReachScreen.vue'),
          meta: { title: 'Reach' }
        },
        {
          path: 'versions',
          name: 'versions',
          component: () => import('./versions/VersionsScreen.vue'),
          meta: { title: 'Versions' }
        },
        {
          path: 'findings',
          name: 'findings',
          component: () => import('./findings/FindingsScreen.vue'),
          meta: { title: 'Findings' }
        },
        {
          path: 'outputs/:output?',
          name: 'outputs',
          component: () => import('./outputs/OutputsScreen.vue'),
          meta: { title: 'Outputs' }
        }
      ]
    },
    { path: '/:anything(.*)', redirect: '/' }
  ]
})
