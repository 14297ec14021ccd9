/** fold is a text to be looked in: capitals, accents and line breaks do not count. */
export const fold = (s: string): string =>
  s.normalize('NFD').replace(/\p{M}/gu, '').replaceAll('\n', ' ').toLocaleLowerCase()
