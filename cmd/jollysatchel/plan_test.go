package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/planfile"
	"jollysatchel/internal/core/room"
)

const planRoom = `{"kind":"jolly-satchel/room-plan","version":1,"satchel":"[Family name], [Given name]","within":["Period [Period]"],"pockets":["Field work","Photographs"],"path":["[School year]"],
"places":[{"id":"shelf","for":"class","level":"read"},{"id":"table","for":"class","level":"edit"},{"id":"drawer","for":"staff"},{"id":"cloakroom","for":"student","level":"edit"},
{"id":"a","name":"Crews","for":"team","teams":"Boat group","level":"edit"},{"id":"b","name":"Hand in","for":"student","level":"edit","handIn":true}]}`

const planHandout = `{"kind":"jolly-satchel/handout","version":1,"title":"Knot card","template":"Card.md","name":"[Family name] – [Title]","pocket":"Field work","level":"comment",
"choice":{"conditions":[{"column":"extra:Boat group","test":"is-not","values":["Tern"]}]}}`

// planOf runs the command and reads what it prints.
func planOf(t *testing.T, args []string, stdin string) (out planned, status int, errs string) {
	t.Helper()
	var stdout, stderr bytes.Buffer
	status = runPlan(args, strings.NewReader(stdin), &stdout, &stderr, time.Date(2026, 11, 25, 7, 40, 0, 0, time.UTC))
	if (status == 2) != (stdout.Len() == 0) {
		t.Errorf("exit %d and printed %d bytes", status, stdout.Len())
	}
	if status != 2 {
		if err := json.Unmarshal(stdout.Bytes(), &out); err != nil {
			t.Fatal(err)
		}
	}
	return out, status, stderr.String()
}

func planFiles(t *testing.T) func(name, text string) string {
	dir := t.TempDir()
	return func(name, text string) string {
		path := filepath.Join(dir, name)
		if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		return path
	}
}

// The counts of the trade (common practice, no published source): one class folder
// and four places, one folder each, pockets for each, k·n copies for n students.
func TestPlanCounts(t *testing.T) {
	write := planFiles(t)
	plan := room.Usual()
	plan.Pockets = []room.Pocket{{ID: "1", Name: "Field work"}, {ID: "2", Name: "Photographs"}}
	rooms := write("room.json", string(planfile.WriteRoom(plan)))
	handout := write("handout.json", `{"kind":"jolly-satchel/handout","version":1,"title":"Log","name":"[Family name]","level":"edit"}`)
	for _, n := range []int{0, 1, 4, 25, 35} {
		list := "Family name,Given name,Email\n"
		for i := range n {
			list += fmt.Sprintf("Family%d,Given,s%d@kestrelquay.example\n", i, i)
		}
		got, status, errs := planOf(t, []string{"--room", rooms, "--handout", handout, "-"}, list)
		if n == 0 && status == 1 {
			continue // a list without a student is said to be one
		}
		if status != 0 || got.Counts["folders"] != 1+4+n+2*n+2 || got.Counts["files"] != n {
			t.Errorf("%d students: exit %d %s, %v", n, status, errs, got.Counts)
		}
		// Each is in the rule of the shelf, the table, the own satchel and the own copy.
		if got.Levels["read"] != n || got.Levels["edit"] != 3*n {
			t.Errorf("%d students: grants %v", n, got.Levels)
		}
	}
}

