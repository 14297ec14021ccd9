package main

import (
	"strings"
	"testing"
)

func TestFollow(t *testing.T) {
	var out strings.Builder
	slow, failed := follow(strings.NewReader(`
{"Action":"output","Package":"latelantern/x","Test":"TestA","Output":"heard of A\n"}
{"Action":"pass","Package":"latelantern/x","Test":"TestA","Elapsed":1.5}
{"Action":"output","Package":"latelantern/x","Test":"TestB/part","Output":"B is wrong\n"}
{"Action":"fail","Package":"latelantern/x","Test":"TestB/part","Elapsed":9}
{"Action":"fail","Package":"latelantern/x","Test":"TestB","Elapsed":9.5}
{"Action":"run","Package":"latelantern/x","Test":"TestC"}
{"Action":"output","Package":"latelantern/x","Test":"TestC","Output":"panic: C\n"}
{"Action":"run","Package":"latelantern/x","Test":"TestD"}
{"Action":"output","Package":"latelantern/x","Test":"TestD","Output":"=== RUN   TestD\n"}
{"Action":"pause","Package":"latelantern/x","Test":"TestD"}
{"Action":"output","Package":"latelantern/x","Test":"TestE","Output":"E was left out\n"}
{"Action":"skip","Package":"latelantern/x","Test":"TestE"}
{"Action":"output","Package":"latelantern/x","Output":"FAIL\tlatelantern/x\n"}
x.go:1: no such thing
`), &out)
	if got := out.String(); got != "\nB is wrong\nFAIL\tlatelantern/x\nx.go:1: no such thing\npanic: C\n" {
		t.Errorf("%q", got)
	}
	if len(slow) != 2 || slow[0] != (took{"x TestB", 9.5}) || slow[1] != (took{"x TestA", 1.5}) {
		t.Errorf("%v", slow)
	}
	if len(failed) != 2 || failed[0] != "latelantern/x TestB\nB is wrong\n" ||
		failed[1] != "latelantern/x TestC, which did not end" {
		t.Errorf("%q", failed)
	}
}
