package registerfile

import (
	"bytes"
	"encoding/csv"
	"slices"
	"testing"
	"time"

	"latelantern/internal/core/presence"
)

func TestARegisterIsReadByAnyReader(t *testing.T) {
	starts := time.Date(2026, 10, 14, 10, 15, 0, 0, time.FixedZone("", 7200))
	var b bytes.Buffer
	err := Write(&b, []Line{
		{Starts: starts, Topic: "Neaps, springs", Name: "Ines \"Ina\" Marr", Email: "ines@skerry.example", Group: "A",
			Stands: presence.Line{State: presence.Both, Late: 7*time.Minute + 50*time.Second, Early: 12 * time.Minute,
				There: 70 * time.Minute}},
		{Starts: starts, Name: "=1+1", Stands: presence.Line{State: presence.Excused}, By: "Dr Vael", Reason: "ill\nagain"},
	})
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(&b).ReadAll()
	if err != nil || len(rows) != 3 {
		t.Fatalf("%v %v", rows, err)
	}
	want := []string{"2026-10-14", "10:15", "Neaps, springs", "Ines \"Ina\" Marr", "ines@skerry.example", "A", "late_left_early", "7", "12", "70",
		"", ""}
	if !slices.Equal(rows[1], want) {
		t.Errorf("%q", rows[1])
	}
	if rows[2][3] == "=1+1" || rows[2][6] != "excused" || rows[2][10] != "Dr Vael" || rows[2][11] != "ill\nagain" {
		t.Errorf("%q", rows[2])
	}
}
