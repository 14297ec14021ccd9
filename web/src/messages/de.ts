import type { en } from './en'
import type { Worded } from './worded'
import { board } from './de/board'
import { chat } from './de/chat'
import { live } from './de/live'
import { people } from './de/people'
import { register } from './de/register'
import { timetable } from './de/timetable'
import { toAll } from './de/toall'
import { watching } from './de/watching'

/** The texts of the interface that everyone meets, in German. Those of whoever teaches are in staff. */
export const de = {
  ...timetable,
  ...watching,
  ...board,
  ...people,
  ...live,
  ...chat,
  ...register,
  ...toAll,
  again: 'Noch einmal versuchen',
  close: 'Schließen',
  keep: 'Behalten',
  leave: 'So lassen',
  change: 'Ändern',
  remove: 'Entfernen',
  undo: 'Rückgängig machen',
  leave_unsent: 'Was Sie hier eingegeben haben, ist noch nicht gespeichert. Diese Seite ohne es verlassen?',
  sort: {
    by: 'Nach {text} ordnen',
    up: '{text}, von vorn geordnet; drücken dreht es um',
    down: '{text}, von hinten geordnet; drücken dreht es um',
  },
  undone: 'Rückgängig gemacht. Es ist, wie es war.',
  copy: 'Kopieren',
  copied: 'Kopiert.',
  place: {
    board: 'Semestertafel',
    run_sheet: 'Ablaufplan',
    capture: 'Aufnahmepult',
    playlists: 'Abspiellisten',
    files: 'Dateien',
    recordings: 'Aufzeichnungen',
    courses: 'Kurse',
    people: 'Personen',
    halls: 'Hörsäle',
    catch_up: 'Nachholen',
    dates: 'Termine',
    terms: 'Semester und Hörsäle',
  },
  frame: {
    skip: 'Zum Inhalt der Seite',
    places: 'Orte',
    sign_out: 'Abmelden',
    account: 'Ihr Konto',
    sight: 'Wie Studierende sehen',
    news: {
      new: 'Was neu ist',
      none: 'Nichts ist neu.',
      hint: 'Was Ihnen mitgeteilt wird, und was in Ihren Kursen gefragt oder beantwortet wird, steht hier, bis sich jemand darum gekümmert hat.',
      n: 'Was neu ist: {n}',
      asked: '{n} Frage wartet auf eine Antwort | {n} Fragen warten auf eine Antwort',
      proposed:
        '{title}: {n} Zeile der Untertitel von Lesenden verbessert | {title}: {n} Zeilen der Untertitel von Lesenden verbessert',
      objected:
        '{title}: {n} Person sagt etwas zu ihrer Zeile der Anwesenheit | {title}: {n} Personen sagen etwas zu ihren Zeilen der Anwesenheit',
      answered: 'Beantwortet: {text}',
      on: '{course} · {day}',
      seen: 'Diese Zeilen wegnehmen',
      gone: 'Diese Zeilen sind fort. Wovon sie waren, steht, wo es war.',
      people: 'Wartet auf Sie',
      told: 'Für Sie zu sehen',
    },
  },
  nowhere: {
    title: 'Unter dieser Adresse ist nichts',
    text: 'Vielleicht ist sie falsch geschrieben, oder was hier war, wurde weggenommen.',
    home: 'Dorthin, wo Ihre Arbeit beginnt',
  },
  sign_in: {
    title: 'Anmelden',
    text: 'Mit der Adresse und dem Passwort Ihrer Hochschule.',
    email: 'Mailadresse',
    password: 'Passwort',
    go: 'Anmelden',
    forgotten: 'Ein neues Passwort wählen',
    ended:
      'Ihre Anmeldung wurde beendet, hier oder von anderswo. Melden Sie sich wieder an, um weiterzumachen, wo Sie waren.',
    slow: 'Mehrere Versuche sind eben gescheitert. Der nächste ist in einer Sekunde möglich. | Mehrere Versuche sind eben gescheitert. Der nächste ist in {n} Sekunden möglich.',
  },
  file: {
    here: 'ist schon hier, mit demselben Inhalt:',
    here_deleted: 'weggenommen, und kann dort zurückgeholt werden',
    here_sending: 'wird von {name} gesendet, {percent} Prozent sind da',
    here_waits: 'wartet auf ihre Vorlesung',
    here_elsewhere: 'in einem Kurs, in dem Sie nicht lehren',
    here_leave: 'Nicht noch einmal senden',
    here_send: 'Trotzdem senden',
    text: 'Legen Sie eine Datei hier ab: einen Film oder Ton jeder üblichen Art, etwa mp4, mov, mkv, webm, ts, avi, wav, mp3 oder m4a.',
    kinds:
      'video/*,audio/*,.mkv,.mp4,.webm,.mov,.ogg,.m4a,.ts,.m2ts,.mts,.avi,.mpg,.vob,.wmv,.asf,.wma,.flv,.mxf,.aif,.aiff,.aac,.ac3,.w64,.flac',
    choose: 'Eine Datei wählen',
    progress: 'Wie viel von {name} gesendet ist',
    sending: '{done} von {all} MB sind auf dem Server gespeichert',
    waiting: 'Der Server ist nicht erreichbar. Was gesendet wurde, bleibt, und der Rest folgt von selbst.',
    sent: 'Alles ist gespeichert. Es wird jetzt gelesen.',
    open: 'Öffnen',
    stop: 'Anhalten und zurücknehmen',
  },
  fault: {
    empty: 'Kein einziges Byte Bild oder Ton ist angekommen, also gibt es nichts anzusehen.',
    no_media:
      'Das ist keine Aufzeichnung: Weder Bild noch Ton sind in einer Form darin, die gelesen werden kann. Speichern Sie sie als MP4 oder WAV, und legen Sie diese Datei ab.',
    document:
      'Das ist ein Dokument. Zeigen Sie es während der Aufnahme, oder speichern Sie einen Film davon als MP4, und legen Sie diesen ab.',
    picture:
      'Das ist ein einzelnes Bild. Zeigen Sie es während der Aufnahme; eine Aufzeichnung ist ein Film oder ein Ton.',
    archive:
      'Das ist ein Archiv oder ein Dokument, in das Teile gepackt sind. Entpacken Sie es, und legen Sie die Aufzeichnung ab, die darin ist.',
    page: 'Das ist eine Seite aus dem Netz. Zeigt sie eine Aufzeichnung, dann speichern Sie die Aufzeichnung selbst, und legen Sie diese ab.',
    list: 'Das ist eine Liste anderer Dateien, ohne deren Bilder und Töne. Legen Sie die Aufzeichnung ab, die sie nennt.',
    notes:
      'Das sind Noten für ein Instrument, und kein Ton. Speichern Sie den Ton als WAV oder MP3, und legen Sie diesen ab.',
    locked_format:
      'Das ist eine Aufzeichnung einer Art, die hier nicht gelesen werden kann. Speichern Sie sie dort, wo sie gemacht wurde, als MP4, und legen Sie diese ab.',
    unfinished:
      'Die Liste, wo ihre Bilder und Töne liegen, ist abgeschnitten: Sie wurde nicht bis zu ihrem Ende kopiert. Kopieren Sie sie noch einmal, und legen Sie diese Kopie ab.',
    encrypted:
      'Diese Aufzeichnung ist verschlüsselt, und der Schlüssel ist nicht dabei. Legen Sie eine Kopie ab, die es nicht ist.',
    unreadable:
      'Das sieht nach einer Aufzeichnung aus, aber weder Bild noch Ton können gelesen werden. Vielleicht ist sie abgeschnitten oder beschädigt.',
  },
  problem: {
    unreachable: 'Der Server ist gerade nicht erreichbar. Nichts, was gesichert war, ist verloren.',
    empty_file: 'Diese Datei ist leer: Sie hat kein einziges Byte, also gibt es nichts zu senden.',
    gap: 'Ein Stück der Aufnahme fehlt auf diesem Rechner, also kann der Rest nicht daran gefügt werden. Was gespeichert ist, bleibt.',
  },
  player: {
    second: 'Das zweite Bild',
    swap: 'Plätze tauschen',
    pictures: 'Wie die zwei Bilder stehen',
    arranged: { large: 'Eines groß', alike: 'Nebeneinander', inset: 'Eines in der Ecke', alone: 'Eines allein' },
    size: 'Wie viel über die Leitung kommt',
    size_line: 'Wie es die Leitung erlaubt',
    size_large: 'Alles, {mb} MB',
    size_small: 'Klein, {mb} MB',
    size_listen: 'Nur der Ton, {mb} MB',
    play: 'Abspielen',
    pause: 'Pause',
    place: 'Stelle in der Vorlesung',
    at: '{at} von {of}',
    now: 'Zum Jetzt',
    speed: 'Tempo',
    volume: 'Lautstärke',
    full: 'Ganzer Bildschirm',
    small: 'Kleines Fenster',
    sound_only: 'Nur Ton',
    fault: 'Das kann gerade nicht abgespielt werden. Laden Sie die Seite neu, um es noch einmal zu versuchen.',
    waits: {
      list: 'Wird geöffnet',
      first: 'Unterwegs',
      line: 'Die Leitung ist langsamer als die Vorlesung: Was folgt, ist unterwegs',
      live: 'Wartet auf das Nächste, was gesagt wird',
      server: 'Der Server antwortet nicht. Er wird wieder gefragt',
    },
  },
} satisfies Worded<typeof en>
