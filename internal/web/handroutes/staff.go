package handroutes

import (
	"context"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/choosing"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// SetStaff implements the route of that name.
func (s *roomRoutes) SetStaff(ctx context.Context, r api.SetStaffRequestObject) (api.SetStaffResponseObject, error) {
	role := map[string]string{"teacher": "teacher", "assistant": "assistant"} // none: off the staff
	return api.SetStaff204Response{},
		s.rooms.SetStaff(ctx, desk.Account(ctx), r.ClassId, r.AccountId, role[string(r.Body.Role)], role[string(r.Body.Was)])
}

// HandOver implements the route of that name: for the owner and the office.
func (s *roomRoutes) HandOver(ctx context.Context, r api.HandOverRequestObject) (api.HandOverResponseObject, error) {
	if mine := desk.Gin(ctx).GetString(desk.MineKey); mine != classes.Owner && mine != string(accounts.Office) {
		return nil, seam.ErrNotFound
	}
	return api.HandOver204Response{}, s.rooms.HandOver(ctx, desk.Account(ctx), r.ClassId, r.Body.Account, r.Body.Was)
}

// JoinClass implements the route of that name: for the office alone.
func (s *roomRoutes) JoinClass(ctx context.Context, r api.JoinClassRequestObject) (api.JoinClassResponseObject, error) {
	if role, _ := desk.Gin(ctx).Get(desk.RoleKey); role != accounts.Office {
		return nil, seam.ErrNotFound
	}
	role := map[api.JoinClassRole]string{api.JoinClassRoleTeacher: "teacher", api.JoinClassRoleAssistant: "assistant"}[r.Body.Role]
	return api.JoinClass204Response{}, s.rooms.Join(ctx, desk.Account(ctx), r.ClassId, role)
}

// mostClassesAtOnce are chosen from with one request.
const mostClassesAtOnce = 50

// Choose implements the route of that name.
func (s *roomRoutes) Choose(ctx context.Context, r api.ChooseRequestObject) (api.ChooseResponseObject, error) {
	if len(r.Body.Classes) > mostClassesAtOnce {
		return nil, change.TooMany("classes", "too-many-classes", mostClassesAtOnce)
	}
	var sitsOut []string
	if r.Body.SitsOut != nil {
		sitsOut = *r.Body.SitsOut
	}
	chosen, err := s.rooms.Choose(ctx, desk.Whose(ctx), r.Body.Classes, sitsOut, choiceOf(r.Body.Choice))
	if err != nil {
		return nil, err
	}
	out := api.Choose200JSONResponse{}
	for _, c := range chosen {
		out = append(out, api.Chosen{ClassId: c.Class.ID, Code: c.Class.Code, Row: c.Row, Name: c.Student.CallName(),
			SortName: c.Student.SortName(), Given: c.Student.Given, Family: c.Student.Family, Preferred: c.Student.Preferred,
			Number: c.Student.Number, Address: c.Student.Address, In: c.In, Reason: string(c.Reason), Failed: c.Failed})
	}
	return out, nil
}

func choiceOf(c api.Choice) choosing.Choice {
	out := choosing.Choice{Any: c.Any, Picked: c.Picked != nil && *c.Picked, Ticked: c.Ticked, Conditions: []choosing.Condition{}}
	for _, x := range c.Conditions {
		out.Conditions = append(out.Conditions, choosing.Condition{Column: record.Field(x.Column), Test: choosing.Test(x.Test), Values: x.Values})
	}
	return out
}

func choiceView(c choosing.Choice) api.Choice {
	out := api.Choice{Any: c.Any, Picked: &c.Picked, Ticked: c.Ticked, Conditions: []api.Condition{}}
	if out.Ticked == nil {
		out.Ticked = map[string]bool{}
	}
	for _, x := range c.Conditions {
		v := api.Condition{Column: string(x.Column), Test: api.ConditionTest(x.Test), Values: x.Values}
		if v.Values == nil {
			v.Values = []string{}
		}
		out.Conditions = append(out.Conditions, v)
	}
	return out
}
