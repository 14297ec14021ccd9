package captionfile

import (
	"bytes"
	"errors"
	"fmt"
	"reflect"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/core/texts"
)

const ms = time.Millisecond

func at(from, to time.Duration) span.Span { return span.Span{Start: from, End: to} }

func must(t *testing.T, b string) File {
	t.Helper()
	f, err := Read([]byte(b))
	if err != nil {
		t.Fatal(err)
	}
	return f
}

// TestShapes: files as programs write them, each with what it says.
func TestShapes(t *testing.T) {
	for name, c := range map[string]struct {
		file string
		form Form
		want []caption.Cue
	}{
		"WebVTT with everything": {
			"WEBVTT - a title\nKind: captions\nLanguage: de\n\nSTYLE\n::cue { color: white }\n\nNOTE of someone\nover two lines\n\nintro\n00:01.000 --> 00:02.500 align:start position:10%\n<v Ada Quill>Good &amp; early</v>\n\n01:00:00.000 --> 01:00:01.000\nfirst row\n<i>second</i> row\n\nNOTE the end\n",
			WebVTT, []caption.Cue{
				{Span: at(time.Second, 2500*ms), Text: "Good & early", Speaker: "Ada Quill",
					As: caption.Written{Name: "intro", Settings: "align:start position:10%",
						Before: "STYLE\n::cue { color: white }\n\nNOTE of someone\nover two lines"}},
				{Span: at(time.Hour, time.Hour+time.Second), Text: "first row\nsecond row",
					As: caption.Written{Markup: "first row\n<i>second</i> row"}},
			}},
		"WebVTT with a mark of its encoding, and line ends of two signs": {
			"\ufeffWEBVTT\r\n\r\n1\r\n00:00:00.000 --> 00:00:01.000\r\none\r\n\r\n2\r\n00:00:01.000 --> 00:00:02.000\r\ntwo\r\n",
			WebVTT, []caption.Cue{{Span: at(0, time.Second), Text: "one", As: caption.Written{Name: "1"}},
				{Span: at(time.Second, 2*time.Second), Text: "two", As: caption.Written{Name: "2"}}}},
		"WebVTT with a comma, hours of one digit, and nothing after the last line": {
			"WEBVTT\n\n0:00:01,500 --> 0:00:02,000\nx", WebVTT,
			[]caption.Cue{{Span: at(1500*ms, 2*time.Second), Text: "x"}}},
		"WebVTT with words timed within a line": {
			"WEBVTT\n\n00:00.000 --> 00:02.000\n<00:00.000><c>one</c> <00:01.000><c>two</c>\n", WebVTT,
			[]caption.Cue{{Span: at(0, 2*time.Second), Text: "one two",
				As: caption.Written{Markup: "<00:00.000><c>one</c> <00:01.000><c>two</c>"}}}},
		"WebVTT of which a line begins without an empty one before it": {
			"WEBVTT\n\n00:00.000 --> 00:01.000\none\n00:01.000 --> 00:02.000\ntwo\n", WebVTT,
			[]caption.Cue{{Span: at(0, time.Second), Text: "one"},
				{Span: at(time.Second, 2*time.Second), Text: "two"}}},
		"SubRip": {
			"1\n00:00:01,000 --> 00:00:02,000\none & <two>\n\n2\n00:00:02,000 --> 00:00:03,000\n<i>three</i>\nfour\n",
			SubRip,
			[]caption.Cue{{Span: at(time.Second, 2*time.Second), Text: "one & <two>"},
				{Span: at(2*time.Second, 3*time.Second), Text: "three\nfour",
					As: caption.Written{Markup: "<i>three</i>\nfour"}}}},
		"SubRip with places, wrong numbers, empty lines within and points for commas": {
			"7\r\n00:00:01.000 --> 00:00:02.000 X1:40 X2:600 Y1:20 Y2:50\r\n{\\an8}above\r\n\r\nstill the first\r\n\r\n7\r\n00:00:02,5 --> 00:00:03\r\nsecond\r\n\r\n\r\n00:00:04,000 --> 00:00:05,000\r\nwithout a number", SubRip,
			[]caption.Cue{
				{Span: at(time.Second, 2*time.Second), Text: "above\nstill the first",
					As: caption.Written{Settings: "X1:40 X2:600 Y1:20 Y2:50", Markup: "{\\an8}above\nstill the first"}},
				{Span: at(2500*ms, 3*time.Second), Text: "second"},
				{Span: at(4*time.Second, 5*time.Second), Text: "without a number"}}},
	} {
		t.Run(name, func(t *testing.T) {
			f := must(t, c.file)
			if f.AllFault > 0 || f.Form != c.form {
				t.Fatalf("%s, faults %v", f.Form, f.Faults)
			}
			if !reflect.DeepEqual(f.Cues, c.want) {
				t.Errorf("read\n%+v, wanted\n%+v", f.Cues, c.want)
			}
			// Written again in its own form, it is the same.
			var b bytes.Buffer
			write := WriteWebVTT
			if c.form == SubRip {
				write = WriteSubRip
			}
			if err := write(&b, f.Sheet); err != nil {
				t.Fatal(err)
			}
			again := must(t, b.String())
			if !reflect.DeepEqual(again.Sheet, f.Sheet) {
				t.Errorf("written and read again\n%+v, was\n%+v\n%s", again.Sheet, f.Sheet, b.String())
			}
		})
	}
}

