package web

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"io"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/document"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/web/api"
)

func reasonOf(r packing.Reason) api.Reason {
	args := r.Args
	if args == nil {
		args = map[string]string{}
	}
	return api.Reason{Code: r.Code, Args: &args}
}

func reasonPtr(r *packing.Reason) *api.Reason {
	if r == nil {
		return nil
	}
	out := reasonOf(*r)
	return &out
}

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
		if deref(p.Column) != "" || deref(p.Text) != "" {
			part := naming.Part{Column: record.Field(deref(p.Column)), Text: deref(p.Text)}
			if p.First != nil && part.Column != "" {
				part.First = *p.First
			}
			out = append(out, part)
		}
	}
	return out
}

func (s *Server) listView(ctx context.Context, c picture.Class, l packing.List) (api.PackingList, error) {
	out := api.PackingList{Lines: []api.Line{}, Counts: map[string]int{}, Digest: l.Digest()}
	students, pupils := make(map[string]picture.Student, len(c.Students)), make(map[string]bool, len(c.Students))
	for _, st := range c.Students {
		students[st.ID], pupils[st.Account] = st, true
	}
	var concerned []string // accounts whose access changes: they may have left the class
	for _, line := range l.Lines {
		if line.Change != nil {
			concerned = append(concerned, line.Step.Account, line.Change.To)
			if line.Step.Act == packing.Relink {
				concerned = append(concerned, line.Change.From)
			}
		}
	}
	called, err := s.Cases.People.Accounts(ctx, concerned...)
	if err != nil {
		return out, err
	}
	requests := 0
	for _, line := range l.Lines {
		w := line.Wanted
		row := w.Key.Whom.Row
		st, there := students[row]
		v := api.Line{
			Key: line.Step.String(), Wanted: w.Key.String(), Ticked: line.Ticked, Section: api.LineSection(line.Section), Act: string(line.Step.Act), Purpose: string(w.Key.What.Purpose), Row: row, Name: w.Name,
			Apart: w.Apart, Altered: w.Altered, Reason: reasonPtr(line.Reason), Remedies: line.Remedies, Thing: line.Thing,
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
				v.Level = w.Rule.Grants[st.Account].String()
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
			(*v.Reason.Args)["name"] = called[line.Step.Account].Name()
		case packing.Relink:
			(*v.Reason.Args)["from"], (*v.Reason.Args)["to"] = told(called[line.Change.From]), told(called[line.Change.To])
		}
		out.Lines = append(out.Lines, v)
		out.Counts[string(line.Section)]++
		if line.Section == packing.ToPack {
			requests += 1 + len(w.Pointers)
		}
	}
	out.Seconds = float32(requests) * 0.02
	return out, nil
}

// told names an account so that it can't be taken for another of the same name.
func told(a accounts.Account) string { return a.Name() + " (" + a.Address + ")" }

