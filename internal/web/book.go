package web

import (
	"context"
	"errors"
	"slices"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

func (s *peopleRoutes) schoolView() api.School {
	is := s.School()
	out := api.School{Name: is.Name, Domain: is.Domain, Zone: is.Zone.String(), Language: is.Language,
		SatchelMB: is.Quota / 1_000_000, Words: s.Words(), Fixed: s.people.FixedSchool(), OfficeCodes: is.OfficeCodes,
		StaffReset: is.StaffReset, OutsideMail: is.OutsideMail, ListAccounts: is.ListAccounts,
		Site: is.Site, Post: api.PostSettings(is.Post), PostFrom: is.PostAddress(), PostReady: s.PostReady,
		Service: api.ServiceSettings(is.Service), ServiceReady: s.ServiceSecret != "", ServiceBack: s.serviceBack()}
	if out.Fixed == nil {
		out.Fixed = []string{}
	}
	return out
}

func schoolParts(p api.SchoolParts) school.Change {
	return school.Change{Name: p.Name, Domain: p.Domain, Zone: p.Zone, Language: p.Language, SatchelMB: p.SatchelMB,
		Words: p.Words, OfficeCodes: p.OfficeCodes, StaffReset: p.StaffReset, OutsideMail: p.OutsideMail,
		ListAccounts: p.ListAccounts, Site: p.Site, Post: (*school.Post)(p.Post), Service: (*school.Service)(p.Service)}
}

// GetFirst implements the route of that name.
func (s *peopleRoutes) GetFirst(ctx context.Context, r api.GetFirstRequestObject) (api.GetFirstResponseObject, error) {
	if !s.strangers.allow(origin(desk.Gin(ctx))) {
		return nil, errTries
	}
	address, err := s.people.GetFirst(ctx, r.Body.Secret)
	if err != nil {
		return nil, err
	}
	s.strangers.giveBack(origin(desk.Gin(ctx)))
	return api.GetFirst200JSONResponse{Address: address, School: s.schoolView()}, nil
}

// Begin implements the route of that name.
func (s *peopleRoutes) Begin(ctx context.Context, r api.BeginRequestObject) (api.BeginResponseObject, error) {
	from := origin(desk.Gin(ctx))
	if !s.strangers.allow(from) {
		return nil, errTries
	}
	b := r.Body
	// where it was begun from is where it is
	if b.School.Site == nil && !slices.Contains(s.people.FixedSchool(), "site") && !s.AtThisMachine(desk.Gin(ctx)) {
		site := s.Base(ctx)
		b.School.Site = &site
	}
	a, err := s.people.Begin(ctx, b.Secret,
		people.First{School: schoolParts(b.School), Given: b.Given, Family: b.Family, Address: b.Address, Password: b.Password})
	if !errors.Is(err, seam.ErrNotFound) {
		s.strangers.giveBack(from)
	}
	if err != nil {
		return nil, err
	}
	if err := s.endSessions(desk.Gin(ctx).Request.Context(), a.ID); err != nil { // anyone who had it before is out
		return nil, err
	}
	me, err := s.enter(desk.Gin(ctx), a, false)
	return api.Begin200JSONResponse(me), err
}

// FirstSignIn implements the route of that name.
func (s *peopleRoutes) FirstSignIn(ctx context.Context, r api.FirstSignInRequestObject) (api.FirstSignInResponseObject, error) {
	me, err := s.admit(desk.Gin(ctx), r.Body.Address, r.Body.Stay, func(address string) (accounts.Account, error) {
		a, err := s.people.FirstSignIn(ctx, address, r.Body.Code, r.Body.Password)
		if err != nil {
			return a, err
		}
		return a, s.endSessions(desk.Gin(ctx).Request.Context(), a.ID) // anyone who had it before is out
	})
	if errors.Is(err, seam.ErrRefused) { // it may be used, too old, or another's
		err = change.Refuse("code", "code-refused")
	}
	return api.FirstSignIn200JSONResponse(me), err
}

// ChangePassword implements the route of that name. Wrong tries are limited.
func (s *peopleRoutes) ChangePassword(ctx context.Context, r api.ChangePasswordRequestObject) (api.ChangePasswordResponseObject, error) {
	tries := "own " + desk.Account(ctx)
	if !s.tries.allow(tries) {
		return nil, errTries
	}
	err := s.people.ChangePassword(ctx, desk.Account(ctx), r.Body.Before, r.Body.Password)
	if err == nil { // anyone who knew the one before is out
		s.tries.giveBack(tries)
		c := desk.Gin(ctx).Request.Context()
		err = s.people.EndSessions(c, []string{desk.Account(ctx)}, s.Sessions.Token(c))
	}
	return api.ChangePassword204Response{}, err
}

// GetSchool implements the route of that name.
func (s *peopleRoutes) GetSchool(context.Context, api.GetSchoolRequestObject) (api.GetSchoolResponseObject, error) {
	return api.GetSchool200JSONResponse(s.schoolView()), nil
}

// ChangeSchool implements the route of that name.
func (s *peopleRoutes) ChangeSchool(ctx context.Context, r api.ChangeSchoolRequestObject) (api.ChangeSchoolResponseObject, error) {
	err := s.people.ChangeSchool(ctx, desk.Account(ctx), schoolParts(r.Body.To), schoolParts(r.Body.Was))
	return api.ChangeSchool200JSONResponse(s.schoolView()), err
}

// ListBook implements the route of that name.
func (s *peopleRoutes) ListBook(ctx context.Context, r api.ListBookRequestObject) (api.ListBookResponseObject, error) {
	p := r.Params
	page, err := s.people.BookPage(ctx, desk.Account(ctx), people.BookFilter{Filter: accounts.Filter{Text: desk.Deref(p.Text),
		Role: accounts.Role(desk.Deref(p.Role)), Standing: accounts.Standing(desk.Deref(p.Standing))},
		By: accounts.Column(desk.Deref(p.By)), Down: desk.Deref(p.Down), From: desk.Deref(p.From)})
	if err != nil {
		return nil, err
	}
	out := api.ListBook200JSONResponse{Accounts: []api.BookAccount{}, All: page.All, More: page.More, New: page.New}
	var by []string
	for _, a := range page.Accounts {
		v := api.BookAccount{Id: a.ID, Given: a.Given, Family: a.Family, Address: a.Address, Number: a.Number,
			Role: api.BookAccountRole(a.Role), Off: a.Off, Ready: a.Ready}
		if in, ok := page.Classes[a.ID]; ok {
			v.Classes = &in
		}
		if a.CodeUntil != nil && a.CodeUntil.After(s.Now()) {
			v.CodeUntil, v.CodeBy = desk.Moment(*a.CodeUntil), &a.CodeBy
			by = append(by, a.CodeBy)
		}
		out.Accounts = append(out.Accounts, v)
	}
	names, err := s.people.Names(ctx, by...)
	for i, a := range out.Accounts {
		if a.CodeBy != nil {
			name := names[*a.CodeBy]
			out.Accounts[i].CodeBy = &name
		}
	}
	return out, err
}

// mostCodes is to how many accounts codes are made at once, as the contract has it.
const mostCodes = 2000

// ListBookIds implements the route of that name.
func (s *peopleRoutes) ListBookIds(ctx context.Context, r api.ListBookIdsRequestObject) (api.ListBookIdsResponseObject, error) {
	p := r.Params
	ids, all, err := s.people.BookIDs(ctx, people.BookFilter{Filter: accounts.Filter{Text: desk.Deref(p.Text),
		Role: accounts.Role(desk.Deref(p.Role)), Standing: accounts.Standing(desk.Deref(p.Standing))}}, mostCodes)
	return api.ListBookIds200JSONResponse{Ids: append([]string{}, ids...), All: all}, err
}

// ListOwnCodes implements the route of that name.
func (s *peopleRoutes) ListOwnCodes(ctx context.Context, _ api.ListOwnCodesRequestObject) (api.ListOwnCodesResponseObject, error) {
	made, err := s.people.CodesMade(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	by := make([]string, len(made))
	for i, m := range made {
		by[i] = m.By
	}
	names, err := s.people.Names(ctx, by...)
	out := api.ListOwnCodes200JSONResponse{}
	for _, m := range made {
		out = append(out, api.CodeMade{By: names[m.By], At: m.At.UTC(), Until: m.Until.UTC(), Mailed: m.Mailed, Away: m.Away})
	}
	return out, err
}

// GetPlacing implements the route of that name.
func (s *peopleRoutes) GetPlacing(ctx context.Context, r api.GetPlacingRequestObject) (api.GetPlacingResponseObject, error) {
	p, err := s.people.Placing(ctx, r.ClassId)
	return api.GetPlacing200JSONResponse{Students: p.Students, Placed: p.Placed, Seen: p.Seen}, err
}

// PlaceClass implements the route of that name: for the office.
func (s *peopleRoutes) PlaceClass(ctx context.Context, r api.PlaceClassRequestObject) (api.PlaceClassResponseObject, error) {
	if role, _ := desk.Gin(ctx).Get(desk.RoleKey); role != accounts.Office {
		return nil, seam.ErrNotFound
	}
	return api.PlaceClass204Response{}, s.people.PlaceClass(ctx, desk.Account(ctx), r.ClassId, r.Body.Seen)
}

func accountParts(p api.AccountParts) accounts.Change {
	return accounts.Change{Given: p.Given, Family: p.Family, Address: p.Address, Number: p.Number, Role: (*accounts.Role)(p.Role), Off: p.Off}
}

// AddAccount implements the route of that name.
func (s *peopleRoutes) AddAccount(ctx context.Context, r api.AddAccountRequestObject) (api.AddAccountResponseObject, error) {
	id, err := s.people.AddAccount(ctx, desk.Account(ctx), accountParts(*r.Body))
	return api.AddAccount201JSONResponse{Id: id}, err
}

// ChangeAccount implements the route of that name.
func (s *peopleRoutes) ChangeAccount(ctx context.Context, r api.ChangeAccountRequestObject) (api.ChangeAccountResponseObject, error) {
	err := s.people.ChangeAccount(ctx, desk.Account(ctx), r.AccountId, accountParts(r.Body.To), accountParts(r.Body.Was))
	if err == nil && r.Body.To.Off != nil && *r.Body.To.Off { // out at once
		err = s.endSessions(desk.Gin(ctx).Request.Context(), r.AccountId)
	}
	return api.ChangeAccount204Response{}, err
}

// codeViews are codes as they are told; those that went out by mail aren't.
func codeViews(codes []people.Code, mailed bool) []api.Code {
	out := []api.Code{}
	for _, c := range codes {
		if mailed {
			c.Code = ""
		}
		out = append(out, api.Code{Account: c.Account.ID, Name: c.Account.Name(), Address: c.Account.Address, Code: c.Code, Until: c.Until.UTC()})
	}
	return out
}

// endOf ends the sessions of those whose password was taken away.
func (s *peopleRoutes) endOf(ctx context.Context, codes []people.Code) error {
	var of []string
	for _, c := range codes {
		of = append(of, c.Account.ID)
	}
	return s.endSessions(desk.Gin(ctx).Request.Context(), of...)
}

// GiveCodes implements the route of that name.
func (s *peopleRoutes) GiveCodes(ctx context.Context, r api.GiveCodesRequestObject) (api.GiveCodesResponseObject, error) {
	codes, err := s.people.GiveCodes(ctx, desk.Account(ctx), r.Body.Accounts,
		people.CodesAsked{Away: r.Body.Away, Mail: desk.Deref(r.Body.Mail), Replace: desk.Deref(r.Body.Replace)})
	if err == nil && r.Body.Away {
		err = s.endOf(ctx, codes)
	}
	return api.GiveCodes200JSONResponse(codeViews(codes, desk.Deref(r.Body.Mail))), err
}

// ClassCodes implements the route of that name.
func (s *peopleRoutes) ClassCodes(ctx context.Context, r api.ClassCodesRequestObject) (api.ClassCodesResponseObject, error) {
	codes, err := s.people.ClassCodes(ctx, desk.Account(ctx), r.ClassId, r.Body.Rows,
		people.CodesAsked{Away: r.Body.Away, Mail: desk.Deref(r.Body.Mail), Replace: desk.Deref(r.Body.Replace)})
	if err == nil && r.Body.Away {
		err = s.endOf(ctx, codes)
	}
	return api.ClassCodes200JSONResponse(codeViews(codes, desk.Deref(r.Body.Mail))), err
}

// mostBookLines of each act are shown of a list.
const mostBookLines = 300

// PreviewBookList implements the route of that name.
func (s *peopleRoutes) PreviewBookList(ctx context.Context, r api.PreviewBookListRequestObject) (api.PreviewBookListResponseObject, error) {
	look, err := s.people.PreviewBookList(ctx, accounts.Role(r.Body.Role), r.Body.List)
	out := api.PreviewBookList200JSONResponse{Seen: look.Seen, Counts: map[string]int{}, Lines: []api.BookListLine{}}
	for _, l := range look.Lines {
		if out.Counts[string(l.Act)]++; out.Counts[string(l.Act)] <= mostBookLines {
			out.Lines = append(out.Lines, bookLine(l))
		}
	}
	return out, err
}

func bookLine(l lists.BookLine) api.BookListLine {
	name := func(e lists.BookEntry) string { return accounts.Account{Given: e.Given, Family: e.Family}.Name() }
	v := api.BookListLine{Act: api.BookListLineAct(l.Act), Row: l.Row, Name: name(l.To), Address: l.To.Address}
	switch l.Act {
	case lists.BookChange:
		was := name(l.Now) + ", " + l.Now.Address
		if l.Now.Number != l.To.Number {
			was += ", " + l.Now.Number
		}
		v.Was = &was
	case lists.BookWrong:
		var pairs []string
		for k, x := range l.Args {
			pairs = append(pairs, k, x)
		}
		why := words.Finding(l.Code, pairs...).Text
		if why == "" {
			why = words.Problem(l.Code, l.Args)
		}
		v.Why = &why
	}
	return v
}

// BringBookList implements the route of that name.
func (s *peopleRoutes) BringBookList(ctx context.Context, r api.BringBookListRequestObject) (api.BringBookListResponseObject, error) {
	n, err := s.people.BringBookList(ctx, desk.Account(ctx), accounts.Role(r.Body.Role), r.Body.List, r.Body.Seen, r.Body.Away)
	s.lately.forget()
	return api.BringBookList200JSONResponse{Accounts: n}, err
}

// FindPeople implements the route of that name.
func (s *peopleRoutes) FindPeople(ctx context.Context, r api.FindPeopleRequestObject) (api.FindPeopleResponseObject, error) {
	found, err := s.people.Find(ctx, r.Params.Q, 8)
	if err != nil {
		return nil, err
	}
	out := api.FindPeople200JSONResponse{}
	for _, a := range found {
		out = append(out, api.BookEntry{Given: a.Given, Family: a.Family, Address: a.Address, Number: a.Number})
	}
	return out, nil
}

// CoverNames implements the route of that name.
func (s *peopleRoutes) CoverNames(ctx context.Context, _ api.CoverNamesRequestObject) (api.CoverNamesResponseObject, error) {
	covers, err := s.people.CoverNames(ctx, desk.Whose(ctx))
	if err != nil {
		return nil, err
	}
	out := api.CoverNames200JSONResponse{}
	for _, c := range covers {
		out = append(out, api.Cover{Find: c.Find, Cover: c.Cover})
	}
	return out, nil
}
