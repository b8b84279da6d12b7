package web

import (
	"context"
	"fmt"
	"sort"
	"time"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/web/api"
)

// GetRegister implements the route of that name. The ETag is the class's
// revision and the day: an unchanged Register costs one query.
func (s *Server) GetRegister(ctx context.Context, r api.GetRegisterRequestObject) (api.GetRegisterResponseObject, error) {
	c := asGin(ctx)
	class, err := s.Rooms.Store.Class(ctx, r.ClassId)
	if err != nil {
		return nil, classroom.ErrNotFound
	}
	today := s.Rooms.Now().In(s.Rooms.School.Zone).Format(time.DateOnly)
	tag := fmt.Sprintf(`"%d-%s"`, class.Revision, today)
	c.Header("ETag", tag)
	c.Header("Cache-Control", "private, no-cache")
	if c.GetHeader("If-None-Match") == tag {
		return api.GetRegister304Response{}, nil
	}
	reg, err := s.Rooms.Register(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	return api.GetRegister200JSONResponse(registerView(reg)), nil
}

func registerView(reg classroom.Register) api.Register {
	cl := reg.Class
	out := api.Register{Revision: cl.Revision, Students: []api.RegisterStudent{}, Columns: []api.RegisterColumn{}, Week: [][]int{}, Days: []string{}, Changed: []int64{}, Missing: reg.Missing, Stuck: []api.StuckNote{}}
	for i, st := range cl.Students {
		out.Students = append(out.Students, api.RegisterStudent{Row: st.ID, Name: st.CallName(), Family: st.Family, Given: st.Given, Period: st.Period, Level: st.Level, Team: st.Team})
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
		v := api.RegisterColumn{States: []string{}, Words: []int{}, Fill: []int{}, Inside: []int{}, Changed: []int64{}}
		if col.Handout != nil {
			v.Handout, v.Title, v.Due = &col.Handout.ID, col.Handout.Title, due(*col.Handout)
		}
		for i, cell := range col.Cells {
			v.States, v.Words, v.Fill = append(v.States, string(cell.State)), append(v.Words, cell.Words), append(v.Fill, cell.Fill)
			v.Changed = append(v.Changed, unix(cell.Changed))
			if n == 0 {
				v.Inside = append(v.Inside, cell.Inside)
				if cell.Shared {
					out.Sentence.Shared++
				}
			}
			if cell.State == progress.Stuck {
				out.Sentence.Stuck++
				if st := cl.Students[i]; !told[st.ID] && cell.Reason != nil {
					told[st.ID] = true
					out.Stuck = append(out.Stuck, api.StuckNote{Row: st.ID, Student: st.CallName(), Reason: reasonOf(*cell.Reason)})
				}
			}
		}
		out.Columns = append(out.Columns, v)
	}
	out.Sentence.Students = len(cl.Students)
	return out
}

// moment is a time that may be none.
func moment(t time.Time) *time.Time {
	if t.IsZero() {
		return nil
	}
	u := t.UTC()
	return &u
}

func unix(t time.Time) int64 {
	if t.IsZero() {
		return 0
	}
	return t.Unix()
}

// GetDesk implements the route of that name.
func (s *Server) GetDesk(ctx context.Context, r api.GetDeskRequestObject) (api.GetDeskResponseObject, error) {
	cl, st, things, err := s.Rooms.Desk(ctx, r.ClassId, r.RowId)
	if err != nil {
		return nil, err
	}
	out := api.GetDesk200JSONResponse{Row: st.ID, Name: st.CallName(), Address: st.Address, Number: st.Number, Period: st.Period, Level: st.Level, Team: st.Team, Things: []api.DeskThing{}, Problem: reasonPtr(st.Problem)}
	for _, t := range things {
		v, err := s.deskThing(ctx, cl, t)
		if err != nil {
			return nil, err
		}
		out.Things = append(out.Things, v)
	}
	return out, nil
}

func (s *Server) deskThing(ctx context.Context, cl classroom.Class, t classroom.DeskThing) (api.DeskThing, error) {
	v := api.DeskThing{Purpose: "satchel", State: string(t.Cell.State), Words: t.Cell.Words, Changed: unix(t.Cell.Changed), Days: t.Days, Inside: []api.ThingTag{}, Access: []api.Access{}, Where: []string{}, Reason: reasonPtr(t.Cell.Reason)}
	if t.Handout != nil {
		v.Purpose, v.Handout, v.Title = "copy", &t.Handout.ID, t.Handout.Title
	}
	if v.Days == nil {
		v.Days = []int{}
	}
	if step := t.Cell.Step; step != nil {
		v.Run, v.Seq = &step.RunID, &step.Seq
	}
	e := t.Cell.Entry
	if e == nil {
		return v, nil
	}
	made := e.MadeAt.UTC()
	v.Thing, v.Link, v.Name, v.MadeAt, v.SharedAt = e.Thing, e.Link, e.Name, &made, moment(e.SharedAt)
	if !t.OpenedAt.IsZero() {
		opened := t.OpenedAt.UTC()
		v.OpenedAt = &opened
	}
	for _, c := range t.Where {
		v.Where = append(v.Where, c.Name)
	}
	var ids []string
	for id := range t.People {
		ids = append(ids, id)
	}
	for _, in := range t.Inside {
		ids = append(ids, in.Owner, in.ChangedBy)
	}
	names, err := s.names(ctx, ids...)
	if err != nil {
		return v, err
	}
	staff := map[string]bool{}
	for _, m := range cl.Staff {
		staff[m.Account] = true
	}
	for id, why := range t.People {
		a := api.Access{Name: names[id], Level: levelWord(why.Level), Why: "student"}
		switch {
		case why.Level == access.Owner:
			a.Why = "owner"
		case staff[id]:
			a.Why = "staff"
		}
		v.Access = append(v.Access, a)
	}
	order := map[string]int{"student": 0, "owner": 1, "staff": 2}
	sort.Slice(v.Access, func(a, b int) bool {
		x, y := v.Access[a], v.Access[b]
		if order[x.Why] != order[y.Why] {
			return order[x.Why] < order[y.Why]
		}
		return x.Name < y.Name
	})
	for _, in := range t.Inside {
		v.Inside = append(v.Inside, thingTag(in, names, ""))
	}
	return v, nil
}