// PackRoom implements the route of that name.
func (s *Server) PackRoom(ctx context.Context, r api.PackRoomRequestObject) (api.PackRoomResponseObject, error) {
	run, err := s.Cases.Packing.Pack(ctx, account(ctx), r.ClassId, "", part(r.Body))
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

// ListHandouts implements the route of that name.
func (s *Server) ListHandouts(ctx context.Context, r api.ListHandoutsRequestObject) (api.ListHandoutsResponseObject, error) {
	handouts, err := s.Cases.Registers.HandoutTags(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	partners, err := s.Cases.Handouts.Partners(ctx, account(ctx), r.ClassId, "")
	if err != nil {
		return nil, err
	}
	with := map[string][]string{}
	for _, p := range partners {
		with[p.Handout] = append(with[p.Handout], p.Code)
	}
	out := api.ListHandouts200JSONResponse{}
	for _, h := range handouts {
		out = append(out, api.HandoutTag{Together: append([]string{}, with[h.ID]...), Id: h.ID, Title: h.Title, Heading: h.Heading, Way: api.Way(cmp.Or(h.Settings.Way, handout.EachName)), Due: due(h.Handout), Send: wall.Written(h.Send), SendProblem: reasonPtr(h.SendProblem), ChangedAt: h.ChangedAt, PackedAt: moment(h.PackedAt), WithdrawnAt: moment(h.WithdrawnAt), Counts: h.Counts})
	}
	return out, nil
}

func due(h handout.Handout) string {
	if h.Due.IsZero() {
		return ""
	}
	return h.Due.Format("2006-01-02T15:04")
}

// begun is a handout or a notice that is begun as asked.
func (s *Server) begun(ctx context.Context, class string, b api.NewHandout) (handout.Handout, error) {
	if b.Notice == nil || !*b.Notice {
		return s.Cases.Handouts.NewHandout(ctx, account(ctx), class, deref(b.Template))
	}
	var only []string
	if b.Only != nil {
		only = *b.Only
	}
	return s.Cases.Handouts.NewNotice(ctx, account(ctx), class, only)
}

// CreateHandout implements the route of that name.
func (s *Server) CreateHandout(ctx context.Context, r api.CreateHandoutRequestObject) (api.CreateHandoutResponseObject, error) {
	h, err := s.begun(ctx, r.ClassId, *r.Body)
	if err != nil {
		return nil, err
	}
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.Cases.Packing.HandoutList)
	return api.CreateHandout201JSONResponse(out), err
}

func (s *Server) handout(ctx context.Context, id string) (picture.Class, handout.Handout, error) {
	c, err := s.class(ctx)
	if err != nil {
		return c, handout.Handout{}, err
	}
	h, err := s.Cases.Handouts.Handout(ctx, c.ID, id)
	return c, h, err
}

// handoutView is a handout with its packing list, which list computes.
func (s *Server) handoutView(ctx context.Context, c picture.Class, h handout.Handout, list func(context.Context, string, handout.Handout) (packing.List, error)) (api.Handout, error) {
	v := h.Settings
	out := api.Handout{
		Id: h.ID, Title: h.Title, Way: api.Way(cmp.Or(v.Way, handout.EachName)), Documents: []api.GivenDocument{}, By: string(v.By), Teams: string(v.Teams), Name: parts(v.Name), Pocket: v.Pocket, Level: api.HandoutLevel(v.Level), Out: []api.Out{}, Choice: choiceView(v.Choice), Due: due(h), Zone: h.Zone, Send: wall.Written(h.Send), SendProblem: reasonPtr(h.SendProblem),
		Message: v.Message, PackedAt: moment(h.PackedAt), WithdrawnAt: moment(h.WithdrawnAt), ChangedAt: h.ChangedAt, Classmates: api.HandoutClassmates(cmp.Or(v.Classmates, "nothing")), Passing: api.HandoutPassing(cmp.Or(v.Passing, "nothing")), Instructions: v.Instructions, ForParents: v.ForParents,
		Tell: api.HandoutTell(v.Way.Tells(v.Tell)), Mail: textView(h.Mail(telling.Given)), MailChanged: textView(h.Mail(telling.Changed)),
	}
	out.InstructionsHtml, out.Links = withIt(h)
	absent := c.Out(h)
	for _, st := range c.Students {
		if why, ok := absent[st.ID]; ok {
			out.Out = append(out.Out, api.Out{Row: st.ID, Reason: api.OutReason(why)})
		}
	}
	partners, err := s.Cases.Handouts.Partners(ctx, account(ctx), c.ID, h.ID)
	if err != nil {
		return out, err
	}
	out.Together, out.Own = []api.Partner{}, []string{}
	for _, st := range c.Students {
		_, named := v.Names[st.ID]
		if _, placed := v.Pockets[st.ID]; named || placed {
			out.Own = append(out.Own, st.ID)
		}
	}
	for _, p := range partners {
		out.Together = append(out.Together, api.Partner{Id: p.ID, Class: p.ClassID, Code: p.Code, Name: p.Name, Yours: p.Yours})
	}
	templates, err := s.Cases.Handouts.TemplatesOf(ctx, h)
	if err != nil {
		return out, err
	}
	for _, d := range v.Documents {
		t := templates[d.Template]
		thing := ""
		if t.Account == account(ctx) {
			thing = t.Thing
		}
		out.Documents = append(out.Documents, api.GivenDocument{Slot: d.Slot, Thing: thing, Template: d.Template, File: t.Name, MediaType: t.MediaType, Name: parts(d.Name), For: d.For, Plain: d.Plain, Only: len(d.Only)})
	}
	l, err := list(ctx, c.ID, h)
	if err != nil {
		return out, err
	}
	out.List, err = s.listView(ctx, c, l)
	return out, err
}

// GetHandout implements the route of that name.
func (s *Server) GetHandout(ctx context.Context, r api.GetHandoutRequestObject) (api.GetHandoutResponseObject, error) {
	c, h, err := s.handout(ctx, r.HandoutId)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.Cases.Packing.HandoutList)
	return api.GetHandout200JSONResponse(out), err
}