func TestWhatAFileSaysBesideItsLines(t *testing.T) {
	f := must(t, "WEBVTT - a title\nKind: captions\nLanguage: pt-BR\n\n00:00.000 --> 00:01.000\none\n\nNOTE the end\n")
	if f.Language != "pt-BR" || f.Head != "- a title\nKind: captions\nLanguage: pt-BR" || f.Tail != "NOTE the end" {
		t.Errorf("%q, %q, %q", f.Language, f.Head, f.Tail)
	}
	var b bytes.Buffer
	if err := WriteWebVTT(&b,
		f.Sheet); err != nil || !strings.HasPrefix(b.String(), "WEBVTT - a title\nKind: captions\n") ||
		!strings.HasSuffix(b.String(), "\n\nNOTE the end\n") {
		t.Errorf("%v\n%s", err, b.String())
	}
}

// TestFromOneFormToTheOther: what the other can say goes over, and nothing of it is read as a sign.
func TestFromOneFormToTheOther(t *testing.T) {
	var b bytes.Buffer
	vtt := must(t, "WEBVTT\n\n00:00.000 --> 00:01.000 line:0\n<v Ada>5 &lt; 6 &amp; <b>bold</b> <c.loud>loud</c></v>\n")
	if err := WriteSubRip(&b, vtt.Sheet); err != nil ||
		b.String() != "1\n00:00:00,000 --> 00:00:01,000\nAda: 5 < 6 & <b>bold</b> loud\n" {
		t.Errorf("%v\n%s", err, b.String())
	}
	b.Reset()
	srt := must(t, "1\n00:00:00,000 --> 00:00:01,000 X1:1 X2:2 Y1:3 Y2:4\n{\\an8}5 < 6 & <font color=\"red\">seven</font>\n")
	if err := WriteWebVTT(&b, srt.Sheet); err != nil ||
		b.String() != "WEBVTT\n\n00:00:00.000 --> 00:00:01.000\n5 &lt; 6 &amp; <font color=\"red\">seven</font>\n" {
		t.Errorf("%v\n%s", err, b.String())
	}
}

