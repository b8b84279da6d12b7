package classroutes

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"time"

	lru "github.com/hashicorp/golang-lru/v2"
	"golang.org/x/sync/singleflight"

	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/register"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetRegister implements the route of that name. The ETag changes with everything
// that is shown: an unchanged Register costs next to nothing, and one that many
// look at is written once.
func (s *registerRoutes) GetRegister(ctx context.Context, r api.GetRegisterRequestObject) (api.GetRegisterResponseObject, error) {
	c := desk.Gin(ctx)
	seen, old, err := s.registers.Seen(ctx)
	if err != nil {
		return nil, err
	}
	tag, err := s.registers.Tag(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Header("ETag", etag(tag, seen, old))
	if c.GetHeader("If-None-Match") == etag(tag, seen, old) {
		return api.GetRegister304Response{}, nil
	}
	return s.written.get(r.ClassId, etag(tag, seen, old), func() ([]byte, error) {
		reg, err := s.registers.Register(context.WithoutCancel(c.Request.Context()), r.ClassId) // others wait for it too
		if err != nil {
			return nil, err
		}
		out := registerView(reg)
		if old {
			out.SeenAt = desk.Moment(seen)
		}
		return json.Marshal(out)
	})
}

// written are the latest Registers as they were sent.
type written struct {
	flight singleflight.Group
	last   *lru.Cache[string, writtenRegister]
}

// keptRegisters is of how many classes the Register is kept as it was sent.
const keptRegisters = 64

func newWritten() *written {
	last, _ := lru.New[string, writtenRegister](keptRegisters) // a size above zero is no error
	return &written{last: last}
}

func (w *written) get(class, tag string, write func() ([]byte, error)) (api.GetRegisterResponseObject, error) {
	if r, ok := w.last.Get(class); ok && r.tag == tag {
		return r, nil
	}
	r, err, _ := w.flight.Do(class+tag, func() (any, error) {
		b, err := write()
		r := writtenRegister{tag, b}
		if err == nil {
			w.last.Add(class, r)
		}
		return r, err
	})
	if err != nil {
		return nil, err
	}
	return r.(writtenRegister), nil
}

// A writtenRegister is one as it was sent.
type writtenRegister struct {
	tag  string
	body []byte
}

// VisitGetRegisterResponse implements api.GetRegisterResponseObject.
func (r writtenRegister) VisitGetRegisterResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/json")
	_, err := w.Write(r.body)
	return err
}

func etag(tag seam.Tag, seen time.Time, old bool) string {
	if !old {
		return `"` + tag.String() + `"`
	}
	return fmt.Sprintf(`"%s-%d"`, tag, seen.Unix())
}

func registerView(reg register.Register) api.Register {
	cl := reg.Class
	out := api.Register{Revision: cl.Revision, Students: []api.RegisterStudent{}, Columns: []api.RegisterColumn{},
		Week: [][]int{}, Days: []string{}, Changed: []int64{}, Missing: reg.Missing, Stuck: []api.StuckNote{},
		Waiting:  []api.StuckNote{},
		Headings: desk.Headings(reg.Headings)}
	for i, st := range cl.Students {
		v := api.RegisterStudent{Row: st.ID, Name: st.CallName(), Family: st.Family, Given: st.Given, Period: st.Period,
			Level: st.Level, Team: st.Team}
		if reg.Twins[st.ID] && st.Number != "" {
			v.Number = &st.Number
		}
		out.Students = append(out.Students, v)
		out.Changed = append(out.Changed, unix(reg.Changed[i]))
	}
	if len(reg.Week) > 0 {
		out.Week = reg.Week
	}
	for _, d := range reg.Days {
		out.Days = append(out.Days, d.Format(time.DateOnly))
	}
	told := map[string]bool{}
	for n, col := range reg.Columns {
		v := api.RegisterColumn{States: []api.CellState{}, Words: []int{}, Fill: []int{}, Inside: []int{}, Changed: []int64{}}
		if col.Handout != nil {
			v.Handout, v.Title, v.Due, v.Heading = &col.Handout.ID, col.Handout.Title, desk.Due(*col.Handout), desk.OrNone(col.Handout.Heading)
			if c, ok := col.Handout.Closes(""); ok {
				at := c.At.UTC()
				v.Closes = &at
			}
		}
		for i, cell := range col.Cells {
			v.States, v.Words, v.Fill = append(v.States, api.CellState(cell.State)), append(v.Words, wordsOf(cell)), append(v.Fill, cell.Fill)
			v.Changed, v.Shown = append(v.Changed, unix(cell.Changed)), append(v.Shown, shownState(cell))
			v.Apart = append(v.Apart, apartState(cell.Apart))
			if n == 0 {
				v.Inside = append(v.Inside, cell.Inside)
				if cell.Shared {
					out.Sentence.Shared++
				}
			}
			if cell.State == progress.Stuck {
				out.Sentence.Stuck++
			}
			if st := cl.Students[i]; cell.Reason != nil && !told[st.ID] {
				told[st.ID] = true
				note := api.StuckNote{Row: st.ID, Student: st.CallName(), Reason: desk.ReasonOf(*cell.Reason)}
				if cell.State == progress.Stuck {
					out.Stuck = append(out.Stuck, note)
				} else {
					out.Waiting = append(out.Waiting, note)
				}
			}
		}
		v.Shown, v.Apart = orAllNone(v.Shown), orAllNone(v.Apart)
		out.Columns = append(out.Columns, v)
	}
	out.Sentence.Students = len(cl.Students)
	return out
}

