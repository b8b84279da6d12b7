// Package web serves the API and the built interface: routes, who may do
// what, events. What is done is in usecase; what is right is in the core.
package web

import (
	"context"
	"log/slog"
	"net/http"
	"net/netip"
	"regexp"
	"strings"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"

	served "jollysatchel/api"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/usecase"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// Listen tells of each class that changes until ctx ends, or fails; of no class, that any may have.
type Listen func(ctx context.Context, tell func(class string)) error

// Options of a Server.
type Options struct {
	Cases *usecase.Cases
	// Standins is the stand-in cupboard where the office may see it, else nil.
	Standins Standins
	// Postroom is the stand-in for mail while it runs, else nil; PostReady says that the
	// password of the school's mail server is known, TryPost sends one mail now.
	Postroom  Postroom
	PostReady bool
	// ServiceSecret opens the school's own service to sign in with.
	ServiceSecret string
	TryPost       func(ctx context.Context, to accounts.Account) error
	School        func() seam.School // as it is now
	Now           clock.Clock
	Sessions      scs.Store
	Listen        Listen
	Demo          []DemoPerson // people the sign-in page lets you be; nil outside of the demo
	Ready         func(context.Context) error
	Log           *slog.Logger
	// Hosts are the names this server is called by, beside those of this machine.
	Hosts []string
	// Proxies are the addresses and networks of those whose word on where a
	// request comes from is taken.
	Proxies []netip.Prefix
	// Pace is how many requests a second an account may make for long; 0 is 60.
	Pace float64
}

// A Server answers every request.
type Server struct {
	options Options
	*desk.Desk
	routes
	pace     *limiter      // requests of an account
	origins  *limiter      // requests of an origin, of nobody
	uploads  *desk.Counter // of an account, at once
	watching *desk.Counter // of an account, at once
	bodies   *gate.Gate
	hub      *hub
	contract map[string]operation
	foreign  *http.CrossOriginProtection
	engine   *gin.Engine
}

var _ api.StrictServerInterface = (*Server)(nil)

// asTheyAre are answers that aren't compressed: news, which come one by one, and files.
var asTheyAre = regexp.MustCompile(`^/api/(events$|.*/(content|archive|export/.*|copy|eml)$)`)

// compressed reports whether an answer is.
func compressed(c *gin.Context) bool {
	return c.Request.Method == http.MethodGet && strings.Contains(c.GetHeader("Accept-Encoding"), "gzip") &&
		c.GetHeader("Range") == "" && !asTheyAre.MatchString(c.Request.URL.Path)
}

// How long a session lasts that isn't told to stay, and one that is.
const sessionFor = 12 * time.Hour

const stayFor = 30 * 24 * time.Hour

// New builds the server. Run must be called for events to flow.
func New(o Options) *Server {
	if o.Pace == 0 {
		o.Pace = 60
	}
	sessions := scs.New()
	sessions.Store = o.Sessions
	sessions.Lifetime = stayFor
	sessions.Cookie.Name = "satchel"
	sessions.Cookie.HttpOnly = true
	sessions.Cookie.SameSite = http.SameSiteLaxMode
	d := desk.New(o.School, o.Now, o.Log, o.Proxies, o.Cases.Classes, sessions)
	s := &Server{
		options: o, Desk: d, routes: newRoutes(o, d), hub: newHub(), contract: contract(), foreign: http.NewCrossOriginProtection(),
		pace: newLimiter(o.Pace, int(4*o.Pace)), origins: newLimiter(o.Pace, int(10*o.Pace)), uploads: desk.NewCounter(4),
		watching: desk.NewCounter(12), bodies: gate.New(3, 30, 30*time.Second),
	}

	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true
	r.HandleMethodNotAllowed = true
	var trusted []string
	for _, p := range o.Proxies {
		trusted = append(trusted, p.String())
	}
	r.ForwardedByClientIP = len(trusted) > 0
	if err := r.SetTrustedProxies(trusted); err != nil {
		panic(err) // they are prefixes
	}
	r.Use(s.recover, keepUp, s.headers, s.ours, gzip.Gzip(4, gzip.WithCustomShouldCompressFn(compressed)), s.route)
	r.GET("/healthz", s.health)
	r.GET("/api/openapi.yaml", func(c *gin.Context) { c.Data(http.StatusOK, "application/yaml", served.Contract) })
	strict := api.NewStrictHandlerWithOptions(s, nil, api.StrictGinServerOptions{
		RequestErrorHandlerFunc:  func(c *gin.Context, err error) { s.refuse(c, desk.BadRequest(err)) },
		HandlerErrorFunc:         s.refuse,
		ResponseErrorHandlerFunc: s.refuse,
	})
	api.RegisterHandlersWithOptions(r, strict, api.GinServerOptions{
		BaseURL:      "/api",
		ErrorHandler: func(c *gin.Context, err error, _ int) { s.refuse(c, desk.BadRequest(err)) },
	})
	r.NoRoute(s.frontend())
	r.NoMethod(func(c *gin.Context) { s.refuse(c, seam.ErrNotFound) })
	s.engine = r
	return s
}

// ServeHTTP implements http.Handler.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.engine.ServeHTTP(w, r) }

// Run passes news from the database on to those who watch, until ctx ends.
// Event streams end with it.
func (s *Server) Run(ctx context.Context) {
	defer close(s.hub.over)
	s.hub.run(ctx, s.options.Listen, s.Log)
}

func (s *Server) health(c *gin.Context) {
	if err := s.options.Ready(c); err != nil {
		c.String(http.StatusServiceUnavailable, "not ready")
		return
	}
	c.String(http.StatusOK, "ready")
}

// headers are set on every answer. Ant Design Vue writes its styles inline;
// scripts come from files of ours alone.
func (s *Server) headers(c *gin.Context) {
	h := c.Writer.Header()
	if s.Secure(c) {
		h.Set("Strict-Transport-Security", "max-age=31536000")
	}
	h.Set("Content-Security-Policy",
		"default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; "+
			"font-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
	h.Set("X-Content-Type-Options", "nosniff")
	h.Set("Referrer-Policy", "same-origin")
	h.Set("Cross-Origin-Opener-Policy", "same-origin")
	c.Next()
}

// recover turns a panic into a plain refusal; the cause goes to the log alone.
func (s *Server) recover(c *gin.Context) {
	defer func() {
		if p := recover(); p != nil {
			s.Log.Error("panic", "route", c.FullPath(), "panic", p)
			s.refuse(c, errInternal)
		}
	}()
	c.Next()
}

// Routes lists every route as "METHOD path", for those who check them.
func (s *Server) Routes() []string {
	var out []string
	for _, r := range s.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}
