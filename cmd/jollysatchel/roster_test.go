package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"jollysatchel/internal/tables"
)

func TestRoster(t *testing.T) {
	good := "No,Surname,First,Email,Boat group\n1,Dube,Nokuthula,n@kq.example,Gull\n\n2,Eze,Kelechi,k@kq.example,\n"
	file := filepath.Join(t.TempDir(), "list.csv")
	if err := os.WriteFile(file, []byte(good), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		what   string
		args   []string
		stdin  string
		status int
		stderr string
	}{
		{"a good list", []string{file}, "", 0, ""},
		{"standard input", []string{"-"}, good, 0, ""},
		{"an error in the list", []string{"-"}, good + "3,Fay,Finn,no address,\n", 1, ""},
		{"no address column", []string{"-"}, "Surname,First\nDube,N\n", 1, ""},
		{"no table", []string{"-"}, "\x00\x01", 2, "not a table of text"},
		{"nothing", []string{"-"}, "", 2, "This is empty"},
		{"an open quotation mark", []string{"-"}, "a,b\n\"c,d\n", 2, "line 2"},
		{"no such file", []string{"nowhere.csv"}, "", 2, "nowhere.csv"},
		{"no file named", nil, "", 2, "usage"},
		{"an unknown flag", []string{"--what"}, "", 2, "usage"},
	} {
		var out, errs bytes.Buffer
		status := runRoster(c.args, strings.NewReader(c.stdin), &out, &errs)
		if status != c.status || !strings.Contains(errs.String(), c.stderr) {
			t.Errorf("%s: exit %d, %q", c.what, status, errs.String())
		}
		if (status == 2) != (out.Len() == 0) {
			t.Errorf("%s: exit %d and printed %q", c.what, status, out.String())
		}
	}
}

// Every format through the command, with its flags before and after the file.
func TestRosterFlags(t *testing.T) {
	dir := t.TempDir()
	write := func(name string, b []byte) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, b, 0o644); err != nil {
			t.Fatal(err)
		}
		return path
	}
	rows := [][]string{{"No", "Surname", "First", "Email", "Class"},
		{"1", "Dube", "Nokuthula", "n.dube@kq.example", "7B"}, {"2", "Eze", "Kelechi", "k.ese@kq.example", "8A"},
		{"3", "Fay", "Finn", "f.fay@home.example", "7b"}}
	var book bytes.Buffer
	if err := tables.Write(&book, tables.ODS, "Autumn", rows); err != nil {
		t.Fatal(err)
	}
	ods := write("list.ods", book.Bytes())
	older := write("old.csv", []byte("No,Surname,First,Email,Class\n1,Dube,Noku,n.dube@kq.example,7B\n4,Gale,Gus,g@kq.example,7B\n"))
	known := write("known.txt", []byte("n.dube@kq.example\nK.Eze@kq.example\n"))
	run := func(args ...string) (map[string]any, string) {
		t.Helper()
		var out, errs bytes.Buffer
		if status := runRoster(args, nil, &out, &errs); status == 2 {
			return nil, errs.String()
		}
		var got map[string]any
		if err := json.Unmarshal(out.Bytes(), &got); err != nil {
			t.Fatal(err)
		}
		return got, ""
	}
	list := func(v any, member string) string {
		var out []string
		for _, x := range v.([]any) {
			out = append(out, fmt.Sprint(x.(map[string]any)[member]))
		}
		return strings.Join(out, " ")
	}
	got, _ := run(ods, "--sheet", "autumn", "--class=7B")
	if names := list(got["students"], "family"); names != "Dube Fay" || list(got["students"], "row") != "2 4" ||
		got["counts"].(map[string]any)["rows"] != 2.0 {
		t.Errorf("one class of the sheet: %v", got)
	}
	got, _ = run("--domain", "kq.example", "--known", known, ods)
	if codes := list(got["findings"], "code"); codes != "account-unknown domain-other account-unknown" {
		t.Errorf("findings %s", codes)
	}
	if s := got["findings"].([]any)[0].(map[string]any)["args"].(map[string]any)["suggestion"]; s != "K.Eze@kq.example" {
		t.Errorf("suggestion %v", s)
	}
	got, _ = run(ods, "--compare", older)
	if kinds := list(got["lines"], "kind"); kinds != "changed joined joined left" ||
		got["counts"].(map[string]any)["joined"] != 2.0 || list(got["lines"], "old_row") != "2 0 0 3" {
		t.Errorf("compared: %v", got)
	}
	for _, c := range [][]string{{"--sheet", "Spring", ods}, {"--class", "9C", ods}, {"--known", "nowhere", ods},
		{"--compare", "nowhere", ods}, {ods, ods}} {
		if got, errs := run(c...); got != nil || errs == "" {
			t.Errorf("%v: %v, %q", c, got, errs)
		}
	}
}

// The printed JSON has exactly the members a script may rely on.
func TestRosterJSON(t *testing.T) {
	var out bytes.Buffer
	if status := runRoster([]string{"-"},
		strings.NewReader("List\n\nNo,Surname,First,Email,Boat group\n1,Dube,Nokuthula,n@kq.example,Gull\n1,Dube,Nokuthula,n@kq.example,Gull\n\n"), &out, os.Stderr); status != 1 {
		t.Fatalf("exit %d", status)
	}
	var got map[string]any
	if err := json.Unmarshal(out.Bytes(), &got); err != nil {
		t.Fatal(err)
	}
	members := func(v any) string {
		var keys []string
		for k := range v.(map[string]any) {
			keys = append(keys, k)
		}
		slices.Sort(keys)
		return strings.Join(keys, " ")
	}
	first := func(name string) any { return got[name].([]any)[0] }
	for what, pair := range map[string][2]string{
		"the whole": {members(got), "columns counts findings students"},
		"a column":  {members(first("columns")), "confidence heading role"},
		"a student": {members(first("students")), "address class extra family given level number period row team"},
		"a finding": {members(first("findings")), "args code column field message remedy row severity title"},
		"counts":    {members(got["counts"]), "blank hidden left_out rows students"},
	} {
		if pair[0] != pair[1] {
			t.Errorf("%s has %q, want %q", what, pair[0], pair[1])
		}
	}
	if s := first("students").(map[string]any); s["row"] != 4.0 || s["extra"].(map[string]any)["Boat group"] != "Gull" {
		t.Errorf("student %v", s)
	}
	if c := got["counts"].(map[string]any); c["rows"] != 3.0 || c["students"] != 1.0 || c["left_out"] != 1.0 || c["blank"] != 1.0 {
		t.Errorf("counts %v", c)
	}
}
