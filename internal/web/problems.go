package web

import (
	"errors"
	"net/http"
	"os"

	"github.com/gin-gonic/gin"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
	"jollysatchel/internal/web/api"
	"jollysatchel/internal/web/desk"
)

// Errors of the web itself.
var errSignIn = errors.New("web: sign in first")

var errTries = errors.New("web: too many tries")

var errInternal = errors.New("web: internal")

var errForeign = errors.New("web: from another site")

var errHost = errors.New("web: not a name of this server")

var errUploads = errors.New("web: too many uploads at once")

var errStreams = errors.New("web: too many pages open")

// refuse answers with the Problem that err is. What it hides it doesn't name.
func (s *Server) refuse(c *gin.Context, err error) {
	if c.Writer.Written() {
		c.Abort()
		return
	}
	status, p := problem(err)
	if status == http.StatusInternalServerError && c.Request.Context().Err() == nil {
		s.Log.Error("request failed", "route", c.FullPath(), "error", err)
	}
	if p.Message == "" {
		var args map[string]string
		if p.Args != nil {
			args = *p.Args
		}
		p.Message = words.Problem(p.Code, args)
	}
	if status == http.StatusTooManyRequests || status == http.StatusServiceUnavailable {
		c.Header("Retry-After", "5")
	}
	c.AbortWithStatusJSON(status, p)
}

func problem(err error) (int, api.Problem) {
	var invalid *change.Invalid
	var changed *change.Changed
	var table *tables.Error
	var large *http.MaxBytesError
	var bad desk.RequestError
	var w *desk.Wrong
	switch {
	case errors.As(err, &w):
		return w.Status, api.Problem{Code: w.Code, Field: &w.Field, Args: argsOf(w.Args)}
	case errors.Is(err, errForeign):
		return http.StatusForbidden, api.Problem{Code: "foreign-site"}
	case errors.Is(err, errHost):
		return http.StatusMisdirectedRequest, api.Problem{Code: "foreign-host"}
	case errors.Is(err, gate.ErrBusy):
		return http.StatusServiceUnavailable, api.Problem{Code: "busy"}
	case errors.Is(err, errUploads):
		return http.StatusTooManyRequests, api.Problem{Code: "uploads-at-once"}
	case errors.Is(err, errStreams):
		return http.StatusTooManyRequests, api.Problem{Code: "pages-at-once"}
	case errors.As(err, &invalid):
		return http.StatusUnprocessableEntity, api.Problem{Code: invalid.Code, Field: &invalid.Field, Args: argsOf(invalid.Args)}
	case errors.As(err, &changed):
		return http.StatusConflict, api.Problem{Code: "changed", Field: &changed.Field,
			Args: &map[string]string{"yours": changed.Yours, "theirs": changed.Theirs, "row": changed.Row}}
	case errors.Is(err, seam.ErrKey):
		return http.StatusConflict, api.Problem{Code: "key-used"}
	case errors.As(err, &table):
		field := "list"
		return http.StatusUnprocessableEntity, api.Problem{Code: table.Code, Field: &field, Args: argsOf(table.Args), Message: table.Error()}
	case errors.As(err, &large), errors.Is(err, desk.ErrTooLarge):
		return http.StatusRequestEntityTooLarge, api.Problem{Code: "too-large"}
	case errors.As(err, &bad), errors.Is(err, desk.ErrCut), errors.Is(err, os.ErrDeadlineExceeded):
		return http.StatusBadRequest, api.Problem{Code: "bad-request"}
	case seam.BadText(err):
		return http.StatusBadRequest, api.Problem{Code: "no-such-letter"}
	case errors.Is(err, seam.ErrNotFound):
		return http.StatusNotFound, api.Problem{Code: "not-there"}
	case errors.Is(err, seam.ErrNoRight):
		return http.StatusForbidden, api.Problem{Code: "no-right"}
	case errors.Is(err, errSignIn):
		return http.StatusUnauthorized, api.Problem{Code: "sign-in"}
	case errors.Is(err, seam.ErrRefused):
		return http.StatusUnauthorized, api.Problem{Code: "refused"}
	case errors.Is(err, errTries), errors.Is(err, desk.ErrPace):
		return http.StatusTooManyRequests, api.Problem{Code: "too-often"}
	case errors.Is(err, desk.ErrNotText):
		return http.StatusUnprocessableEntity, api.Problem{Code: "not-text"}
	case seam.Unavailable(err):
		return http.StatusServiceUnavailable, api.Problem{Code: "unavailable"}
	case seam.DiskFull(err):
		return http.StatusServiceUnavailable, api.Problem{Code: "disk-full"}
	case seam.NoDatabase(err):
		return http.StatusServiceUnavailable, api.Problem{Code: "no-database"}
	}
	return http.StatusInternalServerError, api.Problem{Code: "internal"}
}

func argsOf(args map[string]string) *map[string]string {
	if args == nil {
		return nil
	}
	return &args
}
