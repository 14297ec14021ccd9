package playlist

// Carried is what of the playlists of a course came to another.
type Carried[ID any] struct {
	Lists      []ID     // that were made, beside the main one
	Entries    []ID     // that were put into the main one
	Headings   int      // in all of them
	Pages      int      // elsewhere, in all of them
	Files      int      // in all of them
	Recordings []ID     // that stand in them, each once, if they were to be carried
	Left       []string // titles of playlists that stayed: of other courses, or that fill themselves from another
}