// ChangeHandout implements the route of that name.
func (s *Server) ChangeHandout(ctx context.Context, r api.ChangeHandoutRequestObject) (api.ChangeHandoutResponseObject, error) {
	h, err := s.Cases.Handouts.ChangeHandout(ctx, account(ctx), r.ClassId, r.HandoutId, handoutChange(r.Body.To), handoutChange(r.Body.Was))
	if err != nil {
		return nil, err
	}
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.Cases.Packing.HandoutListSeen)
	return api.ChangeHandout200JSONResponse(out), err
}

func handoutChange(b api.HandoutParts) handout.Change {
	ch := handout.Change{
		Title: b.Title, Way: (*handout.WayName)(b.Way), By: (*record.Field)(b.By), Teams: (*record.Field)(b.Teams), Pocket: b.Pocket, Level: b.Level, Due: b.Due, Send: b.Send, Message: b.Message, Classmates: b.Classmates, Passing: b.Passing, Instructions: b.Instructions, Links: linksOf(b.Links), ForParents: b.ForParents, Tell: (*telling.When)(b.Tell), Mail: mailText(b.Mail), MailChanged: mailText(b.MailChanged),
	}
	if b.Documents != nil {
		documents := []handout.GivenDocument{}
		for _, d := range *b.Documents {
			doc := handout.GivenDocument{Slot: d.Slot, Template: d.Template, For: deref(d.For), Plain: d.Plain != nil && *d.Plain}
			if d.Name != nil && len(*d.Name) > 0 {
				doc.Name = pattern(*d.Name)
			}
			documents = append(documents, doc)
		}
		ch.Documents = &documents
	}
	if b.Name != nil {
		p := pattern(*b.Name)
		ch.Name = &p
	}
	if b.Out != nil {
		ch.Out = *b.Out
	}
	if b.Own != nil {
		ch.Own = &handout.OwnParts{Rows: b.Own.Rows, Pocket: b.Own.Pocket, Alike: b.Own.Alike != nil && *b.Own.Alike}
		if b.Own.Name != nil {
			p := pattern(*b.Own.Name)
			ch.Own.Name = &p
		}
	}
	if b.Choice != nil {
		choice := choiceOf(*b.Choice)
		ch.Choice = &choice
	}
	return ch
}

// DeleteHandout implements the route of that name.
func (s *Server) DeleteHandout(ctx context.Context, r api.DeleteHandoutRequestObject) (api.DeleteHandoutResponseObject, error) {
	return api.DeleteHandout204Response{}, s.Cases.Handouts.DeleteHandout(ctx, account(ctx), r.ClassId, r.HandoutId)
}

