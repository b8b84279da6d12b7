package web

import (
	"bytes"
	"cmp"
	"context"
	"strings"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/usecase/things"
	"jollysatchel/internal/web/api"
)

func paths(levels []naming.Pattern) [][]api.Part {
	out := [][]api.Part{}
	for _, l := range levels {
		out = append(out, parts(l))
	}
	return out
}

// GetRoom implements the route of that name.
func (s *Server) GetRoom(ctx context.Context, r api.GetRoomRequestObject) (api.GetRoomResponseObject, error) {
	out, err := s.roomView(ctx, r.ClassId)
	return api.GetRoom200JSONResponse(out), err
}

func (s *Server) roomView(ctx context.Context, class string) (api.Room, error) {
	o, err := s.Cases.Classes.Overview(ctx, class)
	if err != nil {
		return api.Room{}, err
	}
	l, err := s.Cases.Packing.RoomList(ctx, class)
	if err != nil {
		return api.Room{}, err
	}
	p := o.Plan
	out := api.Room{
		Satchel: parts(p.Satchel), Within: paths(p.Within), Pockets: pockets(p.Pockets), Sorted: p.Sorted, Places: []api.Place{}, Name: p.Name, Base: p.Base, Path: paths(p.Path), Term: p.Term,
		Columns: []string{}, Levels: &[]string{}, Staff: members(o.Staff),
	}
	names := s.Cases.Rooms.PlaceNames()
	for _, x := range p.AllPlaces() {
		out.Places = append(out.Places, api.Place{Id: x.ID, Name: x.Name, Called: x.Called(names), For: api.PlaceFor(x.For), Level: api.PlaceLevel(x.Level), HandIn: x.HandIn, Teams: string(x.Set), Under: x.Under, Usual: x.Usual(), Needed: x.Needed()})
	}
	for _, f := range room.OfClass {
		out.Columns = append(out.Columns, string(f))
	}
	for _, line := range l.Lines {
		if w := line.Wanted; w.Key.What.Purpose == "class" {
			out.Folder = w.Name
			*out.Levels = append([]string{}, w.Path...)
			break
		}
	}
	if p.Base != "" { // somebody else's folder may be out of reach of who looks
		if t, err := s.Cases.Things.Look(ctx, account(ctx), p.Base); err == nil {
			out.BaseName = t.Name
		}
	}
	owner, err := s.Cases.People.Accounts(ctx, o.Class.Owner())
	if err != nil {
		return out, err
	}
	out.School, out.Owner = o.HeldBy != "", owner[o.Class.Owner()].Name()
	if o.HeldBy != "" {
		out.Owner = s.School().Name
	}
	if o.KeepInStep != "" {
		called, err := s.Cases.People.Names(ctx, o.KeepInStep)
		if err != nil {
			return out, err
		}
		out.KeepInStep = called[o.KeepInStep]
	}
	out.List, err = s.listView(ctx, o.Class, l)
	return out, err
}

func roomParts(p *api.RoomParts) room.Parts {
	if p == nil {
		return room.Parts{}
	}
	out := room.Parts{Name: p.Name, Term: p.Term, Base: p.Base, Sorted: p.Sorted, KeepInStep: p.KeepInStep, School: p.School}
	if p.Satchel != nil {
		x := pattern(*p.Satchel)
		out.Satchel = &x
	}
	levels := func(from *[][]api.Part) *[]naming.Pattern {
		if from == nil {
			return nil
		}
		out := []naming.Pattern{}
		for _, l := range *from {
			out = append(out, pattern(l))
		}
		return &out
	}
	out.Within, out.Path = levels(p.Within), levels(p.Path)
	return out
}

func placeParts(p *api.PlaceParts) room.PlaceParts {
	if p == nil {
		return room.PlaceParts{}
	}
	return room.PlaceParts{Name: p.Name, For: (*room.For)(p.For), Level: (*string)(p.Level), HandIn: p.HandIn, Set: (*record.Field)(p.Teams), Under: p.Under, Usual: (*string)(p.Usual)}
}

func listed[T any](p *[]T) []T {
	if p == nil {
		return nil
	}
	return *p
}

