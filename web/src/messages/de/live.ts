/** The texts of a lecture that is captured now: how it goes, who is there, and its end. */
export const live = {
  phase: {
    begins: 'Sie beginnt',
    runs: 'Sie wird gerade aufgenommen',
    paused: 'Angehalten',
    broken: 'Abgebrochen',
    over: 'Vorbei',
  },
  live: {
    begins: 'Die Vorlesung beginnt. Ihre ersten Bilder kommen in wenigen Sekunden.',
    runs: 'Live, einige Sekunden hinter dem Hörsaal. Diese Vorlesung wird aufgenommen.',
    paused: 'Wer vorträgt, hat angehalten. Hier geht es von selbst weiter.',
    broken:
      'Die Aufnahme ist abgebrochen: Seit zwei Minuten ist nichts gekommen. Was bis dahin kam, ist hier zu sehen, und es geht von selbst weiter, sobald mehr kommt.',
    over: 'Die Vorlesung ist vorbei. Sie kann hier angesehen werden, wenn {who} sie angezündet hat. Bis dahin können Sie noch sehen, was Sie von ihrem Ende verpasst haben.',
    someone: 'jemand, der sie hält,',
    held: '{length} sind da',
    held_broken: 'Abgebrochen: Es kommt nichts mehr. {length} sind da.',
    held_paused: 'Angehalten von der Person, die aufnimmt. {length} sind da.',
    end: 'Diese Aufnahme beenden, wo sie steht',
    end_help: 'Was da ist, bleibt. Kommt doch noch mehr, wird es angenommen.',
  },
  at_door: {
    name: 'An der Tür',
    waits: '{n} Person bittet um Einlass | {n} Personen bitten um Einlass',
    let_all: 'Alle einlassen',
    inside: '{n} Person verfolgt sie gerade | {n} Personen verfolgen sie gerade',
    guest: 'Gast',
    out: 'wurde hinausgeschickt',
    let_back: 'Wieder einlassen',
    let_back_it: '{name} wieder einlassen',
    open: 'Wer da ist',
  },
  guest_only: {
    title: 'Sie sind hier zu Gast in einer Vorlesung',
    text: 'Diese Seite ist für alle, die ein Konto an der Hochschule haben. Die Vorlesung, zu der Sie eingeladen wurden, steht Ihnen weiter offen.',
    go: 'Zur Vorlesung',
  },
}
