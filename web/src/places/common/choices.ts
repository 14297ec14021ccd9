/** courseChoices are courses to choose from, by code and title. */
export const courseChoices = (courses: { id: string; code: string; title: string }[]) =>
  courses.map((c) => ({ value: c.id, text: `${c.code} ${c.title}` }))
