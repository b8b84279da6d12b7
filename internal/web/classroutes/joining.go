package classroutes

import (
	"context"

	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// GetJoinDoor implements the route of that name.
func (s *enrolRoutes) GetJoinDoor(ctx context.Context, r api.GetJoinDoorRequestObject) (api.GetJoinDoorResponseObject, error) {
	d, err := s.rosters.JoinDoor(ctx, r.ClassId)
	if err != nil {
		return nil, err
	}
	out := api.GetJoinDoor200JSONResponse{Asked: []api.Asker{}}
	if d.Link != "" {
		link := s.Site(ctx) + "/join/" + d.Link
		code, size, err := codeOf(link)
		if err != nil {
			return nil, err
		}
		out.Link, out.Code, out.Size, out.Until = &link, &code, &size, desk.Moment(d.Until)
	}
	for _, a := range d.Asked {
		out.Asked = append(out.Asked, api.Asker{Account: a.ID, Name: a.Name(), Address: a.Address, At: a.At.UTC()})
	}
	return out, nil
}

// OpenJoinDoor implements the route of that name.
func (s *enrolRoutes) OpenJoinDoor(ctx context.Context, r api.OpenJoinDoorRequestObject) (api.OpenJoinDoorResponseObject, error) {
	return api.OpenJoinDoor204Response{}, s.rosters.OpenJoinDoor(ctx, desk.Account(ctx), r.ClassId, r.Body.Hours)
}

// TakeAskers implements the route of that name.
func (s *enrolRoutes) TakeAskers(ctx context.Context, r api.TakeAskersRequestObject) (api.TakeAskersResponseObject, error) {
	return api.TakeAskers204Response{}, s.rosters.TakeAskers(desk.About(ctx, nil), desk.Account(ctx), r.ClassId, r.Body.Accounts, r.Body.In)
}

// GetJoin implements the route of that name.
func (s *enrolRoutes) GetJoin(ctx context.Context, r api.GetJoinRequestObject) (api.GetJoinResponseObject, error) {
	c, stands, err := s.rosters.AtJoinDoor(ctx, desk.Account(ctx), r.Link)
	return api.GetJoin200JSONResponse{Class: c.Name, Stands: api.JoinLookStands(stands)}, err
}

// AskToJoin implements the route of that name.
func (s *enrolRoutes) AskToJoin(ctx context.Context, r api.AskToJoinRequestObject) (api.AskToJoinResponseObject, error) {
	return api.AskToJoin204Response{}, s.rosters.AskToJoin(desk.About(ctx, nil), desk.Account(ctx), r.Link)
}
