package page

import (
	"latelantern/internal/core/viewing"
)

// LightOf is how light a recording is that so many of so many can watch.
func LightOf(can, of int) viewing.Light { return viewing.Count{Can: can, Of: of}.Light() }
