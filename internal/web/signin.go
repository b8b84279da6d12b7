package web

import (
	"context"
	"crypto/rand"
	"errors"
	"net/http"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/mileusna/useragent"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/usecase/people"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// A DemoPerson is somebody the demo's sign-in page lets you be.
type DemoPerson struct {
	Account accounts.Account
	About   string
}

// SignIn implements the route of that name.
func (s *peopleRoutes) SignIn(ctx context.Context, r api.SignInRequestObject) (api.SignInResponseObject, error) {
	if r.Body.Password == "" {
		return nil, seam.ErrRefused
	}
	me, err := s.admit(desk.Gin(ctx), r.Body.Address, r.Body.Stay, func(address string) (accounts.Account, error) {
		return s.people.SignIn(ctx, address, r.Body.Password)
	})
	return api.SignIn200JSONResponse(me), err
}

// admit signs in whom ask knows of an address. Wrong tries are limited by origin
// and account together, and fewer by origin alone; a device from which somebody
// signed in before counts by itself, so that nobody keeps them out.
func (s *peopleRoutes) admit(c *gin.Context, address string, stay *bool,
	ask func(address string) (accounts.Account, error)) (api.Me, error) {
	if address = strings.ToLower(strings.TrimSpace(address)); address == "" {
		return api.Me{}, seam.ErrRefused
	}
	device, from := deviceOf(c), origin(c)
	known := false
	if device != "" {
		var err error
		if known, err = s.people.KnowsDevice(c, device, address); err != nil {
			return api.Me{}, err
		}
	}
	tries := "from " + from + " " + address
	if known {
		tries = "device " + device + " " + address
	}
	if !known && !s.strangers.allow(from) || !s.tries.allow(tries) { // in this order: an origin makes up only so many names
		return api.Me{}, errTries
	}
	a, err := ask(address)
	if !known && !errors.Is(err, seam.ErrRefused) {
		s.strangers.giveBack(from) // a whole school comes from one address in the morning
	}
	if err != nil {
		return api.Me{}, err
	}
	if device == "" {
		device = rand.Text()
	}
	if err := s.people.KeepDevice(c, device, a.ID); err != nil {
		return api.Me{}, err
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: deviceCookie, Value: device, Path: "/api/session",
		MaxAge: int(people.DeviceFor.Seconds()), HttpOnly: true, SameSite: http.SameSiteStrictMode, Secure: s.Secure(c)})
	return s.enter(c, a, stay != nil && *stay)
}

// deviceCookie names a browser, for nothing but signing in.
const deviceCookie = "satchel-device"

func deviceOf(c *gin.Context) string {
	k, err := c.Request.Cookie(deviceCookie)
	if err != nil || len(k.Value) != len(rand.Text()) {
		return ""
	}
	return k.Value
}

// enter begins a session under a new token.
func (s *peopleRoutes) enter(c *gin.Context, a accounts.Account, stay bool) (api.Me, error) {
	ctx := c.Request.Context()
	if err := s.Sessions.RenewToken(ctx); err != nil {
		return api.Me{}, err
	}
	s.Sessions.Put(ctx, desk.AccountKey, a.ID)
	if !stay {
		s.Sessions.SetDeadline(ctx, time.Now().Add(sessionFor))
	}
	token, expiry, err := s.Sessions.Commit(ctx)
	if err != nil {
		return api.Me{}, err
	}
	agent := c.Request.UserAgent()
	if err := s.people.MarkSession(ctx, token, a.ID, strings.ToValidUTF8(agent[:min(len(agent), mostAgent)], "")); err != nil {
		return api.Me{}, err
	}
	cookie := s.cookie(c, token)
	if stay {
		cookie.Expires = expiry
	}
	http.SetCookie(c.Writer, cookie)
	return s.me(c, a), nil
}

func (s *peopleRoutes) cookie(c *gin.Context, token string) *http.Cookie {
	k := s.Sessions.Cookie
	return &http.Cookie{Name: k.Name, Value: token, Path: "/", HttpOnly: k.HttpOnly, SameSite: k.SameSite, Secure: s.Secure(c)}
}

