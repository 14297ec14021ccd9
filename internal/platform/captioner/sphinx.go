package captioner

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
	"latelantern/internal/core/wording"
	"latelantern/internal/platform/media"
)

// Sphinx is the captioner that is built in: pocketsphinx with its model of American English.
type Sphinx struct {
	Model string // folder of the model; "" for where Debian's package puts it
}

const debianModel = "/usr/share/pocketsphinx/model/en-us"

func (s Sphinx) at(name string) string {
	dir := s.Model
	if dir == "" {
		dir = debianModel
	}
	return filepath.Join(dir, name)
}

// Name implements Captioner.
func (Sphinx) Name() string { return "pocketsphinx" }

// Speaks implements Captioner.
func (Sphinx) Speaks(language string) bool {
	return language == "" || strings.EqualFold(language, "en") || strings.HasPrefix(strings.ToLower(language), "en-")
}

// sphinxSession is a folder with what a course brings along.
type sphinxSession struct {
	Sphinx
	dir      string
	lm, dict string
	model    *wording.Model // what is likely to be said
}

// Begin implements Captioner.
func (s Sphinx) Begin(ctx context.Context, own Own) (Session, error) {
	dir, err := os.MkdirTemp("", "draft")
	if err != nil {
		return nil, fmt.Errorf("make room for a draft: %w", err)
	}
	x := &sphinxSession{s, dir, s.at("en-us.lm.bin"), s.at("cmudict-en-us.dict"), own.Model}
	if own.Model == nil {
		general, err := s.General()
		if err != nil {
			return nil, errors.Join(err, x.Close())
		}
		x.model = wording.NewModel(nil, general.Within(len(general.Words), nil))
		return x, nil
	}
	x.lm, x.dict = filepath.Join(dir, "own.lm.bin"), filepath.Join(dir, "own.dict")
	if err := x.writeOwn(ctx, own.Model); err != nil {
		return nil, errors.Join(err, x.Close())
	}
	return x, nil
}

// Close removes the folder.
func (s *sphinxSession) Close() error { return os.RemoveAll(s.dir) }

// most is how many states of sounds are followed from one frame to the next. More of them found no
// more words in our measurements, for a third more processor time.
const most = 3000

func (s *sphinxSession) Draft(ctx context.Context, pieces []Piece) (Draft, error) {
	dir, err := os.MkdirTemp(s.dir, "pieces")
	if err != nil {
		return Draft{}, fmt.Errorf("make room for a draft: %w", err)
	}
	defer os.RemoveAll(dir)
	var list strings.Builder
	for i, p := range pieces {
		name := fmt.Sprintf("%05d", i)
		if err := os.WriteFile(filepath.Join(dir, name+".raw"), p.PCM, 0o600); err != nil {
			return Draft{}, fmt.Errorf("write sound to be drafted: %w", err)
		}
		fmt.Fprintln(&list, name)
	}
	ctl, seg := filepath.Join(dir, "list"), filepath.Join(dir, "seg")
	if err := os.WriteFile(ctl, []byte(list.String()), 0o600); err != nil {
		return Draft{}, fmt.Errorf("write sound to be drafted: %w", err)
	}
	var total time.Duration
	for _, p := range pieces {
		total += length(p.PCM)
	}
	// Silence is left in, so that the times hold.
	err = media.Tool(ctx,
		media.Call{Name: "pocketsphinx_batch", Limit: time.Minute + 10*total, Nice: 10, Args: []string{
			"-adcin", "yes", "-cepdir", dir, "-cepext", ".raw", "-ctl", ctl, "-hypseg", seg, "-hmm", s.at("en-us"),
			"-lm", s.lm, "-dict", s.dict,
			"-remove_silence", "no", "-maxhmmpf", strconv.Itoa(most), "-outlatdir", dir, "-logfn", os.DevNull}})
	if err != nil {
		return Draft{}, fmt.Errorf("draft words: %w", err)
	}
	f, err := os.Open(seg)
	if err != nil {
		return Draft{}, fmt.Errorf("read a draft: %w", err)
	}
	defer f.Close()
	var out Draft
	if out.Words, err = segments(f, pieces); err != nil {
		return Draft{}, err
	}
	out.Heard, err = heard(dir, pieces, s.model)
	return out, err
}

