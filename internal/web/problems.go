package web

import (
	"errors"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"jollysatchel/internal/classroom"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/web/api"
)

// Errors of the web itself.
var (
	errSignIn   = errors.New("web: sign in first")
	errTries    = errors.New("web: too many tries")
	errPace     = errors.New("web: too many requests")
	errInternal = errors.New("web: internal")
	errTooLarge = errors.New("web: too large")
	errNotText  = errors.New("web: not a text document")
)

type requestError struct{ error }

func badRequest(err error) error { return requestError{err} }

// sentences are the English renderings of problem codes.
var sentences = map[string]string{
	"not-there":      "There is nothing here for you.",
	"sign-in":        "Sign in first.",
	"refused":        "Address and password don't fit together.",
	"too-many":       "That was too often. Wait a minute and try again.",
	"no-right":       "You may read this, not change it.",
	"bad-request":    "The request can't be read.",
	"too-large":      "That is too large.",
	"not-text":       "This is not a text document.",
	"unavailable":    "The cupboard doesn't answer just now. Nothing was lost; try again in a moment.",
	"internal":       "Something went wrong on our side. Nothing was lost; try again.",
	"missing":        "Something is missing here.",
	"packed-first":   "Pack the room first.",
	"nothing-to-do":  "There is nothing to do.",
	"changed":        "Somebody changed this meanwhile. Nothing of yours was kept here; look at what there is now.",
	"no-such-letter": "There is a character in it that no text holds.",
	"key-used":       "This key was used for something else.",
}

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
		p.Message = sentences[p.Code]
	}
	if p.Message == "" {
		p.Message = "That can't be accepted: " + strings.ReplaceAll(p.Code, "-", " ") + "."
	}
	c.AbortWithStatusJSON(status, p)
}

func problem(err error) (int, api.Problem) {
	var invalid *classroom.Invalid
	var changed *classroom.Changed
	var table *tables.Error
	var fast *cupboard.TooFast
	var large *http.MaxBytesError
	var bad requestError
	switch {
	case errors.As(err, &invalid):
		p := api.Problem{Code: invalid.Code, Field: &invalid.Field}
		if invalid.Args != nil {
			p.Args = &invalid.Args
		}
		return http.StatusUnprocessableEntity, p
	case errors.As(err, &changed):
		return http.StatusConflict, api.Problem{Code: "changed", Field: &changed.Field, Args: &map[string]string{"yours": changed.Yours, "theirs": changed.Theirs, "row": changed.Row}}
	case errors.Is(err, store.ErrKey):
		return http.StatusConflict, api.Problem{Code: "key-used"}
	case errors.As(err, &table):
		field := "list"
		return http.StatusUnprocessableEntity, api.Problem{Code: table.Code, Field: &field, Message: table.Error()}
	case errors.As(err, &large), errors.Is(err, errTooLarge):
		return http.StatusRequestEntityTooLarge, api.Problem{Code: "too-large"}
	case errors.As(err, &bad), errors.Is(err, io.ErrUnexpectedEOF):
		return http.StatusBadRequest, api.Problem{Code: "bad-request"}
	case store.BadText(err):
		return http.StatusUnprocessableEntity, api.Problem{Code: "no-such-letter"}
	case errors.Is(err, classroom.ErrNotFound), errors.Is(err, cupboard.ErrNotFound):
		return http.StatusNotFound, api.Problem{Code: "not-there"}
	case errors.Is(err, cupboard.ErrNoRight):
		return http.StatusForbidden, api.Problem{Code: "no-right"}
	case errors.Is(err, errSignIn):
		return http.StatusUnauthorized, api.Problem{Code: "sign-in"}
	case errors.Is(err, schoolbook.ErrRefused):
		return http.StatusUnauthorized, api.Problem{Code: "refused"}
	case errors.Is(err, errTries), errors.Is(err, errPace):
		return http.StatusTooManyRequests, api.Problem{Code: "too-many"}
	case errors.Is(err, errNotText):
		return http.StatusUnprocessableEntity, api.Problem{Code: "not-text"}
	case errors.Is(err, cupboard.ErrUnavailable), errors.As(err, &fast):
		return http.StatusServiceUnavailable, api.Problem{Code: "unavailable"}
	}
	return http.StatusInternalServerError, api.Problem{Code: "internal"}
}

// Unwrap lets what is wrong with a request be found.
func (e requestError) Unwrap() error { return e.error }
