package api_test

import (
	"encoding/json"
	"maps"
	"net/http"
	"os"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"github.com/google/uuid"

	"latelantern/internal/api"
	"latelantern/internal/api/accounts"
	"latelantern/internal/audience"
	"latelantern/internal/core/viewing"
	"latelantern/internal/platform/postgres"
	"latelantern/internal/release"
)

// who are the columns of the access matrix.
var who = []string{"", "outsider", "student", "colleague", "lecturer", "coordinator"}

// The rows that routes share: what each of who gets. An "in" is any answer but 401, 403 and 404.
var (
	forAll      = []string{"in", "in", "in", "in", "in", "in"}
	forSignedIn = []string{"401", "in", "in", "in", "in", "in"}
	forStaff    = []string{"401", "403", "403", "403", "in", "in"}
	forMedia    = []string{"404", "404", "404", "404", "404", "404"} // without a right token, nothing is there
	forDoors    = []string{"401", "403", "in", "403", "in", "in"}
	forTeachers = []string{"401", "403", "403", "in", "in", "in"}
	forCollege  = []string{"401", "403", "403", "403", "403", "in"}  // coordinators
	unknown     = []string{"401", "403", "403", "403", "404", "404"} // for staff, of something that is not there
	// with a key that opens nothing
	forNobody = []string{"403", "403", "403", "403", "403", "403"}
	// for the people of a course, of something that is not there
	forMembersNothing = []string{"401", "403", "404", "403", "404", "404"}
	// for who teaches, of recordings of which they teach the course, and of a step that is not there
	forGivers         = []string{"401", "403", "403", "404", "in", "in"}
	unknownToTeachers = []string{"401", "403", "403", "404", "404", "404"}
	// nobody but the holder of a token: TestARecorderDoesOnlyWhatIsItsOwn
	forRecorders = []string{"401", "401", "401", "401", "401", "401"}
	// what another has, or what is not there
	ofAnother = []string{"401", "404", "404", "404", "404", "404"}
	// for coordinators, of something that is not there
	nowhere = []string{"401", "403", "403", "403", "403", "404"}
)

// aFilling is the sentence of a playlist, and aList a playlist as it is kept.
var aFilling = map[string]string{"words": "tide"}

// aQuestion is one that can be put to all.
var aQuestion = map[string]any{"kind": "number", "text": "How high?", "choices": []string{}, "right": []int{}}

var aList = map[string]string{"title": "Before the examination", "about": "", "arranged": "date"}

