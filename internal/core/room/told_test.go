package room

import (
	"fmt"
	"testing"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
)

func TestTold(t *testing.T) {
	plan := func(edit func(*Plan)) Plan {
		p := Usual()
		p.Pockets = []Pocket{{ID: "a", Name: "Field work"}, {ID: "b", Name: "Feedback"}}
		p.Places = append(UsualPlaces(), Place{ID: "c", Name: "Charts", For: ForTeam, Set: record.Team, Level: "edit"})
		if edit != nil {
			edit(&p)
		}
		return p
	}
	for _, c := range []struct {
		what string
		edit func(*Plan)
		want string
	}{
		{"nothing", func(*Plan) {}, "[]"},
		{"names of satchels", func(p *Plan) { p.Satchel = naming.Pattern{{Column: record.Given}} },
			"[{room-satchel  [Family name], [Given name] [Given name]}]"},
		{"a pocket", func(p *Plan) { p.Pockets = append(p.Pockets, Pocket{"d", "Maps"}) }, "[{pocket-added   Maps}]"},
		{"no pocket", func(p *Plan) { p.Pockets = p.Pockets[1:] }, "[{pocket-removed   Field work}]"},
		{"another name", func(p *Plan) { p.Pockets[1].Name = "Marks" }, "[{pocket-named  Feedback Marks}]"},
		{"another order", func(p *Plan) { p.Pockets[0], p.Pockets[1] = p.Pockets[1], p.Pockets[0] }, "[{pocket-order   }]"},
		{"places", func(p *Plan) {
			p.Places[0].Level = "comment"
			p.Places[4].Under = Table
		}, "[{level Regal read comment} {room-under Charts  Table}]"},
		{"the usual ones, said", func(p *Plan) { p.Places[1].Name = "" }, "[]"},
		{"levels above", func(p *Plan) { p.Path = []naming.Pattern{{{Text: "2026"}}, {{Column: record.Period}}} },
			"[{room-path   2026 › [Period]}]"},
		{"what it lies in", func(p *Plan) { p.Base = "01" }, "[{room-base   }]"},
	} {
		names := English
		names.Shelf = "Regal"
		if got := fmt.Sprint(Told(plan(nil), plan(c.edit), names)); got != c.want {
			t.Errorf("%s: %s, want %s", c.what, got, c.want)
		}
	}
}
