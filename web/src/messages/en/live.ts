/** The texts of a lecture that is captured now: how it goes, who is there, and its end. */
export const live = {
  phase: {
    begins: 'It begins',
    runs: 'It is captured now',
    paused: 'Paused',
    broken: 'Broken off',
    over: 'Over',
  },
  live: {
    begins: 'The lecture begins. Its first pictures come in a few seconds.',
    runs: 'Live, a few seconds behind the hall. This lecture is being captured.',
    paused: 'The lecturer has paused. It goes on here by itself.',
    broken:
      'The capture broke off: nothing has come for two minutes. What came until then can be seen here, and it goes on by itself as soon as more comes.',
    over: 'The lecture is over. It can be watched here when {who} has lit it. Until then you can still see what you missed of its end.',
    someone: 'someone who teaches it',
    held: '{length} held',
    held_broken: 'Broken off: nothing comes any more. {length} are held.',
    held_paused: 'Paused by whoever captures. {length} are held.',
    end: 'End this capture where it stands',
    end_help: 'What is held stays. If more comes after all, it is taken.',
  },
  at_door: {
    name: 'At the door',
    waits: '{n} person asks to come in | {n} people ask to come in',
    let_all: 'Let all of them in',
    inside: '{n} person follows it now | {n} people follow it now',
    guest: 'guest',
    out: 'was sent out',
    let_back: 'Let in again',
    let_back_it: 'Let {name} in again',
    open: 'Who is in',
  },
  guest_only: {
    title: 'You are here as a guest of one lecture',
    text: 'This page is for those who have an account at the college. The lecture you were invited to is still open to you.',
    go: 'To the lecture',
  },
}