// SignOut implements the route of that name. The session ends on the server;
// everywhere ends every other of the account as well.
func (s *peopleRoutes) SignOut(ctx context.Context, r api.SignOutRequestObject) (api.SignOutResponseObject, error) {
	c := desk.Gin(ctx)
	if who := s.Sessions.GetString(c.Request.Context(), desk.AccountKey); who != "" && r.Params.Everywhere != nil && *r.Params.Everywhere {
		if err := s.endSessions(c.Request.Context(), who); err != nil {
			return nil, err
		}
	}
	if err := s.Sessions.Destroy(c.Request.Context()); err != nil {
		return nil, err
	}
	gone := s.cookie(c, "")
	gone.MaxAge = -1
	http.SetCookie(c.Writer, gone)
	return api.SignOut204Response{}, nil
}

// endSessions ends every session of some accounts.
func (s *peopleRoutes) endSessions(ctx context.Context, of ...string) error {
	s.lately.forget()
	return s.people.EndSessions(ctx, of, "")
}

func (s *peopleRoutes) me(ctx context.Context, a accounts.Account) api.Me {
	return api.Me{Account: a.ID, Name: a.Name(), Address: a.Address, Role: api.MeRole(a.Role), School: s.School().Name,
		Zone: s.School().Zone.String(), Language: s.School().Language, Demo: s.Demo != nil, Standins: s.Standins != nil,
		Postroom: s.Postroomed(), Site: s.Site(ctx), Now: s.Now(), Words: s.Words()}
}

// GetMe implements the route of that name.
func (s *peopleRoutes) GetMe(ctx context.Context, _ api.GetMeRequestObject) (api.GetMeResponseObject, error) {
	found, err := s.people.Accounts(ctx, desk.Account(ctx))
	if err != nil {
		return nil, err
	}
	a, ok := found[desk.Account(ctx)]
	if !ok {
		return nil, errSignIn // the account is gone from the school book
	}
	return api.GetMe200JSONResponse(s.me(ctx, a)), s.people.SeeSession(ctx, s.Sessions.Token(desk.Gin(ctx).Request.Context()))
}

// DemoPeople implements the route of that name; outside of the demo it isn't there.
func (s *peopleRoutes) DemoPeople(ctx context.Context, _ api.DemoPeopleRequestObject) (api.DemoPeopleResponseObject, error) {
	if s.Demo == nil || !s.AtThisMachine(desk.Gin(ctx)) {
		return nil, seam.ErrNotFound
	}
	out := api.DemoPeople200JSONResponse{}
	for _, p := range s.Demo {
		out = append(out, api.DemoPerson{Account: p.Account.ID, Name: p.Account.Name(), Role: api.DemoPersonRole(p.Account.Role), About: p.About})
	}
	return out, nil
}

// DemoSignIn implements the route of that name; outside of the demo it isn't there.
func (s *peopleRoutes) DemoSignIn(ctx context.Context, r api.DemoSignInRequestObject) (api.DemoSignInResponseObject, error) {
	if s.Demo == nil || !s.AtThisMachine(desk.Gin(ctx)) {
		return nil, seam.ErrNotFound
	}
	found, err := s.people.Accounts(ctx, r.Body.Account)
	if err != nil {
		return nil, err
	}
	a, ok := found[r.Body.Account]
	if !ok {
		return nil, seam.ErrNotFound
	}
	me, err := s.enter(desk.Gin(ctx), a, false)
	return api.DemoSignIn200JSONResponse(me), err
}

// ListSessions implements the route of that name.
func (s *peopleRoutes) ListSessions(ctx context.Context, _ api.ListSessionsRequestObject) (api.ListSessionsResponseObject, error) {
	found, err := s.people.Sessions(ctx, desk.Account(ctx))
	out := api.ListSessions200JSONResponse{}
	here := s.Sessions.Token(desk.Gin(ctx).Request.Context())
	for _, x := range found {
		out = append(out, api.Session{Id: x.ID, Agent: agentOf(x.Agent), BeganAt: x.BeganAt.UTC(), SeenAt: x.SeenAt.UTC(), Here: x.Token == here})
	}
	return out, err
}

// mostAgent bytes are kept of what a browser says it is.
const mostAgent = 300

// agentOf is what a browser says it is, as people name it.
func agentOf(header string) string {
	a := useragent.Parse(header)
	switch {
	case a.Name == "":
		return ""
	case a.OS == "":
		return a.Name
	}
	return a.Name + ", " + a.OS
}

// EndSession implements the route of that name.
func (s *peopleRoutes) EndSession(ctx context.Context, r api.EndSessionRequestObject) (api.EndSessionResponseObject, error) {
	return api.EndSession204Response{}, s.people.EndSession(ctx, desk.Account(ctx), r.SessionId)
}
