package measure_test

import (
	"testing"

	"latelantern/internal/testdb"
)

func TestMain(m *testing.M) { testdb.Main(m) }
