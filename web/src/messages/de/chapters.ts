/** The texts of chapters. */
export const chapters = {
  chapters: {
    name: 'Kapitel',
    none: 'keine',
    reading: 'Folien werden noch gelesen',
    unread: 'Folien werden noch gelesen; ihre Titel schlagen vielleicht mehr vor.',
    proposed: '{n} aus Marken und Folien',
    by_hand: '{n} behalten',
    change: 'Ändern',
    title: 'Kapitel der Aufzeichnung',
    help: 'Marken und die Titel der Folien schlagen sie vor. Was hier geändert wird, bleibt und folgt jedem Schnitt.',
    called: 'Titel des Kapitels bei {at}',
    remove: 'Das Kapitel bei {at} entfernen',
    add: 'Eines bei {at} einfügen',
    new: 'Neues Kapitel',
    go: 'Zu {at}',
    keep: 'Diese Kapitel behalten',
    kept: 'Behalten.',
    propose: 'Zurück zu dem, was vorgeschlagen ist',
    other: 'Jemand anders hat die Kapitel inzwischen geändert. Was jetzt hier steht, ist von dort.',
    out: 'Mitnehmen, wie sie veröffentlicht sind:',
    empty:
      'Ohne Marke und ohne Folie mit einem Titel wird nichts vorgeschlagen. Spielen Sie bis zum Anfang eines Kapitels, und fügen Sie es ein.',
  },
}
