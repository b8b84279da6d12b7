package handroutes

import (
	"context"
	"errors"
	"io"
	"net/http"
	"strings"
	"unicode/utf8"

	"jollysatchel/internal/core/words"
	"jollysatchel/internal/document"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func thingTag(t seam.Thing, names map[string]string, me string, may things.Arranging) api.ThingTag {
	return api.ThingTag{
		Id: t.ID, Name: t.Name, Kind: api.ThingTagKind(t.Kind), MediaType: t.MediaType, Size: t.Size,
		ChangedAt: t.ChangedAt, ChangedBy: names[t.ChangedBy],
		Owner: names[t.Owner], Level: desk.LevelWord(t.Level), Text: document.IsText(t.MediaType), ByMe: t.ChangedBy == me,
		Arrange: api.ThingTagArrange(may),
	}
}

// GetThing implements the route of that name. Not yours and not there are the
// same answer.
func (s *thingRoutes) GetThing(ctx context.Context, r api.GetThingRequestObject) (api.GetThingResponseObject, error) {
	v, err := s.things.View(ctx, desk.Account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	out, err := s.thingView(ctx, v)
	return api.GetThing200JSONResponse(out), err
}

// FollowLink implements the route of that name.
func (s *thingRoutes) FollowLink(ctx context.Context, r api.FollowLinkRequestObject) (api.FollowLinkResponseObject, error) {
	v, err := s.things.Follow(ctx, desk.Account(ctx), r.Link)
	if err != nil {
		return nil, err
	}
	out, err := s.thingView(ctx, v)
	return api.FollowLink200JSONResponse(out), err
}

func (s *thingRoutes) thingView(ctx context.Context, t things.View) (api.Thing, error) {
	me := desk.Account(ctx)
	out := api.Thing{
		Id: t.ID, Link: t.Link, Name: t.Name, Kind: api.ThingKind(t.Kind), MediaType: t.MediaType, Size: t.Size,
		Version: t.Version, ChangedAt: t.ChangedAt,
		Level: desk.LevelWord(t.Level), Text: document.IsText(t.MediaType), Path: []api.Crumb{}, Children: []api.ThingTag{},
		ClassName: t.Class, ClassId: desk.OrNone(t.Teaches),
	}
	if t.School != nil {
		l := api.ThingSchool(t.School.String())
		out.School = &l
	}
	for _, c := range t.Path {
		out.Path = append(out.Path, api.Crumb{Id: c.ID, Name: c.Name})
	}
	ids := []string{t.Owner, t.ChangedBy}
	if t.Closing != nil {
		ids = append(ids, t.Closing.By)
	}
	for _, c := range t.Inside {
		ids = append(ids, c.Owner, c.ChangedBy)
	}
	names, err := s.people.Names(ctx, ids...)
	if err != nil {
		return out, err
	}
	out.Owner, out.ChangedBy = names[t.Owner], names[t.ChangedBy]
	for _, c := range t.Inside {
		out.Children = append(out.Children, thingTag(c, names, me, t.Arrange[c.ID]))
	}
	if f := t.Filled; f != nil {
		out.Filled = &api.Filled{Used: f.Used, Most: f.Most}
	}
	if h := t.Handout; h != nil {
		out.Handout, out.Due, out.Message = h.Title, desk.DueFor(*h, t.Row), h.Settings.Message
	}
	if t.Late > 0 {
		out.Late = &t.Late
	}
	if t.Closing != nil {
		out.Closing = desk.ClosingView(*t.Closing, names)
	}
	return out, nil
}

// GetText implements the route of that name.
func (s *thingRoutes) GetText(ctx context.Context, r api.GetTextRequestObject) (api.GetTextResponseObject, error) {
	t, f, v, err := s.things.Open(ctx, desk.Account(ctx), r.ThingId, desk.QueryVersion(r.Params.Version))
	if errors.Is(err, things.ErrNoFile) {
		err = desk.ErrNotText
	}
	if err != nil {
		return nil, err
	}
	defer f.Close()
	if !document.IsText(t.MediaType) {
		return nil, desk.ErrNotText
	}
	text, ok, err := document.ReadText(f)
	if err != nil {
		return nil, err
	}
	if !ok || !utf8.ValidString(text) {
		return nil, desk.ErrNotText
	}
	leave, err := s.Costly(ctx, s.Shows)
	if err != nil {
		return nil, err
	}
	defer leave()
	var html string
	gate.Aside(func() { html, ok = document.HTML(text) })
	return api.GetText200JSONResponse{Text: text, Version: v.Number, Html: html, Tangled: !ok}, nil
}

// PutText implements the route of that name. Where somebody wrote meanwhile
// nothing is overwritten and both texts are offered.
func (s *thingRoutes) PutText(ctx context.Context, r api.PutTextRequestObject) (api.PutTextResponseObject, error) {
	b := r.Body
	if len(b.Text) > document.MaxText {
		return nil, desk.ErrTooLarge
	}
	t, err := s.things.Get(ctx, desk.Account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	if t.Kind != seam.File || !document.IsText(t.MediaType) {
		return nil, desk.ErrNotText
	}
	v, err := s.things.WriteText(ctx, desk.Account(ctx), b.Key, t, things.Typed{Draft: desk.Deref(b.Draft), Base: b.Base, Text: b.Text})
	if current, late := things.Conflict(err); late {
		return s.conflict(ctx, t.ID, current)
	}
	if err != nil {
		return nil, err
	}
	return api.PutText200JSONResponse{Version: v.Number, At: v.At}, nil
}

func (s *thingRoutes) conflict(ctx context.Context, id string, v seam.Version) (api.PutTextResponseObject, error) {
	_, f, _, err := s.things.Open(ctx, desk.Account(ctx), id, v.Number)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	theirs, _, err := document.ReadText(f)
	if err != nil {
		return nil, err
	}
	names, err := s.people.Names(ctx, v.By)
	if err != nil {
		return nil, err
	}
	return api.PutText409JSONResponse{Code: "written-meanwhile", Message: words.Problem("written-meanwhile", nil),
		Version: v.Number, Theirs: theirs, By: names[v.By], At: v.At}, nil
}

// download answers GetContent: always as a download in a sandbox of its own,
// whatever the file says it is.
type download struct {
	name, kind string
	size       int64
	body       io.ReadCloser
}

// VisitGetContentResponse implements api.GetContentResponseObject.
func (d download) VisitGetContentResponse(w http.ResponseWriter) error {
	defer d.body.Close()
	h := w.Header()
	h.Set("Content-Type", d.kind)
	if !strings.HasPrefix(d.kind, "image/") || strings.HasPrefix(d.kind, "image/svg") {
		h.Set("Content-Type", "application/octet-stream")
	}
	h.Set("Content-Disposition", desk.Disposition(d.name))
	h.Set("Content-Security-Policy", "default-src 'none'; sandbox")
	w.WriteHeader(http.StatusOK)
	_, err := io.Copy(w, d.body)
	return err
}

// GetContent implements the route of that name.
func (s *thingRoutes) GetContent(ctx context.Context, r api.GetContentRequestObject) (api.GetContentResponseObject, error) {
	t, f, v, err := s.things.Open(ctx, desk.Account(ctx), r.ThingId, desk.QueryVersion(r.Params.Version))
	if errors.Is(err, things.ErrNoFile) {
		err = seam.ErrNotFound
	}
	if err != nil {
		return nil, err
	}
	return download{t.Name, t.MediaType, v.Size, f}, nil
}

// ListVersions implements the route of that name.
func (s *thingRoutes) ListVersions(ctx context.Context, r api.ListVersionsRequestObject) (api.ListVersionsResponseObject, error) {
	vs, err := s.things.Versions(ctx, desk.Account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	var ids []string
	for _, v := range vs {
		ids = append(ids, v.By)
	}
	names, err := s.people.Names(ctx, ids...)
	out := api.ListVersions200JSONResponse{}
	for _, v := range vs {
		out = append(out, api.Version{Number: v.Number, Size: v.Size, At: v.At, By: names[v.By]})
	}
	return out, err
}

// AddFile implements the route of that name.
func (s *thingRoutes) AddFile(ctx context.Context, r api.AddFileRequestObject) (api.AddFileResponseObject, error) {
	f, key, err := desk.FormFile(r.Body)
	if err != nil {
		return nil, err
	}
	if key == "" {
		key = seam.NewKey()
	}
	kind, content, err := sniff(f.Name, f)
	if err != nil {
		return nil, err
	}
	t, err := s.things.AddFile(ctx, desk.Account(ctx), key, r.ThingId, f.Name, kind, content)
	if err != nil {
		return nil, err
	}
	names, err := s.people.Names(ctx, t.Owner)
	return api.AddFile201JSONResponse(thingTag(t, names, desk.Account(ctx), things.ArrangeAll)), err
}

// Render implements the route of that name.
func (s *thingRoutes) Render(ctx context.Context, r api.RenderRequestObject) (api.RenderResponseObject, error) {
	if len(r.Body.Text)+len(r.Body.Other) > 2*document.MaxText {
		return nil, desk.ErrTooLarge
	}
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	out := api.Render200JSONResponse{}
	gate.Aside(func() {
		out.Html, _ = document.HTML(r.Body.Text)
		out.Same = document.Same(r.Body.Text, r.Body.Other)
	})
	return out, nil
}

// GetHome implements the route of that name.
func (s *thingRoutes) GetHome(ctx context.Context, _ api.GetHomeRequestObject) (api.GetHomeResponseObject, error) {
	me := desk.Account(ctx)
	classes, err := s.registers.Home(ctx, me)
	if err != nil {
		return nil, err
	}
	names, err := s.people.Names(ctx, append(desk.Closers(classes...), me)...)
	if err != nil {
		return nil, err
	}
	out := api.GetHome200JSONResponse{Name: names[me], Classes: []api.HomeClass{}}
	for _, c := range classes {
		out.Classes = append(out.Classes, desk.HomeView(c, names))
	}
	return out, nil
}

// ListMatesCopies implements the route of that name.
func (s *thingRoutes) ListMatesCopies(ctx context.Context, r api.ListMatesCopiesRequestObject) (api.ListMatesCopiesResponseObject, error) {
	found, err := s.registers.MatesCopies(ctx, desk.Account(ctx), r.HandoutId)
	out := api.ListMatesCopies200JSONResponse{Title: found.Title, Copies: []api.MateCopy{},
		Passing: api.MatesCopiesPassing(found.Passing), Mine: []api.Mate{}}
	for _, c := range found.Copies {
		out.Copies = append(out.Copies, api.MateCopy{Thing: c.Thing, Name: c.Name})
	}
	for _, m := range found.Mine {
		out.Mine = append(out.Mine, api.Mate{Row: m.Row, Name: m.Name, In: m.In})
	}
	return out, err
}
