package core

import (
	"os/exec"
	"strings"
	"testing"
)

// The rules import the standard library, x/text, uniseg and themselves, and of
// the standard library nothing that reaches outside: no files, network, clock,
// database or randomness.
func TestImportsPointInwards(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}: {{join .Imports " "}}`, "./...").CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	outside := map[string]bool{"os": true, "net": true, "net/http": true, "time": true, "math/rand": true, "math/rand/v2": true, "crypto/rand": true, "database/sql": true, "io": true, "context": true, "log": true, "log/slog": true}
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	if len(lines) < 7 {
		t.Fatalf("only %d packages were listed", len(lines))
	}
	for _, line := range lines {
		pkg, imports, _ := strings.Cut(line, ": ")
		for _, i := range strings.Fields(imports) {
			first, _, _ := strings.Cut(i, "/")
			allowed := strings.HasPrefix(i, "jollysatchel/internal/core/") || strings.HasPrefix(i, "golang.org/x/text/") || i == "github.com/rivo/uniseg" ||
				!strings.Contains(first, ".") && first != "jollysatchel" && !outside[i]
			if !allowed {
				t.Errorf("%s imports %s", pkg, i)
			}
		}
	}
}
