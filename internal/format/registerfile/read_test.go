package registerfile

import (
	"bytes"
	"errors"
	"reflect"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/presence"
)

var tenFifteen = time.Date(2026, 10, 14, 10, 15, 0, 0, time.FixedZone("", 7200))

func TestWhatAFileSays(t *testing.T) {
	type said = presence.Said
	for name, c := range map[string]struct {
		text   string
		said   []said
		left   []Left
		others int
	}{
		"a list of addresses": {"tom@college.example\n\n  Åse Marr <ase@college.example>\r\n",
			[]said{{Line: 1, Who: "tom@college.example"}, {Line: 3, Who: "ase@college.example"}}, nil, 0},
		"a list of names":  {"Marr, Åse Li\nTom  Vael\n", []said{{Line: 1, Who: "Marr Åse Li"}, {Line: 2, Who: "Tom Vael"}}, nil, 0},
		"what a gate says": {"10:12;4711;tom@college.example\n10:13;4712;ase@college.example", []said{{Line: 1, Who: "tom@college.example"}, {Line: 2, Who: "ase@college.example"}}, nil, 0},
		"of the west":      {"\xc5se Marr\n", []said{{Line: 1, Who: "Åse Marr"}}, nil, 0},
		"a sheet":          {"\ufeffName;E-Mail\r\nTom;tom@college.example\r\nÅse;\r\n;\r\n", []said{{Line: 2, Who: "tom@college.example"}, {Line: 3, Who: "Åse"}}, nil, 0},
		"with states": {"email\tstate\tminutes_late\tminutes_early\treason\na@b.example\tLate\t7\tx\tthe bus\nb@b.example\tlate_left_early\t-3\t900\t\nc@b.example\t\t\t\t\nd@b.example\tasleep\t\t\t",
			[]said{{Line: 2, Who: "a@b.example", State: presence.Late, Late: 7 * time.Minute, Reason: "the bus"},
				{Line: 3, Who: "b@b.example", State: presence.Both, Early: 12 * time.Hour}},
			[]Left{{5, "d@b.example", ErrState}}, 0},
		"of other lectures": {"date,starts,name\n2026-10-14,10:15,Tom\n2026-10-14,14:15,Tom\n2026-10-15,10:15,Tom\n2026-10-14,,Åse\n",
			[]said{{Line: 2, Who: "Tom"}, {Line: 5, Who: "Åse"}}, nil, 2},
		"a formula": {"name\n'=Tom\n", []said{{Line: 2, Who: "=Tom"}}, nil, 0},
	} {
		got, left, others, err := Read([]byte(c.text), tenFifteen)
		if err != nil || !reflect.DeepEqual(got, c.said) || !reflect.DeepEqual(left, c.left) || others != c.others {
			t.Errorf("%s: %+v %+v %d (%v)", name, got, left, others, err)
		}
	}
	for name, c := range map[string]struct {
		text string
		want error
	}{
		"empty":          {" \n\n", ErrEmpty},
		"a head alone":   {"email,state\n", ErrEmpty},
		"nobody named":   {"date,state\n2026-10-14,late\n", ErrWho},
		"no text":        {"\x00\x01\xff\xfe", ErrRead},
		"too many lines": {strings.Repeat("a@b.example\n", MostLines+1), ErrLarge},
		"too large":      {strings.Repeat("a", MostBytes+1), ErrLarge},
	} {
		if got, _, _, err := Read([]byte(c.text), tenFifteen); !errors.Is(err, c.want) {
			t.Errorf("%s: %+v (%v)", name, got, err)
		}
	}
}

// TestARegisterComesBack: what goes out says the same when it comes in.
func TestARegisterComesBack(t *testing.T) {
	var b bytes.Buffer
	if err := Write(&b, []Line{
		{Starts: tenFifteen, Name: "Tom", Email: "tom@college.example", Reason: "=the bus",
			Stands: presence.Line{State: presence.Late, Late: 7 * time.Minute}},
		{Starts: tenFifteen, Name: "Åse", Email: "ase@college.example"},
		{Starts: tenFifteen.AddDate(0, 0, 7), Name: "Tom", Stands: presence.Line{State: presence.Absent}},
	}); err != nil {
		t.Fatal(err)
	}
	got, left, others, err := Read(b.Bytes(), tenFifteen)
	want := presence.Said{Line: 2, Who: "tom@college.example", State: presence.Late, Late: 7 * time.Minute, Reason: "=the bus"}
	if err != nil || len(got) != 1 || got[0] != want || len(left) != 0 || others != 1 {
		t.Errorf("%+v %v %d (%v)", got, left, others, err)
	}
}
