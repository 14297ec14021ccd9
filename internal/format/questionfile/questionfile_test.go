package questionfile

import (
	"archive/zip"
	"bytes"
	"errors"
	"fmt"
	"math/rand/v2"
	"reflect"
	"strings"
	"testing"

	"latelantern/internal/core/toall"
)

func sample() []toall.Question {
	return []toall.Question{
		{Kind: toall.One, Text: "When is <ebb> & flood \"today\"?", Choices: []string{"=6", "at noon; or later", "ä, ö"},
			Right: []int{2}},
		{Kind: toall.Several, Text: "Which lights turn?", Choices: []string{"Skerry", "Ness"}, Right: []int{0, 1}},
		{Kind: toall.Several, Text: "Which would you sail to?", Choices: []string{"a", "b", "c", "d", "e", "f", "g", "h",
			"i", "j"}},
		{Kind: toall.Number, Text: "How high, in metres?"},
		{Kind: toall.Words, Text: "'One word for it?"},
	}
}

func TestWhatIsWrittenIsReadBack(t *testing.T) {
	for _, f := range []Form{Sheet, QTI2, QTI3} {
		b, err := Write(f, sample())
		if err != nil {
			t.Fatal(err)
		}
		got, left, err := Read(b)
		if err != nil || len(left) > 0 || !reflect.DeepEqual(got, sample()) {
			t.Errorf("%s: %+v\nleft out %v, %v", f, got, left, err)
		}
		if kind, end := f.Kind(); kind == "" || end == "" {
			t.Errorf("%s is of no kind", f)
		}
	}
	if kind, _ := Form("pdf").Kind(); kind != "" {
		t.Error("PDF is a form")
	}
}

// TestAnyQuestionComesBack from each form, whatever letters are in it.
func TestAnyQuestionComesBack(t *testing.T) {
	random := rand.New(rand.NewPCG(25, 51))
	letters := []rune("aä=+-@'\"<>&;,| \t日🏮")
	word := func() string {
		var b strings.Builder
		for range random.IntN(12) + 1 {
			b.WriteRune(letters[random.IntN(len(letters))])
		}
		return strings.Join(strings.Fields(b.String()), " ")
	}
	tried := 0
	for range 3000 {
		q := toall.Question{Kind: toall.Kinds[random.IntN(4)], Text: word()}
		for i := range random.IntN(5) {
			q.Choices = append(q.Choices, word())
			if random.IntN(3) == 0 {
				q.Right = append(q.Right, i)
			}
		}
		want, err := toall.Clean(q)
		if err != nil {
			continue
		}
		tried++
		for _, f := range []Form{Sheet, QTI2, QTI3} {
			b, err := Write(f, []toall.Question{want})
			if err != nil {
				t.Fatal(err)
			}
			if got, left, err := Read(b); err != nil || len(got) != 1 || !reflect.DeepEqual(got[0], want) {
				t.Fatalf("%s: %+v is read as %+v, %v, %v\n%s", f, want, got, left, err, b)
			}
		}
	}
	if tried < 500 {
		t.Errorf("only %d were tried", tried)
	}
}

const head2 = `<assessmentItem xmlns="http://www.imsglobal.org/xsd/imsqti_v2p1" identifier="i1" title="Ebb">`

func item2(rest string) string { return head2 + rest + `</assessmentItem>` }

