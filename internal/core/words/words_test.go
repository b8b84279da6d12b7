package words

import (
	"bytes"
	"encoding/json"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"io/fs"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"testing"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
)

func ExampleFill() {
	fmt.Println(Fill("{name} stands in row {first}: sits out this @:{'word.handout'}.", "name", "{first}", "first", "3"))
	// Output: {first} stands in row 3: sits out this handout.
}

func ExampleProblem() {
	fmt.Println(Problem("address-malformed", map[string]string{"value": "a@b@c"}))
	fmt.Println(Problem("changed", map[string]string{"yours": "", "theirs": ""}) == English.Problem["changed-list"])
	// Output:
	// a@b@c is not an email address.
	// true
}

func ExampleAct() {
	fmt.Println(Act("students-added", "", "", 1))
	fmt.Println(Act("students-added", "", "", 28))
	// Output:
	// added one student
	// added 28 students
}

func TestChanges(t *testing.T) {
	for _, c := range []struct {
		told []change.Told
		all  int
		want string
	}{
		{nil, 0, ""},
		{nil, 3, ""}, // an act that doesn't say them
		{[]change.Told{{What: "due", From: "2026-11-20T17:00", To: "2026-11-23T17:00"}}, 1, "due date Fri 20 Nov 17:00 → Mon 23 Nov 17:00"},
		{[]change.Told{{What: "due", From: "2026-11-20T17:00"}}, 1, "due date Fri 20 Nov 17:00 → none"},
		{[]change.Told{{What: "level", From: "edit", To: "read"}, {What: "message"}}, 2, "access can edit → can read; note"},
		{[]change.Told{{What: "Level", Whose: "Dube, Nokuthula", From: "2", To: "3"}}, 30, "Dube, Nokuthula: Level 2 → 3 and 29 more"},
		{[]change.Told{{What: "room-under", Whose: "Charts", From: "Table"}}, 1, "Charts: is in Table → the class folder"},
		{[]change.Told{{What: "list-joined", To: "1"}, {What: "list-left", To: "12"}}, 2, "one student added; 12 students taken off"},
		{[]change.Told{{What: "pocket-added", To: "Maps | charts"}, {What: "pocket-order"}}, 2, "added the pocket Maps | charts; order of the pockets"},
		{[]change.Told{{What: "out", Whose: "Dube, Nokuthula", From: "in", To: "sits-out"}}, 1, "Dube, Nokuthula: sits out"},
	} {
		if got := Changes(c.told, c.all); got != c.want {
			t.Errorf("%+v of %d: %q, want %q", c.told, c.all, got, c.want)
		}
	}
}

// A code that the catalogue holds twice says only what stands last.
func TestEveryCodeOnce(t *testing.T) {
	d := json.NewDecoder(bytes.NewReader(catalogue))
	var read func(path string)
	read = func(path string) {
		seen := map[string]bool{}
		for d.More() {
			key, err := d.Token()
			if err != nil {
				t.Fatal(err)
			}
			if name := fmt.Sprint(path, ".", key); seen[name] {
				t.Errorf("%s is in the catalogue twice", name)
			} else {
				seen[name] = true
			}
			if value, _ := d.Token(); value == json.Delim('{') {
				read(fmt.Sprint(path, ".", key))
			}
		}
		_, _ = d.Token()
	}
	if _, err := d.Token(); err != nil {
		t.Fatal(err)
	}
	read("")
}

// A use is a code in the program's source, and the part of the catalogue that
// must have words for it.
type use struct{ part, code, at string }

