import { createRouter, createWebHistory } from 'vue-router'

const title = 'Late Lantern'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'home', component: () => import('./places/HomePlace.vue') },
    { path: '/sign-in', name: 'sign-in', component: () => import('./places/sign-in/SignIn.vue') },
    { path: '/board', name: 'board', component: () => import('./places/term-board/TermBoard.vue') },
    { path: '/capture', name: 'capture', component: () => import('./places/capture-desk/ChooseLecture.vue') },
    {
      path: '/lectures/:lecture/capture',
      name: 'capture-desk',
      component: () => import('./places/capture-desk/CaptureDesk.vue'),
      props: true,
    },
    {
      path: '/recordings/:recording',
      name: 'trim-bench',
      component: () => import('./places/trim-bench/TrimBench.vue'),
      props: true,
    },
    {
      path: '/courses/:course/rule',
      name: 'rule',
      component: () => import('./places/viewing-rule/ViewingRule.vue'),
      props: true,
    },
    { path: '/playlists', name: 'playlists', component: () => import('./places/playlists/ChooseCourse.vue') },
    {
      path: '/courses/:course/playlist',
      name: 'playlist',
      component: () => import('./places/playlists/CoursePlaylist.vue'),
      props: true,
    },
    { path: '/catch-up', name: 'catch-up', component: () => import('./places/catch-up/CatchUp.vue') },
    { path: '/watch/:recording', name: 'watch', component: () => import('./places/watch/WatchPlace.vue'), props: true },
    { path: '/:any(.*)*', name: 'nowhere', component: () => import('./places/NowhereThere.vue') },
  ],
  scrollBehavior: (to, from, saved) => saved ?? (to.path === from.path ? undefined : { top: 0 }),
})

router.afterEach(() => {
  document.title = title
})

/** nameTab gives the page its title, so that tabs and bookmarks can be told apart. */
export function nameTab(text: string): void {
  document.title = text ? `${text} · ${title}` : title
}