// TestItemsOfOthers are read as they are meant, whichever version they have.
func TestItemsOfOthers(t *testing.T) {
	for _, c := range []struct {
		name, file string
		want       toall.Question
	}{
		{"2.1, with a paragraph before the prompt, and marks in the text", `<?xml version="1.0" encoding="UTF-8"?>` + item2(`
			<responseDeclaration identifier="R" cardinality="single" baseType="identifier"><correctResponse>
			<value> B </value></correctResponse></responseDeclaration><outcomeDeclaration identifier="SCORE"/><itemBody>
			<p>Look at the <b>table</b>.</p><choiceInteraction responseIdentifier="R" shuffle="true" maxChoices="1">
			<prompt>When is <em>ebb</em>?</prompt><simpleChoice identifier="A"><p>at six</p></simpleChoice>
			<simpleChoice identifier="B">at <b>noon</b><feedbackInline>Well done</feedbackInline></simpleChoice>
			</choiceInteraction></itemBody>`),
			toall.Question{Kind: toall.One, Text: "Look at the table. When is ebb?", Choices: []string{"at six", "at noon"},
				Right: []int{1}}},
		{"2.1, any number of choices", item2(`<responseDeclaration identifier="R" cardinality="multiple"/><itemBody>
			<choiceInteraction responseIdentifier="R" maxChoices="0"><prompt>Which?</prompt>
			<simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b</simpleChoice>
			</choiceInteraction></itemBody>`),
			toall.Question{Kind: toall.Several, Text: "Which?", Choices: []string{"a", "b"}}},
		{"3.0", `<qti-assessment-item xmlns="http://www.imsglobal.org/xsd/imsqtiasi_v3p0" identifier="i" title="Ebb">
			<qti-response-declaration identifier="R" cardinality="multiple" base-type="identifier">
			<qti-correct-response><qti-value>A</qti-value><qti-value>B</qti-value></qti-correct-response>
			</qti-response-declaration><qti-item-body><qti-choice-interaction response-identifier="R" max-choices="2">
			<qti-prompt>Which?</qti-prompt><qti-simple-choice identifier="A">a</qti-simple-choice>
			<qti-simple-choice identifier="B">b</qti-simple-choice></qti-choice-interaction></qti-item-body>
			</qti-assessment-item>`,
			toall.Question{Kind: toall.Several, Text: "Which?", Choices: []string{"a", "b"}, Right: []int{0, 1}}},
		{"a number", item2(`<responseDeclaration identifier="R" cardinality="single" baseType="integer"/><itemBody>
			<p>How many <textEntryInteraction responseIdentifier="R"/> lights?</p></itemBody>`),
			toall.Question{Kind: toall.Number, Text: "How many lights?"}},
		{"a longer text", item2(`<itemBody><extendedTextInteraction responseIdentifier="R"><prompt>Why?</prompt>
			</extendedTextInteraction></itemBody>`), toall.Question{Kind: toall.Words, Text: "Why?"}},
		{"a sheet with semicolons and without kinds", "\xef\xbb\xbftext;right;choice 1;choice 2\r\nWhich?;2;a;b\r\n",
			toall.Question{Kind: toall.One, Text: "Which?", Choices: []string{"a", "b"}, Right: []int{1}}},
		{"a sheet with several right", "Text,Right,choice1,choice2\nWhich?,1 2,a,b\n",
			toall.Question{Kind: toall.Several, Text: "Which?", Choices: []string{"a", "b"}, Right: []int{0, 1}}},
		{"a sheet without choices", "text\nWhy?\n", toall.Question{Kind: toall.Words, Text: "Why?"}},
	} {
		got, left, err := Read([]byte(c.file))
		if err != nil || len(left) > 0 || len(got) != 1 || !reflect.DeepEqual(got[0], c.want) {
			t.Errorf("%s: %+v, left out %v, %v", c.name, got, left, err)
		}
	}
}