// codes finds every code the program's source gives: in what it answers, finds,
// notes and remarks. Constants are looked up by their names.
func codes(t *testing.T) []use {
	t.Helper()
	set := token.NewFileSet()
	constants := map[string]string{}
	var files []*ast.File
	err := filepath.WalkDir("../../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") ||
			strings.HasSuffix(path, ".gen.go") {
			return err
		}
		f, err := parser.ParseFile(set, path, nil, 0)
		if err != nil {
			return err
		}
		files = append(files, f)
		for _, decl := range f.Decls {
			if g, ok := decl.(*ast.GenDecl); ok && g.Tok == token.CONST {
				for _, spec := range g.Specs {
					v := spec.(*ast.ValueSpec)
					for i, name := range v.Names {
						if i < len(v.Values) {
							if lit, ok := v.Values[i].(*ast.BasicLit); ok && lit.Kind == token.STRING {
								constants[name.Name], _ = strconv.Unquote(lit.Value)
							}
						}
					}
				}
			}
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	value := func(e ast.Expr) string {
		switch e := e.(type) {
		case *ast.BasicLit:
			s, _ := strconv.Unquote(e.Value)
			return s
		case *ast.Ident:
			return constants[e.Name]
		case *ast.SelectorExpr:
			if e.Sel.Name != "Code" { // a field: it came from where it has words
				return constants[e.Sel.Name]
			}
		case *ast.CallExpr: // a conversion of a constant
			if len(e.Args) == 1 {
				if x, ok := e.Args[0].(*ast.SelectorExpr); ok {
					return constants[x.Sel.Name]
				}
			}
		}
		return ""
	}
	typeName := func(e ast.Expr) string {
		switch e := e.(type) {
		case *ast.Ident:
			return e.Name
		case *ast.SelectorExpr:
			return e.Sel.Name
		}
		return ""
	}
	of := func(e ast.Expr) string { // what a call is of
		if s, ok := e.(*ast.SelectorExpr); ok {
			return typeName(s.X)
		}
		return ""
	}
	parts := map[string]string{"Invalid": "problem", "Problem": "problem", "Error": "problem",
		"PutText409JSONResponse": "problem", "Reason": "reason", "Remark": "remark", "Refusal": "problem"}
	var out []use
	for _, f := range files {
		ast.Inspect(f, func(n ast.Node) bool {
			at := ""
			if n != nil {
				at = set.Position(n.Pos()).String()
			}
			switch n := n.(type) {
			case *ast.CompositeLit:
				part := parts[typeName(n.Type)]
				if part == "" {
					return true
				}
				for i, e := range n.Elts {
					if kv, ok := e.(*ast.KeyValueExpr); ok {
						if k, ok := kv.Key.(*ast.Ident); ok && k.Name == "Code" {
							out = append(out, use{part, value(kv.Value), at})
						}
					} else if typeName(n.Type) == "Invalid" && i == 1 || typeName(n.Type) == "Refusal" && i == 0 {
						out = append(out, use{part, value(e), at})
					}
				}
			case *ast.CallExpr:
				name := typeName(n.Fun)
				switch {
				case (name == "Refuse" || name == "TooMany") && len(n.Args) > 1:
					out = append(out, use{"problem", value(n.Args[1]), at})
				case name == "finding" && len(n.Args) > 3:
					out = append(out, use{"finding", value(n.Args[3]), at})
				case (name == "add" && len(n.Args) == 2 || name == "NoteOf" || name == "note") &&
					(f.Name.Name == "register" || f.Name.Name == "registers"):
					if _, lit := n.Args[0].(*ast.BasicLit); lit {
						out = append(out, use{"note", value(n.Args[0]), at})
					}
				case (name == "Act" && of(n.Fun) != "words" || name == "draftAct") && len(n.Args) > 2:
					out = append(out, use{"act", value(n.Args[2]), at})
				case (name == "discard" || name == "planned") && len(n.Args) > 3:
					out = append(out, use{"act", value(n.Args[3]), at})
				case name == "add" && len(n.Args) > 4 && f.Name.Name == "packing":
					out = append(out, use{"reason", value(n.Args[4]), at})
				}
			}
			return true
		})
	}
	return slices.DeleteFunc(out, func(u use) bool { return u.code == "" }) // a variable: it came from where it has words
}

// Every code the program gives has words, and every text names only arguments
// and words there are.
func TestEveryCodeHasWords(t *testing.T) {
	has := map[string]map[string]string{"reason": English.Reason, "note": English.Note, "remark": English.Remark,
		"problem": English.Problem, "naming": English.Naming, "act": English.Act, "finding": {}}
	for code, x := range English.Finding {
		has["finding"][code] = x.Title
	}
	found := map[string]int{}
	for _, u := range codes(t) {
		found[u.part]++
		if has[u.part][u.code] == "" {
			t.Errorf("%s: the %s %q has no words", u.at, u.part, u.code)
		}
	}
	for part, least := range map[string]int{"problem": 200, "reason": 30, "finding": 10, "note": 9, "remark": 3, "act": 60} {
		if found[part] < least {
			t.Errorf("only %d codes of %ss were found", found[part], part)
		}
	}
	for _, code := range []string{naming.ByNumber, naming.ByPeriod, naming.ByCounter, naming.Replaced, naming.Shortened} {
		if English.Naming[code] == "" {
			t.Errorf("%q of naming has no words", code)
		}
	}
	// What a row's or a choice's outcome is called, and a line of a list.
	for _, code := range []string{"account-unknown", "no-address", "account-other-name", "account-not-student",
		"account-twice", "sits-out", "unticked", "condition", "left"} {
		if English.Reason[code] == "" {
			t.Errorf("the reason %q has no words", code)
		}
	}
	// What the contract says a route may be refused for.
	contract, err := os.ReadFile("../../../api/openapi.yaml")
	if err != nil {
		t.Fatal(err)
	}
	routes := regexp.MustCompile(`"Problems: ([a-z, -]+)\."`).FindAllStringSubmatch(string(contract), -1)
	for _, r := range routes {
		for _, code := range strings.Split(r[1], ", ") {
			if English.Problem[code] == "" {
				t.Errorf("the contract's problem %q has no words", code)
			}
		}
	}
	if len(routes) < 30 {
		t.Errorf("only %d routes say what they may be refused for", len(routes))
	}
	word := regexp.MustCompile(`^(@:)?\{('word\.\w+'|\w+)\}$`)
	every := map[string]string{}
	for part, texts := range has {
		for code, text := range texts {
			every[part+" "+code] = text
		}
	}
	for code, x := range English.Finding {
		every["finding "+code] = x.Title + " " + x.Text + " " + x.Remedy
	}
	for where, text := range every {
		for _, hole := range regexp.MustCompile(`(@:)?\{[^}]*\}`).FindAllString(text, -1) {
			if !word.MatchString(hole) || strings.Contains(hole, "word.") && English.Word[strings.TrimSuffix(hole[len("@:{'word."):], "'}")] == "" {
				t.Errorf("%s names %s", where, hole)
			}
		}
	}
}
