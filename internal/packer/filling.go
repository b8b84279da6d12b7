package packer

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"errors"
	"io"
	"sync"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/form"
	"jollysatchel/internal/gate"
)

// A filled document is one that asks for columns, as a run read it.
type filled struct {
	form *form.Form
	sha  string // SHA-256 of the document
}

// forms are the documents of a run that could ask for columns, each read once; nil for
// one that asks for none.
type forms struct {
	mu sync.Mutex
	of map[cupboard.Source]*filled
}

// end lets go of the files.
func (f *forms) end() {
	for _, x := range f.of {
		if x != nil {
			x.form.Close()
		}
	}
}

// filled returns the document that a line copies, if it asks for columns. One that can't
// be read is copied as it is.
func (j *job) filled(ctx context.Context, w packing.Wanted) (*filled, error) {
	if w.Fill == nil || !form.Can(w.Fill.Ending) {
		return nil, nil
	}
	source := cupboard.Source{ID: w.Source, Reader: w.Lender}
	j.forms.mu.Lock()
	defer j.forms.mu.Unlock()
	if known, read := j.forms.of[source]; read {
		return known, nil
	}
	x, err := j.read(ctx, source, w.Fill)
	if err != nil {
		return nil, err
	}
	if j.forms.of == nil {
		j.forms.of = map[cupboard.Source]*filled{}
	}
	j.forms.of[source] = x
	return x, nil
}

func (j *job) read(ctx context.Context, source cupboard.Source, fill *packing.Fill) (*filled, error) {
	content, version, err := j.cup.Open(ctx, source.Reader, source.ID, 0)
	if err != nil {
		return nil, err
	}
	defer content.Close()
	x := &filled{sha: version.SHA}
	gate.Aside(func() { x.form, err = form.Take(ctx, content, version.Size, fill.Ending, fill.Known) })
	if errors.Is(err, form.ErrUnreadable) {
		return nil, nil
	}
	if err != nil || len(x.form.Asks) > 0 {
		return x, err
	}
	x.form.Close()
	return nil, nil
}

// content calls do with a copy's content, and returns its SHA-256 where that went well.
func (x *filled) content(fill *packing.Fill, do func(io.Reader) error) (sha string, err error) {
	r, w := io.Pipe()
	sum, written := sha256.New(), make(chan error)
	go func() {
		err := x.form.Write(io.MultiWriter(w, sum), fill.Values)
		w.CloseWithError(err)
		written <- err
	}()
	err = do(r)
	r.CloseWithError(io.ErrClosedPipe)
	unread := <-written
	if err == nil && unread != nil { // what had been done before wasn't asked for again
		sum.Reset()
		err = x.form.Write(sum, fill.Values)
	}
	return hex.EncodeToString(sum.Sum(nil)), err
}

// copyOf makes a copy of a document, with its columns filled in where it asks for some.
// given is the SHA-256 of the document; empty where that isn't known.
func (j *job) copyOf(ctx context.Context, key string, w packing.Wanted, n cupboard.NewThing) (t cupboard.Thing, given string, err error) {
	x, err := j.filled(ctx, w)
	if err != nil {
		return t, "", err
	}
	source := cupboard.Source{ID: w.Source, Reader: w.Lender}
	if x == nil {
		t, err = j.cup.CopyFile(ctx, j.owner, key, source, n)
		return t, t.SHA, err
	}
	n.MediaType = w.Fill.MediaType
	sha, err := x.content(w.Fill, func(r io.Reader) error {
		t, err = j.cup.AddFile(ctx, j.owner, key, n, r)
		return err
	})
	if sha != t.SHA { // made before, of what the document and the columns were then
		return t, "", err
	}
	return t, x.sha, err
}

// renewed gives a copy the present content of its document as another version, unless
// somebody wrote since it was looked at: then it is left.
func (j *job) renewed(ctx context.Context, key, id string, base int, w packing.Wanted) (v cupboard.Version, given string, err error) {
	x, err := j.filled(ctx, w)
	if err != nil {
		return v, "", err
	}
	if x == nil {
		v, err = j.cup.Renew(ctx, j.owner, key, id, base, cupboard.Source{ID: w.Source, Reader: w.Lender})
		return v, v.SHA, err
	}
	sha, err := x.content(w.Fill, func(r io.Reader) error {
		v, err = j.cup.Write(ctx, j.owner, key, id, base, r)
		return err
	})
	if sha != v.SHA {
		return v, "", err
	}
	return v, x.sha, err
}
