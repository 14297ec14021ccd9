package captioner

import (
	"bytes"
	"context"
	"encoding/binary"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"strings"
	"time"

	"latelantern/internal/core/caption"
	"latelantern/internal/core/span"
)

// Server is a captioner behind an address that speaks the common form: a file and its settings are
// posted to /v1/audio/transcriptions, and words with their times come back as JSON.
type Server struct {
	Address string // without a slash at its end
	Key     string // "" for none
	Model   string
	Limit   time.Duration // for one piece; 0 for two minutes
}

// Name implements Captioner.
func (s *Server) Name() string { return s.Model }

// Speaks implements Captioner: what it cannot, the server says itself.
func (*Server) Speaks(string) bool { return true }

// The most that is read of an answer.
const mostAnswer = 4 << 20

type serverSession struct {
	*Server
	own Own
}

// Begin implements Captioner.
func (s *Server) Begin(_ context.Context, own Own) (Session, error) {
	return serverSession{s, own}, nil
}

func (serverSession) Close() error { return nil }

func (s serverSession) Draft(ctx context.Context, pieces []Piece) (Draft, error) {
	var out Draft
	for _, p := range pieces {
		if len(p.PCM) == 0 {
			continue
		}
		words, err := s.one(ctx, p)
		if err != nil {
			return Draft{}, err
		}
		out.Words = append(out.Words, words...)
	}
	return out, nil
}

func (s serverSession) one(ctx context.Context, p Piece) ([]caption.Word, error) {
	limit := s.Limit
	if limit == 0 {
		limit = 2 * time.Minute
	}
	ctx, cancel := context.WithTimeout(ctx, limit)
	defer cancel()
	var b bytes.Buffer
	form := multipart.NewWriter(&b)
	file, err := form.CreateFormFile("file", "piece.wav")
	if err == nil {
		_, err = file.Write(wav(p.PCM))
	}
	fields := [][2]string{{"model", s.Model}, {"response_format", "verbose_json"},
		{"timestamp_granularities[]", "word"}}
	if s.own.Language != "" {
		language, _, _ := strings.Cut(s.own.Language, "-")
		fields = append(fields, [2]string{"language", strings.ToLower(language)})
	}
	if prompt := prompt(s.own.Terms); prompt != "" {
		fields = append(fields, [2]string{"prompt", prompt})
	}
	for _, f := range fields {
		err = errors.Join(err, form.WriteField(f[0], f[1]))
	}
	if err := errors.Join(err, form.Close()); err != nil {
		return nil, fmt.Errorf("write sound for a captioner: %w", err)
	}
	request, err := http.NewRequestWithContext(ctx, http.MethodPost, s.Address+"/v1/audio/transcriptions", &b)
	if err != nil {
		return nil, fmt.Errorf("ask a captioner: %w", err)
	}
	request.Header.Set("Content-Type", form.FormDataContentType())
	if s.Key != "" {
		request.Header.Set("Authorization", "Bearer "+s.Key)
	}
	response, err := http.DefaultClient.Do(request)
	if err != nil {
		return nil, fmt.Errorf("%w: %w", ErrDown, err)
	}
	defer response.Body.Close()
	answer, err := io.ReadAll(io.LimitReader(response.Body, mostAnswer+1))
	switch {
	case err != nil:
		return nil, fmt.Errorf("%w: %w", ErrDown, err)
	case response.StatusCode >= 500 || response.StatusCode == http.StatusTooManyRequests:
		return nil, fmt.Errorf("%w: %s", ErrDown, response.Status)
	case response.StatusCode != http.StatusOK:
		return nil, fmt.Errorf("%w: %s", ErrNonsense, response.Status)
	case len(answer) > mostAnswer:
		return nil, fmt.Errorf("%w: more than %d bytes", ErrNonsense, mostAnswer)
	}
	return transcript(answer, p)
}

// prompt lists terms, as many as a server will heed.
func prompt(terms []string) string {
	const most = 800 // bytes
	out := ""
	for _, t := range terms {
		if next := strings.TrimPrefix(out+", "+t, ", "); len(next) <= most {
			out = next
		}
	}
	return out
}

// transcript reads the words of an answer; where it gives no words, those of its segments, spread
// evenly over them.
func transcript(answer []byte, p Piece) ([]caption.Word, error) {
	type stretch struct {
		Start float64 `json:"start"`
		End   float64 `json:"end"`
		Word  string  `json:"word"`
		Text  string  `json:"text"`
	}
	var said struct {
		Text     *string   `json:"text"`
		Words    []stretch `json:"words"`
		Segments []stretch `json:"segments"`
	}
	if err := json.Unmarshal(answer, &said); err != nil ||
		said.Text == nil && said.Words == nil && said.Segments == nil {
		return nil, fmt.Errorf("%w: no transcript", ErrNonsense)
	}
	parts := said.Words
	if len(parts) == 0 {
		parts = said.Segments
	}
	whole := length(p.PCM)
	if len(parts) == 0 && said.Text != nil {
		parts = []stretch{{0, whole.Seconds(), "", *said.Text}}
	}
	var out []caption.Word
	for _, x := range parts {
		text := caption.Clean(x.Word + " " + x.Text)
		at := span.Span{Start: seconds(x.Start), End: seconds(x.End)}
		if at.Start < 0 || at.End < at.Start || at.Start > whole+time.Second {
			return nil, fmt.Errorf("%w: times outside of what was sent", ErrNonsense)
		}
		words := strings.Fields(text)
		for i, w := range words {
			step := at.Len() / time.Duration(len(words))
			from := p.At.Start + at.Start + time.Duration(i)*step
			out = append(out,
				caption.Word{Span: span.Span{Start: from, End: max(from+step, from+time.Millisecond)}, Text: w})
		}
	}
	return out, nil
}

func seconds(s float64) time.Duration {
	return time.Duration(min(max(s, -1), 1e6) * float64(time.Second)).Round(time.Millisecond)
}

// wav is sound as a RIFF file: one channel, 16 kHz, 16 bits.
func wav(pcm []byte) []byte {
	le := binary.LittleEndian
	b := append([]byte("RIFF"), le.AppendUint32(nil, uint32(36+len(pcm)))...)
	b = append(b, "WAVEfmt "...)
	b = le.AppendUint32(b, 16)
	b = le.AppendUint16(b, 1)
	b = le.AppendUint16(b, 1)
	b = le.AppendUint32(b, Rate)
	b = le.AppendUint32(b, 2*Rate)
	b = le.AppendUint16(b, 2)
	b = le.AppendUint16(b, 16)
	b = append(b, "data"...)
	b = le.AppendUint32(b, uint32(len(pcm)))
	return append(b, pcm...)
}