// ChangeRoom implements the route of that name.
func (s *Server) ChangeRoom(ctx context.Context, r api.ChangeRoomRequestObject) (api.ChangeRoomResponseObject, error) {
	ch := room.Change{To: roomParts(r.Body.To), Was: roomParts(r.Body.Was)}
	if p := r.Body.Pockets; p != nil {
		ch.Pockets.Add, ch.Pockets.Remove, ch.Pockets.Order = listed(p.Add), listed(p.Remove), listed(p.Order)
		for _, x := range listed(p.Rename) {
			ch.Pockets.Rename = append(ch.Pockets.Rename, room.PocketName{ID: x.Id, Name: x.Name, Was: x.Was})
		}
	}
	if p := r.Body.Places; p != nil {
		ch.Places.Remove, ch.Places.Order = listed(p.Remove), listed(p.Order)
		for _, x := range listed(p.Add) {
			ch.Places.Add = append(ch.Places.Add, placeParts(&x))
		}
		for _, x := range listed(p.Change) {
			ch.Places.Change = append(ch.Places.Change, room.PlaceChange{ID: x.Id, To: placeParts(&x.To), Was: placeParts(x.Was)})
		}
	}
	if err := s.Cases.Rooms.ChangeRoom(ctx, account(ctx), r.ClassId, ch); err != nil {
		return nil, err
	}
	out, err := s.roomView(ctx, r.ClassId)
	return api.ChangeRoom200JSONResponse(out), err
}

// GetTree implements the route of that name.
func (s *Server) GetTree(ctx context.Context, r api.GetTreeRequestObject) (api.GetTreeResponseObject, error) {
	from := 0
	if r.Params.From != nil {
		from = *r.Params.From
	}
	t, err := s.Cases.Packing.Tree(ctx, r.ClassId, r.Params.Eyes, deref(r.Params.Under), from)
	if err != nil {
		return nil, err
	}
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out := api.GetTree200JSONResponse{Nodes: []api.Node{}, More: t.More, Folders: t.Folders, Files: t.Files, Grants: t.Grants, States: t.States}
	for _, n := range t.Nodes {
		v := api.Node{
			Key: n.Key.String(), Kind: api.NodeKind(n.Kind), Name: n.Name, Purpose: string(n.Key.What.Purpose), For: string(n.Place.For), HandIn: n.Place.HandIn, Row: n.Row, Team: n.Team, People: n.People,
			Given: n.Given.String(), Level: n.Level.String(), Why: api.NodeWhy(n.Why), State: api.NodeState(n.State), Note: reasonPtr(n.Note), Inside: n.Inside, Apart: n.Apart, Altered: n.Altered,
		}
		if n.Place.ID != "" && (n.Row != "" || n.Team != "") {
			v.Place = n.Place.Called(s.Cases.Rooms.PlaceNames())
		}
		if st, ok := c.Student(n.Row); ok {
			v.Student = st.SortName()
		}
		out.Nodes = append(out.Nodes, v)
	}
	return out, nil
}

