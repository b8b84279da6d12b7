package internal

import (
	"bytes"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// How large the parts of the house grow at most. Anyone who meets one of these divides what has grown
// by what it is about; a number here isn't raised.
const (
	mostOfFunction  = 60   // lines
	mostOfFile      = 400  // lines
	mostOfPackage   = 3000 // lines
	mostOfInterface = 11   // methods
	mostOfLine      = 140  // bytes; 120 is the rule
	mostRules       = 0.10 // share of a use case's lines in functions that take no context: what those do is the core's
)

// notOurs are generated; parts of tests that several packages share are tests.
func notOurs(path string) bool {
	return strings.HasSuffix(path, ".gen.go") || strings.HasSuffix(filepath.Dir(path), "test")
}

// Every line, function, file and interface can be read at a look; and in a room of the use cases little is
// worked out that needs no database: that is a rule, and belongs to the core.
func TestHouse(t *testing.T) {
	type share struct{ lines, without int }
	rooms, packages := map[string]*share{}, map[string]int{}
	files := token.NewFileSet()
	err := filepath.WalkDir(".", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") || notOurs(path) {
			return err
		}
		text, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		n := bytes.Count(text, []byte("\n"))
		if packages[filepath.Dir(path)] += n; n > mostOfFile {
			t.Errorf("%s has %d lines, %d at most", path, n, mostOfFile)
		}
		for i, line := range bytes.Split(text, []byte("\n")) {
			if len(line) > mostOfLine {
				t.Errorf("%s:%d: a line of %d bytes, %d at most", path, i+1, len(line), mostOfLine)
			}
		}
		file, err := parser.ParseFile(files, path, text, 0)
		if err != nil {
			return err
		}
		ast.Inspect(file, func(n ast.Node) bool {
			switch n := n.(type) {
			case *ast.InterfaceType:
				if len(n.Methods.List) > mostOfInterface && !strings.HasPrefix(path, "cupboard/") {
					t.Errorf("%s: an interface of %d methods, %d at most: whoever needs some of them asks for those",
						files.Position(n.Pos()), len(n.Methods.List), mostOfInterface)
				}
			case *ast.FuncDecl:
				lines := files.Position(n.End()).Line - files.Position(n.Pos()).Line + 1
				if lines > mostOfFunction {
					t.Errorf("%s: %s has %d lines, %d at most", files.Position(n.Pos()), n.Name.Name, lines, mostOfFunction)
				}
				room, is := strings.CutPrefix(filepath.Dir(path), "usecase/")
				if !is || room == "seam" {
					break
				}
				if rooms[room] == nil {
					rooms[room] = &share{}
				}
				rooms[room].lines += lines
				if !takesContext(n) {
					rooms[room].without += lines
				}
			}
			return true
		})
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	if len(rooms) < 10 {
		t.Errorf("only %d rooms were looked at", len(rooms))
	}
	for pkg, n := range packages {
		if n > mostOfPackage {
			t.Errorf("%s has %d lines, %d at most", pkg, n, mostOfPackage)
		}
	}
	for room, s := range rooms {
		if have := float64(s.without) / float64(s.lines); have > mostRules {
			t.Errorf("usecase/%s: %.0f %% of its lines are in functions without a context, %.0f %% at most", room, 100*have, 100*mostRules)
		}
	}
}

func takesContext(f *ast.FuncDecl) bool {
	for _, p := range f.Type.Params.List {
		if s, ok := p.Type.(*ast.SelectorExpr); ok && s.Sel.Name == "Context" {
			return true
		}
	}
	return false
}
