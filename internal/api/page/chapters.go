package page

// Chapter is where a part of a recording begins, and what it is called.
type Chapter struct {
	At    int64  `json:"at" minimum:"0" doc:"milliseconds"`
	Title string `json:"title"`
}