// matrix says for each route who may call it. A route that is missing here fails the test.
var matrix = map[string]struct {
	who  []string
	body any
}{
	"POST /api/sign-in":         {who: nil},
	"POST /api/sign-out":        {who: nil},
	"GET /healthz":              {who: forAll},
	"GET /api/openapi.json":     {who: forAll},
	"GET /api/openapi.yaml":     {who: forAll},
	"GET /api/openapi-3.0.json": {who: forAll},
	"GET /api/openapi-3.0.yaml": {who: forAll},
	"GET /api/events":           {who: nil}, // TestEventsReachOnlyTheirCourse
	"GET /api/me":               {who: forSignedIn},
	"GET /api/term":             {who: forSignedIn},
	"GET /api/find":             {who: forSignedIn},
	"POST /api/board/recordings": {who: forTeachers, // of what is theirs: TestTheRecordingsOfChosenLectures
		body: map[string]any{"lectures": []string{"00000000-0000-0000-0000-000000000001"}}},
	"GET /api/terms":                       {who: forTeachers},
	"POST /api/terms":                      {who: forCollege, body: aTerm},
	"PUT /api/terms/:term":                 {who: forCollege, body: aTerm},
	"DELETE /api/terms/:term":              {who: forCollege},
	"POST /api/terms/:term/roster/preview": {who: forTeachers, body: aRoster},
	"POST /api/terms/:term/roster":         {who: forTeachers, body: aRoster},
	"GET /api/terms/:term/roster":          {who: forCollege},
	"POST /api/halls": {who: forCollege,
		body: map[string]string{"name": "Hall"}},
	"PUT /api/halls/:hall": {who: forCollege,
		body: map[string]string{"name": "Hall"}},
	"DELETE /api/halls/:hall": {who: forCollege},
	"POST /api/halls/:hall/recorder": {who: forCollege,
		body: map[string]string{"name": "Recorder"}},
	"GET /api/files/:print": {who: forTeachers},
	"GET /api/arrivals":     {who: forTeachers},
	"PUT /api/arrivals/:track/lecture": {who: forStaff,
		body: map[string]string{"lecture": "LECTURE"}},
	// nothing happens to what has a lecture
	"DELETE /api/arrivals/:track":          {who: forStaff},
	"POST /api/arrivals/:track/bring-back": {who: forStaff},
	"GET /api/lectures/:lecture/who-else":  {who: forDoors},
	"PUT /api/courses/:course/names-seen": {who: forStaff,
		body: map[string]bool{"seen": true}},
	"PUT /api/courses/:course/reminds": {who: forStaff,
		body: map[string]bool{"reminds": true}},
	"PUT /api/courses/:course/originals": {who: forStaff,
		body: map[string]int{"days": 30}},
	"GET /api/recordings/:recording/original":      {who: forStaff},
	"GET /api/recordings/:recording/timeline.otio": {who: forStaff},
	// none: 422
	"POST /api/recordings/:recording/timeline": {who: forStaff,
		body: map[string]string{"timeline": "{}"}},
	"GET /api/recordings/:recording/captions":                {who: forStaff},
	"GET /api/recordings/:recording/captions/:language":      {who: unknown}, // there are none
	"GET /api/recordings/:recording/captions/:language/file": {who: unknown},
	"PUT /api/recordings/:recording/captions/:language/lines/:line": {who: unknown,
		body: map[string]string{"seen": "x", "text": "y"}},
	"POST /api/recordings/:recording/captions/:language/lines/:line/split": {who: unknown,
		body: map[string]int{"at": 3}},
	"POST /api/recordings/:recording/captions/:language/lines/:line/join": {who: unknown},
	"GET /api/recordings/:recording/captions/:language/found":             {who: unknown},
	"POST /api/recordings/:recording/captions/:language/replace": {who: unknown,
		body: map[string]string{"find": "x", "with": "y"}},
	"POST /api/recordings/:recording/captions/:language/undo": {who: unknown},

	"POST /api/recordings/:recording/captions/:language/proposed/:proposal/take":  {who: unknown},
	"POST /api/recordings/:recording/captions/:language/proposed/:proposal/leave": {who: unknown},
	"POST /api/recordings/:recording/captions/:language/proposed/:proposal/again": {who: unknown},
	"GET /api/watch/:recording/proposed":                                          {who: forDoors},
	"POST /api/watch/:recording/proposed": {who: forMembersNothing,
		body: map[string]any{"at": 0, "seen": "a", "text": "b"}},
	"DELETE /api/watch/:recording/proposed/:proposal":          {who: forMembersNothing},
	"POST /api/recordings/:recording/captions/:language/redo":  {who: unknown},
	"PUT /api/recordings/:recording/captions/:language/shown":  {who: unknown, body: map[string]bool{"on": true}},
	"PUT /api/recordings/:recording/captions/:language/looked": {who: unknown, body: map[string]bool{"on": true}},
	// no captioner: 422
	"POST /api/recordings/:recording/captions/:language/draft": {who: forStaff},
	// none: 422
	"POST /api/recordings/:recording/caption-files": {who: forStaff, body: map[string]string{"content": "V0VCVlRU"}},
	"GET /api/recordings/:recording/search":         {who: forStaff},
	"GET /api/recordings/:recording/chapters":       {who: forStaff},
	"PUT /api/recordings/:recording/chapters": {who: forStaff,
		body: map[string]any{"seen": []any{}, "chapters": []any{}, "proposed": true}},
	"POST /api/recordings/:recording/chapters/undo": {who: forStaff},
	"POST /api/recordings/:recording/chapters/redo": {who: forStaff},
	"GET /api/recordings/:recording/chapters/file":  {who: forStaff},
	"GET /api/titles": {who: forTeachers},
	// seen by nobody: 422
	"POST /api/titles": {who: []string{"401", "403", "403", "403",
		"in", "in"}, body: map[string]any{"titles": []map[string]string{{"recording_id": "RECORDING",
		"seen": "nothing of it", "title": "A title"}}}},
	"PUT /api/courses/:course/title-pattern": {who: forStaff,
		body: map[string]string{"pattern": ""}},
	"PUT /api/recordings/:recording/about": {who: forStaff,
		body: map[string]any{"language": "", "keywords": []string{}}},
	"GET /api/courses/:course/words": {who: forStaff},
	"PUT /api/courses/:course/words": {who: forStaff,
		body: map[string]any{"language": "en", "drafts": true, "glossary": ""}},
	"GET /api/recorders":                  {who: forCollege},
	"POST /api/recorders/:recorder/token": {who: nowhere},
	"PUT /api/recorders/:recorder/token": {who: nowhere,
		body: map[string]bool{"holds": true}},
	"DELETE /api/recorders/:recorder":          {who: nowhere},
	"POST /api/recorders/:recorder/bring-back": {who: nowhere},
	"POST /api/recorders/:recorder/order": {who: nowhere,
		body: map[string]string{"kind": "stop"}},
	"GET /api/recorders/:recorder/picture": {who: nowhere},
	"GET /api/recorder/plan.ics":           {who: forRecorders},
	"PUT /api/recorder/heartbeat": {who: forRecorders,
		body: map[string]any{"now": "2026-10-14T10:20:00Z", "picture": "good", "free_bytes": 1, "unsent_bytes": 0,
			"version": "1"}},
	"PUT /api/recorder/picture":  {who: forRecorders, body: map[string]bool{}},
	"GET /api/halls/:hall/feed":  {who: forCollege},
	"POST /api/halls/:hall/feed": {who: forCollege},
	"GET /api/courses":           {who: forSignedIn},
	"POST /api/courses": {who: forCollege,
		body: map[string]string{"term": uuid.NewString(), "code": "COU 1", "title": ""}},
	"GET /api/courses/:course": {who: forDoors},
	"PUT /api/courses/:course": {who: forCollege,
		body: map[string]string{"term": uuid.NewString(), "code": "COU 1", "title": "A course"}},
	"DELETE /api/courses/:course":            {who: forCollege},
	"GET /api/courses/:course/standing-room": {who: forDoors},
	"POST /api/courses/:course/standing-room": {who: forStaff,
		body: map[string]string{"topic": "An hour of questions"}},
	"POST /api/courses/:course/lessons": {who: forStaff,
		body: map[string]string{"week": "2026-10-19", "topic": "Read ahead"}},
	"GET /api/courses/:course/feed":      {who: forStaff},
	"POST /api/courses/:course/feed":     {who: forStaff},
	"GET /api/courses/:course/timetable": {who: forStaff},
	"POST /api/courses/:course/timetable": {who: forStaff,
		body: map[string]string{"calendar": ""}},
	"POST /api/courses/:course/timetable/preview": {who: forStaff,
		body: map[string]string{"calendar": ""}},
	"GET /api/courses/:course/roster": {who: forStaff},
	"GET /api/courses/:course/people": {who: forStaff},
	"POST /api/courses/:course/people": {who: forStaff,
		body: map[string]string{"email": "student@college.example", "name": "student", "role": "student",
			"group": "A"}},
	"DELETE /api/courses/:course/people/:person":     {who: unknown},
	"POST /api/courses/:course/invitations":          {who: forStaff, body: map[string]any{"again": false}},
	"POST /api/courses/:course/plans":                {who: forStaff, body: aPlan},
	"POST /api/courses/:course/plans/preview":        {who: forStaff, body: aPlan},
	"DELETE /api/courses/:course/plans/:plan":        {who: unknown},
	"POST /api/courses/:course/changes/:change/undo": {who: unknown},
	"GET /api/dates":                  {who: forSignedIn},
	"GET /api/forgotten-starts":       {who: forTeachers},
	"GET /api/run-sheet":              {who: forTeachers},
	"GET /api/lectures/:lecture/page": {who: forDoors},
	"POST /api/lectures/:lecture/ask": {who: forDoors}, // nobody has to: 409
	"POST /api/lectures/:lecture/edit": {who: forStaff,
		body: map[string]string{"topic": "Today"}},
	"POST /api/lectures/:lecture/edit/preview": {who: forStaff,
		body: map[string]string{"topic": "Today"}},
	"GET /api/lectures/:lecture/register":              {who: forStaff},
	"PUT /api/lectures/:lecture/register/:person":      {who: unknown, body: map[string]string{"state": "excused"}},
	"DELETE /api/lectures/:lecture/register/:person":   {who: unknown},
	"PUT /api/lectures/:lecture/register/:person/word": {who: unknown, body: map[string]bool{"settled": true}},
	"GET /api/lectures/:lecture/register/file":         {who: forStaff},
	"POST /api/lectures/:lecture/register-file": {who: forStaff,
		body: map[string]string{"data": "bm9ib2R5QHNrZXJyeS5leGFtcGxl"}},
	"DELETE /api/lectures/:lecture/register-file/:file": {who: unknown},
	"GET /api/courses/:course/registers":                {who: forStaff},
	"GET /api/courses/:course/register/file":            {who: forStaff},
	"GET /api/courses/:course/register-rules":           {who: forStaff},
	"PUT /api/courses/:course/register-rules": {who: forStaff,
		body: map[string]int{"late_min": 5, "early_min": 5, "least": 0}},
	"GET /api/courses/:course/own-register": {who: forDoors},
	// who is no student has no line
	"PUT /api/lectures/:lecture/own-register": {who: []string{"401", "403", "in", "403", "404", "404"},
		body: map[string]string{"text": "I was there."}},
	"GET /api/lectures/:lecture/code":           {who: forStaff},
	"POST /api/lectures/:lecture/here":          {who: forDoors, body: map[string]string{"code": "QQQQ"}},
	"POST /api/lectures/:lecture/remind-absent": {who: forStaff},
	"GET /api/lectures/:lecture/chat":           {who: forDoors},
	"POST /api/lectures/:lecture/chat": {who: forDoors,
		body: map[string]string{"id": "0190b2a0-0000-7000-8000-000000000001", "text": "Good morning"}},
	"POST /api/lectures/:lecture/lost": {who: forDoors},
	// what another said is not there
	"DELETE /api/lectures/:lecture/chat/:line":          {who: ofAnother},
	"POST /api/lectures/:lecture/chat/:line/bring-back": {who: ofAnother},
	"PUT /api/lectures/:lecture/chat/:line/question":    {who: ofAnother, body: map[string]bool{"question": true}},
	"PUT /api/lectures/:lecture/chat/:line/state":       {who: unknown, body: map[string]string{"state": "taken"}},
	"PUT /api/lectures/:lecture/chat/:line/down":        {who: unknown, body: map[string]bool{"down": true}},
	"PUT /api/lectures/:lecture/chat-way":               {who: forStaff, body: map[string]string{"way": "all"}},
	"GET /api/lectures/:lecture/lost":                   {who: forStaff},
	"GET /api/lectures/:lecture/to-all":                 {who: forDoors},
	"GET /api/lectures/:lecture/to-all-file":            {who: forStaff},
	"PUT /api/lectures/:lecture/to-all/:asked": {who: forStaff,
		body: map[string]any{"question": aQuestion, "seconds": 60}},
	"POST /api/lectures/:lecture/to-all/:asked/change": {who: unknown, body: map[string]bool{"close": true}},
	// with a number: 422; who teaches does not answer: 409
	"PUT /api/lectures/:lecture/to-all/:asked/answer": {who: forDoors,
		body: map[string]any{"choices": []int{0}}},
	"PUT /api/lectures/:lecture/to-all/:asked/answers/:person/hidden": {who: unknown,
		body: map[string]bool{"hidden": true}},
	"GET /api/courses/:course/prepared-questions":                       {who: forStaff},
	"PUT /api/courses/:course/prepared-questions/:question":             {who: forStaff, body: aQuestion},
	"DELETE /api/courses/:course/prepared-questions/:question":          {who: forStaff},
	"POST /api/courses/:course/prepared-questions/:question/bring-back": {who: unknown},
	"GET /api/courses/:course/prepared-questions-file":                  {who: forStaff}, // in no form: 422
	"POST /api/courses/:course/prepared-questions-file": {who: forStaff,
		body: map[string]string{"data": "dGV4dApXaHk/Cg=="}},
	"GET /api/watch/:recording/to-all": {who: forDoors},
	"PUT /api/watch/:recording/to-all/:asked/answer": {who: forMembersNothing,
		body: map[string]any{"choices": []int{0}}},
	"GET /api/lectures/:lecture/chat/file":     {who: forStaff},
	"GET /api/courses/:course/questions":       {who: forStaff},
	"GET /api/recordings/:recording/chat/file": {who: forStaff},
	"GET /api/recordings/:recording/lost":      {who: forStaff},
	"GET /api/lectures/:lecture/doorway":       {who: forStaff},
	"PUT /api/lectures/:lecture/asking": {who: forStaff,
		body: map[string]bool{"let_in": true}},
	// nobody asked: 409
	"PUT /api/lectures/:lecture/asking/:person": {who: forStaff, body: map[string]bool{"let_in": true}},
	"PUT /api/lectures/:lecture/doorway-open":   {who: forStaff, body: map[string]bool{"open": true}},
	"POST /api/lectures/:lecture/end-class":     {who: forStaff},
	"DELETE /api/lectures/:lecture/end-class":   {who: forStaff},
	"POST /api/lectures/:lecture/guests": {who: forStaff,
		body: map[string]string{"name": "A guest", "ends_at": "2026-10-14T18:00:00Z"}},
	"DELETE /api/lectures/:lecture/guests/:guest":          {who: unknown},
	"POST /api/lectures/:lecture/guests/:guest/bring-back": {who: unknown},
	"GET /api/people": {who: forCollege},
	"POST /api/people": {who: forCollege,
		body: map[string]string{"email": "student@college.example", "name": "student"}},
	"PUT /api/people/:person/coordinator": {who: nowhere,
		body: map[string]bool{"coordinator": true}},
	"POST /api/invitations": {who: forCollege,
		body: map[string]any{"again": false}},
	"GET /api/feed":   {who: forSignedIn},
	"POST /api/feed":  {who: forSignedIn},
	"GET /feeds/:key": {who: forMedia},
	"GET /api/courses/:course/recording-feed":  {who: forDoors},
	"POST /api/courses/:course/recording-feed": {who: forDoors},
	"GET /take/:key/:kind":                     {who: forMedia},
	"GET /take/:key/:kind/:file":               {who: forMedia},
	"GET /api/welcome/:key":                    {who: forAll}, // gone
	"POST /api/welcome/:key": {who: forAll,
		body: map[string]string{"password": "some long words"}},
	"POST /api/guest/:key": {who: forMedia},
	"POST /api/forgotten": {who: forAll,
		body: map[string]string{"email": "nobody@college.example"}},
	"PUT /api/account/password": {who: forSignedIn,
		body: map[string]string{"old": "not this one", "password": "some long words"}},
	"PUT /api/account/language": {who: forSignedIn,
		body: map[string]string{"language": "en"}},
	"POST /api/account/sign-out-everywhere": {who: nil}, // TestSigningOutEverywhere
	"GET /api/college":                      {who: forSignedIn},
	"PUT /api/college": {who: forCollege,
		body: map[string]string{"capture_notice": "You are captured."}},
	"GET /api/storage":                        {who: forTeachers},
	"POST /api/lectures/:lecture/seen-notice": {who: forDoors},
	"PUT /api/lectures/:lecture/present": {who: forDoors,
		body: map[string]bool{"in_hall": false}},
	"GET /api/board":                             {who: forSignedIn},
	"GET /api/catch-up":                          {who: forSignedIn},
	"GET /api/search":                            {who: forSignedIn},
	"GET /api/catch-up/plan":                     {who: forSignedIn},
	"GET /api/lectures/:lecture":                 {who: forStaff},
	"GET /api/recordings/:recording":             {who: forStaff},
	"DELETE /api/recordings/:recording":          {who: forStaff},
	"POST /api/recordings/:recording/bring-back": {who: forStaff},
	"PUT /api/recordings/:recording/title": {who: forStaff,
		body: map[string]string{"title": "A title"}},
	"PUT /api/recordings/:recording/description": {who: forStaff,
		body: map[string]string{"description": "About it"}},
	"POST /api/recordings/:recording/cuts": {who: forStaff,
		body: map[string]string{"cut": "as_is"}},
	"POST /api/recordings/:recording/end":           {who: forStaff},
	"GET /api/recordings/:recording/strip":          {who: forStaff},
	"GET /api/recordings/:recording/lectures-after": {who: forStaff},
	// outside: 409
	"POST /api/recordings/:recording/split": {who: forStaff,
		body: map[string]any{"at_ms": -1}},
	// TestArrangingNeedsBothCourses
	"POST /api/recordings/:recording/join": {who: unknown,
		body: map[string]any{"other": uuid.NewString()}},
	"POST /api/recordings/:recording/rearrangements/:rearrangement/undo": {who: forStaff}, // none: 409
	"GET /api/recordings/:recording/versions":                            {who: forStaff},
	"POST /api/recordings/:recording/versions/:version/bring-back":       {who: unknown, body: map[string]any{}},
	"GET /api/recordings/:recording/twins":                               {who: forStaff},
	"PUT /api/recordings/:recording/twins/:other": {who: unknown,
		body: map[string]any{"both": true}},
	"GET /api/courses/:course/carry": {who: forStaff},
	// to a course that is not there, which is only theirs to know who coordinate
	"POST /api/courses/:course/carry": {who: []string{"401", "403", "403", "403", "403", "404"},
		body: map[string]any{"to": uuid.NewString(), "code": "",
			"title": "", "plan": true, "lists": true, "again": false, "rule": true, "staff": true, "settings": true}},
	"POST /api/courses/:course/carry/preview": {who: []string{"401", "403", "403", "403", "403", "404"},
		body: map[string]any{"to": uuid.NewString(), "code": "",
			"title": "", "plan": true, "lists": true, "again": false, "rule": true, "staff": true, "settings": true}},
	"POST /api/courses/:course/carry/undo": {who: unknown},
	"GET /api/bin":                         {who: forTeachers},
	"PUT /api/bin": {who: []string{"401", "403", "403", "403", "in", "in"},
		body: map[string]any{"recordings": []string{"RECORDING"}, "binned": false}},
	"GET /api/recordings":                                     {who: forTeachers},
	"PUT /api/courses/:course/trim-ends":                      {who: forStaff, body: map[string]any{"trims": false}},
	"GET /api/courses/:course/recordings/:recording/audience": {who: forStaff},
	"GET /api/courses/:course/caught-up":                      {who: forStaff},
	// nobody can watch it: 404
	"GET /api/courses/:course/recordings/:recording/caught-up": {who: forStaff},
	"GET /api/courses/:course/people/:person/off":              {who: forStaff},
	"GET /api/courses/:course/shut-outs":                       {who: forStaff},
	"POST /api/courses/:course/shut-outs": {who: unknown, // nobody of that name is in the course
		body: map[string]any{"person_id": uuid.NewString()}},
	"GET /api/courses/:course/sight":             {who: forStaff},
	"GET /api/courses/:course/sight/:recording":  {who: forStaff},
	"GET /api/courses/:course/shut-outs/preview": {who: forStaff}, // of nobody: 422
	"GET /api/rule":                                                {who: forCollege},
	"PUT /api/rule":                                                {who: forCollege, body: aRule},
	"DELETE /api/rule":                                             {who: forCollege},
	"POST /api/rule/preview":                                       {who: forCollege, body: aRule},
	"GET /api/recordings/:recording/openings":                      {who: forStaff},
	"POST /api/recordings/:recording/openings":                     {who: forStaff, body: anOpening}, // nameless: 422
	"POST /api/recordings/:recording/openings/preview":             {who: forStaff, body: anOpening},
	"PUT /api/recordings/:recording/openings/:opening":             {who: unknown, body: anOpening},
	"DELETE /api/recordings/:recording/openings/:opening":          {who: unknown},
	"POST /api/recordings/:recording/openings/:opening/bring-back": {who: unknown},
	"POST /api/recordings/:recording/openings/:opening/renew":      {who: unknown},
	"GET /api/recordings/:recording/people":                        {who: forStaff},

	"GET /api/courses/:course/playlists/:list/openings":                      {who: unknown}, // TestALinkToAPlaylist
	"POST /api/courses/:course/playlists/:list/openings":                     {who: unknown, body: anOpening},
	"POST /api/courses/:course/playlists/:list/openings/preview":             {who: unknown, body: anOpening},
	"PUT /api/courses/:course/playlists/:list/openings/:opening":             {who: unknown, body: anOpening},
	"DELETE /api/courses/:course/playlists/:list/openings/:opening":          {who: unknown},
	"POST /api/courses/:course/playlists/:list/openings/:opening/bring-back": {who: unknown},
	"POST /api/courses/:course/playlists/:list/openings/:opening/renew":      {who: unknown},

	"GET /api/linked/:opening":                             {who: ofAnother},
	"GET /api/links/:key":                                  {who: forMedia}, // TestALinkForOutsiders
	"POST /api/links/:key":                                 {who: forMedia, body: map[string]string{}},
	"DELETE /api/courses/:course/shut-outs/:shut":          {who: unknown},
	"POST /api/courses/:course/shut-outs/:shut/bring-back": {who: unknown},
	"POST /api/lighting/preview": {who: forGivers,
		body: map[string]any{"recordings": []string{"RECORDING"}, "courses": []string{}, "lit": true}},
	"POST /api/lighting": {who: forGivers, // nothing happens: 409
		body: map[string]any{"recordings": []string{"RECORDING"}, "courses": []string{}, "lit": true}},
	"GET /api/lighting/planned":                 {who: forTeachers},
	"POST /api/lighting/:step/undo":             {who: unknownToTeachers},
	"POST /api/recordings/:recording/light":     {who: forStaff},
	"POST /api/recordings/:recording/darken":    {who: forStaff},
	"GET /api/courses/:course/rule":             {who: forStaff},
	"GET /api/courses/:course/rule/history":     {who: forStaff},
	"PUT /api/courses/:course/rule":             {who: forStaff, body: aRule},
	"DELETE /api/courses/:course/rule":          {who: forStaff},
	"POST /api/courses/:course/rule/preview":    {who: forStaff, body: aRule},
	"GET /api/courses/:course/playlist":         {who: forStaff},
	"GET /api/courses/:course/playlist/addable": {who: forStaff},
	"POST /api/courses/:course/playlist/recordings": {who: forStaff,
		body: map[string][]string{"recordings": {"RECORDING"}}},
	"POST /api/courses/:course/playlist/headings": {who: forStaff, body: map[string]string{"title": "A topic"}},
	"POST /api/courses/:course/playlist/pages": {who: forStaff,
		body: map[string]string{"title": "A chart", "address": "https://charts.example/"}},
	"PUT /api/courses/:course/playlist/entries/:entry": {who: unknown, body: map[string]string{"title": "A topic"}},
	"POST /api/courses/:course/playlist/moves": {who: unknown,
		body: map[string][]string{"entries": {"RECORDING"}}},
	"POST /api/courses/:course/playlist/removals": {who: unknown,
		body: map[string][]string{"entries": {"RECORDING"}}},
	"GET /api/courses/:course/playlist/file":              {who: forStaff},
	"GET /api/courses/:course/share":                      {who: forStaff},
	"GET /api/courses/:course/shown":                      {who: forDoors},
	"GET /api/embed-sites":                                {who: forTeachers},
	"PUT /api/embed-sites":                                {who: forCollege, body: map[string][]string{"sites": {}}},
	"GET /api/oembed":                                     {who: forMedia}, // without an address of ours
	"POST /api/frame/key":                                 {who: forSignedIn},
	"POST /api/frame/enter":                               {who: forNobody, body: map[string]string{"key": "x"}},
	"POST /api/courses/:course/playlist/files":            {who: forStaff, body: map[string]string{"no": "file that is taken"}},
	"POST /api/courses/:course/playlist/files/:file/back": {who: unknown, body: map[string]string{"title": ""}},
	"GET /api/courses/:course/playlist/files/:file":       {who: forMembersNothing},
	"HEAD /api/courses/:course/playlist/files/:file":      {who: forMembersNothing},
	"POST /api/courses/:course/playlists/file": {who: forStaff,
		body: map[string]string{"title": "Taken", "file": "address\nhttps://charts.example/\n"}},
	"POST /api/courses/:course/playlists":                       {who: forStaff, body: aList},
	"GET /api/courses/:course/playlists/offered":                {who: forStaff},
	"PUT /api/courses/:course/playlists/:list":                  {who: unknown, body: aList},
	"DELETE /api/courses/:course/playlists/:list":               {who: unknown},
	"POST /api/courses/:course/playlists/:list/back":            {who: unknown},
	"POST /api/courses/:course/playlists/:list/filling/preview": {who: unknown, body: aFilling},
	"PUT /api/courses/:course/playlists/:list/filling":          {who: unknown, body: aFilling},
	"PUT /api/courses/:course/playlists/:list/shown":            {who: unknown, body: map[string]bool{"shown": true}},
	"GET /api/courses/:course/news":                             {who: forStaff},
	"POST /api/courses/:course/news":                            {who: forStaff, body: map[string][]string{"recordings": {"RECORDING"}}},
	"POST /api/courses/:course/news/preview":                    {who: forStaff, body: map[string][]string{"recordings": {"RECORDING"}}},
	"POST /api/courses/:course/news/:news/undo":                 {who: unknown},
	"DELETE /api/courses/:course/news/planned/:of":              {who: unknown},
	"PUT /api/courses/:course/news/silent": {who: forStaff,
		body: map[string]any{"recordings": []string{"RECORDING"}, "silent": true}},
	"PUT /api/courses/:course/news/template": {who: forStaff, body: map[string]string{"template": "{recordings}"}},
	"GET /api/news":                          {who: forSignedIn},
	"PUT /api/news/seen": {who: forSignedIn,
		body: map[string]any{"recordings": []string{"RECORDING"}, "seen": true}},
	"GET /api/account/ready":          {who: forTeachers},
	"PUT /api/account/ready":          {who: forTeachers, body: map[string]bool{"on": true}},
	"GET /api/account/news":           {who: forSignedIn},
	"PUT /api/account/news":           {who: forSignedIn, body: map[string]string{"often": "daily"}},
	"GET /api/stop/:key":              {who: forMedia},
	"PUT /api/stop/:key":              {who: forMedia, body: map[string]string{"often": "daily"}},
	"POST /stop/:key":                 {who: forMedia},
	"GET /stop/:key":                  {who: forMedia}, // no front end is there
	"GET /api/astray":                 {who: forCollege},
	"DELETE /api/astray/:person":      {who: nowhere},
	"GET /api/watch/:recording":       {who: forDoors},
	"POST /api/watch/:recording/tell": {who: forDoors}, // it is open: 409
	"PUT /api/watch/:recording/place": {who: forDoors,
		body: map[string]any{"at": 1000, "edition": "EDITION"}},
	"PUT /api/watch/:recording/known": {who: forDoors, body: map[string]bool{"known": true}},
	"GET /api/watch/:recording/chat":  {who: forDoors},
	"PUT /api/watch/:recording/notes/:note": {who: forDoors,
		body: map[string]any{"text": "Ask", "at": 0, "edition": "EDITION"}},
	"GET /api/watch/:recording/notes":          {who: forDoors},
	"GET /api/watch/:recording/notes/file":     {who: forDoors},
	"DELETE /api/watch/:recording/notes/:note": {who: forDoors},
	"POST /api/watch/:recording/questions": {who: forDoors,
		body: map[string]any{"id": "0190b2a0-0000-7000-8000-000000000002", "text": "Why?", "at": 0,
			"edition": "EDITION"}},
	"GET /api/watch/:recording/copies/:kind":  {who: forDoors},
	"GET /api/watch/:recording/text":          {who: forDoors},
	"POST /api/watch/:recording/copies/:kind": {who: forDoors},
	"POST /api/people/:person/end-sessions":   {who: nowhere},
	"PUT /api/people/:person/closed":          {who: nowhere, body: map[string]bool{"closed": true}},
	"OPTIONS /api/append":                     {who: forAll},
	"POST /api/append":                        {who: nil}, // TestAppendIsTus
	"HEAD /api/append/:track":                 {who: []string{"401", "403", "403", "403", "in", "in"}},
	"PATCH /api/append/:track":                {who: []string{"401", "403", "403", "403", "in", "in"}},
	"DELETE /api/append/:track":               {who: []string{"401", "403", "403", "403", "in", "in"}},
	"GET /media/:token/index.m3u8":            {who: forMedia},
	"GET /media/:token/pictures.m3u8":         {who: forMedia},
	"GET /media/:token/sound.m3u8":            {who: forMedia},
	"PUT /api/tracks/:track/paused":           {who: forStaff, body: map[string]bool{"on": true}},
	"PUT /api/tracks/:track/markers/:marker":  {who: forStaff, body: map[string]any{"at_ms": 1000, "word": "Here"}},
	"GET /media/:token/listen.m3u8":           {who: forMedia},
	"GET /media/:token/small.m3u8":            {who: forMedia},
	"GET /media/:token/small-sound.m3u8":      {who: forMedia},
	"GET /media/:token/small/:segment":        {who: forMedia},
	"GET /media/:token/small-sound/:segment":  {who: forMedia},
	"GET /media/:token/second.m3u8":           {who: forMedia},
	"GET /media/:token/second/:segment":       {who: forMedia},
	"GET /media/:token/pictures/:segment":     {who: forMedia},
	"GET /media/:token/sound/:segment":        {who: forMedia},
	"GET /media/:token/slides/:picture":       {who: forMedia},
	"GET /media/:token/copy/:kind":            {who: forMedia},
}

