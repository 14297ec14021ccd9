package e2e

import "testing"

// TestLitAndTold: what is lit waits until the students are told of it; the board leads there, and so does the bench;
// where nobody needs to be told a press says so, and another takes that back.
func TestLitAndTold(t *testing.T) {
	t.Parallel()
	s := newStage(t)
	p := s.person(chromium(t), coordinator)
	const need = "ALG 118 week 1 is lit, and nobody was told"
	waits := func(yes bool) error {
		if yes {
			return p.See(need)
		}
		return p.Wait(`!document.body.innerText.includes('` + need + `') && document.querySelectorAll('.lantern').length > 5`)
	}
	s.must(p.Go("/board"), p.Click(need), p.See("Tell the students of ALG 118"), p.See("What is a seaweed"),
		p.See("Nobody needs to be told of it"))
	s.clean(p, "nobody was told")
	s.must(p.Click("Nobody needs to be told of it"), p.See("Undo"))
	s.must(p.Go("/board"), waits(false))

	// On the bench it is said and taken back as well.
	s.must(p.Go("/recordings?words=seaweed"), p.Click("What is a seaweed"), p.See("can watch"))
	s.must(p.Go("/courses/"+s.course("ALG 118").String()+"/playlist?tell=yes"), p.See("What is a seaweed"),
		p.Click("Tell "), p.See("were told"))
	s.must(p.Go("/board"), waits(false))
}
