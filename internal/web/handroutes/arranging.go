package handroutes

import (
	"cmp"
	"context"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func folderView(t seam.Thing) api.Folder {
	within := make([]string, len(t.Path))
	for i, c := range t.Path {
		within[i] = c.Name
	}
	return api.Folder{Id: t.ID, Name: t.Name, Write: t.Level >= access.Edit, Within: desk.OrNone(strings.Join(within, " › "))}
}

// ListFolders implements the route of that name.
func (s *thingRoutes) ListFolders(ctx context.Context, r api.ListFoldersRequestObject) (api.ListFoldersResponseObject, error) {
	var f things.Folders
	var err error
	if find := desk.Deref(r.Params.Find); strings.TrimSpace(find) != "" {
		f, err = s.things.FindFolders(ctx, desk.Account(ctx), find)
	} else {
		f, err = s.things.Folders(ctx, desk.Account(ctx), desk.Deref(r.Params.In))
	}
	if err != nil {
		return nil, err
	}
	out := api.ListFolders200JSONResponse{Path: []api.Folder{}, Folders: []api.Folder{}, More: f.More, Further: f.Further}
	for _, t := range f.Path {
		out.Path = append(out.Path, folderView(t))
	}
	for _, t := range f.Folders {
		out.Folders = append(out.Folders, folderView(t))
	}
	return out, nil
}

// MakeFolder implements the route of that name.
func (s *thingRoutes) MakeFolder(ctx context.Context, r api.MakeFolderRequestObject) (api.MakeFolderResponseObject, error) {
	t, err := s.things.MakeFolder(ctx, desk.Account(ctx), cmp.Or(desk.Gin(ctx).GetString(desk.KeyKey), seam.NewKey()),
		desk.Deref(r.Body.In), r.Body.Name)
	if err != nil {
		return nil, err
	}
	return api.MakeFolder201JSONResponse(api.Folder{Id: t.ID, Name: t.Name, Write: true}), nil
}

// key names an asking: as the browser named it, else again.
func key(ctx context.Context) string {
	return cmp.Or(desk.Gin(ctx).GetString(desk.KeyKey), seam.NewKey())
}

// GetInside implements the route of that name.
func (s *thingRoutes) GetInside(ctx context.Context, r api.GetInsideRequestObject) (api.GetInsideResponseObject, error) {
	in, err := s.things.Inside(ctx, desk.Account(ctx), r.ThingId)
	if err != nil {
		return nil, err
	}
	out := api.GetInside200JSONResponse{Folders: in.Folders, Files: in.Files, Newest: desk.Moment(in.Newest), More: in.More}
	out.Of = []api.InsideOf{}
	for _, o := range in.Of {
		out.Of = append(out.Of, api.InsideOf{Name: o.Name, Things: o.Things})
	}
	return out, nil
}

// RenameThing implements the route of that name.
func (s *thingRoutes) RenameThing(ctx context.Context, r api.RenameThingRequestObject) (api.RenameThingResponseObject, error) {
	return api.RenameThing204Response{}, s.things.Rename(ctx, desk.Account(ctx), key(ctx), r.ThingId, r.Body.Name)
}

// PreviewWidening implements the route of that name.
func (s *thingRoutes) PreviewWidening(ctx context.Context, r api.PreviewWideningRequestObject) (api.PreviewWideningResponseObject, error) {
	open, err := s.things.PreviewWidening(ctx, desk.Account(ctx), r.ThingId)
	return api.PreviewWidening200JSONResponse(opennessView(open)), err
}

func opennessView(r things.Openness) api.Openness {
	return api.Openness{Level: api.OpennessLevel(r.School.String()), Named: r.Named,
		Students: r.Accounts[accounts.Student], Staff: r.Accounts[accounts.Staff], Office: r.Accounts[accounts.Office]}
}

// OpenToSchool implements the route of that name.
func (s *thingRoutes) OpenToSchool(ctx context.Context, r api.OpenToSchoolRequestObject) (api.OpenToSchoolResponseObject, error) {
	to, _ := access.ParseLevel(string(r.Body.Level)) // the contract has checked both
	was, _ := access.ParseLevel(string(r.Body.Was))
	open, err := s.things.OpenToSchool(ctx, desk.Account(ctx), key(ctx), r.ThingId, to, was)
	return api.OpenToSchool200JSONResponse(opennessView(open)), err
}

// MoveThings implements the route of that name.
func (s *thingRoutes) MoveThings(ctx context.Context, r api.MoveThingsRequestObject) (api.MoveThingsResponseObject, error) {
	return api.MoveThings204Response{}, s.things.Move(ctx, desk.Account(ctx), key(ctx), r.Body.Things, r.Body.To)
}

// ListBin implements the route of that name.
func (s *thingRoutes) ListBin(ctx context.Context, _ api.ListBinRequestObject) (api.ListBinResponseObject, error) {
	all, err := s.things.Binned(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	var by []string
	for _, b := range all {
		by = append(by, b.By)
	}
	names, err := s.people.Names(ctx, by...)
	out := api.ListBin200JSONResponse{}
	for _, b := range all {
		out = append(out, api.BinnedThing{Id: b.ID, Name: b.Name, Kind: api.BinnedThingKind(b.Kind), At: b.At, By: names[b.By], Until: b.Until})
	}
	return out, err
}

// BinThings implements the route of that name.
func (s *thingRoutes) BinThings(ctx context.Context, r api.BinThingsRequestObject) (api.BinThingsResponseObject, error) {
	return api.BinThings204Response{}, s.things.Bin(ctx, desk.Account(ctx), key(ctx), r.Body.Things, r.Body.Inside)
}

// RestoreThing implements the route of that name.
func (s *thingRoutes) RestoreThing(ctx context.Context, r api.RestoreThingRequestObject) (api.RestoreThingResponseObject, error) {
	return api.RestoreThing204Response{}, s.things.Restore(ctx, desk.Account(ctx), key(ctx), r.ThingId)
}

// MoveEffects implements the route of that name.
func (s *thingRoutes) MoveEffects(ctx context.Context, r api.MoveEffectsRequestObject) (api.MoveEffectsResponseObject, error) {
	e, err := s.things.MoveEffects(ctx, desk.Account(ctx), r.Body.Things, r.Body.To)
	return api.MoveEffects200JSONResponse(effectsView(e)), err
}

func effectsView(e things.Effects) api.MoveEffects {
	return api.MoveEffects{Gain: append([]string{}, e.Gain...), Lose: append([]string{}, e.Lose...), More: e.More}
}

// PreviewSpread implements the route of that name.
func (s *thingRoutes) PreviewSpread(ctx context.Context, r api.PreviewSpreadRequestObject) (api.PreviewSpreadResponseObject, error) {
	spread, err := s.things.PreviewSpread(ctx, desk.Account(ctx), spreading(*r.Body))
	if err != nil {
		return nil, err
	}
	out := api.PreviewSpread200JSONResponse{Seen: spread.Digest(), To: []api.SpreadTo{}, Stay: stays(spread.Stay),
		Effects: effectsView(spread.Effects)}
	for _, to := range spread.To {
		out.To = append(out.To, api.SpreadTo{Name: to.Name, Fresh: to.Folder == "", Things: to.Things})
	}
	return out, nil
}

// SpreadThings implements the route of that name.
func (s *thingRoutes) SpreadThings(ctx context.Context, r api.SpreadThingsRequestObject) (api.SpreadThingsResponseObject, error) {
	stay, err := s.things.SpreadOut(ctx, desk.Account(ctx), key(ctx), spreading(*r.Body), desk.Deref(r.Body.Seen))
	return api.SpreadThings200JSONResponse(stays(stay)), err
}

func spreading(b api.Spreading) things.Spreading {
	return things.Spreading{Things: b.Things, By: record.Field(desk.Deref(b.By)), To: desk.Deref(b.To), Rest: desk.Deref(b.Rest)}
}

func stays(of []things.Stay) []api.Stay {
	out := []api.Stay{}
	for _, s := range of {
		out = append(out, api.Stay{Thing: s.Thing, Why: api.StayWhy(s.Code)})
	}
	return out
}

// GetUsage implements the route of that name.
func (s *thingRoutes) GetUsage(ctx context.Context, r api.GetUsageRequestObject) (api.GetUsageResponseObject, error) {
	all, each, err := s.things.Usage(ctx, r.ClassId)
	out := api.GetUsage200JSONResponse{All: all, Each: []api.UsedBy{}}
	for _, u := range each {
		out.Each = append(out.Each, api.UsedBy{Row: u.Row, Student: u.Student, Bytes: u.Bytes})
	}
	return out, err
}
