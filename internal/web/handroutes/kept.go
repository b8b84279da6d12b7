package handroutes

import (
	"context"

	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetTree implements the route of that name.
func (s *packRoutes) GetTree(ctx context.Context, r api.GetTreeRequestObject) (api.GetTreeResponseObject, error) {
	from := 0
	if r.Params.From != nil {
		from = *r.Params.From
	}
	t, err := s.packing.Tree(ctx, r.ClassId, r.Params.Eyes, desk.Deref(r.Params.Under), from)
	if err != nil {
		return nil, err
	}
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	out := api.GetTree200JSONResponse{Nodes: []api.Node{}, More: t.More, Folders: t.Folders, Files: t.Files,
		Grants: t.Grants, States: t.States}
	for _, n := range t.Nodes {
		v := api.Node{
			Key: n.Key.String(), Kind: api.NodeKind(n.Kind), Name: n.Name, Purpose: string(n.Key.What.Purpose),
			For: string(n.Place.For), HandIn: n.Place.HandIn, Row: n.Row, Team: n.Team, People: n.People,
			Given: n.Given.String(), Level: n.Level.String(), Why: api.NodeWhy(n.Why), State: api.NodeState(n.State),
			Note: desk.ReasonPtr(n.Note), Inside: n.Inside, Apart: n.Apart, Altered: n.Altered,
		}
		if n.Place.ID != "" && (n.Row != "" || n.Team != "") {
			v.Place = n.Place.Called(s.rooms.PlaceNames())
		}
		if st, ok := c.Student(n.Row); ok {
			v.Student = st.SortName()
		}
		out.Nodes = append(out.Nodes, v)
	}
	return out, nil
}

// LeaveAsIs implements the route of that name.
func (s *packRoutes) LeaveAsIs(ctx context.Context, r api.LeaveAsIsRequestObject) (api.LeaveAsIsResponseObject, error) {
	return api.LeaveAsIs204Response{}, s.packing.LeaveAsIs(ctx, desk.Account(ctx), r.ClassId, r.Body.Key, r.Body.Be)
}

// ListLeftovers implements the route of that name.
func (s *packRoutes) ListLeftovers(ctx context.Context, r api.ListLeftoversRequestObject) (api.ListLeftoversResponseObject, error) {
	kept, err := s.packing.Leftovers(ctx, r.ClassId)
	out := api.ListLeftovers200JSONResponse{}
	for _, k := range kept {
		out = append(out, api.Kept{Id: k.ID, Name: k.Name, Things: k.Things, Inside: k.Inside, Newest: k.Newest})
	}
	return out, err
}

// BinLeftover implements the route of that name.
func (s *packRoutes) BinLeftover(ctx context.Context, r api.BinLeftoverRequestObject) (api.BinLeftoverResponseObject, error) {
	run, err := s.packing.BinLeftover(ctx, desk.Account(ctx), r.ClassId, r.Body.Id, r.Body.Things, r.Body.Inside)
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.BinLeftover202JSONResponse(out), err
}

// GetBack implements the route of that name.
func (s *packRoutes) GetBack(ctx context.Context, r api.GetBackRequestObject) (api.GetBackResponseObject, error) {
	b, err := s.packing.TakingBack(ctx, r.ClassId, r.RunId)
	if err != nil {
		return nil, err
	}
	c, err := s.Class(ctx)
	if err != nil {
		return nil, err
	}
	out := api.GetBack200JSONResponse{Things: len(b.Lines), Held: b.Held, Lines: []api.BackLine{}}
	for _, held := range []bool{true, false} {
		for _, l := range b.Lines {
			if (l.Reason != nil) != held || len(out.Lines) >= mostBackLines {
				continue
			}
			v := api.BackLine{Name: l.Name, Purpose: string(l.Entry.Key.What.Purpose), Reason: desk.ReasonPtr(l.Reason)}
			if st, ok := c.Student(l.Entry.Key.Whom.Row); ok {
				v.Student = st.SortName()
			}
			out.Lines = append(out.Lines, v)
		}
	}
	return out, nil
}

// TakeBack implements the route of that name.
func (s *packRoutes) TakeBack(ctx context.Context, r api.TakeBackRequestObject) (api.TakeBackResponseObject, error) {
	run, err := s.packing.TakeBack(ctx, desk.Account(ctx), r.ClassId, r.RunId, r.Body.Things)
	if err != nil {
		return nil, err
	}
	out, err := s.aRun(ctx, run)
	return api.TakeBack202JSONResponse(out), err
}