// PackHandout implements the route of that name.
func (s *Server) PackHandout(ctx context.Context, r api.PackHandoutRequestObject) (api.PackHandoutResponseObject, error) {
	run, err := s.Cases.Packing.Pack(ctx, account(ctx), r.ClassId, r.HandoutId, part(r.Body))
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.PackHandout202JSONResponse(out), err
}

// AlsoFor implements the route of that name.
func (s *Server) AlsoFor(ctx context.Context, r api.AlsoForRequestObject) (api.AlsoForResponseObject, error) {
	id, err := s.Cases.Handouts.AlsoFor(ctx, account(ctx), r.ClassId, r.HandoutId, r.Body.To, r.Body.Picked)
	return api.AlsoFor201JSONResponse{Id: id}, err
}

// NotFor implements the route of that name.
func (s *Server) NotFor(ctx context.Context, r api.NotForRequestObject) (api.NotForResponseObject, error) {
	return api.NotFor204Response{}, s.Cases.Handouts.NotFor(ctx, account(ctx), r.ClassId, r.HandoutId, r.OtherId)
}

// PackTogether implements the route of that name.
func (s *Server) PackTogether(ctx context.Context, r api.PackTogetherRequestObject) (api.PackTogetherResponseObject, error) {
	parts := map[string]pack.Part{}
	for _, p := range r.Body.Parts {
		parts[p.Class] = part(&p.Pack)
	}
	runs, err := s.Cases.Packing.PackTogether(ctx, account(ctx), r.ClassId, r.HandoutId, parts)
	if err != nil {
		return nil, err
	}
	out, err := s.runViews(ctx, runs)
	return api.PackTogether202JSONResponse(out), err
}

// LookWithdraw implements the route of that name.
func (s *Server) LookWithdraw(ctx context.Context, r api.LookWithdrawRequestObject) (api.LookWithdrawResponseObject, error) {
	found, err := s.Cases.Packing.LookWithdraw(ctx, r.ClassId, r.HandoutId)
	return api.LookWithdraw200JSONResponse(touched(found)), err
}

func touched(copies picture.Copies) api.Touched {
	out := api.Touched{Seen: copies.Digest(), Begun: []string{}}
	for _, x := range copies {
		if x.Begun {
			out.Begun = append(out.Begun, x.Name)
		} else {
			out.Untouched++
		}
	}
	return out
}

// Withdraw implements the route of that name.
func (s *Server) Withdraw(ctx context.Context, r api.WithdrawRequestObject) (api.WithdrawResponseObject, error) {
	_, err := s.Cases.Packing.Withdraw(ctx, account(ctx), r.ClassId, r.HandoutId, r.Body.Begun, r.Body.Seen)
	return api.Withdraw204Response{}, err
}

// GiveBack implements the route of that name.
func (s *Server) GiveBack(ctx context.Context, r api.GiveBackRequestObject) (api.GiveBackResponseObject, error) {
	return api.GiveBack204Response{}, s.Cases.Packing.GiveBack(ctx, account(ctx), r.ClassId, r.HandoutId)
}

// UseAgain implements the route of that name.
func (s *Server) UseAgain(ctx context.Context, r api.UseAgainRequestObject) (api.UseAgainResponseObject, error) {
	id, without, err := s.Cases.Handouts.UseAgain(ctx, account(ctx), r.ClassId, r.HandoutId, r.Body.To)
	out := api.UseAgain201JSONResponse{Id: id, Without: []api.UsedAgainWithout{}}
	for _, x := range without {
		out.Without = append(out.Without, api.UsedAgainWithout(x))
	}
	return out, err
}

// LookReissue implements the route of that name.
func (s *Server) LookReissue(ctx context.Context, r api.LookReissueRequestObject) (api.LookReissueResponseObject, error) {
	found, err := s.Cases.Packing.LookReissue(ctx, r.ClassId, r.HandoutId)
	return api.LookReissue200JSONResponse(touched(found)), err
}

