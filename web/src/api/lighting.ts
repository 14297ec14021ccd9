import { ask, type Schemas } from './client'
import { get, keys } from './queries'

export type Lighting = Schemas['LightingText']

export const previewLighting = (body: Lighting) => ask((c) => c.POST('/api/lighting/preview', { body }))

export const changeLighting = (body: Lighting) => ask((c) => c.POST('/api/lighting', { body }))

/** chosenRecordings are those of lectures that one teaches. */
export const chosenRecordings = (lectures: string[]) =>
  ask((c) => c.POST('/api/board/recordings', { body: { lectures } }))

export const undoLighting = (step: string) =>
  ask((c) => c.POST('/api/lighting/{step}/undo', { params: { path: { step } } }))

/** usePlanned are the steps for an hour that is set. */
export const usePlanned = () => get(keys.planned, () => ask((c) => c.GET('/api/lighting/planned')))
