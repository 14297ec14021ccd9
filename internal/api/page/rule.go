package page

import (
	"latelantern/internal/core/viewing"
)

func LightOf(can, of int) viewing.Light { return viewing.Count{Can: can, Of: of}.Light() }