func TestPlan(t *testing.T) {
	write := planFiles(t)
	rooms, handout := write("room.json", planRoom), write("handout.json", planHandout)
	list := "Period,Surname,First,Email,Boat group\n3,Dube,Nokuthula,n@kq.example,Gull\n3,Dube,Nokuthula,m@kq.example,Tern\n4,Eze,Kelechi,k@kq.example,\n4,Fay,Finn,no address,Gull\n"
	got, status, errs := planOf(t,
		[]string{"--name", "Tide Watch 7B", "--owner", "oduya@kq.example", "--room", rooms, "--handout", handout, "-"}, list)
	if status != 1 {
		t.Fatalf("exit %d: %s", status, errs)
	}
	things := map[string]plannedThing{}
	for _, x := range got.Things {
		things[strings.Join(x.Path, "/")] = x
		if x.Owner != "oduya@kq.example" {
			t.Errorf("%v is owned by %s", x.Path, x.Owner)
		}
	}
	top := "2026-27/Tide Watch 7B"
	for path, want := range map[string]string{
		top: "map[] alone", top + "/Shelf": "map[k@kq.example:read m@kq.example:read n@kq.example:read]", top + "/Drawer": "map[]",
		top + "/Crews/Gull": "map[n@kq.example:edit]", top + "/Crews/Tern": "map[m@kq.example:edit]",
		top + "/Hand in/Eze, Kelechi":                                                  "map[k@kq.example:edit]",
		top + "/Cloakroom/Period 4/Eze, Kelechi":                                       "map[k@kq.example:edit]",
		top + "/Drawer/Handouts/Knot card":                                             "map[]",
		top + "/Cloakroom/Period 3/Dube, Nokuthula 1/Field work":                       "map[]",
		top + "/Cloakroom/Period 3/Dube, Nokuthula 1/Field work/Dube 1 – Knot card.md": "map[n@kq.example:comment] alone",
	} {
		x, there := things[path]
		rule := fmt.Sprint(x.Levels)
		if x.Alone {
			rule += " alone"
		}
		if !there || rule != want {
			t.Errorf("%s: there %v, %s, want %s", path, there, rule, want)
		}
	}
	if x := things[top+"/Cloakroom/Period 3/Dube, Nokuthula 1"]; x.Apart != "counter" || x.Row != 2 ||
		!strings.Contains(x.Rule, "n@kq.example can edit") {
		t.Errorf("told apart: %+v", x)
	}
	if x := things[top+"/Cloakroom/Period 3/Dube, Nokuthula 1/Field work/Dube 1 – Knot card.md"]; x.Source != "Card.md" || x.Kind != "file" {
		t.Errorf("a copy: %+v", x)
	}
	out := map[string]int{}
	for _, o := range got.LeftOut {
		out[o.Code]++
	}
	if out["no-team"] != 1 || out["condition"] != 1 || len(got.NeedsFixing) != 1 || got.NeedsFixing[0].Row != 5 {
		t.Errorf("left out %v, needs fixing %+v", got.LeftOut, got.NeedsFixing)
	}
	again, _, _ := planOf(t, []string{"-", "--owner", "oduya@kq.example", "--name", "Tide Watch 7B", "--room", rooms,
		"--handout", handout}, list)
	if fmt.Sprint(again) != fmt.Sprint(got) {
		t.Error("the same again is something else")
	}
}

func TestPlanRefuses(t *testing.T) {
	write := planFiles(t)
	list := "Surname,First,Email\nDube,Nokuthula,n@kq.example\n"
	crowd := strings.Repeat(`{"id":"x","name":"X","for":"staff"},`, 9_999) + `{"id":"y","name":"Y","for":"staff"}`
	place := func(more string) string {
		return strings.Replace(planRoom, `"handIn":true}]`, `"handIn":true},`+more+`]`, 1)
	}
	for _, c := range []struct{ what, room, handout, stderr string }{
		{"no JSON", "Dear class", "", "not JSON"},
		{"no plan", "{}", "", "not a room plan"},
		{"a column there isn't", planRoom, "", "Boat group"},
		{"an unknown level", place(`{"id":"z","name":"Z","for":"class","level":"admire"}`), "", "“admire” is not a level"},
		{"a circle", place(`{"id":"z","name":"Z","for":"staff","under":"q"},{"id":"q","name":"Q","for":"staff","under":"z"}`), "", "can’t be inside itself"},
		{"10,000 places", place(crowd), "", "limit is 40 places"},
		{"no column in the name", strings.Replace(planRoom, "[Family name], [Given name]", "Satchel", 1), "", "All names would be equal"},
		{"no handout", "", "[]", "not a handout"},
		{"no such pocket", "", strings.Replace(planHandout, `,
"choice":{"conditions":[{"column":"extra:Boat group","test":"is-not","values":["Tern"]}]}`, "", 1), "no pocket called"},
	} {
		args := []string{"-"}
		text := list
		if c.room != "" {
			args = append(args, "--room", write("room.json", c.room))
		}
		if c.what != "a column there isn't" {
			text = "Surname,First,Email,Boat group,Period\nDube,Nokuthula,n@kq.example,Gull,3\n"
		}
		if c.handout != "" {
			args = append(args, "--handout", write("handout.json", c.handout))
		}
		if _, status, errs := planOf(t, args, text); status != 2 || !strings.Contains(errs, c.stderr) {
			t.Errorf("%s: exit %d, %s", c.what, status, errs)
		}
	}
	for _, args := range [][]string{{}, {"--room", "nowhere.json", "-"}, {"--day", "tomorrow", "-"}, {"nowhere.csv"}, {"--what"}} {
		if _, status, _ := planOf(t, args, list); status != 2 {
			t.Errorf("%v: exit %d", args, status)
		}
	}
}
