package core

import (
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"
)

// The rules import the standard library, x/text, uniseg and themselves, and of
// the standard library nothing that reaches outside: no files, network, database
// or randomness.
func TestImportsPointInwards(t *testing.T) {
	out, err := exec.Command("go", "list", "-f", `{{.ImportPath}}: {{join .Imports " "}}`, "./...").CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	outside := map[string]bool{"os": true, "net": true, "net/http": true, "math/rand": true, "math/rand/v2": true,
		"crypto/rand": true, "database/sql": true, "io": true, "context": true, "log": true, "log/slog": true}
	lines := strings.Split(strings.TrimSpace(string(out)), "\n")
	if len(lines) < 7 {
		t.Fatalf("only %d packages were listed", len(lines))
	}
	for _, line := range lines {
		pkg, imports, _ := strings.Cut(line, ": ")
		for _, i := range strings.Fields(imports) {
			first, _, _ := strings.Cut(i, "/")
			allowed := strings.HasPrefix(i, "jollysatchel/internal/core/") || strings.HasPrefix(i, "golang.org/x/text/") ||
				i == "github.com/rivo/uniseg" ||
				!strings.Contains(first, ".") && first != "jollysatchel" && !outside[i]
			if !allowed {
				t.Errorf("%s imports %s", pkg, i)
			}
		}
	}
}

// A moment is a value like any other; what time it is now, the rules are told.
func TestNobodyReadsTheClock(t *testing.T) {
	clock := []string{"Now", "Since", "Until", "After", "AfterFunc", "Tick", "NewTicker", "NewTimer", "Sleep", "Local"}
	files := 0
	err := filepath.WalkDir(".", func(path string, _ fs.DirEntry, err error) error {
		if err != nil || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return err
		}
		files++
		f, err := parser.ParseFile(token.NewFileSet(), path, nil, 0)
		if err != nil {
			return err
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if s, ok := n.(*ast.SelectorExpr); ok {
				if x, ok := s.X.(*ast.Ident); ok && x.Name == "time" && slices.Contains(clock, s.Sel.Name) {
					t.Errorf("%s: time.%s", path, s.Sel.Name)
				}
			}
			return true
		})
		return nil
	})
	if err != nil || files < 20 {
		t.Errorf("%d files, %v", files, err)
	}
}
