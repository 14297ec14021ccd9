// Package event names what can change. An event says that something changed, never what it is now: whoever cares asks
// again.
package event

// Kind is what changed.
type Kind string

const (
	// a capture began, went on, paused, was broken off or ended, or can be watched in another way
	Capture   Kind = "capture"
	Stored    Kind = "stored"    // more of a capture is on the server
	Packed    Kind = "packed"    // more of it can be watched
	Small     Kind = "small"     // how far its small copy is
	File      Kind = "file"      // a file that was sent without a lecture
	Recording Kind = "recording" // what is known of a recording, or of what it is made
	Edition   Kind = "edition"   // what is published of it, or how far that is
	Cuts      Kind = "cuts"      // what is struck from it
	Words     Kind = "words"     // its captions, chapters, or what stands on its slides
	Strip     Kind = "strip"     // what was measured of it
	Light     Kind = "light"     // to whom it gives light
	Playlist  Kind = "playlist"  // the playlist of a course
	Rule      Kind = "rule"      // the viewing rule of a course, or of one recording in it
	Term      Kind = "term"      // terms, breaks or halls
	Timetable Kind = "timetable" // the lectures or settings of a course
	Roster    Kind = "roster"    // who is in a course
	Doorway   Kind = "doorway"   // who asks at the door of a lecture, and who was answered
	Reminder  Kind = "reminder"  // a lecture that nobody began to capture
	News      Kind = "news"      // what the students of a course are told
	Chat      Kind = "chat"      // what is said in a lecture
	Asked     Kind = "asked"     // what someone says to those who teach alone
	Register  Kind = "register"  // a line of the register of a lecture
	ToAll     Kind = "to_all"    // a question that was put to all in a lecture
	Answers   Kind = "answers"   // what was answered to one
	Prepared  Kind = "prepared"  // the questions that a course keeps to put to all
)

// Kinds are all of them.
var Kinds = []Kind{
	Capture, Stored, Packed, Small, File, Recording, Edition, Cuts, Words, Strip,
	Light, Playlist, Rule, Term, Timetable, Roster, Doorway, Reminder, News, Chat, Asked, Register,
	ToAll, Answers, Prepared,
}
