// Package web serves the API and the built interface: routes, who may do
// what, events. What is done is in classroom; what is right is in the core.
package web

import (
	"context"
	"io"
	"log/slog"
	"mime/multipart"
	"net/http"
	"net/url"
	"time"

	"github.com/alexedwards/scs/v2"
	"github.com/gin-gonic/gin"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/clock"
	"jollysatchel/internal/web/api"
)

// MaxUpload is the largest file, in bytes, that can be added.
const MaxUpload = 256 << 20

// Listen tells of each class that changes until ctx ends, or fails.
type Listen func(ctx context.Context, tell func(class string)) error

// Options of a Server.
type Options struct {
	Rooms    *classroom.Classroom
	School   classroom.School
	Now      clock.Clock
	Sessions scs.Store
	Listen   Listen
	Demo     []DemoPerson // people the sign-in page lets you be; nil outside of the demo
	Contract []byte       // api/openapi.yaml, as served
	Ready    func(context.Context) error
	Log      *slog.Logger
}

// A Server answers every request.
type Server struct {
	Options
	sessions  *scs.SessionManager
	tries     *limiter
	pace      *limiter
	hub       *hub
	registers *written
	engine    *gin.Engine
	handler   http.Handler
}

var _ api.StrictServerInterface = (*Server)(nil)

// New builds the server. Run must be called for events to flow.
func New(o Options) *Server {
	s := &Server{Options: o, tries: newLimiter(1.0/6, 10), pace: newLimiter(60, 240), hub: newHub(), registers: newWritten()}
	s.sessions = scs.New()
	s.sessions.Store = o.Sessions
	s.sessions.Lifetime = 30 * 24 * time.Hour
	s.sessions.Cookie.Name = "satchel"
	s.sessions.Cookie.HttpOnly = true
	s.sessions.Cookie.SameSite = http.SameSiteLaxMode

	gin.SetMode(gin.ReleaseMode)
	r := gin.New()
	r.ContextWithFallback = true
	r.HandleMethodNotAllowed = true
	r.Use(s.recover, headers)
	r.GET("/healthz", s.health)
	r.GET("/api/openapi.yaml", func(c *gin.Context) { c.Data(http.StatusOK, "application/yaml", o.Contract) })
	strict := api.NewStrictHandlerWithOptions(s, []api.StrictMiddlewareFunc{s.guard}, api.StrictGinServerOptions{
		RequestErrorHandlerFunc:  func(c *gin.Context, err error) { s.refuse(c, badRequest(err)) },
		HandlerErrorFunc:         s.refuse,
		ResponseErrorHandlerFunc: s.refuse,
	})
	api.RegisterHandlersWithOptions(r, strict, api.GinServerOptions{
		BaseURL:      "/api",
		Middlewares:  []api.MiddlewareFunc{s.session},
		ErrorHandler: func(c *gin.Context, err error, _ int) { s.refuse(c, badRequest(err)) },
	})
	r.NoRoute(s.frontend())
	r.NoMethod(func(c *gin.Context) { s.refuse(c, classroom.ErrNotFound) })
	s.engine = r
	s.handler = http.NewCrossOriginProtection().Handler(r)
	return s
}

// ServeHTTP implements http.Handler.
func (s *Server) ServeHTTP(w http.ResponseWriter, r *http.Request) { s.handler.ServeHTTP(w, r) }

// Run passes news from the database on to those who watch, until ctx ends.
func (s *Server) Run(ctx context.Context) { s.hub.run(ctx, s.Listen, s.Log) }

func (s *Server) health(c *gin.Context) {
	if err := s.Ready(c); err != nil {
		c.String(http.StatusServiceUnavailable, "not ready")
		return
	}
	c.String(http.StatusOK, "ready")
}

// headers are set on every answer. Ant Design Vue writes its styles inline;
// scripts come from files of ours alone.
func headers(c *gin.Context) {
	h := c.Writer.Header()
	h.Set("Content-Security-Policy", "default-src 'self'; script-src 'self'; style-src 'self' 'unsafe-inline'; img-src 'self' data: blob:; font-src 'self' data:; object-src 'none'; base-uri 'none'; form-action 'self'; frame-ancestors 'none'")
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

// formFile returns the part named file of a form, and the value of key where
// it stands before it.
func formFile(r *multipart.Reader) (f *multipart.Part, key string, err error) {
	for {
		p, err := r.NextPart()
		if err != nil {
			return nil, "", &classroom.Invalid{Field: "file", Code: "missing"}
		}
		switch p.FormName() {
		case "file":
			return p, key, nil
		case "key":
			b, err := io.ReadAll(io.LimitReader(p, 100))
			if err != nil {
				return nil, "", err
			}
			key = string(b)
		}
	}
}

func queryVersion(v *int) int {
	if v == nil || *v < 0 {
		return 0
	}
	return *v
}

func disposition(name string) string {
	return "attachment; filename*=UTF-8''" + url.PathEscape(name)
}

// Routes lists every route as "METHOD path", for those who check them.
func (s *Server) Routes() []string {
	var out []string
	for _, r := range s.engine.Routes() {
		out = append(out, r.Method+" "+r.Path)
	}
	return out
}
