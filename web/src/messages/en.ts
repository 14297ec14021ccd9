import { board } from './en/board'
import { chat } from './en/chat'
import { live } from './en/live'
import { people } from './en/people'
import { register } from './en/register'
import { timetable } from './en/timetable'
import { toAll } from './en/toall'
import { watching } from './en/watching'

/** The texts of the interface that everyone meets, in English. Those of whoever teaches are in staff. */
export const en = {
  ...timetable,
  ...watching,
  ...board,
  ...people,
  ...live,
  ...chat,
  ...register,
  ...toAll,
  again: 'Try again',
  close: 'Close',
  keep: 'Keep',
  leave: 'Leave it',
  change: 'Change',
  remove: 'Remove',
  undo: 'Undo',
  leave_unsent: 'What you entered here is not kept yet. Leave this page without it?',
  sort: {
    by: 'Sort by {text}',
    up: '{text}, sorted from the beginning; press to turn it',
    down: '{text}, sorted from the end; press to turn it',
  },
  undone: 'Undone. It is as it was.',
  copy: 'Copy',
  copied: 'Copied.',
  place: {
    board: 'Term board',
    run_sheet: 'Run sheet',
    capture: 'Capture desk',
    playlists: 'Playlists',
    files: 'Files',
    recordings: 'Recordings',
    courses: 'Courses',
    people: 'People',
    halls: 'Halls',
    catch_up: 'Catch-up',
    dates: 'Dates',
    terms: 'Terms and halls',
  },
  frame: {
    skip: 'Skip to the page',
    places: 'Places',
    sign_out: 'Sign out',
    account: 'Your account',
    sight: 'See as a student',
  },
  nowhere: {
    title: 'There is nothing at this address',
    text: 'The address may be mistyped, or what was here was taken away.',
    home: 'Go to where your work begins',
  },
  sign_in: {
    title: 'Sign in',
    text: 'With the address and password of your college.',
    email: 'Mail address',
    password: 'Password',
    go: 'Sign in',
    forgotten: 'Choose a new password',
    ended: 'Your sign-in has ended, here or from elsewhere. Sign in again to go on where you were.',
    slow: 'Several attempts failed just now. The next one can be made in a second. | Several attempts failed just now. The next one can be made in {n} seconds.',
  },
  file: {
    here: 'is already here, with the same content:',
    here_deleted: 'taken away, and can be brought back there',
    here_sending: 'being sent by {name}, {percent} per cent have come',
    here_waits: 'waits for its lecture',
    here_elsewhere: 'in a course that you do not teach',
    here_leave: 'Do not send it again',
    here_send: 'Send it all the same',
    text: 'Drop a file here: a film or sound of any usual kind, such as mp4, mov, mkv, webm, ts, avi, wav, mp3 or m4a.',
    kinds:
      'video/*,audio/*,.mkv,.mp4,.webm,.mov,.ogg,.m4a,.ts,.m2ts,.mts,.avi,.mpg,.vob,.wmv,.asf,.wma,.flv,.mxf,.aif,.aiff,.aac,.ac3,.w64,.flac',
    choose: 'Choose a file',
    progress: 'How much of {name} is sent',
    sending: '{done} of {all} MB are stored on the server',
    waiting: 'The server cannot be reached. What was sent is kept, and the rest follows by itself.',
    sent: 'All of it is stored. It is being read now.',
    open: 'Open it',
    stop: 'Stop and take it back',
  },
  fault: {
    empty: 'Not one byte of picture or sound arrived, so there is nothing to watch.',
    no_media:
      'This is not a recording: it holds neither picture nor sound in a form that can be read. Save it as MP4 or WAV, and drop that.',
    document: 'This is a document. Show it while you capture, or save a film of it as MP4, and drop that.',
    picture: 'This is a single picture. Show it while you capture; a recording is a film or sound.',
    archive:
      'This is an archive or a document with parts packed into it. Unpack it, and drop the recording that is in it.',
    page: 'This is a page of the web. Where it shows a recording, save the recording itself, and drop that.',
    list: 'This is a list of other files, without any of their pictures and sound. Drop the recording that it names.',
    notes: 'These are notes for an instrument, and no sound. Save the sound as WAV or MP3, and drop that.',
    locked_format:
      'This is a recording of a kind that cannot be read here. Save it as MP4 where it was made, and drop that.',
    unfinished:
      'The list of where its pictures and sound lie is cut off: it was not copied to its end. Copy it again, and drop that.',
    encrypted: 'This recording is encrypted, and the key is not in it. Drop a copy that is not.',
    unreadable:
      'This looks like a recording, but neither its picture nor its sound can be read. It may be cut off or damaged.',
  },
  problem: {
    unreachable: 'The server cannot be reached just now. Nothing that was kept is lost.',
    empty_file: 'This file is empty: it has not one byte, so there is nothing to send.',
    gap: 'A part of the capture is missing on this computer, so the rest cannot be joined to it. What is stored stays.',
  },
  player: {
    second: 'The second picture',
    swap: 'Change places',
    pictures: 'How the two pictures stand',
    arranged: { large: 'One large', alike: 'Side by side', inset: 'One in the corner', alone: 'One alone' },
    size: 'How much comes over the line',
    size_line: 'As the line allows',
    size_large: 'All of it, {mb} MB',
    size_small: 'Small, {mb} MB',
    size_listen: 'Sound alone, {mb} MB',
    play: 'Play',
    pause: 'Pause',
    place: 'Place in the lecture',
    at: '{at} of {of}',
    now: 'Go to now',
    speed: 'Speed',
    volume: 'Volume',
    full: 'Full screen',
    small: 'Small window',
    sound_only: 'Sound only',
    fault: 'This cannot be played just now. Reload the page to try again.',
    waits: {
      list: 'Being opened',
      first: 'On its way',
      line: 'The line is slower than the lecture: what comes next is on its way',
      live: 'Waiting for what is said next',
      server: 'The server does not answer. It is asked again',
    },
  },
}