// What is asked of media is asked of whether they are there.
func init() {
	for route, row := range maps.Clone(matrix) {
		path, ok := strings.CutPrefix(route, "GET ")
		if ok && (strings.HasPrefix(path, "/media/") || strings.HasPrefix(path, "/take/")) {
			matrix["HEAD "+path] = row
		}
	}
}

var (
	aTerm = map[string]any{"name": "Term", "zone": "Atlantic/Faroe", "first_day": "2026-09-21",
		"last_day": "2026-09-20", "breaks": []string{}}
	aRoster = map[string]any{"files": []any{map[string]string{"name": "roster.csv", "data": "ZW1haWw="}}, "digest": ""}
	aPlan   = map[string]any{"weekdays": []int{1}, "every": 1, "starts": "10:15", "ends": "09:15", "from": "2026-10-19",
		"times": 1, "until": "", "over_breaks": false,
		"doorway": "walk_in", "opens_min": 10, "capture_auto": false, "lead_min": 5, "tail_min": 10}
)

var aRule = map[string]any{"audience": "everyone", "groups": []string{}, "uses": []string{"watch"}, "from": "date",
	"from_at": "2026-10-01T00:00:00Z", "until": "ever", "days_after_term": 0}

var anOpening = map[string]any{"kind": "link", "uses": []string{"watch"}, "from": "once", "until": "ever",
	"days_after_term": 0}

