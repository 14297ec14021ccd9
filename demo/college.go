package demo

import (
	"strings"
	"time"

	"latelantern/internal/core/doorway"
	"latelantern/internal/core/timetable"
	"latelantern/internal/core/viewing"
	"latelantern/internal/playlists"
)

// Password opens every account of the demonstration, which is no secret.
const Password = "late-lantern"

// zone is where Skerry Sound College lies.
const zone = "Atlantic/Faroe"

// opening is when the day of the demonstration begins: shortly after the first lecture of
// the day has, and nobody has pressed start.
const opening = 10*time.Hour + 20*time.Minute

// Start is when a demonstration that is loaded at t takes place: at the opening hour of
// that day, or of the Monday after when t falls on a weekend.
func Start(t time.Time) (time.Time, error) {
	place, err := time.LoadLocation(zone)
	if err != nil {
		return time.Time{}, err
	}
	d := timetable.DayOf(t, place)
	for d.Weekday() == time.Saturday || d.Weekday() == time.Sunday {
		d = d.AddDate(0, 0, 1)
	}
	return clockOn(d, opening, place), nil
}

// clockOn is a time of day on a date in a zone.
func clockOn(d timetable.Day, at time.Duration, place *time.Location) time.Time {
	return time.Date(d.Year(), d.Month(), d.Day(), int(at.Hours()), int(at.Minutes())%60, 0, 0, place)
}

// thisWeek is the week of teaching in which the demonstration takes place.
const thisWeek = 4

// term is the term around the day of the demonstration. Week 3 follows a break.
func term(today timetable.Day) (timetable.Term, func(week int) timetable.Day) {
	monday := timetable.Monday(today)
	first := monday.AddDate(0, 0, -7*thisWeek)
	off := first.AddDate(0, 0, 14)
	plan := timetable.Term{First: first, Last: monday.AddDate(0, 0, 6*7+4),
		Breaks: []timetable.Break{{First: off, Last: off.AddDate(0, 0, 6), Name: "Regatta"}}}
	return plan, func(week int) timetable.Day {
		if week > 2 {
			week++
		}
		return first.AddDate(0, 0, 7*(week-1))
	}
}

// weeks is how many weeks of teaching the term has.
const weeks = 10

// course is a course and its weekly lecture.
type course struct {
	code, title string
	lecturer    string
	hall        string
	later       int           // days after the day of the demonstration, at most until Friday
	at          time.Duration // time of day
	lasts       time.Duration
	students    [2]int // which of the students are enrolled, half-open
	groups      []string
	doorway     doorway.Way
	itself      bool     // starts capture by itself
	topics      []string // by week
	calledOff   []int    // weeks
	rule        *viewing.Rule
	headings    map[int]playlists.Text // before the recording of that week
	stages      map[int]stage          // how far the recording of a week is; lit when not named
}

// stage is how far a recording has come.
type stage int

const (
	lit      stage = iota // trimmed, titled, listed and lit
	captured              // waits for a trim
	trimmed               // waits for a title
	titled                // waits for a rule, or else for its place in the playlist
	listed                // waits to be lit
)

var everyone = &viewing.Rule{Audience: viewing.Everyone, Uses: viewing.AllUses,
	Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilTerm, DaysAfterTerm: 30}}