// GetRoomFile implements the route of that name.
func (s *Server) GetRoomFile(ctx context.Context, r api.GetRoomFileRequestObject) (api.GetRoomFileResponseObject, error) {
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	b, err := s.Cases.Rooms.RoomFile(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	asGin(ctx).Header("Content-Disposition", disposition(c.Name+" – room plan.json"))
	return api.GetRoomFile200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// ReadRoomFile implements the route of that name.
func (s *Server) ReadRoomFile(ctx context.Context, r api.ReadRoomFileRequestObject) (api.ReadRoomFileResponseObject, error) {
	if err := s.Cases.Rooms.ReadRoomFile(ctx, account(ctx), r.ClassId, []byte(r.Body.File), fields(r.Body.Columns)); err != nil {
		return nil, err
	}
	out, err := s.roomView(ctx, r.ClassId)
	return api.ReadRoomFile200JSONResponse(out), err
}

func fields(columns *map[string]string) map[string]record.Field {
	out := map[string]record.Field{}
	if columns != nil {
		for label, f := range *columns {
			out[label] = record.Field(f)
		}
	}
	return out
}

// LetBe implements the route of that name.
func (s *Server) LetBe(ctx context.Context, r api.LetBeRequestObject) (api.LetBeResponseObject, error) {
	return api.LetBe204Response{}, s.Cases.Packing.LetBe(ctx, account(ctx), r.ClassId, r.Body.Key, r.Body.Be)
}

// ListKept implements the route of that name.
func (s *Server) ListKept(ctx context.Context, r api.ListKeptRequestObject) (api.ListKeptResponseObject, error) {
	kept, err := s.Cases.Packing.KeptPlaces(ctx, r.ClassId)
	out := api.ListKept200JSONResponse{}
	for _, k := range kept {
		out = append(out, api.Kept{Id: k.ID, Name: k.Name, Things: k.Things, Inside: k.Inside, Newest: k.Newest})
	}
	return out, err
}

// BinKept implements the route of that name.
func (s *Server) BinKept(ctx context.Context, r api.BinKeptRequestObject) (api.BinKeptResponseObject, error) {
	run, err := s.Cases.Packing.BinKept(ctx, account(ctx), r.ClassId, r.Body.Id, r.Body.Things, r.Body.Inside)
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.BinKept202JSONResponse(out), err
}

// mostBackLines of a run are shown before it is taken back.
const mostBackLines = 300

// GetBack implements the route of that name.
func (s *Server) GetBack(ctx context.Context, r api.GetBackRequestObject) (api.GetBackResponseObject, error) {
	b, err := s.Cases.Packing.TakingBack(ctx, r.ClassId, r.RunId)
	if err != nil {
		return nil, err
	}
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out := api.GetBack200JSONResponse{Things: len(b.Lines), Held: b.Held, Lines: []api.BackLine{}}
	for _, held := range []bool{true, false} {
		for _, l := range b.Lines {
			if (l.Reason != nil) != held || len(out.Lines) >= mostBackLines {
				continue
			}
			v := api.BackLine{Name: l.Name, Purpose: string(l.Entry.Key.What.Purpose), Reason: reasonPtr(l.Reason)}
			if st, ok := c.Student(l.Entry.Key.Whom.Row); ok {
				v.Student = st.SortName()
			}
			out.Lines = append(out.Lines, v)
		}
	}
	return out, nil
}

// TakeBack implements the route of that name.
func (s *Server) TakeBack(ctx context.Context, r api.TakeBackRequestObject) (api.TakeBackResponseObject, error) {
	run, err := s.Cases.Packing.TakeBack(ctx, account(ctx), r.ClassId, r.RunId, r.Body.Things)
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.TakeBack202JSONResponse(out), err
}

func folderView(t seam.Thing) api.Folder {
	within := make([]string, len(t.Path))
	for i, c := range t.Path {
		within[i] = c.Name
	}
	return api.Folder{Id: t.ID, Name: t.Name, Write: t.Level >= access.Edit, Within: orNone(strings.Join(within, " › "))}
}

// ListFolders implements the route of that name.
func (s *Server) ListFolders(ctx context.Context, r api.ListFoldersRequestObject) (api.ListFoldersResponseObject, error) {
	var f things.Folders
	var err error
	if find := deref(r.Params.Find); strings.TrimSpace(find) != "" {
		f, err = s.Cases.Things.FindFolders(ctx, account(ctx), find)
	} else {
		f, err = s.Cases.Things.Folders(ctx, account(ctx), deref(r.Params.In))
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
func (s *Server) MakeFolder(ctx context.Context, r api.MakeFolderRequestObject) (api.MakeFolderResponseObject, error) {
	t, err := s.Cases.Things.MakeFolder(ctx, account(ctx), cmp.Or(asGin(ctx).GetString(keyKey), seam.NewKey()), deref(r.Body.In), r.Body.Name)
	if err != nil {
		return nil, err
	}
	return api.MakeFolder201JSONResponse(api.Folder{Id: t.ID, Name: t.Name, Write: true}), nil
}

// GetHandoutFile implements the route of that name.
func (s *Server) GetHandoutFile(ctx context.Context, r api.GetHandoutFileRequestObject) (api.GetHandoutFileResponseObject, error) {
	b, title, err := s.Cases.Handouts.HandoutFile(ctx, r.ClassId, r.HandoutId)
	if err != nil {
		return nil, err
	}
	asGin(ctx).Header("Content-Disposition", disposition(title+".json"))
	return api.GetHandoutFile200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// ReadHandoutFile implements the route of that name.
func (s *Server) ReadHandoutFile(ctx context.Context, r api.ReadHandoutFileRequestObject) (api.ReadHandoutFileResponseObject, error) {
	h, err := s.Cases.Handouts.ReadHandoutFile(ctx, account(ctx), r.ClassId, []byte(r.Body.File), fields(r.Body.Columns))
	if err != nil {
		return nil, err
	}
	c, err := s.class(ctx)
	if err != nil {
		return nil, err
	}
	out, err := s.handoutView(ctx, c, h, s.Cases.Packing.HandoutListSeen)
	return api.ReadHandoutFile201JSONResponse(out), err
}

// cueView is a cue, or none.
func cueView(c room.Cue) *api.Cue {
	if c == (room.Cue{}) {
		return nil
	}
	return &api.Cue{Colour: api.CueColour(c.Colour), Symbol: api.CueSymbol(c.Symbol)}
}

// SetCue implements the route of that name.
func (s *Server) SetCue(ctx context.Context, r api.SetCueRequestObject) (api.SetCueResponseObject, error) {
	return api.SetCue204Response{}, s.Cases.Rooms.SetCue(ctx, account(ctx), r.ClassId, r.RowId, room.Cue{Colour: string(r.Body.Colour), Symbol: string(r.Body.Symbol)})
}

// DealCues implements the route of that name.
func (s *Server) DealCues(ctx context.Context, r api.DealCuesRequestObject) (api.DealCuesResponseObject, error) {
	return api.DealCues204Response{}, s.Cases.Rooms.DealCues(ctx, account(ctx), r.ClassId)
}
