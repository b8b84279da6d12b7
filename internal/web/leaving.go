package web

import (
	"cmp"
	"context"
	"io"
	"net/http"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
	"jollysatchel/internal/web/api"
)

// ListLeavers implements the route of that name.
func (s *Server) ListLeavers(ctx context.Context, r api.ListLeaversRequestObject) (api.ListLeaversResponseObject, error) {
	all, err := s.Cases.Leaving.Leavers(ctx, r.ClassId)
	out := api.ListLeavers200JSONResponse{}
	for _, l := range all {
		var request *api.SatchelRequest
		if q := l.Request; q != nil {
			request = &api.SatchelRequest{Row: q.Row, By: q.By, Class: q.Class, At: q.At.UTC()}
		}
		out = append(out, api.Leaver{
			Request: request,
			Row:     l.Student.ID, Student: l.Student.SortName(), LeftAt: l.Student.LeftAt.UTC(), Copies: l.Copies, Begun: l.Begun, Own: l.Own, Newest: moment(l.Newest), Owned: l.Owned, Binned: l.Binned, BinUntil: moment(l.BinUntil),
			Decision: api.LeaverDecision(l.Decision), DecidedAt: moment(l.DecidedA), Account: l.Student.Account != "",
		})
	}
	return out, err
}

// DecideLeaver implements the route of that name.
func (s *Server) DecideLeaver(ctx context.Context, r api.DecideLeaverRequestObject) (api.DecideLeaverResponseObject, error) {
	return api.DecideLeaver204Response{}, s.Cases.Leaving.Decide(ctx, account(ctx), r.ClassId, r.RowId, string(r.Body.Decision), r.Body.Own)
}

// DecideFormer implements the route of that name.
func (s *Server) DecideFormer(ctx context.Context, r api.DecideFormerRequestObject) (api.DecideFormerResponseObject, error) {
	asked, err := s.Cases.Leaving.Former(ctx, account(ctx), r.ClassId, r.RowId, r.Body.Along)
	return api.DecideFormer200JSONResponse{Asked: asked}, err
}

// AnswerRequest implements the route of that name.
func (s *Server) AnswerRequest(ctx context.Context, r api.AnswerRequestRequestObject) (api.AnswerRequestResponseObject, error) {
	return api.AnswerRequest204Response{}, s.Cases.Leaving.AnswerRequest(ctx, account(ctx), r.ClassId, r.RowId, r.Body.Asks, r.Body.Yes)
}

// An archived answers ArchiveLeaver: what goes wrong once it is under way cuts the
// archive off, which whoever opens it sees.
type archived struct {
	name  string
	write func(io.Writer) error
}

// VisitArchiveLeaverResponse implements api.ArchiveLeaverResponseObject.
func (a archived) VisitArchiveLeaverResponse(w http.ResponseWriter) error {
	w.Header().Set("Content-Type", "application/zip")
	w.Header().Set("Content-Disposition", disposition(a.name))
	return a.write(w)
}