func TestEveryRouteIsInTheAccessMatrix(t *testing.T) {
	e := newEdge(t)
	a := e.Edge(nil)
	routes := a.Routes()
	for _, r := range routes {
		if _, ok := matrix[r]; !ok {
			t.Errorf("%s is not in the access matrix", r)
		}
	}
	for r := range matrix {
		if !slices.Contains(routes, r) {
			t.Errorf("%s is in the access matrix and is no route", r)
		}
	}
	m := newMatrixed(e)
	callers := map[string]*caller{}
	for _, name := range who {
		callers[name] = e.as(name)
	}
	for _, route := range routes {
		for i, name := range who {
			if row := matrix[route].who; row != nil {
				m.want(callers[name], name, route, row[i])
			}
		}
		m.again()
	}
}

// matrixed is a house with what the routes of the matrix are about.
type matrixed struct {
	*house
	subject uuid.UUID         // a recording that is lit for everyone in its course
	params  *strings.Replacer // of paths
	bodies  *strings.Replacer
}

func newMatrixed(e *house) *matrixed {
	e.T.Helper()
	ctx, id := e.T.Context(), e.recording()
	track, err := postgres.Value[uuid.UUID](ctx, e.DB,
		`select t.id from track t join recording_capture rc on rc.capture_id = t.capture_id where rc.recording_id = $1`, id)
	e.Must(err)
	e.everyone(true)
	edition := e.Lit(id).EditionID
	term, err := e.Schedule.CurrentTerm(ctx)
	e.Must(err)
	halls, err := e.Schedule.Halls(ctx)
	e.Must(err)
	return &matrixed{e, id, strings.NewReplacer(":term", term.ID.String(), ":hall", halls[0].ID.String(),
		":rearrangement", uuid.NewString(), ":version", uuid.NewString(), ":other", uuid.NewString(), ":plan",
		uuid.NewString(), ":change", uuid.NewString(), ":person", uuid.NewString(), ":guest", uuid.NewString(),
		":recorder", uuid.NewString(), ":print", strings.Repeat("0f", 32), ":key", "AAAA", ":lecture",
		e.Lecture.String(), ":recording", id.String(), ":course", e.Course.String(), ":entry", uuid.NewString(),
		":track", track.String(), ":marker", uuid.NewString(), ":kind", "video", ":shut", uuid.NewString(), ":opening",
		uuid.NewString(), ":token", "AAAA", ":language", "en", ":line", uuid.NewString(), ":segment", "0.m4s",
		":proposal", uuid.NewString(), ":asked", uuid.NewString(), ":note", uuid.NewString(), ":question",
		uuid.NewString(), ":list", uuid.NewString(),
		":picture", "0.jpg"),
		strings.NewReplacer("EDITION", edition.String(), "RECORDING", id.String(), "LECTURE", e.Lecture.String())}
}

