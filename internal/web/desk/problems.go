package desk

import (
	"errors"
)

// What a request is refused with wherever it comes to.
var (
	ErrPace     = errors.New("web: too many requests")
	ErrTooLarge = errors.New("web: too large")
	ErrNotText  = errors.New("web: not a text document")
	ErrCut      = errors.New("web: cut off on the way")
)

// A RequestError is a request that can't be read as what it should be.
type RequestError struct{ error }

// BadRequest says that a request can't be read, and why.
func BadRequest(err error) error { return RequestError{err} }

// Unwrap lets what is wrong with a request be found.
func (e RequestError) Unwrap() error { return e.error }

// A Wrong says which value of a request isn't what the contract asks for, and
// why: a problem of the catalogue.
type Wrong struct {
	Status int
	Field  string
	Code   string
	Args   map[string]string
}

// Error implements error.
func (w *Wrong) Error() string { return w.Field + ": " + w.Code }