// ArchiveLeaver implements the route of that name.
func (s *Server) ArchiveLeaver(ctx context.Context, r api.ArchiveLeaverRequestObject) (api.ArchiveLeaverResponseObject, error) {
	all, err := s.Cases.Leaving.Leavers(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	for _, l := range all {
		if l.Student.ID == r.RowId {
			return archived{l.Student.SortName() + ".zip", func(w io.Writer) error { return s.Cases.Leaving.Archive(ctx, r.ClassId, r.RowId, w) }}, nil
		}
	}
	return nil, seam.ErrNotFound
}

// key names an asking: as the browser named it, else anew.
func key(ctx context.Context) string {
	return cmp.Or(asGin(ctx).GetString(keyKey), seam.NewKey())
}

// GetInside implements the route of that name.
func (s *Server) GetInside(ctx context.Context, r api.GetInsideRequestObject) (api.GetInsideResponseObject, error) {
	in, err := s.Cases.Things.Inside(ctx, account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	out := api.GetInside200JSONResponse{Folders: in.Folders, Files: in.Files, Newest: moment(in.Newest), More: in.More}
	out.Of = []api.InsideOf{}
	for _, o := range in.Of {
		out.Of = append(out.Of, api.InsideOf{Name: o.Name, Things: o.Things})
	}
	return out, nil
}

// RenameThing implements the route of that name.
func (s *Server) RenameThing(ctx context.Context, r api.RenameThingRequestObject) (api.RenameThingResponseObject, error) {
	return api.RenameThing204Response{}, s.Cases.Things.Rename(ctx, account(ctx), key(ctx), r.ThingId, r.Body.Name)
}

// LookWide implements the route of that name.
func (s *Server) LookWide(ctx context.Context, r api.LookWideRequestObject) (api.LookWideResponseObject, error) {
	open, err := s.Cases.Things.LookWide(ctx, account(ctx), r.ThingId)
	return api.LookWide200JSONResponse(opennessView(open)), err
}

func opennessView(r things.Openness) api.Openness {
	return api.Openness{Level: api.OpennessLevel(r.School.String()), Named: r.Named, Students: r.Accounts[accounts.Student], Staff: r.Accounts[accounts.Staff], Office: r.Accounts[accounts.Office]}
}

// OpenToSchool implements the route of that name.
func (s *Server) OpenToSchool(ctx context.Context, r api.OpenToSchoolRequestObject) (api.OpenToSchoolResponseObject, error) {
	to, _ := access.ParseLevel(string(r.Body.Level)) // the contract has checked both
	was, _ := access.ParseLevel(string(r.Body.Was))
	open, err := s.Cases.Things.OpenToSchool(ctx, account(ctx), key(ctx), r.ThingId, to, was)
	return api.OpenToSchool200JSONResponse(opennessView(open)), err
}

// MoveThings implements the route of that name.
func (s *Server) MoveThings(ctx context.Context, r api.MoveThingsRequestObject) (api.MoveThingsResponseObject, error) {
	return api.MoveThings204Response{}, s.Cases.Things.Move(ctx, account(ctx), key(ctx), r.Body.Things, r.Body.To)
}

// ListBin implements the route of that name.
func (s *Server) ListBin(ctx context.Context, _ api.ListBinRequestObject) (api.ListBinResponseObject, error) {
	all, err := s.Cases.Things.Binned(ctx, account(ctx))
	if err != nil {
		return nil, err
	}
	var by []string
	for _, b := range all {
		by = append(by, b.By)
	}
	names, err := s.Cases.People.Names(ctx, by...)
	out := api.ListBin200JSONResponse{}
	for _, b := range all {
		out = append(out, api.BinnedThing{Id: b.ID, Name: b.Name, Kind: api.BinnedThingKind(b.Kind), At: b.At, By: names[b.By], Until: b.Until})
	}
	return out, err
}

// BinThings implements the route of that name.
func (s *Server) BinThings(ctx context.Context, r api.BinThingsRequestObject) (api.BinThingsResponseObject, error) {
	return api.BinThings204Response{}, s.Cases.Things.Bin(ctx, account(ctx), key(ctx), r.Body.Things, r.Body.Inside)
}

// RestoreThing implements the route of that name.
func (s *Server) RestoreThing(ctx context.Context, r api.RestoreThingRequestObject) (api.RestoreThingResponseObject, error) {
	return api.RestoreThing204Response{}, s.Cases.Things.Restore(ctx, account(ctx), key(ctx), r.ThingId)
}

// MoveEffects implements the route of that name.
func (s *Server) MoveEffects(ctx context.Context, r api.MoveEffectsRequestObject) (api.MoveEffectsResponseObject, error) {
	e, err := s.Cases.Things.MoveEffects(ctx, account(ctx), r.Body.Things, r.Body.To)
	return api.MoveEffects200JSONResponse(effectsView(e)), err
}

func effectsView(e things.Effects) api.MoveEffects {
	return api.MoveEffects{Gain: append([]string{}, e.Gain...), Lose: append([]string{}, e.Lose...), More: e.More}
}

// LookSpread implements the route of that name.
func (s *Server) LookSpread(ctx context.Context, r api.LookSpreadRequestObject) (api.LookSpreadResponseObject, error) {
	spread, err := s.Cases.Things.LookSpread(ctx, account(ctx), spreading(*r.Body))
	if err != nil {
		return nil, err
	}
	out := api.LookSpread200JSONResponse{Seen: spread.Digest(), To: []api.SpreadTo{}, Stay: stays(spread.Stay), Effects: effectsView(spread.Effects)}
	for _, to := range spread.To {
		out.To = append(out.To, api.SpreadTo{Name: to.Name, Fresh: to.Folder == "", Things: to.Things})
	}
	return out, nil
}

// SpreadThings implements the route of that name.
func (s *Server) SpreadThings(ctx context.Context, r api.SpreadThingsRequestObject) (api.SpreadThingsResponseObject, error) {
	stay, err := s.Cases.Things.SpreadOut(ctx, account(ctx), key(ctx), spreading(*r.Body), deref(r.Body.Seen))
	return api.SpreadThings200JSONResponse(stays(stay)), err
}

func spreading(b api.Spreading) things.Spreading {
	return things.Spreading{Things: b.Things, By: record.Field(deref(b.By)), To: deref(b.To), Rest: deref(b.Rest)}
}

func stays(of []things.Stay) []api.Stay {
	out := []api.Stay{}
	for _, s := range of {
		out = append(out, api.Stay{Thing: s.Thing, Why: api.StayWhy(s.Code)})
	}
	return out
}

// GetUsed implements the route of that name.
func (s *Server) GetUsed(ctx context.Context, r api.GetUsedRequestObject) (api.GetUsedResponseObject, error) {
	all, each, err := s.Cases.Things.RoomUsed(ctx, r.ClassId)
	out := api.GetUsed200JSONResponse{All: all, Each: []api.UsedBy{}}
	for _, u := range each {
		out.Each = append(out.Each, api.UsedBy{Row: u.Row, Student: u.Student, Bytes: u.Bytes})
	}
	return out, err
}