// Reissue implements the route of that name.
func (s *Server) Reissue(ctx context.Context, r api.ReissueRequestObject) (api.ReissueResponseObject, error) {
	run, err := s.Cases.Packing.Reissue(ctx, account(ctx), r.ClassId, r.HandoutId, pack.BegunCopy(r.Body.Begun), r.Body.Seen)
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.Reissue202JSONResponse(out), err
}

// TopUp implements the route of that name.
func (s *Server) TopUp(ctx context.Context, r api.TopUpRequestObject) (api.TopUpResponseObject, error) {
	part := pack.Part{}
	if r.Body != nil {
		part.Seen = deref(r.Body.Seen)
		if r.Body.Rows != nil {
			part.Rows = *r.Body.Rows
		}
	}
	n, err := s.Cases.Packing.TopUp(ctx, account(ctx), r.ClassId, part)
	return api.TopUp202JSONResponse{Students: n}, err
}

// ListMissing implements the route of that name.
func (s *Server) ListMissing(ctx context.Context, r api.ListMissingRequestObject) (api.ListMissingResponseObject, error) {
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	l, err := s.Cases.Packing.Missing(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	out, err := s.listView(ctx, c, l)
	return api.ListMissing200JSONResponse(out), err
}

func (s *Server) runs(ctx context.Context, class string) ([]api.Run, error) {
	found, err := s.Cases.Packing.Runs(ctx, class)
	if err != nil {
		return nil, err
	}
	return s.runViews(ctx, found)
}

// runViews are runs with the names of who began them.
func (s *Server) runViews(ctx context.Context, runs []ledger.Run) ([]api.Run, error) {
	out := []api.Run{}
	var by []string
	for _, r := range runs {
		by = append(by, r.StartedBy)
	}
	names, err := s.Cases.People.Names(ctx, by...)
	for _, r := range runs {
		out = append(out, s.runView(r, names))
	}
	return out, err
}

// aRun is one run with the name of who began it.
func (s *Server) aRun(ctx context.Context, r ledger.Run) (api.Run, error) {
	out, err := s.runViews(ctx, []ledger.Run{r})
	if err != nil {
		return api.Run{}, err
	}
	return out[0], nil
}

func (s *Server) runView(r ledger.Run, names map[string]string) api.Run {
	v := api.Run{Id: r.ID, Title: r.Title, State: api.RunState(r.State), Kind: api.RunKind(r.Kind), Made: r.Made, Shared: r.Shared, Told: r.Told, LeftOut: r.LeftOut, StartedBy: names[r.StartedBy], Total: r.Total, Packed: r.Packed, Stuck: r.Stuck, Passed: r.Passed, StartedAt: r.StartedAt.UTC(), FinishedAt: moment(r.FinishedAt)}
	if r.HandoutID != "" {
		v.Handout = &r.HandoutID
	}
	if done := r.Packed; done > 0 && r.State == ledger.RunPacking {
		v.SecondsLeft = float32(s.Now().Sub(r.StartedAt).Seconds() / float64(done) * float64(r.Waiting()))
	}
	return v
}

// ListRuns implements the route of that name.
func (s *Server) ListRuns(ctx context.Context, r api.ListRunsRequestObject) (api.ListRunsResponseObject, error) {
	out, err := s.runs(ctx, r.ClassId)
	return api.ListRuns200JSONResponse(out), err
}

// GetRun implements the route of that name.
func (s *Server) GetRun(ctx context.Context, r api.GetRunRequestObject) (api.GetRunResponseObject, error) {
	run, err := s.Cases.Packing.Run(ctx, r.ClassId, r.RunId)
	if err != nil {
		return nil, err
	}
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	steps, err := s.Cases.Packing.Lines(ctx, run.ID)
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
		line := api.RunLine{Seq: st.Seq, Purpose: string(st.Key.What.Purpose), Name: st.Wanted.Name, Row: row, State: api.RunLineState(st.State), Reason: reasonPtr(st.Reason), Tries: st.Tries}
		if student, ok := c.Student(row); ok {
			line.Student = student.SortName()
		}
		out.Lines = append(out.Lines, line)
	}
	return out, nil
}

