import type { RouteLocationRaw } from 'vue-router'
import type { Schemas } from '../../api/client'

/** stepPlace is where the next step of a lecture is taken. */
export function stepPlace(
  step: string,
  l: Pick<Schemas['LectureCell'], 'id' | 'recording_id'>,
  course: string,
): RouteLocationRaw | undefined {
  switch (step) {
    case 'capture':
    case 'stop':
    case 'again':
      return { name: 'capture-desk', params: { lecture: l.id } }
    case 'rule':
      return { name: 'rule', params: { course } }
    case 'tell':
      return { name: 'playlist', params: { course }, query: { tell: 'yes' } }
    case 'words':
      return l.recording_id ? { name: 'captions', params: { recording: l.recording_id } } : undefined
    default:
      return l.recording_id ? { name: 'trim-bench', params: { recording: l.recording_id } } : undefined
  }
}

/** asks tells a lecture that waits for a hand. */
export const asks = (l: { next: string }): boolean => l.next !== '' && l.next !== 'wait'
