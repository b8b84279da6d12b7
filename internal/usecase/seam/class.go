package seam

import (
	"context"
	"slices"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
)

// ReadClass reads a class from st.
func (c *House) ReadClass(ctx context.Context, st *store.Store, book *Known, id string) (picture.Class, error) {
	var out picture.Class
	var err error
	if out.Class, err = st.Class(ctx, id); err != nil {
		return out, NotFound(err)
	}
	if out.Staff, err = st.Staff(ctx, id); err != nil {
		return out, err
	}
	if len(out.Staff) > 0 {
		out.Teacher = book.Account(out.Staff[0].Account).Name()
	}
	rows, err := st.Rows(ctx, id)
	if err != nil {
		return out, err
	}
	now := c.Now()
	for _, s := range Students(rows, book.ForClass(out.OfStaff)) {
		if s.Opens = out.Opening.Waits(s.ID, now); s.Gone {
			out.Left = append(out.Left, s)
		} else {
			out.Students = append(out.Students, s)
		}
	}
	order := naming.NewOrder(c.School().Language)
	for _, of := range [][]picture.Student{out.Students, out.Left} {
		order.Sort(len(of), func(i int) string { return of[i].SortName() }, func(i, j int) { of[i], of[j] = of[j], of[i] })
	}
	return out, nil
}

// ClassNow reads a class as it is now, and who is who at the school.
func (c *House) ClassNow(ctx context.Context, class string) (picture.Class, *Known, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return picture.Class{}, nil, err
	}
	cl, err := c.ReadClass(ctx, c.Store, book, class)
	return cl, book, err
}

// Students are rows with whom they are linked to, in their order.
func Students(rows []classes.Row, book *ClassBook) []picture.Student {
	out := make([]picture.Student, len(rows))
	for i, l := range Links(rows, book) {
		s := picture.Student{Row: rows[i], Relink: l.Relink, Remarks: l.Remarks}
		s.Account, s.LinkedBy = l.Account, l.LinkedBy
		if p := l.Problem; p != nil && !s.Gone {
			why := &packing.Reason{Code: p.Code, Args: p.Args}
			if p.Code == roster.AccountUnknown {
				if like := book.Like(s.Address, s.Name()); like != "" {
					why.Args["suggestion"] = like
				}
			}
			if l.Waits() {
				s.Waits = why
			} else {
				s.Problem = why
			}
		}
		out[i] = s
	}
	return out
}

// Links are whom rows are linked to, and what is said about it.
func Links(rows []classes.Row, book *ClassBook) []roster.Linking {
	of := make([]roster.ClassRow, len(rows))
	for i, r := range rows {
		of[i] = r.ClassRow
	}
	return roster.Links(of, book)
}

// KeepLinks writes down, within a change, whom a class's rows are linked to by now: somebody may have become known at the
// school since they were written.
func KeepLinks(ctx context.Context, tx *store.Store, book *Known, class string) error {
	cl, err := tx.Class(ctx, class)
	if err != nil {
		return err
	}
	rows, err := tx.Rows(ctx, class)
	if err != nil {
		return err
	}
	var linked []classes.Row
	for i, l := range Links(rows, book.ForClass(cl.OfStaff)) {
		if row := rows[i]; row.Account != l.Account || row.LinkedBy != l.LinkedBy {
			row.Account, row.LinkedBy = l.Account, l.LinkedBy
			linked = append(linked, row)
		}
	}
	return tx.SaveRows(ctx, class, linked)
}

// Teaches reports whether an account is a class's owner or one of its co-teachers.
func Teaches(ctx context.Context, st *store.Store, account, class string) (bool, error) {
	staff, err := st.Staff(ctx, class)
	return slices.ContainsFunc(staff, func(m classes.Member) bool { return m.Account == account && m.Role != classes.Assistant }), err
}

// OwnerFor returns the owner of a class's things where an account is one of its
// teachers; assistants are not.
func (c *House) OwnerFor(ctx context.Context, account, class string) (owner string, err error) {
	mine, err := Teaches(ctx, c.Store, account, class)
	if err != nil || !mine {
		return "", err
	}
	return c.Store.OwnerOfThings(ctx, class)
}

// StudentOf is a student on a class's list who has an account.
func (c *House) StudentOf(ctx context.Context, class, row string) (picture.Student, *Known, error) {
	cl, book, err := c.ClassNow(ctx, class)
	if err != nil {
		return picture.Student{}, nil, err
	}
	st, ok := cl.Student(row)
	switch {
	case !ok:
		return picture.Student{}, nil, ErrNotFound
	case st.Account == "":
		return picture.Student{}, nil, change.Refuse("row", "no-eyes", "name", st.Name())
	}
	return st, book, nil
}

// HandoutOf is a handout of a class whose list a student is in, with their row there;
// only where students may reach each other's copies of it.
func (c *House) HandoutOf(ctx context.Context, account, id string) (handout.Handout, string, error) {
	rows, err := c.Store.RowsOf(ctx, account)
	if err != nil {
		return handout.Handout{}, "", err
	}
	for _, row := range rows {
		if row.Gone {
			continue
		}
		h, err := c.Store.Handout(ctx, row.ClassID, id)
		if err == nil && h.Packed() && (h.MatesRead() || h.PassedOn()) {
			return h, row.ID, nil
		}
		if err != nil && NotFound(err) != ErrNotFound {
			return h, "", err
		}
	}
	return handout.Handout{}, "", ErrNotFound
}