var courses = []course{
	{
		code: "TID 210", title: "Reading the Tides", lecturer: "Maren Oduya", hall: "Kelp Hall",
		doorway: doorway.WalkIn, at: 10*time.Hour + 15*time.Minute, lasts: 90 * time.Minute, students: [2]int{0, 24},
		topics: []string{"Two high waters a day", "Spring tides and neap tides", "The tide table and its errors",
			"Currents in the narrows", "Charts and their zero", "Tidal streams by the hour", "A gauge of one's own",
			"The long record", "Surges", "Looking back"},
		rule: everyone, headings: map[int]playlists.Text{
			1: {Title: "The Moon and the Sun", About: "Why there are two tides a day, and why they are not alike."},
			3: {Title: "Tables and what they leave out"}},
		stages: map[int]stage{3: listed},
	}, {
		code: "ALG 118", title: "Seaweeds and Kelp Forests", lecturer: "Tobias Hallgrim", hall: "Kelp Hall",
		doorway: doorway.WalkIn, at: 13*time.Hour + 15*time.Minute, lasts: 90 * time.Minute, students: [2]int{8, 30},
		topics: []string{"What is a seaweed", "Light under water", "Kelp forests and who lives there",
			"Red ones, deep down", "Drift and wrack lines", "Harvest without harm", "Growing on ropes",
			"Guests from elsewhere", "A survey from a boat", "Looking back"},
		rule: everyone, headings: map[int]playlists.Text{1: {Title: "On the shore"}},
		stages: map[int]stage{3: captured},
	}, {
		code: "SIG 305", title: "Foghorns, Bells and Lights", lecturer: "Nia Castellane", hall: "Net Loft",
		doorway: doorway.Ask, at: 14*time.Hour + 15*time.Minute, lasts: 90 * time.Minute, students: [2]int{20, 38},
		topics: []string{"Why a coast has signals", "Bells and gongs", "The character of a light", "Lenses",
			"Horns and sirens", "Leading lights", "Buoys by shape", "The keeper's log", "Signals that failed",
			"Looking back"},
		stages: map[int]stage{3: titled}, calledOff: []int{1},
	}, {
		code: "BOA 140", title: "Small Boat Repair", lecturer: "Oskar Vane", hall: "Boathouse 2",
		doorway: doorway.WalkIn, itself: true, at: 15*time.Hour + 15*time.Minute, lasts: 2 * time.Hour,
		students: [2]int{30, 52}, groups: []string{"Bench 1", "Bench 2", "Bench 3"},
		topics: []string{"Wood, and how it moves", "Finding rot before it finds you", "Fastenings", "Ribs and steaming",
			"Paint and varnish", "Spars", "Canvas and twine", "An engine that will not start", "Launching",
			"Looking back"},
		rule: &viewing.Rule{Audience: viewing.Groups, Groups: []string{"Bench 1", "Bench 2"}, Uses: viewing.WatchRead,
			Window: viewing.Window{From: viewing.FromLecture, Until: viewing.UntilTerm, DaysAfterTerm: 30}},
		stages: map[int]stage{3: trimmed}, headings: map[int]playlists.Text{1: {Title: "Planks"}},
	}, {
		code: "WEA 220", title: "Weather from the Shore", lecturer: "Ruth Amadi", hall: "Net Loft",
		doorway: doorway.Closed, later: 2, at: 16*time.Hour + 15*time.Minute, lasts: 90 * time.Minute,
		students: [2]int{4, 24},
		topics: []string{"Clouds from the slip", "Pressure and the wind", "Fog", "Fronts by ear and by eye",
			"Swell from far away", "A log of one's own", "Squalls", "Ice", "When to stay in", "Looking back"},
		rule: everyone, headings: map[int]playlists.Text{1: {Title: "What can be seen without an instrument"}},
		stages: map[int]stage{3: titled},
	},
}

// Account is a person worth signing in as.
type Account struct {
	Email, Who string
}

// Accounts are printed when the demonstration starts.
var Accounts = []Account{
	{address("Maren Oduya"), "lecturer of TID 210"},
	{address("Ines Thorvald"), "media coordinator"},
	{address(student(0)), "student of TID 210"},
	{address(student(9)), "student of TID 210, ALG 118 and WEA 220"},
	{address(student(47)), "student of BOA 140, of a bench that the rule leaves out"},
}

const coordinator = "Ines Thorvald"

var (
	given = []string{"Tavi", "Sunniva", "Jory", "Elowen", "Marit", "Davin", "Isla", "Rurik", "Annike", "Perran",
		"Solveig", "Bastian", "Merryn", "Iver", "Kerensa", "Odd", "Linnea", "Talan"}
	named = []string{"Brandal", "Quickstone", "Fjeldvik", "Penrose-Hale", "Ostrander", "Winterbourne", "Skarholm",
		"Trevanion", "Almeida", "Northgate", "Ekenes"}
)

// studentCount is how many students the college has.
const studentCount = 54

// inactive is how many of the last students have not activated their account.
const inactive = 4

func student(n int) string { return given[n%len(given)] + " " + named[n*7%len(named)] }

func address(name string) string {
	return strings.ToLower(strings.ReplaceAll(name, " ", ".")) + "@skerry.example"
}
