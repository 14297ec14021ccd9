package questionfile

import (
	"bytes"
	"encoding/csv"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode/utf8"

	"latelantern/internal/core/toall"
	"latelantern/internal/format/sheetcell"
)

// writeSheet writes a line for each question: its kind, its text, which choices are right, from 1 on, and the choices.
func writeSheet(all []toall.Question) ([]byte, error) {
	var b bytes.Buffer
	w := csv.NewWriter(&b)
	w.UseCRLF = true
	head := []string{"kind", "text", "right"}
	most := 2
	for _, q := range all {
		most = max(most, len(q.Choices))
	}
	for i := range most {
		head = append(head, fmt.Sprintf("choice%d", i+1))
	}
	rows := [][]string{head}
	for _, q := range all {
		var right []string
		for _, i := range q.Right {
			right = append(right, strconv.Itoa(i+1))
		}
		row := []string{string(q.Kind), sheetcell.Harmless(q.Text), strings.Join(right, ";")}
		for i := range most {
			cell := ""
			if i < len(q.Choices) {
				cell = sheetcell.Harmless(q.Choices[i])
			}
			row = append(row, cell)
		}
		rows = append(rows, row)
	}
	err := w.WriteAll(rows)
	return b.Bytes(), err
}

// sheet reads CSV, with commas or semicolons, by the names of its columns. Without a kind a line with choices has one
// right, or several if it says so, and one without choices is answered in words.
func (r *reading) sheet(b []byte) error {
	if !utf8.Valid(b) {
		return ErrBroken
	}
	in := csv.NewReader(bytes.NewReader(b))
	in.FieldsPerRecord = -1
	if head, _, _ := bytes.Cut(b, []byte("\n")); bytes.Count(head, []byte(";")) > bytes.Count(head, []byte(",")) {
		in.Comma = ';'
	}
	head, err := in.Read()
	if err != nil {
		return fmt.Errorf("%w: %w", ErrBroken, err)
	}
	at := map[string]int{}
	var choices []int
	for i, h := range head {
		name := strings.ToLower(strings.TrimSpace(h))
		if strings.HasPrefix(name, "choice") {
			choices = append(choices, i)
		}
		at[name] = i
	}
	if _, has := at["text"]; !has {
		return ErrBroken
	}
	for {
		row, err := in.Read()
		if err == io.EOF {
			return nil
		}
		if err != nil {
			return fmt.Errorf("%w: %w", ErrBroken, err)
		}
		line, _ := in.FieldPos(0)
		if err := r.add(strconv.Itoa(line), questionOf(row, at, choices)); err != nil {
			return err
		}
	}
}

// questionOf is what a row says.
func questionOf(row []string, at map[string]int, choices []int) toall.Question {
	cell := func(i int, has bool) string {
		if !has || i >= len(row) {
			return ""
		}
		return sheetcell.AsItWas(strings.TrimSpace(row[i]))
	}
	named := func(column string) string {
		i, has := at[column]
		return cell(i, has)
	}
	q := toall.Question{Kind: toall.Kind(strings.ToLower(named("kind"))), Text: named("text")}
	for _, i := range choices {
		if c := cell(i, true); c != "" {
			q.Choices = append(q.Choices, c)
		}
	}
	apart := func(r rune) bool { return strings.ContainsRune(";, ", r) }
	for _, word := range strings.FieldsFunc(named("right"), apart) {
		n, err := strconv.Atoi(word)
		if err != nil {
			n = 0 // which no choice is: said so with the question
		}
		q.Right = append(q.Right, n-1)
	}
	if q.Kind == "" {
		switch {
		case len(q.Choices) == 0:
			q.Kind = toall.Words
		case len(q.Right) > 1:
			q.Kind = toall.Several
		default:
			q.Kind = toall.One
		}
	}
	return q
}
