package webvtt

import (
	"bytes"
	"reflect"
	"strings"
	"testing"
	"time"

	"latelantern/internal/core/span"
)

const ms = time.Millisecond

func TestRead(t *testing.T) {
	got, err := Read(strings.NewReader("\ufeffWEBVTT - tides\r\n\r\nNOTE nothing\n\nfirst\n00:01.000 --> 00:03.500 align:start\n<v Maren>The tide\nturns &amp; rises\n\n01:00:00.250 --> 01:00:01.000\nlate\n"))
	want := []Cue{
		{span.Span{Start: 1000 * ms, End: 3500 * ms}, "The tide turns & rises"},
		{span.Span{Start: time.Hour + 250*ms, End: time.Hour + 1000*ms}, "late"},
	}
	if err != nil || !reflect.DeepEqual(got, want) {
		t.Errorf("%+v %v", got, err)
	}
}

func TestReadSaysWhereItFails(t *testing.T) {
	for in, line := range map[string]string{
		"1\n00:01.000 --> 00:02.000\n":                   "line 1",
		"WEBVTT\n\n00:01 --> 00:02.000\nx\n":             "line 3",
		"WEBVTT\n\n00:05.000 --> 00:02.000\nx\n":         "line 3",
		"WEBVTT\n\n00:01.000 --> 00:02.000\nx\n\n1 --> ": "line 6",
	} {
		if _, err := Read(strings.NewReader(in)); err == nil || !strings.HasPrefix(err.Error(), line) {
			t.Errorf("%q: %v, want %s", in, err, line)
		}
	}
}

func TestWrittenIsRead(t *testing.T) {
	in := []Cue{{span.Span{Start: 0, End: 999 * ms}, "a < b & c > d"}, {span.Span{Start: 2 * time.Hour, End: 2*time.Hour + 61*time.Second}, "long"}}
	var b bytes.Buffer
	if err := Write(&b, in); err != nil {
		t.Fatal(err)
	}
	if got, err := Read(&b); err != nil || !reflect.DeepEqual(got, in) {
		t.Errorf("%+v %v", got, err)
	}
}
