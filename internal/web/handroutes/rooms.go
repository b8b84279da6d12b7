package handroutes

import (
	"bytes"
	"context"

	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func paths(levels []naming.Pattern) [][]api.Part {
	out := [][]api.Part{}
	for _, l := range levels {
		out = append(out, parts(l))
	}
	return out
}

// GetRoom implements the route of that name.
func (s *roomRoutes) GetRoom(ctx context.Context, r api.GetRoomRequestObject) (api.GetRoomResponseObject, error) {
	out, err := s.roomView(ctx, r.ClassId)
	return api.GetRoom200JSONResponse(out), err
}

// SayPlacePens implements the route of that name.
func (s *roomRoutes) SayPlacePens(ctx context.Context, r api.SayPlacePensRequestObject) (api.SayPlacePensResponseObject, error) {
	return api.SayPlacePens204Response{}, s.rooms.SayPens(ctx, desk.Account(ctx), r.ClassId, r.PlaceId, r.Body.Rows, r.Body.Down)
}

// OpenLater implements the route of that name.
func (s *roomRoutes) OpenLater(ctx context.Context, r api.OpenLaterRequestObject) (api.OpenLaterResponseObject, error) {
	return api.OpenLater204Response{}, s.rooms.OpenLater(ctx, desk.Account(ctx), r.ClassId, r.Body.At)
}

// OpenClass implements the route of that name.
func (s *roomRoutes) OpenClass(ctx context.Context, r api.OpenClassRequestObject) (api.OpenClassResponseObject, error) {
	return api.OpenClass204Response{}, s.rooms.Open(ctx, desk.Account(ctx), r.ClassId, r.Body.Rows)
}

// placeViews are the places of a class's plan, with which of them are closed.
func (s *roomRoutes) placeViews(ctx context.Context, c classes.Class) ([]api.Place, error) {
	names, out := s.rooms.PlaceNames(), []api.Place{}
	for _, x := range c.Plan.AllPlaces() {
		v := api.Place{Id: x.ID, Name: x.Name, Called: x.Called(names), For: api.PlaceFor(x.For), Written: x.Written(),
			Level: api.PlaceLevel(x.Level), HandIn: x.HandIn, Teams: string(x.Set), Under: x.Under, Usual: x.Usual(), Needed: x.Needed()}
		if hand, down := c.Pens[x.ID].Down(""); down {
			who, err := s.people.Names(ctx, hand.By)
			if err != nil {
				return out, err
			}
			v.Closed = desk.ClosingView(handout.Closing{At: hand.At, By: hand.By}, who)
		}
		out = append(out, v)
	}
	return out, nil
}

func (s *roomRoutes) roomView(ctx context.Context, class string) (api.Room, error) {
	o, err := s.Classes.Overview(ctx, class)
	if err != nil {
		return api.Room{}, err
	}
	l, err := s.packing.RoomList(ctx, class)
	if err != nil {
		return api.Room{}, err
	}
	p := o.Plan
	out := api.Room{
		Satchel: parts(p.Satchel), Within: paths(p.Within), Pockets: desk.Pockets(p.Pockets), Sorted: p.Sorted,
		Name: p.Name, Base: p.Base, Path: paths(p.Path), Term: p.Term,
		Columns: []string{}, Levels: &[]string{}, Staff: desk.Members(o.Staff),
	}
	if out.Places, err = s.placeViews(ctx, o.Class.Class); err != nil {
		return out, err
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
		if t, err := s.things.Get(ctx, desk.Account(ctx), p.Base); err == nil {
			out.BaseName = t.Name
		}
	}
	owner, err := s.people.Accounts(ctx, o.Class.Owner())
	if err != nil {
		return out, err
	}
	out.School, out.Owner = o.HeldBy != "", owner[o.Class.Owner()].Name()
	if o.HeldBy != "" {
		out.Owner = s.School().Name
	}
	if o.KeepInStep != "" {
		called, err := s.people.Names(ctx, o.KeepInStep)
		if err != nil {
			return out, err
		}
		out.KeepInStep = called[o.KeepInStep]
	}
	out.List, err = listView(ctx, s.people.Accounts, s.packing.PerLine(), o.Class, l)
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
	return room.PlaceParts{Name: p.Name, For: (*room.For)(p.For), Level: (*string)(p.Level), HandIn: p.HandIn,
		Set: (*record.Field)(p.Teams), Under: p.Under, Usual: (*string)(p.Usual)}
}

func listed[T any](p *[]T) []T {
	if p == nil {
		return nil
	}
	return *p
}

// ChangeRoom implements the route of that name.
func (s *roomRoutes) ChangeRoom(ctx context.Context, r api.ChangeRoomRequestObject) (api.ChangeRoomResponseObject, error) {
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
	if err := s.rooms.ChangeRoom(ctx, desk.Account(ctx), r.ClassId, ch); err != nil {
		return nil, err
	}
	out, err := s.roomView(ctx, r.ClassId)
	return api.ChangeRoom200JSONResponse(out), err
}

// GetRoomFile implements the route of that name.
func (s *roomRoutes) GetRoomFile(ctx context.Context, r api.GetRoomFileRequestObject) (api.GetRoomFileResponseObject, error) {
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	b, err := s.rooms.RoomFile(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	desk.Gin(ctx).Header("Content-Disposition", desk.Disposition(c.Name+" – room plan.json"))
	return api.GetRoomFile200ApplicationoctetStreamResponse{Body: bytes.NewReader(b), ContentLength: int64(len(b))}, nil
}

// ReadRoomFile implements the route of that name.
func (s *roomRoutes) ReadRoomFile(ctx context.Context, r api.ReadRoomFileRequestObject) (api.ReadRoomFileResponseObject, error) {
	if err := s.rooms.ReadRoomFile(ctx, desk.Account(ctx), r.ClassId, []byte(r.Body.File), fields(r.Body.Columns)); err != nil {
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

// mostBackLines of a run are shown before it is taken back.
const mostBackLines = 300

// SetCue implements the route of that name.
func (s *roomRoutes) SetCue(ctx context.Context, r api.SetCueRequestObject) (api.SetCueResponseObject, error) {
	return api.SetCue204Response{},
		s.rooms.SetCue(ctx, desk.Account(ctx), r.ClassId, r.RowId, room.Cue{Colour: string(r.Body.Colour), Symbol: string(r.Body.Symbol)})
}

// DealCues implements the route of that name.
func (s *roomRoutes) DealCues(ctx context.Context, r api.DealCuesRequestObject) (api.DealCuesResponseObject, error) {
	return api.DealCues204Response{}, s.rooms.DealCues(ctx, desk.Account(ctx), r.ClassId)
}