func zipped(t *testing.T, files ...string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for i := 0; i < len(files); i += 2 {
		w, err := z.Create(files[i])
		if err != nil {
			t.Fatal(err)
		}
		fmt.Fprint(w, files[i+1])
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

const choice = `<choiceInteraction responseIdentifier="R"><prompt>Which?</prompt>
	<simpleChoice identifier="A">a</simpleChoice><simpleChoice identifier="B">b</simpleChoice></choiceInteraction>`

func TestWhatIsRefused(t *testing.T) {
	bomb := `<!DOCTYPE x [<!ENTITY a "aaaaaaaaaa"><!ENTITY b "&a;&a;&a;">]>`
	body := func(rest string) string { return item2(`<itemBody>` + rest + `</itemBody>`) }
	for _, c := range []struct {
		name string
		file []byte
		want error
	}{
		{"nothing", nil, ErrBroken},
		{"no CSV", []byte("text,\"right\nx"), ErrBroken},
		{"a sheet of something else", []byte("name,mail\nAnn,a@x.example\n"), ErrBroken},
		{"a sheet without lines", []byte("text,choice1\n"), ErrEmpty},
		{"not in UTF-8", []byte("text\n\xff\xfe\n"), ErrBroken},
		{"entities", []byte(bomb + body(`<p>&b;</p>`+choice)), ErrOutside},
		{"a type by a file", []byte(`<!DOCTYPE x SYSTEM "file:///etc/passwd">` + body(choice)), ErrOutside},
		{"an unknown entity", []byte(body(`<p>&nbsp;</p>` + choice)), ErrBroken},
		{"a style sheet", []byte(`<?xml-stylesheet href="x.xsl"?>` + body(choice)), ErrOutside},
		{"a picture", []byte(body(`<img src="ebb.png" alt=""/>` + choice)), ErrOutside},
		{"a sound", []byte(body(`<object data="ebb.mp3" type="audio/mpeg"/>` + choice)), ErrOutside},
		{"another file", []byte(body(`<xi:include xmlns:xi="http://www.w3.org/2001/XInclude" href="x"/>` + choice)),
			ErrOutside},
		{"a picture in a choice", []byte(body(strings.Replace(choice, ">a<", `><img src="x"/><`, 1))), ErrOutside},
		{"a link", []byte(body(`<a href="https://x.example">x</a>` + choice)), ErrOutside},
		{"a script", []byte(body(`<script>x</script>` + choice)), ErrOutside},
		{"cut off", []byte(body(choice)[:200]), ErrBroken},
		{"other XML", []byte(`<playlist/>`), ErrBroken},
		{"deep", []byte(strings.Repeat("<p>", 5000)), ErrBroken},
		{"a picture within an archive", zipped(t, "a.xml", body(`<img src="x"/>`+choice)), ErrOutside},
		{"an archive without items", zipped(t, "a.txt", "x", "imsmanifest.xml", "<manifest/>"), ErrEmpty},
		{"a broken archive", []byte("PK\x03\x04 and more"), ErrBroken},
		{"an archive that holds much", zipped(t, "a.xml", strings.Repeat(" ", MostBytes+1)), ErrLong},
		{"a long file", bytes.Repeat([]byte("x"), MostBytes+1), ErrLong},
		{"many lines", []byte("text\n" + strings.Repeat("Why?\n", MostQuestions+1)), ErrLong},
	} {
		if got, left, err := Read(c.file); !errors.Is(err, c.want) || got != nil || left != nil {
			t.Errorf("%s: %v, want %v; %v %v", c.name, err, c.want, got, left)
		}
	}
}

// TestWhatIsLeftOut is told with its name, and takes nothing else along.
func TestWhatIsLeftOut(t *testing.T) {
	order := `<orderInteraction responseIdentifier="R"><simpleChoice identifier="A">a</simpleChoice></orderInteraction>`
	got, left, err := Read(zipped(t, "1.xml", item2(`<itemBody>`+choice+`</itemBody>`),
		"2.xml", strings.Replace(item2(`<itemBody>`+order+`</itemBody>`), "Ebb", "In order", 1),
		"3.xml", item2(`<itemBody>`+choice+choice+`</itemBody>`), "4.xml", "<other/>",
		"5.xml", item2(`<itemBody>`+strings.Replace(choice, ">b<", ">a<", 1)+`</itemBody>`)))
	said := fmt.Sprint(left)
	if err != nil || len(got) != 1 || len(left) != 4 || left[0].Name != "In order" || left[0].Why.Code != "questionfile.kind" ||
		left[2].Name != "4.xml" || left[3].Why.Code != "toall.same" {
		t.Errorf("%v, %s, %v", got, said, err)
	}
	got, left, err = Read([]byte("kind,text,right,choice1,choice2\none,Which?,3,a,b\nessay,Why?,,,\none,Which?,x,a,b\n" +
		"number,\"How\nhigh?\",,,\n"))
	if err != nil || len(got) != 1 || len(left) != 3 || left[0].Name != "2" || left[0].Why.Code != "toall.right" ||
		left[1].Why.Code != "toall.kind" || left[2].Why.Code != "toall.right" {
		t.Errorf("%v, %v, %v", got, left, err)
	}
}