// want fails the test unless c gets this from a route.
func (m *matrixed) want(c *caller, name, route, want string, more ...string) {
	m.T.Helper()
	var body string
	if of := matrix[route].body; of != nil {
		b, err := json.Marshal(of)
		m.Must(err)
		body = m.bodies.Replace(string(b))
	}
	method, path, _ := strings.Cut(route, " ")
	headers := []string{"Content-Type", "application/json"}
	if strings.HasPrefix(path, "/api/append/") {
		headers = []string{"Content-Type", "application/offset+octet-stream", "Upload-Offset", "0", "Tus-Resumable",
			"1.0.0"}
	}
	answer := c.request(method, m.params.Replace(path), strings.NewReader(body), append(headers, more...)...)
	answer.Body.Close()
	got := http.StatusText(answer.StatusCode)
	switch answer.StatusCode {
	case http.StatusUnauthorized, http.StatusForbidden, http.StatusNotFound:
		got = strconv.Itoa(answer.StatusCode)
	case http.StatusInternalServerError:
	default:
		got = "in"
	}
	if got != want {
		m.T.Errorf("%s as %q: %s (%d), want %s", route, name, got, answer.StatusCode, want)
	}
}

// again brings back what a route took away.
func (m *matrixed) again() {
	m.T.Helper()
	// The class that a route ended would be over in ten seconds, for all that comes then.
	m.Must(m.Library.SetDeleted(m.T.Context(), m.subject, m.Lecturer, false),
		m.Door.TakeBackEnd(m.T.Context(), m.Lecture))
	m.everyone(true)
	m.Lit(m.subject)
}

