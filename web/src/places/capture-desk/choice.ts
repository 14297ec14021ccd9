/** What a computer remembers of the last capture at its desk. */
import type { Frame } from './feed'

export type Picture = 'screen' | 'camera' | 'both' | 'none'

export interface Choice {
  microphone?: string
  camera?: string
  picture?: Picture
  strengths?: { microphone: number; computer: number }
  frame?: Frame
}

const remembered = 'late-lantern-desk'

export function recall(): Choice {
  try {
    return JSON.parse(localStorage.getItem(remembered) ?? '{}') as Choice
  } catch {
    return {}
  }
}

export const keepChoice = (c: Choice) => localStorage.setItem(remembered, JSON.stringify(c))
