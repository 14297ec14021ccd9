import type { QuestionText } from '../../../api/toAll'

/** written is a question as it is meant: choices that were left empty at the end are none. */
export function written({ kind, text, choices, right }: QuestionText): QuestionText {
  if (kind === 'number' || kind === 'words') return { kind, text, choices: [], right: [] }
  const last = choices.findLastIndex((c) => c.trim() !== '')
  return { kind, text, choices: choices.slice(0, last + 1), right: right.filter((i) => i <= last) }
}