// TestTheMatrixBeside tries every route as those who stand in no column of the matrix: an assistant may what the
// lecturer may; a student who is shut out, what students may but watch; a recorder, what is for recorders; and to whose
// course the recording is lit too, its lecturer and its student, may watch it and nothing else that others may not.
func TestTheMatrixBeside(t *testing.T) {
	e := newEdge(t)
	m := newMatrixed(e)
	routes := e.Edge(nil).Routes()
	e.Person("assistant", e.Course, "assistant", "")
	shut := e.Person("shut", e.Course, "student", "A")
	_, err := e.Audience.ShutOut(t.Context(), e.Lecturer,
		audience.ShutForm{Scope: audience.Scope{Course: e.Course, Recording: m.subject}, Person: shut})
	e.Must(err)
	rule := viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses,
		Window: viewing.Window{From: viewing.FromOnce, Until: viewing.UntilEver}}
	e.Must(e.Audience.SetRule(t.Context(), audience.Scope{Course: e.Other}, e.Colleague, &rule))
	_, err = e.Releases.Change(t.Context(), e.Lecturer, release.Many{
		Pairs: []release.Pair{{Recording: m.subject, Course: e.Other}}, Giving: viewing.Giving{Lit: new(true)}})
	e.Must(err)
	halls, err := e.Schedule.Halls(t.Context())
	e.Must(err)
	token, err := e.Halls.Add(t.Context(), halls[0].ID, e.Coordinator, "In the wall")
	e.Must(err)
	column := func(name string) int { return slices.Index(who, name) }
	callers := map[string]*caller{}
	for _, name := range []string{"assistant", "shut", "colleague", "outsider", ""} {
		callers[name] = e.as(name)
	}
	for _, route := range routes {
		row := matrix[route].who
		if row == nil {
			continue
		}
		_, path, _ := strings.Cut(route, " ")
		watch := strings.HasPrefix(path, "/api/watch/")
		want := func(name, as, when string) {
			m.want(callers[name], name, route, map[bool]string{true: when, false: row[column(as)]}[watch])
		}
		in := "in"
		if row[column("student")] == "404" { // of something that is not there
			in = "404"
		}
		want("assistant", "lecturer", in)
		// That they are shut out is not overlooked: 409.
		want("shut", "student", map[bool]string{true: "in", false: "403"}[strings.HasSuffix(path, "/tell")])
		want("outsider", "outsider", in)
		want("colleague", "colleague", in)
		device := row[column("")]
		if strings.HasPrefix(path, "/api/recorder/") {
			device = "in"
		} else if strings.HasPrefix(path, "/api/append/") {
			device = "403" // a track that others began
		}
		m.want(callers[""], "recorder", route, device, "Authorization", "Bearer "+token)
		m.again()
	}
}