// TestBadFiles: each is refused, or taken with a word about it, in a sentence.
func TestBadFiles(t *testing.T) {
	vtt := func(cues string) string { return "WEBVTT\n\n" + cues }
	for name, c := range map[string]struct {
		file string
		says string
	}{
		"nothing":               {"", "neither WebVTT nor SubRip"},
		"a web page":            {"<!doctype html><title>x</title>", "neither WebVTT nor SubRip"},
		"a film":                {"\x00\x00\x00\x20ftypisom\xff\xfe\x00\x80", "no text"},
		"WebVTT without a line": {"WEBVTT\n\nNOTE nothing\n", "no line of captions"},
		"times that go back": {vtt("00:05.000 --> 00:04.000\nx\n"),
			"line 3: A line ends at 0:04, before it begins at 0:05."},
		"a line that takes no time": {vtt("00:05.000 --> 00:05.000\nx\n"), "line 3: A line begins and ends at 0:05"},
		"a time below zero": {vtt("-00:00:01.000 --> 00:04.000\nx\n"),
			"line 3: A line begins before the recording does"},
		"a time that is none": {vtt("00:61.000 --> 00:99.000\nx\n"), "line 3: These are no times"},
		"words without times": {vtt("only words\n\n00:01.000 --> 00:02.000\nx\n"),
			"line 3: These words have no times: only words."},
		"lines that overlap": {vtt("00:01.000 --> 00:05.000\nx\n\n00:02.000 --> 00:03.000\ny\n"),
			"note One of its lines begins before the line before has ended, at 0:02"},
		"lines out of order": {vtt("00:03.000 --> 00:04.000\nx\n\n00:01.000 --> 00:02.000\ny\n"),
			"note Its lines are not in order"},
		"Latin-1": {"1\n00:00:01,000 --> 00:00:02,000\ncaf\xe9 \x93so\x94\n", "note The file is not in UTF-8"},
	} {
		f, err := Read([]byte(c.file))
		said := ""
		if err != nil {
			if !errors.Is(err, ErrNot) {
				t.Errorf("%s: %v", name, err)
			}
			said = texts.English.Error(err)
		}
		for _, x := range f.Faults {
			said += fmt.Sprintf("line %d: %s\n", x.Line, texts.English.Say(x.Text))
		}
		for _, x := range f.Notes {
			said += "note " + texts.English.Say(x.Text) + "\n"
		}
		if !strings.Contains(said, c.says) {
			t.Errorf("%s says %q", name, said)
		}
	}
	if f := must(t, "1\n00:00:01,000 --> 00:00:02,000\ncaf\xe9 \x93so\x94\n"); f.Cues[0].Text != "café “so”" {
		t.Errorf("Latin-1 is read as %q", f.Cues[0].Text)
	}
	wide := []byte{0xff, 0xfe}
	for _, r := range "WEBVTT\n\n00:01.000 --> 00:02.000\né\n" {
		wide = append(wide, byte(r), byte(r>>8))
	}
	if f, err := Read(wide); err != nil || f.Cues[0].Text != "é" {
		t.Errorf("UTF-16: %v %+v", err, f.Cues)
	}
	f := must(t, vtt("00:01.000 --> 00:02.000\nx\n\n10:00:00.000 --> 10:00:01.000\ny\n"))
	if f.Within(time.Hour); len(f.Cues) != 1 || f.AllFault != 0 || len(f.Notes) != 1 ||
		!strings.Contains(texts.English.Say(f.Notes[0].Text),
			"1 of its 2 lines begin after the end of this recording at 1:00:00, and are left out") {
		t.Errorf("of another lecture: %v", f.Notes)
	}
}

// TestNothingWithin: a file of which no line lies in the recording is not taken.
func TestNothingWithin(t *testing.T) {
	f := must(t, "WEBVTT\n\n10:00:00.000 --> 10:00:01.000\ny\n")
	if f.Within(time.Hour); len(f.Cues) != 0 || f.AllFault != 1 {
		t.Errorf("%+v", f)
	}
}

// TestSeveralVoicesInOneCue: each word stays with who says it, whatever the form; and classes of marks leave
// nothing behind.
func TestSeveralVoicesInOneCue(t *testing.T) {
	for in, want := range map[string][2]string{
		"<v Ada>Where is it?</v> <v Bo>Here.</v>":      {"Ada: Where is it?\nBo: Here.", ""},
		"<v Ada>Where is it?\n<v Bo>Here.":             {"Ada: Where is it?\nBo: Here.", ""},
		"so <v.loud Bo>Here &amp; there.</v>":          {"so\nBo: Here & there.", ""},
		"<i.soft>quiet</i> <b.x y>loud</b> <c.z>z</c>": {"<i>quiet</i> <b>loud</b> z", ""},
		"<v Ada>One alone.</v>":                        {"Ada: One alone.", "Ada"},
	} {
		f := must(t, "WEBVTT\n\n00:00.000 --> 00:01.000\n"+in+"\n")
		var srt, vtt bytes.Buffer
		if err := errors.Join(WriteSubRip(&srt, f.Sheet), WriteWebVTT(&vtt, f.Sheet)); err != nil {
			t.Fatal(err)
		}
		if got := srt.String(); got != "1\n00:00:00,000 --> 00:00:01,000\n"+want[0]+"\n" {
			t.Errorf("%s: %q", in, got)
		}
		if f.Cues[0].Speaker != want[1] || strings.Contains(f.Cues[0].Text, "<") {
			t.Errorf("%s: %q says %q", in, f.Cues[0].Speaker, f.Cues[0].Text)
		}
		if again := must(t, vtt.String()); !reflect.DeepEqual(again.Sheet, f.Sheet) {
			t.Errorf("%s: written and read again %+v, was %+v", in, again.Sheet, f.Sheet)
		}
	}
}

