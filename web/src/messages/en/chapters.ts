/** The texts of chapters. */
export const chapters = {
  chapters: {
    name: 'Chapters',
    none: 'none yet',
    proposed: '{n} from markers and slides',
    by_hand: '{n} kept',
    change: 'Change them',
    title: 'Chapters of the recording',
    help: 'Markers and the titles of slides propose them. What is changed here is kept and follows every cut.',
    called: 'Title of the chapter at {at}',
    remove: 'Remove the chapter at {at}',
    add: 'Add one at {at}',
    new: 'New chapter',
    go: 'Go to {at}',
    keep: 'Keep these chapters',
    kept: 'Kept.',
    propose: 'Back to what is proposed',
    other: 'Someone else changed the chapters meanwhile. What stands here now is theirs.',
    out: 'Take them out as they are published:',
    empty: 'Without a marker or a slide with a title nothing is proposed. Play to where a chapter begins, and add it.',
  },
}
