package handroutes

import (
	"context"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func parts(p naming.Pattern) []api.Part {
	out := []api.Part{}
	for _, x := range p {
		part := api.Part{}
		if x.Column != "" {
			column := string(x.Column)
			part.Column = &column
			if x.First > 0 {
				part.First = &x.First
			}
		} else {
			part.Text = &x.Text
		}
		out = append(out, part)
	}
	return out
}

func pattern(ps []api.Part) naming.Pattern {
	out := naming.Pattern{}
	for _, p := range ps {
		if desk.Deref(p.Column) != "" || desk.Deref(p.Text) != "" {
			part := naming.Part{Column: record.Field(desk.Deref(p.Column)), Text: desk.Deref(p.Text)}
			if p.First != nil && part.Column != "" {
				part.First = *p.First
			}
			out = append(out, part)
		}
	}
	return out
}

// listView tells a packing list; called names accounts, perLine is what a line takes.
func listView(ctx context.Context, called func(context.Context, ...string) (map[string]accounts.Account, error),
	perLine time.Duration, c picture.Class, l packing.List) (api.PackingList, error) {
	out := api.PackingList{Lines: []api.Line{}, Counts: map[string]int{}, Digest: l.Digest()}
	students, pupils := make(map[string]picture.Student, len(c.Students)), make(map[string]bool, len(c.Students))
	for _, st := range c.Students {
		students[st.ID], pupils[st.Account] = st, true
	}
	whose, err := called(ctx, l.Concerned()...) // they may have left the class
	if err != nil {
		return out, err
	}
	lines := 0
	for _, line := range l.Lines {
		w := line.Wanted
		row := w.Key.Whom.Row
		st, there := students[row]
		v := api.Line{
			Key: line.Step.String(), Wanted: w.Key.String(), Ticked: line.Ticked, Section: api.LineSection(line.Section),
			Act: string(line.Step.Act), Purpose: string(w.Key.What.Purpose), Row: row, Name: w.Name,
			Apart: w.Apart, Altered: w.Altered, Reason: desk.ReasonPtr(line.Reason), Remedies: line.Remedies, Thing: line.Thing,
		}
		if line.Section == packing.NeedsFixing {
			v.Key = w.Key.String()
		}
		if v.Remedies == nil {
			v.Remedies = []string{}
		}
		if there {
			v.Student = st.SortName()
			if w.Key.What.Purpose != packing.Pocket {
				v.Level = max(w.Rule.Grants[st.Account], w.Later).String()
			}
		}
		if row == "" && w.Key.What.Purpose == packing.Copy {
			people := 0
			for account, l := range w.Rule.Grants {
				if pupils[account] {
					people++
					v.Level = l.String()
				}
			}
			v.People = &people
		}
		switch line.Step.Act {
		case packing.Take, packing.Lower:
			(*v.Reason.Args)["name"] = whose[line.Step.Account].Name()
		case packing.Relink:
			(*v.Reason.Args)["from"], (*v.Reason.Args)["to"] = told(whose[line.Change.From]), told(whose[line.Change.To])
		}
		out.Lines = append(out.Lines, v)
		out.Counts[string(line.Section)]++
		if line.Section == packing.ToPack {
			lines++
		}
	}
	out.Seconds = float32(lines) * float32(perLine.Seconds())
	return out, nil
}

// told names an account so that it can't be taken for another of the same name.
func told(a accounts.Account) string { return a.Name() + " (" + a.Address + ")" }

// PackRoom implements the route of that name.
func (s *packRoutes) PackRoom(ctx context.Context, r api.PackRoomRequestObject) (api.PackRoomResponseObject, error) {
	run, err := s.packing.Pack(ctx, desk.Account(ctx), r.ClassId, "", part(r.Body))
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.PackRoom202JSONResponse(out), err
}

func part(p *api.Pack) pack.Part {
	out := pack.Part{Seen: p.Seen}
	if p.Rows != nil {
		out.Rows = *p.Rows
	}
	if p.Changes != nil {
		out.Changes = *p.Changes
	}
	if p.Anew != nil {
		out.Anew = *p.Anew
	}
	if p.Back != nil {
		out.Back = *p.Back
	}
	if p.Skip != nil {
		out.Skip = *p.Skip
	}
	return out
}

// PackHandout implements the route of that name.
func (s *packRoutes) PackHandout(ctx context.Context, r api.PackHandoutRequestObject) (api.PackHandoutResponseObject, error) {
	run, err := s.packing.Pack(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, part(r.Body))
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.PackHandout202JSONResponse(out), err
}

// PackTogether implements the route of that name.
func (s *packRoutes) PackTogether(ctx context.Context, r api.PackTogetherRequestObject) (api.PackTogetherResponseObject, error) {
	parts := map[string]pack.Part{}
	for _, p := range r.Body.Parts {
		parts[p.Class] = part(&p.Pack)
	}
	runs, err := s.packing.PackTogether(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, parts)
	if err != nil {
		return nil, err
	}
	out, err := s.runViews(ctx, runs)
	return api.PackTogether202JSONResponse(out), err
}

// TopUp implements the route of that name.
func (s *packRoutes) TopUp(ctx context.Context, r api.TopUpRequestObject) (api.TopUpResponseObject, error) {
	part := pack.Part{}
	if r.Body != nil {
		part.Seen = desk.Deref(r.Body.Seen)
		if r.Body.Rows != nil {
			part.Rows = *r.Body.Rows
		}
	}
	n, err := s.packing.TopUp(ctx, desk.Account(ctx), r.ClassId, part)
	return api.TopUp202JSONResponse{Students: n}, err
}

// ListMissing implements the route of that name.
func (s *packRoutes) ListMissing(ctx context.Context, r api.ListMissingRequestObject) (api.ListMissingResponseObject, error) {
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	l, err := s.packing.Missing(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	out, err := listView(ctx, s.people.Accounts, s.packing.PerLine(), c, l)
	return api.ListMissing200JSONResponse(out), err
}

// Runs are those of a class that are under way or were lately.
func (s *packRoutes) Runs(ctx context.Context, class string) ([]api.Run, error) {
	found, err := s.packing.Runs(ctx, class)
	if err != nil {
		return nil, err
	}
	return s.runViews(ctx, found)
}

// runViews are runs with the names of who began them.
func (s *packRoutes) runViews(ctx context.Context, runs []ledger.Run) ([]api.Run, error) {
	out := []api.Run{}
	var by []string
	for _, r := range runs {
		by = append(by, r.StartedBy)
	}
	names, err := s.people.Names(ctx, by...)
	for _, r := range runs {
		out = append(out, s.runView(r, names))
	}
	return out, err
}

// aRun is one run with the name of who began it.
func (s *packRoutes) aRun(ctx context.Context, r ledger.Run) (api.Run, error) {
	out, err := s.runViews(ctx, []ledger.Run{r})
	if err != nil {
		return api.Run{}, err
	}
	return out[0], nil
}

func (s *packRoutes) runView(r ledger.Run, names map[string]string) api.Run {
	v := api.Run{Id: r.ID, Title: r.Title, State: api.RunState(r.State), Kind: api.RunKind(r.Kind), Made: r.Made,
		Shared: r.Shared, Told: r.Told, LeftOut: r.LeftOut, StartedBy: names[r.StartedBy], Total: r.Total, Packed: r.Packed,
		Stuck: r.Stuck, Passed: r.Passed, StartedAt: r.StartedAt.UTC(), FinishedAt: desk.Moment(r.FinishedAt)}
	if r.HandoutID != "" {
		v.Handout = &r.HandoutID
	}
	if done := r.Packed; done > 0 && r.State == ledger.RunPacking {
		v.SecondsLeft = float32(s.Now().Sub(r.StartedAt).Seconds() / float64(done) * float64(r.Waiting()))
	}
	return v
}

// ListRuns implements the route of that name.
func (s *packRoutes) ListRuns(ctx context.Context, r api.ListRunsRequestObject) (api.ListRunsResponseObject, error) {
	out, err := s.Runs(ctx, r.ClassId)
	return api.ListRuns200JSONResponse(out), err
}

// GetRun implements the route of that name.
func (s *packRoutes) GetRun(ctx context.Context, r api.GetRunRequestObject) (api.GetRunResponseObject, error) {
	run, err := s.packing.Run(ctx, r.ClassId, r.RunId)
	if err != nil {
		return nil, err
	}
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	steps, err := s.packing.Lines(ctx, run.ID)
	if err != nil {
		return nil, err
	}
	view, err := s.aRun(ctx, run)
	if err != nil {
		return nil, err
	}
	out := api.GetRun200JSONResponse{Run: view, Lines: []api.RunLine{}}
	for _, st := range steps {
		row := st.Key.Whom.Row
		line := api.RunLine{Seq: st.Seq, Purpose: string(st.Key.What.Purpose), Name: st.Wanted.Name, Row: row,
			State: api.RunLineState(st.State), Reason: desk.ReasonPtr(st.Reason), Tries: st.Tries}
		if student, ok := c.Student(row); ok {
			line.Student = student.SortName()
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// PauseRun implements the route of that name.
func (s *packRoutes) PauseRun(ctx context.Context, r api.PauseRunRequestObject) (api.PauseRunResponseObject, error) {
	return api.PauseRun204Response{}, s.packing.Pause(ctx, desk.Account(ctx), r.ClassId, r.RunId)
}

// ResumeRun implements the route of that name.
func (s *packRoutes) ResumeRun(ctx context.Context, r api.ResumeRunRequestObject) (api.ResumeRunResponseObject, error) {
	return api.ResumeRun204Response{}, s.packing.Resume(ctx, desk.Account(ctx), r.ClassId, r.RunId)
}

// StopRun implements the route of that name.
func (s *packRoutes) StopRun(ctx context.Context, r api.StopRunRequestObject) (api.StopRunResponseObject, error) {
	return api.StopRun204Response{}, s.packing.Stop(ctx, desk.Account(ctx), r.ClassId, r.RunId)
}

// FixLine implements the route of that name.
func (s *packRoutes) FixLine(ctx context.Context, r api.FixLineRequestObject) (api.FixLineResponseObject, error) {
	return api.FixLine204Response{}, s.packing.FixLine(ctx, desk.Account(ctx), r.ClassId, r.RunId, r.Seq, desk.Deref(r.Body.Address))
}

// GetEverywhere implements the route of that name.
func (s *packRoutes) GetEverywhere(ctx context.Context, _ api.GetEverywhereRequestObject) (api.GetEverywhereResponseObject, error) {
	lists, err := s.packing.Everywhere(ctx, desk.Account(ctx))
	out := api.GetEverywhere200JSONResponse{}
	for _, l := range lists {
		v := api.ClassList{Class: l.Class.ID, Code: l.Class.Code, Name: l.Class.Name, Digest: l.List.Digest(),
			Lines: len(l.List.Lines), Sample: []string{}}
		who := map[string]bool{}
		for _, line := range l.List.Lines {
			w := line.Wanted
			if w.Key.Whom.Row != "" {
				who[w.Key.Whom.Row] = true
			}
			switch w.Key.What.Purpose {
			case packing.Satchel:
				v.Satchels++
			case packing.Copy:
				v.Copies++
			default:
				v.Others++
				continue
			}
			if len(v.Sample) < desk.MostSamples {
				v.Sample = append(v.Sample, w.Name)
			}
		}
		v.Students = len(who)
		out = append(out, v)
	}
	return out, err
}

// PackEverywhere implements the route of that name.
func (s *packRoutes) PackEverywhere(ctx context.Context, r api.PackEverywhereRequestObject) (api.PackEverywhereResponseObject, error) {
	var where []pack.Somewhere
	for _, c := range r.Body.Classes {
		where = append(where, pack.Somewhere{Class: c.Class, Seen: c.Seen})
	}
	changed, err := s.packing.PackEverywhere(desk.About(ctx, nil), desk.Account(ctx), where)
	if changed == nil {
		changed = []string{}
	}
	return api.PackEverywhere202JSONResponse(api.PackedSomewhere{Changed: changed}), err
}

// LetIn implements the route of that name.
func (s *packRoutes) LetIn(ctx context.Context, r api.LetInRequestObject) (api.LetInResponseObject, error) {
	return api.LetIn204Response{}, s.packing.LetIn(ctx, desk.Account(ctx), r.HandoutId, r.RowId, r.Body.In)
}
