package presence

import (
	"errors"
	"testing"
)

func TestWhomAFileNames(t *testing.T) {
	var s Seats
	for n, p := range [][2]string{{"Åse Li Marr", "ase@college.example"}, {"Tom Vael", "tom@college.example"},
		{"Tom Vael", "tom2@college.example"}, {"O'Hara, Jo", "jo@college.example"}} {
		s.Sit(n, p[0], p[1])
	}
	for who, want := range map[string]int{
		"ase@college.example":   0,
		" ASE@College.example ": 0,
		"Marr, Åse Li":          0,
		"MARR ase  li":          0,
		"A\u030ase Li Marr":     0,
		"tom2@college.example":  2,
		"jo o hara":             3,
	} {
		if n, err := s.Find(who); err != nil || n != want {
			t.Errorf("%q is %d (%v), want %d", who, n, err, want)
		}
	}
	for who, want := range map[string]error{
		"Tom Vael": ErrSeveral, "vael tom": ErrSeveral,
		"Åse Marr": ErrNobody, "": ErrNobody, " , ": ErrNobody, "ase@elsewhere.example": ErrNobody, "Tom": ErrNobody,
	} {
		if n, err := s.Find(who); !errors.Is(err, want) {
			t.Errorf("%q is %d (%v), want %v", who, n, err, want)
		}
	}
	if _, err := new(Seats).Find("Tom Vael"); !errors.Is(err, ErrNobody) {
		t.Errorf("among nobody: %v", err)
	}
}
