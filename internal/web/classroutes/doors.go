package classroutes

import (
	"context"

	"jollysatchel/internal/core/doorcheck"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/usecase/doors"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// ListDoorChecks implements the route of that name.
func (s *doorRoutes) ListDoorChecks(ctx context.Context, _ api.ListDoorChecksRequestObject) (api.ListDoorChecksResponseObject, error) {
	all, err := s.doors.All(ctx)
	out := api.ListDoorChecks200JSONResponse{}
	for _, c := range all {
		x := api.CheckedClass{Id: c.ID, Name: c.Name}
		if !c.Last.At.IsZero() {
			last := checkedDoors(c.Last)
			x.Last = &last
		}
		out = append(out, x)
	}
	return out, err
}

func checkedDoors(c doors.Checked) api.CheckedDoors {
	return api.CheckedDoors{At: c.At.UTC(), By: desk.OrNone(c.By), Differences: c.Differences}
}

// GetDoors implements the route of that name.
func (s *doorRoutes) GetDoors(ctx context.Context, r api.GetDoorsRequestObject) (api.GetDoorsResponseObject, error) {
	out := api.GetDoors200JSONResponse{Earlier: []api.CheckedDoors{}}
	last, ok, err := s.doors.Last(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	if ok {
		v := doorCheck(last)
		out.Last = &v
	}
	earlier, err := s.doors.Earlier(ctx, r.ClassId)
	for _, c := range earlier {
		out.Earlier = append(out.Earlier, checkedDoors(c))
	}
	return out, err
}

// CheckDoors implements the route of that name.
func (s *doorRoutes) CheckDoors(ctx context.Context, r api.CheckDoorsRequestObject) (api.CheckDoorsResponseObject, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	c, err := s.doors.Check(ctx, desk.Account(ctx), r.ClassId)
	return api.CheckDoors200JSONResponse(doorCheck(c)), err
}

func doorCheck(c doors.Check) api.DoorCheck {
	r := c.Result
	out := api.DoorCheck{At: c.At.UTC(), By: desk.OrNone(c.By), Students: r.Students, Staff: r.Staff, Things: r.Things, Doors: r.Doors,
		Tried: r.Tried, Passing: r.Passing, More: r.More, Lines: differences(c, r.Lines), Left: differences(c, r.Left), Wrong: []api.TriedDoor{}}
	for _, t := range r.Wrong {
		out.Wrong = append(out.Wrong, api.TriedDoor{Name: t.Name, Thing: t.Thing, Who: c.Who(t.Who).Name, Opens: !t.Opens})
	}
	return out
}

func differences(c doors.Check, lines []doorcheck.Line) []api.Difference {
	out := make([]api.Difference, len(lines))
	for i, l := range lines {
		d := api.Difference{Id: l.ID, Kind: api.DifferenceKind(l.Kind), Thing: l.Thing, Name: l.Name, Who: []string{}, Rows: []string{},
			Others: l.Others, Where: desk.OrNone(l.Where), Is: api.AccessLevel(l.Is.String()), Should: api.AccessLevel(l.Should.String()),
			Why: desk.ReasonOf(l.Why), Mends: l.Mends, Usual: l.Usual, Handout: desk.OrNone(l.Key.Handout())}
		if l.For != "" {
			d.For = desk.OrNone(c.Who(l.For).Name)
		}
		for _, p := range l.Who {
			who := c.Who(p)
			if d.Who = append(d.Who, who.Name); who.Row != "" {
				d.Rows = append(d.Rows, who.Row)
			}
		}
		if row := l.Key.Whom.Row; row != "" {
			d.Rows = append(d.Rows, row)
		}
		out[i] = d
	}
	return out
}

// MendDoors implements the route of that name.
func (s *doorRoutes) MendDoors(ctx context.Context, r api.MendDoorsRequestObject) (api.MendDoorsResponseObject, error) {
	run, err := s.doors.Mend(ctx, desk.Account(ctx), r.ClassId, r.Body.Differences)
	return api.MendDoors202JSONResponse{Run: run.ID}, err
}

// LeaveDoors implements the route of that name.
func (s *doorRoutes) LeaveDoors(ctx context.Context, r api.LeaveDoorsRequestObject) (api.LeaveDoorsResponseObject, error) {
	return api.LeaveDoors204Response{}, s.doors.Leave(ctx, desk.Account(ctx), r.ClassId, r.Body.Differences, r.Body.Left)
}

// reach is what a row, or one of the staff, reaches, or who reaches a thing.
func (s *doorRoutes) reach(ctx context.Context, class string, row, staff, thing *string) ([]doorcheck.Told, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	switch {
	case desk.Deref(row) != "":
		return s.doors.What(ctx, class, *row)
	case desk.Deref(staff) != "":
		return s.doors.WhatOfStaff(ctx, class, *staff)
	case desk.Deref(thing) != "":
		return s.doors.Who(ctx, class, *thing)
	}
	return nil, seam.ErrNotFound
}

// GetReach implements the route of that name.
func (s *doorRoutes) GetReach(ctx context.Context, r api.GetReachRequestObject) (api.GetReachResponseObject, error) {
	all, err := s.reach(ctx, r.ClassId, r.Params.Row, r.Params.Account, r.Params.Thing)
	return api.GetReach200JSONResponse(reachViews(all)), err
}

func reachViews(all []doorcheck.Told) []api.Reach {
	out := []api.Reach{}
	for _, x := range all {
		out = append(out, api.Reach{Person: desk.OrNone(x.Name), Row: desk.OrNone(x.Row), Thing: x.Reach.Thing, Name: x.Thing, In: x.In,
			Level: api.AccessLevel(x.Level.String()), Should: api.AccessLevel(x.Should.String()), Way: api.ReachWay(x.Way), From: x.Folder,
			Closed: x.Closed})
	}
	return out
}

// everywhere is what somebody reaches in all classes.
func (s *doorRoutes) everywhere(ctx context.Context, account string) (doors.Everywhere, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return doors.Everywhere{}, err
	}
	defer leave()
	return s.doors.Everywhere(ctx, account)
}

// mostReach things of a class are on the page about all classes; its file has what was told.
const mostReach = 200

// GetReachEverywhere implements the route of that name.
func (s *doorRoutes) GetReachEverywhere(ctx context.Context, r api.GetReachEverywhereRequestObject) (
	api.GetReachEverywhereResponseObject, error) {
	all, err := s.everywhere(ctx, r.AccountId)
	out := api.GetReachEverywhere200JSONResponse{Name: all.Name, More: all.More, Classes: []api.ReachInClass{}}
	for _, in := range all.Classes {
		some := in.Reach[:min(len(in.Reach), mostReach)]
		out.Classes = append(out.Classes, api.ReachInClass{Id: in.ID, Name: in.Name, Own: in.Own, Reach: reachViews(some),
			Further: len(in.Reach) - len(some)})
	}
	return out, err
}

// ExportReachEverywhere implements the route of that name.
func (s *doorRoutes) ExportReachEverywhere(ctx context.Context, r api.ExportReachEverywhereRequestObject) (
	api.ExportReachEverywhereResponseObject, error) {
	all, err := s.everywhere(ctx, r.AccountId)
	if err != nil {
		return nil, err
	}
	return desk.AsFile(ctx, r.Format, all.Name, "reach", func() ([][]string, error) { return all.Table(), nil })
}

// ExportReach implements the route of that name.
func (s *doorRoutes) ExportReach(ctx context.Context, r api.ExportReachRequestObject) (api.ExportReachResponseObject, error) {
	return s.Export(ctx, r.Format, "reach", func(c picture.Class) ([][]string, error) {
		all, err := s.reach(ctx, c.ID, r.Params.Row, r.Params.Account, r.Params.Thing)
		return doorcheck.ReachTable(all), err
	})
}

// ListDoorThings implements the route of that name.
func (s *doorRoutes) ListDoorThings(ctx context.Context, r api.ListDoorThingsRequestObject) (api.ListDoorThingsResponseObject, error) {
	leave, err := s.Costly(ctx, s.Compares)
	if err != nil {
		return nil, err
	}
	defer leave()
	all, more, err := s.doors.Things(ctx, r.ClassId, desk.Deref(r.Params.Find))
	out := api.ListDoorThings200JSONResponse{Things: []api.DoorThing{}, More: more}
	for _, x := range all {
		out.Things = append(out.Things, api.DoorThing{Id: x.ID, Name: x.Name, Folder: x.Folder, Depth: x.Depth})
	}
	return out, err
}

// ExportDoors implements the route of that name.
func (s *doorRoutes) ExportDoors(ctx context.Context, r api.ExportDoorsRequestObject) (api.ExportDoorsResponseObject, error) {
	return s.Export(ctx, r.Format, "door check", func(c picture.Class) ([][]string, error) { return s.doors.Export(ctx, c.ID) })
}
