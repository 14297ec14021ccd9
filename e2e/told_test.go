package e2e

import (
	"testing"

	"github.com/chromedp/chromedp/kb"
)

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
	s.must(p.Click("Nobody needs to be told of it"), p.See("Undo"), p.Click("Undo"), p.See("Undone"))
	s.must(p.Go("/board"), waits(true))

	// On the bench it is said and taken back as well.
	const bench, silent, silenced = "What is a seaweed", "Nobody needs to be told", "Nobody needs to be told of it."
	s.must(p.Go("/recordings?words=seaweed"), p.Click(bench), p.See("Tell the students of ALG 118"), p.Click(silent),
		p.See(silenced))
	s.clean(p, "nobody needs to be told")
	s.must(p.Focus(".undo button"), p.Keys(kb.Enter), p.See("Tell the students of ALG 118"), p.Click(silent),
		p.See(silenced))
	s.must(p.Go("/board"), waits(false))

	// They can be told all the same, which is found where the playlist is.
	s.must(p.Go("/courses/"+s.course("ALG 118").String()+"/playlist?tell=yes"), p.See(bench),
		p.See("nobody needs to be told"), p.Wait(`!document.querySelector('.list input').checked`),
		p.Wait(`document.querySelector('.list .el-checkbox').click() === undefined`),
		p.Click("Tell "), p.See("were told"))
}
