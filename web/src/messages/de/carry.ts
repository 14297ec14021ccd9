/** Die Texte des Übertragens eines Kurses in ein anderes Semester. */
export const carry = {
  carry: {
    heading: 'Ein anderes Semester',
    name: 'In ein anderes Semester übertragen',
    lead: 'Der Kurs beginnt in einem anderen Semester neu: jede Vorlesung am gleichen Wochentag der gleichen Woche, unter den gleichen Überschriften. An diesem Kurs ändert sich nichts.',
    no_term: 'Es gibt noch kein anderes Semester. Unter „Semester und Hörsäle“ wird eines angelegt.',
    no_course: 'Sie lehren in jenem Semester keinen Kurs. Wer koordiniert, kann einen anlegen lassen.',
    term: 'Semester',
    course: 'In',
    make: 'einen Kurs, der dafür angelegt wird',
    what: 'Was mitkommt',
    part: {
      plan: 'Die Vorlesungen, und wie Titel gebildet werden',
      staff: 'Wer lehrt',
      lists: 'Die Abspiellisten mit Überschriften und Seiten anderswo',
      again: 'mit den Aufzeichnungen, um sie wieder zu zeigen',
      rule: 'Die Sehregel, mit verschobenen Daten',
      settings:
        'Die Wörter, wie Enden geschnitten werden, wie lange Originale bleiben, was den Studierenden geschrieben wird',
    },
    comes: 'Was kommt',
    stays: 'Was zu wissen ist',
    nothing: 'Nichts kommt mit.',
    lectures: 'Eine Vorlesung, am {first} | {n} Vorlesungen, vom {first} bis zum {last}',
    staff: 'Eine Person, die lehrt | {n} Personen, die lehren',
    lists: 'Die Abspielliste | {n} Abspiellisten',
    headings: 'Eine Überschrift | {n} Überschriften',
    pages: 'Eine Seite anderswo | {n} Seiten anderswo',
    files: 'Eine Datei | {n} Dateien',
    recordings: 'Eine Aufzeichnung, {lit} davon hell | {n} Aufzeichnungen, {lit} davon hell',
    rule: 'Die Sehregel',
    no_plan: 'Der Kurs hat keine geplanten Vorlesungen.',
    left: 'Eine Vorlesung hat in jenem Semester keinen Tag: ihre Woche fehlt dort, oder der Tag ist frei. | {n} Vorlesungen haben in jenem Semester keinen Tag: ihre Wochen fehlen dort, oder die Tage sind frei.',
    clashing:
      'Eine Vorlesung liegt zur gleichen Zeit wie eine andere, im gleichen Hörsaal oder bei den gleichen Leuten. | {n} Vorlesungen liegen zur gleichen Zeit wie andere, im gleichen Hörsaal oder bei den gleichen Leuten.',
    lists_left:
      'Die Abspielliste {titles} bleibt: sie gehört einem anderen Kurs oder füllt sich aus einem. | Die Abspiellisten {titles} bleiben: sie gehören anderen Kursen oder füllen sich aus ihnen.',
    no_rule: 'Keine Sehregel kommt: dieser Kurs hat keine eigene, oder jener hat eine.',
    groups: 'Die Regel spricht von {groups}: die Teilnehmerliste jenes Kurses muss sie haben.',
    never:
      'Studierende kommen mit der Teilnehmerliste. Regeln einzelner Aufzeichnungen, Öffnungen, Ausgeschlossene, und was von Hand verschoben oder abgesagt wurde, bleiben hier.',
    do: 'Übertragen',
    done: '{code} beginnt in {term} neu.',
    open: 'Den Kurs dort öffnen',
    before: 'Früher übertragen',
  },
}
