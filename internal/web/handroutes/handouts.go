package handroutes

import (
	"bytes"
	"cmp"
	"context"
	"errors"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/pens"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/core/wall"
	"jollysatchel/internal/usecase/pack"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListHandouts implements the route of that name.
func (s *packRoutes) ListHandouts(ctx context.Context, r api.ListHandoutsRequestObject) (api.ListHandoutsResponseObject, error) {
	handouts, err := s.registers.HandoutTags(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	partners, err := s.handouts.Partners(ctx, desk.Account(ctx), r.ClassId, "")
	if err != nil {
		return nil, err
	}
	with := map[string][]string{}
	for _, p := range partners {
		with[p.Handout] = append(with[p.Handout], p.Code)
	}
	out := api.ListHandouts200JSONResponse{}
	for _, h := range handouts {
		out = append(out, api.HandoutTag{Together: append([]string{}, with[h.ID]...), Id: h.ID, Title: h.Title,
			Heading: h.Heading, Way: api.Way(cmp.Or(h.Settings.Way, handout.EachName)), Due: desk.Due(h.Handout),
			Send: wall.Written(h.Send), SendProblem: desk.ReasonPtr(h.SendProblem), ChangedAt: h.ChangedAt,
			PackedAt: desk.Moment(h.PackedAt), WithdrawnAt: desk.Moment(h.WithdrawnAt), Counts: h.Counts})
	}
	return out, nil
}

// begun is a handout or a notice that is begun as asked.
func (s *packRoutes) begun(ctx context.Context, class string, b api.NewHandout) (handout.Handout, error) {
	if b.Notice == nil || !*b.Notice {
		return s.handouts.NewHandout(ctx, desk.Account(ctx), class, desk.Deref(b.Template))
	}
	var only []string
	if b.Only != nil {
		only = *b.Only
	}
	return s.handouts.NewNotice(ctx, desk.Account(ctx), class, only)
}

// CreateHandout implements the route of that name.
func (s *packRoutes) CreateHandout(ctx context.Context, r api.CreateHandoutRequestObject) (api.CreateHandoutResponseObject, error) {
	h, err := s.begun(ctx, r.ClassId, *r.Body)
	if err != nil {
		return nil, err
	}
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.packing.HandoutList)
	return api.CreateHandout201JSONResponse(out), err
}

func (s *packRoutes) handout(ctx context.Context, id string) (picture.Class, handout.Handout, error) {
	c, err := s.Class(ctx)
	if err != nil {
		return c, handout.Handout{}, err
	}
	h, err := s.handouts.Handout(ctx, c.ID, id)
	return c, h, err
}

// handoutView is a handout with its packing list, which list computes.
func (s *packRoutes) handoutView(ctx context.Context, c picture.Class, h handout.Handout,
	list func(context.Context, string, handout.Handout) (packing.List, error)) (api.Handout, error) {
	v := h.Settings
	out := api.Handout{
		Id: h.ID, Title: h.Title, Way: api.Way(cmp.Or(v.Way, handout.EachName)), Documents: []api.GivenDocument{},
		By: string(v.By), Teams: string(v.Teams), Name: parts(v.Name), Pocket: v.Pocket, Level: api.HandoutLevel(v.Level),
		Out: []api.Out{}, Choice: choiceView(v.Choice), Due: desk.Due(h), Zone: h.Zone, Send: wall.Written(h.Send),
		SendProblem: desk.ReasonPtr(h.SendProblem),
		Message:     v.Message, PackedAt: desk.Moment(h.PackedAt), WithdrawnAt: desk.Moment(h.WithdrawnAt), ChangedAt: h.ChangedAt,
		Classmates: api.HandoutClassmates(cmp.Or(v.Classmates, "nothing")),
		Passing:    api.HandoutPassing(cmp.Or(v.Passing, "nothing")), Instructions: v.Instructions, ForParents: v.ForParents,
		Then: api.HandoutThen(cmp.Or(v.Then, "open")), Closed: []string{}, Show: v.Show,
		Tell: api.HandoutTell(v.Way.Tells(v.Tell)), Mail: desk.TextView(h.Mail(telling.Given)),
		MailChanged: desk.TextView(h.Mail(telling.Changed)),
	}
	out.InstructionsHtml, out.Links = desk.WithIt(h)
	if err := errors.Join(s.studentsOf(ctx, c, h, &out), s.lastOf(ctx, h, &out)); err != nil {
		return out, err
	}
	partners, err := s.handouts.Partners(ctx, desk.Account(ctx), c.ID, h.ID)
	if err != nil {
		return out, err
	}
	out.Together = []api.Partner{}
	for _, p := range partners {
		out.Together = append(out.Together, api.Partner{Id: p.ID, Class: p.ClassID, Code: p.Code, Name: p.Name, Yours: p.Yours})
	}
	templates, err := s.handouts.TemplatesOf(ctx, h)
	if err != nil {
		return out, err
	}
	for _, d := range v.Documents {
		t := templates[d.Template]
		thing := ""
		if t.Account == desk.Account(ctx) {
			thing = t.Thing
		}
		out.Documents = append(out.Documents,
			api.GivenDocument{Slot: d.Slot, Thing: thing, Template: d.Template, File: t.Name, MediaType: t.MediaType,
				Name: parts(d.Name), For: d.For, Plain: d.Plain, Only: len(d.Only)})
	}
	l, err := list(ctx, c.ID, h)
	if err != nil {
		return out, err
	}
	out.List, err = listView(ctx, s.people.Accounts, s.packing.PerLine(), c, l)
	return out, err
}

// GetHandout implements the route of that name.
func (s *packRoutes) GetHandout(ctx context.Context, r api.GetHandoutRequestObject) (api.GetHandoutResponseObject, error) {
	c, h, err := s.handout(ctx, r.HandoutId)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.packing.HandoutList)
	return api.GetHandout200JSONResponse(out), err
}