// TestALineWithASpace is no empty line (WebVTT, section 4.1), so that it does not end a cue.
func TestALineWithASpace(t *testing.T) {
	f := must(t, "WEBVTT\n\n00:00.000 --> 00:01.000\n \nwhat is said\n\n00:02.000 --> 00:03.000\nmore\n")
	if f.AllFault != 0 || len(f.Cues) != 2 || f.Cues[0].Text != "what is said" {
		t.Errorf("%+v %+v", f.Cues, f.Faults)
	}
}

// TestTooMuch: a file of fifty megabytes, or of a million lines, is refused in a sentence, and soon.
func TestTooMuch(t *testing.T) {
	begun := time.Now()
	if _, err := Read(make([]byte, 50<<20)); err == nil || !strings.Contains(texts.English.Error(err), "50 MB") {
		t.Errorf("fifty megabytes: %v", err)
	}
	var b strings.Builder
	b.WriteString("WEBVTT\n")
	for n := 0; b.Len() < MaxBytes-40; n++ {
		fmt.Fprintf(&b, "\n%02d:%02d.000 --> 99:00.000\n", n/60%90, n%60)
	}
	if _, err := Read([]byte(b.String())); err == nil ||
		!strings.Contains(texts.English.Error(err), "more than 100000 lines") {
		t.Errorf("very many lines: %v", err)
	}
	if d := time.Since(begun); d > 10*time.Second {
		t.Errorf("it took %v", d)
	}
}

// hours is a WebVTT file of so many hours, a line every four seconds.
func hours(n int) []byte {
	s := caption.Sheet{}
	for at := time.Duration(0); at < time.Duration(n)*time.Hour; at += 4 * time.Second {
		s.Cues = append(s.Cues,
			caption.Cue{Span: span.Span{Start: at, End: at + 3900*ms},
				Text: "What is said in four seconds of a lecture,\nover two rows & with a sign or two"})
	}
	var b bytes.Buffer
	_ = WriteWebVTT(&b, s)
	return b.Bytes()
}

// BenchmarkReadTenHours: aim 200 ms.
func BenchmarkReadTenHours(b *testing.B) {
	file := hours(10)
	b.SetBytes(int64(len(file)))
	for b.Loop() {
		if f, err := Read(file); err != nil || len(f.Cues) != 9000 {
			b.Fatal(err, len(f.Cues))
		}
	}
}

// FuzzRead: whatever comes in, nothing breaks; and what was read, written and read again is the same.
func FuzzRead(f *testing.F) {
	f.Add([]byte("WEBVTT\n\nSTYLE\nx\n\na\n00:01.000 --> 00:02.000 line:0\n<v A>b &amp; <i>c</i></v>\n\nNOTE\n"))
	f.Add([]byte("1\n00:00:01,000 --> 00:00:02,000 X1:1\n{\\an8}<font>x</font> & y\n\nz\n\n2\n00:00:03,000 --> 00:00:04,000\n\n"))
	f.Add([]byte("\xff\xfeW\x00E\x00"))
	f.Fuzz(func(t *testing.T, b []byte) {
		file, err := Read(b)
		if err != nil || file.AllFault > 0 {
			return
		}
		for i, c := range file.Cues {
			if c.Empty() || c.Start < 0 || i > 0 && c.Start < file.Cues[i-1].Start {
				t.Fatalf("cue %d is %+v", i, c)
			}
		}
		for name, write := range map[string]func(*bytes.Buffer) error{
			"WebVTT": func(w *bytes.Buffer) error { return WriteWebVTT(w, file.Sheet) },
			"SubRip": func(w *bytes.Buffer) error { return WriteSubRip(w, file.Sheet) },
		} {
			var w bytes.Buffer
			if err := write(&w); err != nil {
				t.Fatal(err)
			}
			again, err := Read(w.Bytes())
			if err != nil || again.AllFault > 0 {
				t.Fatalf("%s cannot be read again: %v %v\n%q", name, err, again.Faults, w.String())
			}
			if len(again.Cues) != len(file.Cues) {
				t.Fatalf("%s has %d cues, had %d\n%q", name, len(again.Cues), len(file.Cues), w.String())
			}
			for i, c := range again.Cues {
				if c.Span != file.Cues[i].Span {
					t.Fatalf("%s: cue %d at %v, was at %v", name, i, c.Span, file.Cues[i].Span)
				}
				if name == "WebVTT" && (c.Text != file.Cues[i].Text || c.Speaker != file.Cues[i].Speaker) {
					t.Fatalf("cue %d says %q by %q, said %q by %q\n%q", i, c.Text, c.Speaker, file.Cues[i].Text,
						file.Cues[i].Speaker, w.String())
				}
			}
		}
	})
}
