package pack

import (
	"context"
	"errors"
	"io"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/form"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/usecase/seam"
)

// A Filling is what a document asks for in square brackets, and what is there in one
// of its copies.
type Filling struct {
	Columns    []FilledColumn
	Missing    []string // what looks like a column and is none: it stays as it stands
	Unreadable bool     // the document can't be looked into: it is given as it is
	Takers     []Taker  // whose copies there are
	Whom, Name string   // whose copy was looked at, and what it is called
	MediaType  string   // of the document
	form       *form.Form
	fill       *packing.Fill
	open       func() (io.ReadCloser, error) // the document
}

// A FilledColumn is a column that a document asks for: how it is written there, what the
// copy has in its place, and in how many copies nothing is there.
type FilledColumn struct {
	Label, Value string
	Lacking      int
}

// A Taker is a student or team that gets a copy.
type Taker struct{ Whom, Name string }

// Write writes the copy that was looked at.
func (f *Filling) Write(w io.Writer) error {
	if len(f.Columns) > 0 {
		return f.form.Write(w, f.fill.Values)
	}
	r, err := f.open()
	if err != nil {
		return err
	}
	defer r.Close()
	_, err = io.Copy(w, r)
	return err
}

// Close lets go of the document.
func (f *Filling) Close() {
	if f.form != nil {
		f.form.Close()
	}
}

// PreviewFilling says what a document of a handout asks for and what is in the copy of a
// student or team; of the first one where none is named. Close it.
func (c *Packing) PreviewFilling(ctx context.Context, class, id string, slot int, whom string) (*Filling, error) {
	s, err := c.PictureNow(ctx, class)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	h, ok := s.Handout(id)
	if !ok {
		return nil, seam.ErrNotFound
	}
	out := &Filling{}
	copies, at := out.take(s, h, slot, whom)
	if at == nil {
		return out, nil
	}
	out.open = func() (io.ReadCloser, error) {
		r, _, err := c.cup.Open(ctx, at.Lender, at.Source, 0)
		return r, seam.NotFound(err)
	}
	out.Whom, out.Name = at.Key.Whom.Row+at.Key.Whom.Team, at.Name
	if at.Fill == nil { // it is to be given as it is
		return out, nil
	}
	out.fill, out.MediaType = at.Fill, at.Fill.MediaType
	content, v, err := c.cup.Open(ctx, at.Lender, at.Source, 0)
	if err != nil {
		return nil, seam.NotFound(err)
	}
	defer content.Close()
	gate.Aside(func() { out.form, err = form.Take(ctx, content, v.Size, at.Fill.Ending, at.Fill.Known) })
	if errors.Is(err, form.ErrUnreadable) {
		out.Unreadable = true
		return out, nil
	}
	if err != nil {
		return nil, err
	}
	out.fillIn(copies, at)
	return out, nil
}

// take takes the copies of a document in, and returns them with the one that is looked at.
func (f *Filling) take(s *picture.Picture, h handout.Handout, slot int, whom string) (copies []packing.Wanted, at *packing.Wanted) {
	for _, w := range s.Way(h).Own(s.Room) {
		if w.Key.What.Purpose != packing.Copy || w.Key.What.Slot != slot {
			continue
		}
		copies = append(copies, w)
		t := Taker{Whom: w.Key.Whom.Row + w.Key.Whom.Team, Name: w.Name}
		if student, there := s.Student(w.Key.Whom.Row); there {
			t.Name = student.SortName()
		}
		f.Takers = append(f.Takers, t)
		if at == nil || t.Whom == whom {
			at = &w
		}
	}
	return copies, at
}

// fillIn says what is in the copy that is looked at, and in how many nothing does.
func (f *Filling) fillIn(copies []packing.Wanted, at *packing.Wanted) {
	f.Missing = f.form.Missing
	for _, p := range f.form.Asks {
		x := FilledColumn{Label: p.Label, Value: p.Value(0, at.Fill.Values)}
		for _, w := range copies {
			if p.Value(0, w.Fill.Values) == "" {
				x.Lacking++
			}
		}
		f.Columns = append(f.Columns, x)
	}
}
