package captionfile

import (
	"html"
	"regexp"
	"strings"

	"latelantern/internal/core/caption"
)

var (
	tag      = regexp.MustCompile(`</?[A-Za-z0-9][^<>\n]*>|</>`)
	voice    = regexp.MustCompile(`^<v(?:\.[^ >\n]*)?[ \t]+([^<>\n]+)>`)
	voices   = regexp.MustCompile(`(?:\s*</v>)?\s*<v(?:\.[^ >\n]*)?[ \t]+([^<>\n]+)>`)
	classed  = regexp.MustCompile(`^<([biu])(?:[. \t][^<>\n]*)?>$`)
	override = regexp.MustCompile(`\{\\[^{}\n]*\}`)                     // as SubRip files take them from another form
	simple   = regexp.MustCompile(`</?(?i:b|i|u|s|font)(\s[^<>\n]*)?>`) // those that SubRip knows
	entity   = regexp.MustCompile(`&(?:[A-Za-z][A-Za-z0-9]{1,30}|#\d{1,7}|#x[0-9A-Fa-f]{1,6});`)
)

// read takes the text of a cue as WebVTT writes it.
func read(c *caption.Cue, payload string) {
	payload = strings.Trim(payload, "\n")
	rest := payload
	if all := voices.FindAllStringIndex(payload, 2); len(all) > 1 ||
		len(all) == 1 && strings.TrimSpace(payload[:all[0][0]]) != "" {
		// Several speak: who says what stands in the text.
		c.Text = caption.Clean(plain(spoken(payload)))
		c.As.Markup = blankless(payload)
		return
	}
	if m := voice.FindStringSubmatch(rest); m != nil {
		c.Speaker = caption.Clean(html.UnescapeString(m[1]))
		rest = strings.TrimSuffix(rest[len(m[0]):], "</v>")
	}
	c.Text = caption.Clean(plain(rest))
	// Marks that say more than who speaks are kept beside the text.
	if marked(*c) != payload &&
		(tag.MatchString(rest) || override.MatchString(rest) || strings.HasPrefix(payload, "<v.")) {
		c.As.Markup = blankless(payload)
	}
}

// spoken is the text of a cue with the name of each who speaks before what they say, on a line of its own.
func spoken(payload string) string {
	return strings.TrimSpace(voices.ReplaceAllString(payload, "\n$1: "))
}

// plain is text without tags and with its entities resolved.
func plain(text string) string {
	text = override.ReplaceAllString(tag.ReplaceAllString(text, ""), "")
	return entity.ReplaceAllStringFunc(text, html.UnescapeString)
}

// blankless is text without empty lines, which would end it.
func blankless(text string) string {
	var lines []string
	for l := range strings.SplitSeq(text, "\n") {
		if strings.TrimSpace(l) != "" {
			lines = append(lines, strings.TrimRight(l, " \t"))
		}
	}
	return strings.Join(lines, "\n")
}

var escape = strings.NewReplacer("&", "&amp;", "<", "&lt;", ">", "&gt;")

// marked is the text of a cue as WebVTT writes it.
func marked(c caption.Cue) string {
	if c.As.Markup != "" {
		return strings.ReplaceAll(blankless(override.ReplaceAllString(c.As.Markup, "")), "-->", "--&gt;")
	}
	text := escape.Replace(c.Text)
	if c.Speaker != "" {
		text = "<v " + escape.Replace(c.Speaker) + ">" + text
	}
	return text
}

// readSubRip takes the text of a cue as SubRip writes it: tags as in old web pages, no entities.
func readSubRip(c *caption.Cue, payload string) {
	payload = blankless(payload)
	if !simple.MatchString(payload) && !override.MatchString(payload) {
		c.Text = caption.Clean(payload)
		return
	}
	// A sign that is no part of a tag means itself.
	var w strings.Builder
	for payload != "" {
		at := simple.FindStringIndex(payload)
		if at == nil {
			at = []int{len(payload), len(payload)}
		}
		w.WriteString(escape.Replace(payload[:at[0]]))
		w.WriteString(payload[at[0]:at[1]])
		payload = payload[at[1]:]
	}
	c.As.Markup = w.String()
	c.Text = caption.Clean(plain(c.As.Markup))
}

// markedSubRip is the text of a cue as SubRip writes it.
func markedSubRip(c caption.Cue) string {
	text := c.Text
	if c.As.Markup != "" {
		text = c.As.Markup
		if c.Speaker == "" {
			text = spoken(text)
		}
		text = tag.ReplaceAllStringFunc(text, func(t string) string {
			if m := classed.FindStringSubmatch(t); m != nil {
				return "<" + m[1] + ">"
			}
			return simple.FindString(t)
		})
		text = blankless(entity.ReplaceAllStringFunc(text, html.UnescapeString))
	}
	if c.Speaker != "" {
		text = c.Speaker + ": " + text
	}
	return strings.ReplaceAll(text, "-->", "→")
}
