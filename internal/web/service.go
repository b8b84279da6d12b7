package web

import (
	"context"
	"errors"
	"net/http"
	"net/url"
	"strings"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/service"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// What is kept in a browser's session while somebody signs in elsewhere, and for how long.
const stateKey = "service-state"

const nonceKey = "service-nonce"

const verifierKey = "service-verifier"

const toKey = "service-to"

const stayKey = "service-stay"

const awayFor = 10 * time.Minute

// serviceBack is where people come back to from the school's own service.
func (s *peopleRoutes) serviceBack() string { return s.School().Site + "/api/session/service/back" }

// serviceSettings are those of the school's own service; ok is false where it has none.
func (s *peopleRoutes) serviceSettings() (service.Settings, bool) {
	is := s.School().Service
	return service.Settings{Issuer: is.Issuer, Client: is.Client, Secret: s.ServiceSecret, Redirect: s.serviceBack()}, is.Issuer != ""
}

// GetSignIn implements the route of that name.
func (s *peopleRoutes) GetSignIn(context.Context, api.GetSignInRequestObject) (api.GetSignInResponseObject, error) {
	is := s.School()
	out := api.GetSignIn200JSONResponse{School: is.Name}
	if is.Service.Issuer != "" {
		if out.Service = is.Service.Name; out.Service == "" {
			out.Service = is.Name
		}
	}
	return out, nil
}

// ourPath is a path of ours; of anything else it is where everybody begins.
func ourPath(to string) string {
	u, err := url.Parse(to)
	if err != nil || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.Contains(to, "\\") ||
		u.Host != "" || u.Scheme != "" {
		return "/"
	}
	return to
}

// refusedAt is the sign-in page with why it was refused.
func refusedAt(code string) string { return "/sign-in?refused=" + url.QueryEscape(code) }

// GoToService implements the route of that name.
func (s *peopleRoutes) GoToService(ctx context.Context, r api.GoToServiceRequestObject) (api.GoToServiceResponseObject, error) {
	c := desk.Gin(ctx)
	set, ok := s.serviceSettings()
	if !ok {
		return nil, seam.ErrNotFound
	}
	if _, err := s.signedIn(c.Request.Context()); err == nil { // whatever page sent them here, their session stays
		return api.GoToService303Response{Headers: api.GoToService303ResponseHeaders{Location: ourPath(desk.Deref(r.Params.To))}}, nil
	}
	if c.GetHeader("Sec-Fetch-Site") == "cross-site" && c.GetHeader("Sec-Fetch-Mode") != "navigate" { // a picture on another site's page
		return nil, errForeign
	}
	if !s.starts.allow(origin(c)) { // they count apart: a whole school begins in the same minute
		return api.GoToService303Response{Headers: api.GoToService303ResponseHeaders{Location: refusedAt("too-often")}}, nil
	}
	at, kept, err := s.service.Begin(set)
	if err != nil {
		return api.GoToService303Response{Headers: api.GoToService303ResponseHeaders{Location: refusedAt(s.refusedBy(err))}}, nil
	}
	session := c.Request.Context()
	if err := s.Sessions.RenewToken(session); err != nil {
		return nil, err
	}
	s.Sessions.Put(session, stateKey, kept.State)
	s.Sessions.Put(session, nonceKey, kept.Nonce)
	s.Sessions.Put(session, verifierKey, kept.Verifier)
	s.Sessions.Put(session, toKey, ourPath(desk.Deref(r.Params.To)))
	s.Sessions.Put(session, stayKey, r.Params.Stay != nil && *r.Params.Stay)
	s.Sessions.SetDeadline(session, time.Now().Add(awayFor))
	token, _, err := s.Sessions.Commit(session)
	if err != nil {
		return nil, err
	}
	http.SetCookie(c.Writer, s.cookie(c, token))
	return api.GoToService303Response{Headers: api.GoToService303ResponseHeaders{Location: at}}, nil
}

// refusedBy is the code for why somebody isn't signed in; what a service said is for the log.
func (s *peopleRoutes) refusedBy(err error) string {
	var r *service.Refused
	var invalid *change.Invalid
	switch {
	case errors.As(err, &r):
		s.Log.Warn("the school's own service", "code", r.Code, "error", r.Err)
		return r.Code
	case errors.As(err, &invalid):
		return invalid.Code
	}
	return ""
}

// ComeFromService implements the route of that name.
func (s *peopleRoutes) ComeFromService(ctx context.Context, _ api.ComeFromServiceRequestObject) (api.ComeFromServiceResponseObject, error) {
	c := desk.Gin(ctx)
	set, ok := s.serviceSettings()
	if !ok {
		return nil, seam.ErrNotFound
	}
	if !s.strangers.allow(origin(c)) {
		return api.ComeFromService303Response{Headers: api.ComeFromService303ResponseHeaders{Location: refusedAt("too-often")}}, nil
	}
	session := c.Request.Context()
	kept := service.Started{State: s.Sessions.PopString(session, stateKey),
		Nonce: s.Sessions.PopString(session, nonceKey), Verifier: s.Sessions.PopString(session, verifierKey)}
	to, stay := ourPath(s.Sessions.GetString(session, toKey)), s.Sessions.GetBool(session, stayKey)
	if kept.State != "" { // good once
		if err := s.Sessions.Destroy(session); err != nil {
			return nil, err
		}
	}
	who, err := s.service.Finish(session, set, kept, c.Request.URL.Query())
	var a accounts.Account
	if err == nil {
		a, err = s.people.SignInAs(session, who.Address, who.Given, who.Family)
	}
	if err != nil {
		code := s.refusedBy(err)
		if code == "" {
			return nil, err
		}
		return api.ComeFromService303Response{Headers: api.ComeFromService303ResponseHeaders{Location: refusedAt(code)}}, nil
	}
	s.strangers.giveBack(origin(c))
	_, err = s.enter(c, a, stay)
	return api.ComeFromService303Response{Headers: api.ComeFromService303ResponseHeaders{Location: to}}, err
}
