/** Worded is a catalogue with the same texts as another, each in its own words. */
export type Worded<T> = { [K in keyof T]: T[K] extends string ? string : Worded<T[K]> }
