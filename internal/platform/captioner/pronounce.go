package captioner

import (
	"context"
	"fmt"
	"strings"
	"time"

	"latelantern/internal/platform/media"
)

// spellOut lists lines of a dictionary for words that are in none, as a speech synthesiser says
// them. Words of which it makes nothing that is known are left out.
func spellOut(ctx context.Context, words []string) ([]string, error) {
	if len(words) == 0 {
		return nil, nil
	}
	said, err := media.ToolOutput(ctx, media.Call{
		Name: "espeak-ng", Args: []string{"-q", "-v", "en-us", "--ipa", "--stdin"}, Limit: time.Minute, Nice: 10,
		Stdin: strings.NewReader(strings.Join(words, ".\n\n") + ".\n"),
	})
	if err != nil {
		return nil, fmt.Errorf("pronounce words: %w", err)
	}
	lines := strings.Split(strings.TrimSpace(string(said)), "\n")
	if len(lines) != len(words) {
		return nil, fmt.Errorf("pronounce words: %d were asked for, %d came", len(words), len(lines))
	}
	var out []string
	for i, w := range words {
		if sounds := arpabet(lines[i]); sounds != "" {
			out = append(out, w+" "+sounds)
		}
	}
	return out, nil
}

// sounds are the signs of the International Phonetic Alphabet that the synthesiser writes for
// American English, longer ones first, and the sounds of ARPAbet for them.
var sounds = [][2]string{
	{"aɪɚ", "AY ER"}, {"aɪə", "AY AH"}, {"aʊɚ", "AW ER"}, {"ɜː", "ER"}, {"tʃ", "CH"}, {"dʒ", "JH"}, {"eɪ", "EY"},
	{"aɪ", "AY"}, {"ɔɪ", "OY"}, {"aʊ", "AW"}, {"oʊ", "OW"}, {"n̩", "AH N"},
	{"iə", "IY AH"}, {"ə", "AH"}, {"ɐ", "AH"}, {"ʌ", "AH"}, {"ɚ", "ER"}, {"ɝ", "ER"}, {"i", "IY"}, {"ɪ", "IH"},
	{"ᵻ", "IH"}, {"e", "EH"}, {"ɛ", "EH"}, {"æ", "AE"}, {"a", "AA"}, {"ɑ", "AA"}, {"ɒ", "AA"},
	{"ɔ", "AO"}, {"o", "AO"}, {"ʊ", "UH"}, {"u", "UW"}, {"p", "P"}, {"b", "B"}, {"t", "T"}, {"d", "D"}, {"k", "K"},
	{"ɡ", "G"}, {"f", "F"}, {"v", "V"}, {"θ", "TH"}, {"ð", "DH"}, {"s", "S"}, {"z", "Z"},
	{"ʃ", "SH"}, {"ʒ", "ZH"}, {"h", "HH"}, {"m", "M"}, {"n", "N"}, {"ŋ", "NG"}, {"l", "L"}, {"ɫ", "L"}, {"ɹ", "R"},
	{"r", "R"}, {"j", "Y"}, {"w", "W"}, {"ɾ", "T"}, {"ʔ", "T"}, {"x", "K"},
}

// arpabet is a word of the International Phonetic Alphabet in ARPAbet, without stress; "" when
// there is a sound in it that is not known.
func arpabet(ipa string) string {
	rest := strings.NewReplacer("ˈ", "", "ˌ", "", "ː", "ː", " ", "", "-", "").Replace(strings.TrimSpace(ipa))
	var out []string
next:
	for rest != "" {
		for _, s := range sounds {
			if after, ok := strings.CutPrefix(rest, s[0]); ok {
				out = append(out, s[1])
				rest = strings.TrimPrefix(after, "ː")
				continue next
			}
		}
		return ""
	}
	return strings.Join(out, " ")
}
