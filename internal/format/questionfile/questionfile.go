// Package questionfile writes and reads questions to all as files: CSV (RFC 4180), with cells that no spreadsheet
// computes, and items of IMS Question and Test Interoperability 2.1 and 3.0 in a content package. Of QTI those items
// are read that have one choice, text entry or extended text interaction, from a package or alone; a file that refers
// to others, or has entities of its own, is refused.
package questionfile

import (
	"bytes"
	"fmt"

	"latelantern/internal/core/fault"
	"latelantern/internal/core/toall"
)

// Form is one of the forms in which questions are written.
type Form string

const (
	Sheet Form = "csv"
	QTI2  Form = "qti2" // 2.1, zipped
	QTI3  Form = "qti3" // 3.0, zipped
)

// Kind is the media type of a form, and End that of a name; both "" for none.
func (f Form) Kind() (kind, end string) {
	switch f {
	case Sheet:
		return "text/csv; charset=utf-8", ".csv"
	case QTI2, QTI3:
		return "application/zip", ".zip"
	}
	return "", ""
}

// The ways in which a file can be refused; each is a sentence.
var (
	ErrBroken  = fault.Code("questionfile.broken")  // neither questions in CSV nor items of QTI
	ErrEmpty   = fault.Code("questionfile.empty")   // it has none
	ErrLong    = fault.Code("questionfile.long")    // more than MostQuestions, or larger than MostBytes
	ErrOutside = fault.Code("questionfile.outside") // it refers to other files, or has entities
)

const (
	// MostQuestions is how many are read.
	MostQuestions = 500
	// MostBytes is how large a file can be, and what an archive holds.
	MostBytes = 4 << 20
)

// Left is a question of a file that is left out, and why.
type Left struct {
	Name string // of its line or item
	Why  fault.Text
}

// Read reads questions in whichever form they are. Its errors are ErrBroken, ErrEmpty, ErrLong and ErrOutside.
func Read(b []byte) ([]toall.Question, []Left, error) {
	if len(b) > MostBytes {
		return nil, nil, ErrLong
	}
	var r reading
	var err error
	switch b = bytes.TrimPrefix(b, []byte("\xef\xbb\xbf")); {
	case bytes.HasPrefix(b, []byte("PK\x03\x04")):
		err = r.archive(b)
	case bytes.HasPrefix(bytes.TrimSpace(b), []byte("<")):
		err = r.item("", b)
	default:
		err = r.sheet(b)
	}
	if err == nil && len(r.questions)+len(r.left) == 0 {
		err = ErrEmpty
	}
	if err != nil {
		return nil, nil, err
	}
	return r.questions, r.left, nil
}

// reading is what was read of a file.
type reading struct {
	questions []toall.Question
	left      []Left
}

// add adds a question, or why it is left out. Its error is ErrLong.
func (r *reading) add(name string, q toall.Question) error {
	clean, err := toall.Clean(q)
	if err != nil {
		r.left = append(r.left, Left{name, fault.All(err)[0]})
	} else {
		r.questions = append(r.questions, clean)
	}
	if len(r.questions)+len(r.left) > MostQuestions {
		return ErrLong
	}
	return nil
}

// Write is questions in a form.
func Write(f Form, all []toall.Question) ([]byte, error) {
	write := map[Form]func([]toall.Question) ([]byte, error){
		Sheet: writeSheet,
		QTI2:  func(all []toall.Question) ([]byte, error) { return writePackage(qti2, all) },
		QTI3:  func(all []toall.Question) ([]byte, error) { return writePackage(qti3, all) },
	}[f]
	b, err := write(all)
	if err != nil {
		return nil, fmt.Errorf("write questions: %w", err)
	}
	return b, nil
}
