package feeds

import (
	"context"
	"fmt"

	"github.com/google/uuid"

	"latelantern/internal/platform/postgres"
)

// Files is what there is of a published recording.
type Files struct {
	Edition   uuid.UUID
	Languages []string // of the captions that those who watch may read
	Copies    map[string]Copy
	Has
}

// Has is what a recording has that could be a file.
type Has struct{ Video, Audio, Small bool }

// Copy is one file of an edition, of the kind video, small or sound.
type Copy struct {
	State    string // making, ready, failed
	Bytes    int64  // once it is ready
	Chapters bool   // it has chapters
}

// filesSQL are the published ones of some recordings, each once for every copy that was asked for, or once.
const filesSQL = `select r.id as recording_id, r.edition_id,
	array(select c.language from recording_capture rc join caption c on c.capture_id = rc.capture_id
		where rc.recording_id = r.id group by c.language
		having bool_and(c.shown_at is not null) order by c.language) as languages,
	coalesce(c.kind, '') as kind, coalesce(c.state, '') as state, coalesce(c.bytes, 0) as bytes,
	c.about is not null as chapters, h.*
	from recorded r left join edition_copy c on c.edition_id = r.edition_id
	cross join lateral (select coalesce(bool_or(t.video), false) as video, coalesce(bool_or(t.audio), false) as audio,
		coalesce(bool_or(t.video) and bool_and(t.small_state = 'ready') filter (where t.role = 'main'), false) as small
		from recording_capture rc join track t on t.capture_id = rc.capture_id
		where rc.recording_id = r.id and t.state <> 'failed') h
	where r.id = any(%s) and r.edition_id is not null and r.deleted_at is null`

// Files says what there is of recordings; those that are not published are left out.
func (s *Service) Files(ctx context.Context, recordings []uuid.UUID) (map[uuid.UUID]Files, error) {
	type row struct {
		RecordingID, EditionID uuid.UUID
		Languages              []string
		Kind                   string
		Copy
		Has
	}
	rows, err := postgres.All[row](ctx, s.DB, fmt.Sprintf(filesSQL, `$1`), recordings)
	if err != nil {
		return nil, fmt.Errorf("list the files of recordings: %w", err)
	}
	out := map[uuid.UUID]Files{}
	for _, r := range rows {
		f, known := out[r.RecordingID]
		if !known {
			f = Files{r.EditionID, r.Languages, map[string]Copy{}, r.Has}
			out[r.RecordingID] = f
		}
		if r.Kind != "" {
			f.Copies[r.Kind] = r.Copy
		}
	}
	return out, nil
}