// orAllNone are the values of a column, none at all where all are zero, as mostly.
func orAllNone(of []int) []int {
	if !slices.ContainsFunc(of, func(n int) bool { return n > 0 }) {
		return []int{}
	}
	return of
}

// apartState is what is another for one student, as a sum.
func apartState(a register.Apart) (sum int) {
	for i, is := range []bool{a.Level != "", !a.Extra.IsZero() && !a.Always, a.Hand != nil && a.Hand.Down, a.Hand != nil && !a.Hand.Down} {
		if is {
			sum += 1 << i
		}
	}
	return sum
}

// shownState says of a draft whether it was shown: 0 not, 1 and waits, 2 and was looked at or kept, 3 and
// was written in since.
func shownState(c register.Cell) int {
	switch {
	case c.Shown == nil:
		return 0
	case c.Shown.Waits():
		return 1
	case c.Since:
		return 3
	}
	return 2
}

func unix(t time.Time) int64 {
	if t.IsZero() {
		return 0
	}
	return t.Unix()
}

// GetPanel implements the route of that name.
func (s *registerRoutes) GetPanel(ctx context.Context, r api.GetPanelRequestObject) (api.GetPanelResponseObject, error) {
	d, err := s.registers.Panel(ctx, r.ClassId, r.RowId)
	if err != nil {
		return nil, err
	}
	st := d.Student
	out := api.GetPanel200JSONResponse{Row: st.ID, Name: st.CallName(), Address: st.Address, Number: st.Number,
		Period: st.Period, Level: st.Level, Team: st.Team, Things: []api.PanelThing{}, Problem: desk.ReasonPtr(cmp.Or(st.Problem, st.Waits)),
		Twin: d.Twin, Class: desk.OrNone(st.Class)}
	cues, err := s.rooms.Cues(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	out.Cue = desk.CueView(cues[st.ID])
	if x := d.Standing; x != (pens.Extra{}) {
		out.Extra = &api.StandingExtra{Rows: []string{st.ID}, Minutes: &x.Minutes, Percent: &x.Percent}
	}
	var closers []string
	for _, t := range d.Things {
		if c := t.Apart.Closing; c != nil && c.By != "" {
			closers = append(closers, c.By)
		}
	}
	names, err := s.people.Names(ctx, closers...)
	for _, t := range d.Things {
		out.Things = append(out.Things, panelThing(t, names))
	}
	return out, err
}

func panelThing(t register.PanelThing, names map[string]string) api.PanelThing {
	v := api.PanelThing{Purpose: "satchel", Column: t.Column, Of: api.WhoseStudent, State: api.CellState(t.Cell.State),
		Words: wordsOf(t.Cell), Fill: t.Cell.Fill, Inside: t.Cell.Inside, Changed: unix(t.Cell.Changed), Days: t.Days,
		Access: []api.Access{}, Where: t.Where, Reason: desk.ReasonPtr(t.Cell.Reason)}
	if t.Handout != nil {
		v.Purpose, v.Handout, v.Title = "copy", &t.Handout.ID, t.Handout.Title
	}
	if v.Days == nil {
		v.Days = []int{}
	}
	if v.Where == nil {
		v.Where = []string{}
	}
	if e := t.Cell.Entry; e != nil {
		v.Of = desk.WhoseThing(e.Key)
		v.Thing, v.Link, v.Name, v.MadeAt, v.SharedAt, v.OpenedAt = e.Thing, e.Link, e.Name, desk.Moment(e.MadeAt),
			desk.Moment(e.SharedAt), desk.Moment(t.OpenedAt)
	}
	if x := t.Cell.Shown; x != nil {
		v.Shown, v.Since = desk.ShownView(*x, nil), &t.Cell.Since
	}
	if c := t.Apart.Closing; c != nil {
		v.Closing = desk.ClosingView(*c, names)
	}
	if !t.Apart.Extra.IsZero() {
		v.Extra = desk.OrNone(wall.Written(t.Apart.Extra))
	}
	if l := api.AccessLevel(t.Apart.Level); l != "" {
		v.Level = &l
	}
	for _, a := range t.Reach {
		v.Access = append(v.Access, api.Access{Name: a.Name, Level: desk.LevelWord(a.Level), Why: api.AccessWhy(a.As)})
	}
	return v
}

// wordsOf is how many words were written in a copy; -1 where they can't be counted.
func wordsOf(c register.Cell) int {
	if c.Uncounted {
		return -1
	}
	return c.Words
}

// ListAllClasses implements the route of that name.
func (s *registerRoutes) ListAllClasses(ctx context.Context, r api.ListAllClassesRequestObject) (api.ListAllClassesResponseObject, error) {
	from := 0
	if r.Params.From != nil {
		from = *r.Params.From
	}
	tabs, all, err := s.registers.AllClasses(ctx, desk.Deref(r.Params.Text), r.Params.Needing != nil && *r.Params.Needing, from)
	out := api.ListAllClasses200JSONResponse{Classes: []api.ClassTag{}, All: all, More: from+len(tabs) < all}
	for _, p := range tabs {
		out.Classes = append(out.Classes, classTag(desk.Account(ctx), p))
	}
	return out, err
}

// PutOff implements the route of that name.
func (s *registerRoutes) PutOff(ctx context.Context, r api.PutOffRequestObject) (api.PutOffResponseObject, error) {
	return api.PutOff204Response{}, s.registers.PutOff(ctx, desk.Account(ctx), r.ClassId, r.Body.Code, r.Body.About, r.Body.Count)
}

// ShowAgain implements the route of that name.
func (s *registerRoutes) ShowAgain(ctx context.Context, _ api.ShowAgainRequestObject) (api.ShowAgainResponseObject, error) {
	return api.ShowAgain204Response{}, s.registers.ShowAgain(ctx, desk.Account(ctx))
}

// GetEyes implements the route of that name.
func (s *registerRoutes) GetEyes(ctx context.Context, r api.GetEyesRequestObject) (api.GetEyesResponseObject, error) {
	if r.Body.Thing != nil {
		name, t, folder, inside, err := s.things.LookAtAs(ctx, desk.Account(ctx), r.ClassId, r.RowId, *r.Body.Thing)
		if err != nil {
			return nil, err
		}
		out := api.EyesThing{Id: t.ID, Name: t.Name, Folder: folder, Level: desk.LevelWord(t.Level), Children: []api.EyesChild{}}
		for _, x := range inside {
			out.Children = append(out.Children, api.EyesChild{Id: x.ID, Name: x.Name, Kind: api.EyesChildKind(x.Kind),
				Level: desk.LevelWord(x.Level)})
		}
		return api.GetEyes200JSONResponse{Name: name, Thing: &out}, nil
	}
	name, home, err := s.registers.GetEyes(ctx, desk.Account(ctx), r.ClassId, r.RowId)
	if err != nil {
		return nil, err
	}
	names, err := s.people.Names(ctx, desk.Closers(home)...)
	return api.GetEyes200JSONResponse{Name: name, Home: &api.Home{Name: name, Classes: []api.HomeClass{desk.HomeView(home, names)}}}, err
}
