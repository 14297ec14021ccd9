import { createRouter, createWebHistory } from 'vue-router'

const title = 'Late Lantern'

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', name: 'home', component: () => import('./places/HomePlace.vue') },
    { path: '/sign-in', name: 'sign-in', component: () => import('./places/sign-in/SignIn.vue') },
    {
      path: '/welcome/:letter',
      name: 'welcome',
      component: () => import('./places/account/WelcomePlace.vue'),
      props: true,
    },
    { path: '/guest/:letter', name: 'guest', component: () => import('./places/account/GuestDoor.vue'), props: true },
    { path: '/open/:letter', name: 'link', component: () => import('./places/account/LinkDoor.vue'), props: true },
    {
      path: '/linked/:opening',
      name: 'linked',
      component: () => import('./places/account/LinkedList.vue'),
      props: true,
    },
    { path: '/stop/:letter', name: 'stop', component: () => import('./places/account/StopMails.vue'), props: true },
    { path: '/forgotten', name: 'forgotten', component: () => import('./places/account/ForgottenPassword.vue') },
    { path: '/account', name: 'account', component: () => import('./places/account/AccountPlace.vue') },
    { path: '/run-sheet', name: 'run-sheet', component: () => import('./places/run-sheet/RunSheet.vue') },
    { path: '/dates', name: 'dates', component: () => import('./places/dates/DatesPlace.vue') },
    { path: '/terms', name: 'terms', component: () => import('./places/terms/TermsHalls.vue') },
    { path: '/rule', name: 'college-rule', component: () => import('./places/viewing-rule/CollegeRule.vue') },
    { path: '/halls', name: 'halls', component: () => import('./places/halls/HallsPlace.vue') },
    {
      path: '/recordings',
      name: 'recordings',
      component: () => import('./places/recordings/AllRecordings.vue'),
    },
    { path: '/titles', name: 'titles', component: () => import('./places/titles/TitlesPlace.vue') },
    { path: '/bin', name: 'bin', component: () => import('./places/bin/BinPlace.vue') },
    { path: '/files', name: 'files', component: () => import('./places/files/FilesPlace.vue') },
    { path: '/people', name: 'people', component: () => import('./places/people/PeoplePlace.vue') },
    { path: '/roster', name: 'roster', component: () => import('./places/people/RosterImport.vue') },
    { path: '/courses', name: 'courses', component: () => import('./places/courses/CourseList.vue') },
    {
      path: '/courses/:course',
      name: 'course',
      component: () => import('./places/courses/CoursePage.vue'),
      props: true,
    },
    {
      path: '/courses/:course/standing-room',
      name: 'room',
      component: () => import('./places/courses/StandingRoom.vue'),
      props: true,
    },
    {
      path: '/courses/:course/plan',
      name: 'plan',
      component: () => import('./places/plan/PlanLectures.vue'),
      props: true,
    },
    {
      path: '/courses/:course/timetable',
      name: 'timetable',
      component: () => import('./places/plan/ImportTimetable.vue'),
      props: true,
    },
    { path: '/sight', name: 'sight-choose', component: () => import('./places/sight/SightChoose.vue') },
    {
      path: '/courses/:course/sight',
      name: 'sight',
      component: () => import('./places/sight/SightPlace.vue'),
      props: true,
    },
    {
      path: '/courses/:course/people',
      name: 'course-people',
      component: () => import('./places/people/CoursePeople.vue'),
      props: true,
    },
    {
      path: '/lectures/:lecture',
      name: 'lecture',
      component: () => import('./places/lecture/LecturePage.vue'),
      props: true,
    },
    {
      path: '/lectures/:lecture/class',
      name: 'class',
      component: () => import('./places/class/ClassPage.vue'),
      props: true,
    },
    {
      path: '/lectures/:lecture/wall',
      name: 'wall',
      component: () => import('./places/class/WallPage.vue'),
      props: true,
    },
    {
      path: '/courses/:course/questions-to-all',
      name: 'course-to-all',
      component: () => import('./places/courses/PreparedQuestions.vue'),
      props: true,
    },
    {
      path: '/courses/:course/register',
      name: 'course-register',
      component: () => import('./places/courses/CourseRegister.vue'),
      props: true,
    },
    {
      path: '/courses/:course/questions',
      name: 'course-questions',
      component: () => import('./places/courses/CourseQuestions.vue'),
      props: true,
    },
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
      path: '/recordings/:recording/captions/:language?',
      name: 'captions',
      component: () => import('./places/captions/CaptionsPlace.vue'),
      props: true,
    },
    {
      path: '/courses/:course/words',
      name: 'course-words',
      component: () => import('./places/courses/CourseWords.vue'),
      props: true,
    },
    {
      path: '/courses/:course/setting',
      name: 'course-setting',
      component: () => import('./places/courses/CourseSetting.vue'),
      props: true,
    },
    {
      path: '/courses/:course/carry',
      name: 'carry',
      component: () => import('./places/courses/CarryCourse.vue'),
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
    { path: '/search', name: 'search', component: () => import('./places/search/SearchPlace.vue') },
    { path: '/watch/:recording', name: 'watch', component: () => import('./places/watch/WatchPlace.vue'), props: true },
    {
      path: '/embed/recordings/:recording',
      name: 'embed',
      component: () => import('./places/embed/EmbedRecording.vue'),
      props: true,
    },
    {
      path: '/embed/courses/:course/lists/:list',
      name: 'embed-list',
      component: () => import('./places/embed/EmbedList.vue'),
      props: true,
    },
    { path: '/embed/enter', name: 'embed-enter', component: () => import('./places/embed/EnterFrame.vue') },
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