// ChangeHandout implements the route of that name.
func (s *packRoutes) ChangeHandout(ctx context.Context, r api.ChangeHandoutRequestObject) (api.ChangeHandoutResponseObject, error) {
	h, err := s.handouts.ChangeHandout(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, handoutChange(r.Body.To), handoutChange(r.Body.Was))
	if err != nil {
		return nil, err
	}
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.packing.HandoutListSeen)
	return api.ChangeHandout200JSONResponse(out), err
}

func handoutChange(b api.HandoutParts) handout.Change {
	ch := handout.Change{
		Title: b.Title, Way: (*handout.WayName)(b.Way), By: (*record.Field)(b.By), Teams: (*record.Field)(b.Teams),
		Pocket: b.Pocket, Level: b.Level, Due: b.Due, Show: b.Show, Then: thenOf(b.Then), Send: b.Send, Message: b.Message,
		Classmates: b.Classmates,
		Passing:    b.Passing, Instructions: b.Instructions, Links: linksOf(b.Links), ForParents: b.ForParents,
		Tell: (*telling.When)(b.Tell), Mail: desk.MailText(b.Mail), MailChanged: desk.MailText(b.MailChanged),
	}
	if b.Documents != nil {
		documents := []handout.GivenDocument{}
		for _, d := range *b.Documents {
			doc := handout.GivenDocument{Slot: d.Slot, Template: d.Template, For: desk.Deref(d.For), Plain: d.Plain != nil && *d.Plain}
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
	if b.Extra != nil {
		ch.Extra = &handout.ExtraTime{Rows: b.Extra.Rows, Until: b.Extra.Until, Minutes: desk.Deref(b.Extra.Minutes),
			Percent: desk.Deref(b.Extra.Percent)}
	}
	if b.Own != nil {
		ch.Own = &handout.OwnParts{Rows: b.Own.Rows, Pocket: b.Own.Pocket, Alike: b.Own.Alike != nil && *b.Own.Alike,
			Level: keptLevel(b.Own.Level)}
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
func (s *packRoutes) DeleteHandout(ctx context.Context, r api.DeleteHandoutRequestObject) (api.DeleteHandoutResponseObject, error) {
	return api.DeleteHandout204Response{}, s.handouts.DeleteHandout(ctx, desk.Account(ctx), r.ClassId, r.HandoutId)
}

// AlsoFor implements the route of that name.
func (s *packRoutes) AlsoFor(ctx context.Context, r api.AlsoForRequestObject) (api.AlsoForResponseObject, error) {
	id, err := s.handouts.AlsoFor(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.Body.To, r.Body.Picked)
	return api.AlsoFor201JSONResponse{Id: id}, err
}

// NotFor implements the route of that name.
func (s *packRoutes) NotFor(ctx context.Context, r api.NotForRequestObject) (api.NotForResponseObject, error) {
	return api.NotFor204Response{}, s.handouts.NotFor(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.OtherId)
}

// PreviewWithdraw implements the route of that name.
func (s *packRoutes) PreviewWithdraw(ctx context.Context, r api.PreviewWithdrawRequestObject) (api.PreviewWithdrawResponseObject, error) {
	found, err := s.packing.PreviewWithdraw(ctx, r.ClassId, r.HandoutId)
	if err != nil {
		return nil, err
	}
	handed, err := s.packing.HandedOver(ctx, r.ClassId, r.HandoutId)
	return api.PreviewWithdraw200JSONResponse(touched(found, handed)), err
}

func touched(copies picture.Copies, handed int) api.Touched {
	out := api.Touched{Seen: copies.Digest(), Begun: []string{}, Handed: handed}
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
func (s *packRoutes) Withdraw(ctx context.Context, r api.WithdrawRequestObject) (api.WithdrawResponseObject, error) {
	_, err := s.packing.Withdraw(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.Body.Begun, r.Body.Seen)
	return api.Withdraw204Response{}, err
}

// BringBack implements the route of that name.
func (s *packRoutes) BringBack(ctx context.Context, r api.BringBackRequestObject) (api.BringBackResponseObject, error) {
	return api.BringBack204Response{}, s.packing.BringBack(ctx, desk.Account(ctx), r.ClassId, r.HandoutId)
}

// UseAgain implements the route of that name.
func (s *packRoutes) UseAgain(ctx context.Context, r api.UseAgainRequestObject) (api.UseAgainResponseObject, error) {
	id, without, err := s.handouts.UseAgain(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.Body.To)
	out := api.UseAgain201JSONResponse{Id: id, Without: []api.UsedAgainWithout{}}
	for _, x := range without {
		out.Without = append(out.Without, api.UsedAgainWithout(x))
	}
	return out, err
}

// studentsOf says of a handout's students who gets nothing and why, who has a name or place of
// their own, and whose copies are closed.
func (s *packRoutes) studentsOf(ctx context.Context, c picture.Class, h handout.Handout, out *api.Handout) error {
	if closing, ok := h.Closes(""); ok {
		names, err := s.people.Names(ctx, closing.By)
		if err != nil {
			return err
		}
		out.Closing = desk.ClosingView(closing, names)
	}
	absent, v := c.Out(h), h.Settings
	out.Own, out.Extra, out.Levels = []string{}, []api.HasExtra{}, []api.HasLevel{}
	for _, st := range c.Students {
		if closing, ok := h.Closes(st.ID); ok && closing.Closed(s.Now()) {
			out.Closed = append(out.Closed, st.ID)
		}
		if until, ok := h.ExtraFor(st.ID); ok {
			always, at := v.Extra[st.ID] == "", wall.Written(wall.At(until, h.Zone))
			out.Extra = append(out.Extra, api.HasExtra{Row: st.ID, Name: st.SortName(), Until: at, Always: &always})
		}
		if level := v.Levels[st.ID]; level != "" && level != v.Level {
			out.Levels = append(out.Levels, api.HasLevel{Row: st.ID, Name: st.SortName(), Level: api.AccessLevel(level)})
		}
		if why, ok := absent[st.ID]; ok {
			out.Out = append(out.Out, api.Out{Row: st.ID, Reason: api.OutReason(why)})
		}
		_, named := v.Names[st.ID]
		if _, placed := v.Pockets[st.ID]; named || placed {
			out.Own = append(out.Own, st.ID)
		}
	}
	return nil
}

// lastOf says of a handout that isn't packed yet as which other it begins, and in what it isn't as that.
func (s *packRoutes) lastOf(ctx context.Context, h handout.Handout, out *api.Handout) error {
	if h.Fixed() || h.Settings.Way == handout.NoticeName {
		return nil
	}
	last, ok, err := s.handouts.Last(ctx, h.ClassID)
	if !ok || err != nil {
		return err
	}
	out.Last = &api.LastHandout{Id: last.ID, Title: last.Title, Differs: []api.LastHandoutDiffers{}}
	for _, part := range h.Differs(last) {
		out.Last.Differs = append(out.Last.Differs, api.LastHandoutDiffers(part))
	}
	return nil
}

// keptLevel is a level as it is kept.
func keptLevel(l *api.AccessLevel) *string {
	if l == nil {
		return nil
	}
	word := string(*l)
	return &word
}

// thenOf is what is kept of what copies do once they are due.
func thenOf(said *api.HandoutPartsThen) *string {
	if said == nil {
		return nil
	}
	then := ""
	if *said == api.HandoutPartsThenClose {
		then = handout.ThenClose
	}
	return &then
}

// SayPens implements the route of that name.
func (s *packRoutes) SayPens(ctx context.Context, r api.SayPensRequestObject) (api.SayPensResponseObject, error) {
	return api.SayPens204Response{}, s.handouts.SayPens(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, r.Body.Rows, r.Body.Down)
}

// GiveExtraTime implements the route of that name.
func (s *packRoutes) GiveExtraTime(ctx context.Context, r api.GiveExtraTimeRequestObject) (api.GiveExtraTimeResponseObject, error) {
	x := pens.Extra{Minutes: desk.Deref(r.Body.Minutes), Percent: desk.Deref(r.Body.Percent)}
	return api.GiveExtraTime204Response{}, s.handouts.GiveExtra(ctx, desk.Account(ctx), r.ClassId, r.Body.Rows, x)
}

// PreviewReissue implements the route of that name.
func (s *packRoutes) PreviewReissue(ctx context.Context, r api.PreviewReissueRequestObject) (api.PreviewReissueResponseObject, error) {
	found, err := s.packing.PreviewReissue(ctx, r.ClassId, r.HandoutId)
	if err != nil {
		return nil, err
	}
	handed, err := s.packing.HandedOver(ctx, r.ClassId, r.HandoutId)
	return api.PreviewReissue200JSONResponse(touched(found, handed)), err
}

// Reissue implements the route of that name.
func (s *packRoutes) Reissue(ctx context.Context, r api.ReissueRequestObject) (api.ReissueResponseObject, error) {
	run, err := s.packing.Reissue(ctx, desk.Account(ctx), r.ClassId, r.HandoutId, pack.BegunCopy(r.Body.Begun), r.Body.Seen)
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.Reissue202JSONResponse(out), err
}

// GetHandoutFile implements the route of that name.
func (s *packRoutes) GetHandoutFile(ctx context.Context, r api.GetHandoutFileRequestObject) (api.GetHandoutFileResponseObject, error) {
	b, title, err := s.handouts.HandoutFile(ctx, r.ClassId, r.HandoutId)
	if err != nil {
		return nil, err
	}
	desk.Gin(ctx).Header("Content-Disposition", desk.Disposition(title+".json"))
	return api.GetHandoutFile200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// ReadHandoutFile implements the route of that name.
func (s *packRoutes) ReadHandoutFile(ctx context.Context, r api.ReadHandoutFileRequestObject) (api.ReadHandoutFileResponseObject, error) {
	h, err := s.handouts.ReadHandoutFile(ctx, desk.Account(ctx), r.ClassId, []byte(r.Body.File), fields(r.Body.Columns))
	if err != nil {
		return nil, err
	}
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.packing.HandoutListSeen)
	return api.ReadHandoutFile201JSONResponse(out), err
}