// TestTheContractIsKept holds web/openapi.json to what the operations say.
func TestTheContractIsKept(t *testing.T) {
	b, err := api.New(api.Services{}).Contract()
	if err != nil {
		t.Fatal(err)
	}
	kept, err := os.ReadFile("../../web/openapi.json")
	if err != nil {
		t.Fatal(err)
	}
	var now, then any
	if json.Unmarshal(b, &now) != nil || json.Unmarshal(kept, &then) != nil {
		t.Fatal("the contract is not JSON")
	}
	x, _ := json.Marshal(now)
	y, _ := json.Marshal(then)
	if string(x) != string(y) {
		t.Error("web/openapi.json is old: make contract")
	}
}

// TestPathsDeclareTheirParameters: what is not declared is silently not read.
func TestPathsDeclareTheirParameters(t *testing.T) {
	b, err := api.New(api.Services{}).Contract()
	if err != nil {
		t.Fatal(err)
	}
	var contract struct {
		Paths map[string]map[string]struct {
			Parameters []struct{ Name, In string }
		}
	}
	if err := json.Unmarshal(b, &contract); err != nil {
		t.Fatal(err)
	}
	if len(contract.Paths) < 20 {
		t.Fatalf("only %d paths", len(contract.Paths))
	}
	inPath := regexp.MustCompile(`\{(\w+)\}`)
	for path, operations := range contract.Paths {
		for method, op := range operations {
			for _, m := range inPath.FindAllStringSubmatch(path, -1) {
				if !slices.ContainsFunc(op.Parameters,
					func(p struct{ Name, In string }) bool { return p.Name == m[1] && p.In == "path" }) {
					t.Errorf("%s %s does not declare %s", method, path, m[1])
				}
			}
		}
	}
}

