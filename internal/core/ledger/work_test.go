package ledger_test

import (
	"testing"

	"jollysatchel/internal/core/ledger"
)

// Begun is what differs from what was given; what wasn't measured yet is taken for it.
func TestBegun(t *testing.T) {
	for _, x := range []struct {
		what           string
		given, version int
		work           ledger.Work
		want           bool
	}{
		{"just made", 0, 1, ledger.Work{}, false},
		{"just made, and measured", 1, 1, ledger.Work{Version: 1}, false},
		{"kept as it was", 1, 3, ledger.Work{Version: 3}, false},
		{"written", 1, 3, ledger.Work{Version: 3, Begun: true, Added: 9}, true},
		{"all that was written taken out again", 1, 4, ledger.Work{Version: 4}, false},
		{"not measured at all", 1, 2, ledger.Work{}, true},
		{"not measured since", 1, 4, ledger.Work{Version: 3}, true},
		{"given anew over what was begun", 5, 5, ledger.Work{Version: 4, Begun: true}, false},
		{"kept as it was once given anew", 5, 6, ledger.Work{Version: 6}, false},
		{"written once given anew, not measured", 5, 6, ledger.Work{Version: 4, Begun: true}, true},
		{"words that can't be counted", 1, 2, ledger.Work{Version: 2, Begun: true, Uncounted: true}, true},
	} {
		if got := (ledger.Entry{Given: x.given}).Begun(x.version, x.work); got != x.want {
			t.Errorf("%s: begun is %v", x.what, got)
		}
	}
}
