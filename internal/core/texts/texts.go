// Package texts puts codes into words: for letters, files and the command line, and as the sentence that an answer has
// beside its code. Pages have the same catalogue in their own form (Vue).
package texts

import (
	_ "embed"
	"encoding/json"
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"time"

	"github.com/nicksnyder/go-i18n/v2/i18n"
	"golang.org/x/text/language"

	"latelantern/internal/core/fault"
)

//go:embed en.json
var english []byte

//go:embed de.json
var german []byte

// The languages of which there is a catalogue.
var (
	English = load(language.English, english, inEnglish)
	German  = load(language.German, german, inGerman)
)

// Languages are all of them, by their tags (BCP 47).
var Languages = map[string]*Language{"en": English, "de": German}

// Of is the first of some languages of which there is a catalogue; English when there is none.
func Of(tags ...string) *Language {
	for _, tag := range tags {
		if l := Languages[tag]; l != nil {
			return l
		}
	}
	return English
}

// Language is a catalogue in one language.
type Language struct {
	words     map[fault.Code]entry
	localizer *i18n.Localizer
	way       way
}

// way is how a language writes what stands in a sentence.
type way struct {
	date func(time.Time) string // without its year
	at   string                 // what stands between a date and its hour
	or   string
}

var inEnglish = way{func(t time.Time) string { return t.Format("2 January") }, " at ", " or "}

var months = [...]string{"Januar", "Februar", "März", "April", "Mai", "Juni", "Juli", "August", "September", "Oktober",
	"November", "Dezember"}

var inGerman = way{func(t time.Time) string { return fmt.Sprintf("%d. %s", t.Day(), months[t.Month()-1]) }, " um ",
	" oder "}

// entry is a sentence, in the forms that its number n asks for (CLDR); a sentence without a number has one form.
// What stands in it is named in braces, and signs that mean something in a catalogue stand as {'@'}.
type entry struct {
	One   string `json:"one"`
	Other string `json:"other"`
}

func (e *entry) UnmarshalJSON(b []byte) error {
	if err := json.Unmarshal(b, &e.Other); err == nil {
		return nil
	}
	type forms entry
	return json.Unmarshal(b, (*forms)(e))
}

var (
	place   = regexp.MustCompile(`\{(\w+)\}`)
	literal = regexp.MustCompile(`\{'([^']*)'\}`)
)

// load reads a catalogue that ships with the program; it panics on one that cannot be read.
func load(tag language.Tag, file []byte, in way) *Language {
	l := &Language{way: in}
	if err := json.Unmarshal(file, &l.words); err != nil {
		panic(err)
	}
	bundle := i18n.NewBundle(tag)
	for code, e := range l.words {
		template := func(s string) string {
			return literal.ReplaceAllString(place.ReplaceAllString(s, "{{.$1}}"), "$1")
		}
		if e.One == "" {
			e.One = e.Other
		}
		bundle.MustAddMessages(tag, &i18n.Message{ID: string(code), One: template(e.One), Other: template(e.Other)})
	}
	l.localizer = i18n.NewLocalizer(bundle, tag.String())
	return l
}

// Say is a sentence in words. One whose code is not in the catalogue is a plain sentence all the same.
func (l *Language) Say(t fault.Text) string {
	with := map[string]string{}
	for name, v := range t.With {
		with[name] = l.value(v)
	}
	config := i18n.LocalizeConfig{MessageID: string(t.Code), TemplateData: with}
	if n, ok := t.With["n"].(int); ok {
		config.PluralCount = n
	}
	out, err := l.localizer.Localize(&config)
	if err != nil && t.Code != unworded {
		return l.Say(fault.Say(unworded, "code", string(t.Code)))
	}
	return out
}

const unworded fault.Code = "unworded"

// value is what stands in a sentence, as its language writes it.
func (l *Language) value(v any) string {
	switch x := v.(type) {
	case int:
		return strconv.Itoa(x)
	case string:
		return x
	case fault.Day:
		return l.way.date(x.Time) + x.Format(" 2006")
	case fault.Hour:
		return x.Format("15:04")
	case fault.Moment:
		return l.way.date(x.Time) + l.way.at + x.Format("15:04")
	case fault.Clock:
		return clock(time.Duration(x))
	case fault.Either:
		return strings.Join(x, l.way.or)
	case fault.Text:
		return l.Say(x)
	}
	return fmt.Sprint(v)
}

// clock writes a place in a recording, such as 41:07 or 1:02:41.
func clock(d time.Duration) string {
	s := int(d / time.Second)
	if s >= 3600 {
		return fmt.Sprintf("%d:%02d:%02d", s/3600, s/60%60, s%60)
	}
	return fmt.Sprintf("%d:%02d", s/60, s%60)
}

// Error is what an error says to people, all faults of a form among it; where it says nothing to them, what it says.
func (l *Language) Error(err error) string {
	said := fault.All(err)
	if len(said) == 0 {
		return err.Error()
	}
	out := make([]string, len(said))
	for i, t := range said {
		out[i] = l.Say(t)
	}
	return strings.Join(out, " ")
}

// Vue is the catalogue as pages read it (vue-i18n): codes by their parts, the forms of a number parted by a bar.
func (l *Language) Vue() map[string]any {
	out := map[string]any{}
	for code, e := range l.words {
		text := e.Other
		if e.One != "" {
			text = e.One + " | " + e.Other
		}
		group, name, parted := strings.Cut(string(code), ".")
		if !parted {
			group, name = "plain", string(code)
		}
		within, ok := out[group].(map[string]string)
		if !ok {
			within = map[string]string{}
			out[group] = within
		}
		within[name] = text
	}
	return out
}