// PauseRun implements the route of that name.
func (s *Server) PauseRun(ctx context.Context, r api.PauseRunRequestObject) (api.PauseRunResponseObject, error) {
	return api.PauseRun204Response{}, s.Cases.Packing.Pause(ctx, account(ctx), r.ClassId, r.RunId)
}

// ResumeRun implements the route of that name.
func (s *Server) ResumeRun(ctx context.Context, r api.ResumeRunRequestObject) (api.ResumeRunResponseObject, error) {
	return api.ResumeRun204Response{}, s.Cases.Packing.Resume(ctx, account(ctx), r.ClassId, r.RunId)
}

// StopRun implements the route of that name.
func (s *Server) StopRun(ctx context.Context, r api.StopRunRequestObject) (api.StopRunResponseObject, error) {
	return api.StopRun204Response{}, s.Cases.Packing.Stop(ctx, account(ctx), r.ClassId, r.RunId)
}

// FixLine implements the route of that name.
func (s *Server) FixLine(ctx context.Context, r api.FixLineRequestObject) (api.FixLineResponseObject, error) {
	return api.FixLine204Response{}, s.Cases.Packing.FixLine(ctx, account(ctx), r.ClassId, r.RunId, r.Seq, deref(r.Body.Address))
}

// ListTemplates implements the route of that name.
func (s *Server) ListTemplates(ctx context.Context, _ api.ListTemplatesRequestObject) (api.ListTemplatesResponseObject, error) {
	ts, err := s.Cases.Handouts.Templates(ctx, account(ctx))
	out := api.ListTemplates200JSONResponse{}
	for _, t := range ts {
		out = append(out, templateView(t))
	}
	return out, err
}

func templateView(t handout.Template) api.Template {
	return api.Template{Id: t.ID, Name: t.Name, Thing: t.Thing, Text: document.IsText(t.MediaType), AddedAt: t.CreatedAt.UTC()}
}

// RenameTemplate implements the route of that name.
func (s *Server) RenameTemplate(ctx context.Context, r api.RenameTemplateRequestObject) (api.RenameTemplateResponseObject, error) {
	return api.RenameTemplate204Response{}, s.Cases.Handouts.RenameTemplate(ctx, account(ctx), key(ctx), r.TemplateId, r.Body.Name)
}

// RemoveTemplate implements the route of that name.
func (s *Server) RemoveTemplate(ctx context.Context, r api.RemoveTemplateRequestObject) (api.RemoveTemplateResponseObject, error) {
	return api.RemoveTemplate204Response{}, s.Cases.Handouts.RemoveTemplate(ctx, account(ctx), key(ctx), r.TemplateId)
}

// UploadTemplate implements the route of that name.
func (s *Server) UploadTemplate(ctx context.Context, r api.UploadTemplateRequestObject) (api.UploadTemplateResponseObject, error) {
	f, _, err := formFile(r.Body)
	if err != nil {
		return nil, err
	}
	kind, sniffed, err := sniff(f.name, f)
	content := bufio.NewReader(sniffed)
	if err != nil {
		return nil, err
	}
	if _, err := content.ReadByte(); err != nil {
		if errors.Is(err, io.EOF) {
			err = change.Refuse("file", "file-empty")
		}
		return nil, err
	}
	if err := content.UnreadByte(); err != nil {
		return nil, err
	}
	t, err := s.Cases.Handouts.AddTemplate(about(ctx, nil), account(ctx), f.name, kind, content)
	if err != nil {
		return nil, err
	}
	return api.UploadTemplate201JSONResponse(templateView(t)), nil
}

// levelWord is a level as the interface names it.
func levelWord(l access.Level) api.AccessLevel { return api.AccessLevel(l.String()) }
