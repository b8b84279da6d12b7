package usecase

import (
	"os/exec"
	"strings"
	"testing"
)

// A room of the use cases knows the seam and what is below it, and no other room: so one is read,
// and changed, by itself.
func TestRoomsStandAlone(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}: {{join .Imports " "}}`, "./...").CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	const here = "jollysatchel/internal/usecase/"
	rooms := 0
	for line := range strings.Lines(string(out)) {
		room, imports, _ := strings.Cut(strings.TrimSpace(line), ": ")
		if !strings.HasPrefix(room, here) {
			continue
		}
		rooms++
		for _, i := range strings.Fields(imports) {
			above := strings.HasPrefix(i, "jollysatchel/internal/web") || strings.HasPrefix(i, "jollysatchel/internal/app")
			if above || strings.HasPrefix(i, here) && i != here+"seam" {
				t.Errorf("%s imports %s: what both need belongs into the seam or the core", room, i)
			}
		}
	}
	if rooms < 11 {
		t.Errorf("only %d rooms were listed", rooms)
	}
}