// segments reads what pocketsphinx writes of each piece: S, scale, T, A, L and their scores, then
// the frame of a hundredth of a second in which each word begins, two scores and the word, and
// at last the frame of the end.
func segments(r io.Reader, pieces []Piece) ([]caption.Word, error) {
	var out []caption.Word
	in := bufio.NewScanner(r)
	in.Buffer(nil, 4<<20)
	for n := 0; in.Scan(); n++ {
		fields := strings.Fields(in.Text())
		if n >= len(pieces) || len(fields) < 2 {
			return nil, fmt.Errorf("%w: line %d of a draft", ErrNonsense, n+1)
		}
		// The fields before the words are pairs of a letter and a number.
		i := slices.IndexFunc(fields, func(f string) bool { return f == "L" })
		if i < 0 {
			continue // nothing was made out
		}
		rest := fields[i+2:]
		frame := func(k int) (time.Duration, error) {
			v, err := strconv.Atoi(rest[k])
			return time.Duration(v) * 10 * time.Millisecond, err
		}
		for k := 0; k+4 < len(rest); k += 4 {
			from, err := frame(k)
			to, err2 := frame(k + 4)
			if err != nil || err2 != nil {
				return nil, fmt.Errorf("%w: line %d of a draft", ErrNonsense, n+1)
			}
			word, _, _ := strings.Cut(rest[k+3], "(")
			if word == "" || strings.HasPrefix(word, "<") || strings.HasPrefix(word, "[") ||
				strings.HasPrefix(word, "++") {
				continue
			}
			at := pieces[n].At.Start
			out = append(out, caption.Word{Span: span.Span{Start: at + from, End: at + to}, Text: word})
		}
	}
	return out, in.Err()
}

// writeOwn writes a model, in the form that is soonest read, and how its words are pronounced.
func (s *sphinxSession) writeOwn(ctx context.Context, m *wording.Model) error {
	said, err := s.pronounce(ctx, m.Vocabulary())
	if err != nil {
		return err
	}
	if err := os.WriteFile(s.dict, []byte(strings.Join(said, "\n")+"\n"), 0o600); err != nil {
		return fmt.Errorf("write how words are pronounced: %w", err)
	}
	arpa := filepath.Join(s.dir, "own.lm")
	f, err := os.OpenFile(arpa, os.O_CREATE|os.O_WRONLY, 0o600)
	if err != nil {
		return fmt.Errorf("write the model of a course: %w", err)
	}
	defer os.Remove(arpa)
	if err := errors.Join(m.WriteARPA(f), f.Close()); err != nil {
		return fmt.Errorf("write the model of a course: %w", err)
	}
	err = media.Tool(ctx,
		media.Call{Name: "sphinx_lm_convert", Limit: 2 * time.Minute, Nice: 10,
			Args: []string{"-i", arpa, "-o", s.lm, "-ofmt", "bin"}})
	if err != nil {
		return fmt.Errorf("make the model of a course ready: %w", err)
	}
	return nil
}

// pronounce lists lines of a dictionary for words: as they stand in that of the model, or else
// as a speech synthesiser says them.
func (s Sphinx) pronounce(ctx context.Context, words []string) ([]string, error) {
	f, err := os.Open(s.at("cmudict-en-us.dict"))
	if err != nil {
		return nil, fmt.Errorf("read how words are pronounced: %w", err)
	}
	defer f.Close()
	missing := make(map[string]bool, len(words))
	for _, w := range words {
		missing[w] = true
	}
	known := map[string]bool{}
	var out []string
	for in := bufio.NewScanner(f); in.Scan(); {
		head, _, _ := strings.Cut(in.Text(), " ")
		word, _, _ := strings.Cut(head, "(")
		if missing[word] || known[word] {
			out = append(out, in.Text())
			known[word] = true
			delete(missing, word)
		}
	}
	rest := make([]string, 0, len(missing))
	for w := range missing {
		rest = append(rest, w)
	}
	slices.Sort(rest)
	more, err := spellOut(ctx, rest)
	return append(out, more...), err
}

// General is what the model that is built in knows of its language. Its error wraps media.ErrNoTool
// when the model is not on this machine.
func (s Sphinx) General() (*wording.Language, error) {
	b, err := os.ReadFile(s.at("en-us.lm.bin"))
	if errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("%w: the general model: %w", media.ErrNoTool, err)
	}
	if err != nil {
		return nil, fmt.Errorf("read the general model: %w", err)
	}
	return general(b)
}