func TestSignIn(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("")
	for _, x := range []map[string]string{{"email": "lecturer@college.example", "password": "wrong"},
		{"email": "nobody@college.example", "password": "wrong"}, {"email": "", "password": ""}} {
		status, body := c.send(http.MethodPost, "/api/sign-in", x)
		if status != http.StatusUnauthorized || problemOf(t, body).Type != "urn:late-lantern:wrong_password" {
			t.Errorf("%v: %d %s", x, status, body)
		}
	}
	in := e.as("lecturer")
	me := get[accounts.Me](in, "/api/me")
	if me.Name != "lecturer" || !me.Staff || me.Coordinator || len(me.Courses) != 1 ||
		me.Courses[0].Role != "lecturer" {
		t.Errorf("%+v", me)
	}
	if s := in.status(http.MethodPost, "/api/sign-out", nil); s >= 300 {
		t.Errorf("sign out: %d", s)
	}
	if s := in.status(http.MethodGet, "/api/me", nil); s != http.StatusUnauthorized {
		t.Errorf("after signing out: %d", s)
	}
}

// TestOtherSitesCannotAct with the cookie of someone who visits them.
func TestOtherSitesCannotAct(t *testing.T) {
	e := newEdge(t, true)
	c := e.as("lecturer")
	answer := c.request(http.MethodDelete, "/api/courses/"+e.Course.String()+"/rule", nil, "Sec-Fetch-Site",
		"cross-site", "Origin", "https://elsewhere.example")
	answer.Body.Close()
	if answer.StatusCode != http.StatusForbidden {
		t.Errorf("a request from another site: %d", answer.StatusCode)
	}
	answer = c.request(http.MethodGet, "/api/me", nil)
	answer.Body.Close()
	for header, want := range map[string]string{"Content-Security-Policy": "default-src 'none'",
		"X-Content-Type-Options": "nosniff", "Cache-Control": "no-store"} {
		if got := answer.Header.Get(header); !strings.Contains(got, want) {
			t.Errorf("%s is %q", header, got)
		}
	}
	answer = e.as("").request(http.MethodPost, "/api/sign-in",
		strings.NewReader(`{"email":"lecturer@college.example","password":"a long password"}`), "Content-Type",
		"application/json")
	answer.Body.Close()
	if cookie := answer.Header.Get("Set-Cookie"); !strings.Contains(cookie, "HttpOnly") ||
		!strings.Contains(cookie, "SameSite=Lax") {
		t.Errorf("the cookie is %q", cookie)
	}
}
