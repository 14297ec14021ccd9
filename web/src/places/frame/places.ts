/** The places of the application, each with its page, and which page belongs to which. */
import { computed } from 'vue'
import { useI18n } from 'vue-i18n'
import { useRoute } from 'vue-router'
import { guestHome, useMe } from '../../api/me'

const ofStudents = { 'catch-up': 'catch_up', dates: 'dates', courses: 'courses' }
const ofStaff = {
  board: 'board',
  'run-sheet': 'run_sheet',
  capture: 'capture',
  recordings: 'recordings',
  files: 'files',
  playlists: 'playlists',
  courses: 'courses',
}
const ofCoordinators = { ...ofStaff, halls: 'halls', people: 'people' }

/** The place to which each page within it belongs. */
const within: Record<string, string> = {
  'capture-desk': 'capture',
  playlist: 'playlists',
  rule: 'courses',
  'trim-bench': 'recordings',
  captions: 'recordings',
  titles: 'recordings',
  bin: 'recordings',
  watch: 'catch-up',
  course: 'courses',
  room: 'courses',
  plan: 'courses',
  timetable: 'courses',
  'course-people': 'courses',
  'course-words': 'courses',
  'course-setting': 'courses',
  'course-questions': 'courses',
  'course-register': 'courses',
  class: 'courses',
  carry: 'courses',
  lecture: 'courses',
  terms: 'courses',
  roster: 'people',
}

/** usePlaces are the places of who has signed in, in order, and which of them one is at. */
export function usePlaces() {
  const { t } = useI18n()
  const route = useRoute()
  const me = useMe()
  const places = computed(() => {
    const who = me.data.value
    if (!who || guestHome(who)) return []
    const of = who.coordinator ? ofCoordinators : who.staff ? ofStaff : ofStudents
    const at = String(route.name)
    return Object.entries(of).map(([name, key]) => ({
      name,
      text: t(`place.${key}`),
      here: at === name || within[at] === name,
    }))
  })
  return { places, here: computed(() => places.value.find((p) => p.here)) }
}
