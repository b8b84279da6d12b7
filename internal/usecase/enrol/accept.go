package enrol

import (
	"cmp"
	"context"
	"errors"
	"slices"
	"strings"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/classes"
	"jollysatchel/internal/core/draft"
	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/words"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
	"jollysatchel/internal/usecase/seam"
)

// DropDraft puts the list away that was looked at.
func (c *Lists) DropDraft(ctx context.Context, by, class string, looked draft.Looked) error {
	return seam.NotFound(c.Store.Change(ctx, c.draftAct(ctx, by, "list-put-away", class, looked), nil, func(tx *store.Store) error {
		e, err := c.editDraft(ctx, tx, class, looked.ID)
		if err != nil {
			return err
		}
		if e.Revision != looked.Revision {
			return &change.Changed{Field: "draft"}
		}
		return tx.DeleteDraft(ctx, e.ID)
	}))
}

// An Accepted says what accepting a list did.
type Accepted struct {
	Students int // in the list's classes, of the list
	Counts   map[roster.Kind]int
	Classes  []string // ids, the one the list was brought to first if it is among them
	Batch    string   // for taking it back
}

// Accept puts the list that was looked at into its classes: all of it that is
// ticked, or nothing. Nobody's things are touched; what follows for satchels and
// copies is in the next packing list.
func (c *Lists) Accept(ctx context.Context, by, class string, looked draft.Looked) (Accepted, error) {
	var out Accepted
	d, err := c.Draft(ctx, by, class)
	if err != nil {
		return c.acceptedBefore(ctx, by, err)
	}
	book, err := c.Book(ctx)
	if err != nil {
		return out, err
	}
	var cs []string
	for _, p := range d.Plan.Parts {
		if slices.ContainsFunc(d.Classes, func(cl classes.Class) bool { return cl.ID == p.Target }) && !slices.Contains(cs, p.Target) {
			cs = append(cs, p.Target)
		}
	}
	args := map[string]any{"draft": d.ID, "source": cmp.Or(d.Source, words.English.Reason["pasted"])}
	act := c.Act(ctx, by, "list-accepted", args, cs...)
	err = c.Store.Change(ctx, act, &out, func(tx *store.Store) error {
		e, err := c.editDraft(ctx, tx, class, looked.ID)
		if err != nil {
			return err
		}
		if e.Revision != looked.Revision || e.Revision != d.Revision || e.ID != d.ID {
			return &change.Changed{Field: "draft"}
		}
		now := d // the same list: only the classes may be others by now
		if err := c.plan(ctx, tx, by, &now); err != nil {
			return err
		}
		if now.Looked != looked.Digest {
			return &change.Changed{Field: "list"}
		}
		if out, err = c.acceptNow(ctx, tx, book, by, act, now); err != nil {
			return err
		}
		told := now.Plan.Told()
		args["told"], args["things"] = told, len(told)
		return tx.DeleteDraft(ctx, e.ID)
	})
	if err == nil && c.School().ListAccounts {
		err = c.enterStudents(ctx, by, out.Classes)
	}
	return out, seam.NotFound(err)
}

// enterStudents enters those of some classes into the school book whose address it doesn't
// know, where that is of the school's domain. Asked again it enters who is left.
func (c *Lists) enterStudents(ctx context.Context, by string, cs []string) error {
	for try := 0; ; try++ {
		book, err := c.Book(ctx)
		if err != nil {
			return err
		}
		accounts, err := c.unknownStudents(ctx, book, cs)
		if err != nil || len(accounts) == 0 {
			return err
		}
		err = c.directory.PutAll(ctx, book.Revision, accounts)
		if errors.Is(err, schoolbook.ErrMoved) && try < 5 { // it is another by now
			continue
		}
		if err != nil {
			return seam.BookError(err)
		}
		ids := make([]string, len(accounts))
		for i, a := range accounts {
			ids[i] = a.ID
		}
		if err := c.directory.Known(ctx, ids...); err != nil {
			return err
		}
		act := c.Act(ctx, by, "list-accounts", map[string]any{"things": len(ids)}, cs...)
		act.Key = "" // it is part of accepting
		return c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil })
	}
}

// unknownStudents are accounts for students of classes whose address the school book doesn't
// know.
func (c *Lists) unknownStudents(ctx context.Context, book *seam.Known, cs []string) ([]accounts.Account, error) {
	domain := "@" + strings.ToLower(c.School().Domain)
	var out []accounts.Account
	seen := map[string]bool{}
	for _, class := range cs {
		cl, err := c.ReadClass(ctx, c.Store, book, class)
		if err != nil {
			return nil, err
		}
		for _, st := range cl.Students {
			address := strings.ToLower(st.Address)
			_, known := book.ByAddress(address)
			if address == "" || known || seen[address] || cl.OfStaff || domain != "@" && !strings.HasSuffix(address, domain) {
				continue
			}
			a := accounts.Account{ID: store.NewID(), Given: st.Given, Family: st.Family, Number: st.Number, Address: address, Role: accounts.Student}
			if a.Check() == nil {
				seen[address] = true
				out = append(out, a)
			}
		}
	}
	return out, nil
}

// acceptedBefore answers who asks again, with the same key, for a list to be
// accepted that was.
func (c *Lists) acceptedBefore(ctx context.Context, by string, gone error) (Accepted, error) {
	var out Accepted
	act := c.Act(ctx, by, "list-accepted", nil)
	if act.Key == "" || !errors.Is(gone, seam.ErrNotFound) {
		return out, gone
	}
	err := c.Store.Change(ctx, act, &out, func(*store.Store) error { return gone })
	return out, err
}

func (c *Lists) acceptNow(ctx context.Context, tx *store.Store, book *seam.Known, by string, act store.Act,
	d draft.View) (Accepted, error) {
	out := Accepted{Counts: d.Plan.Counts()}
	if r := d.Plan.Refused(d.Read, d.Answers); r != nil {
		return out, r.Invalid()
	}
	ids := map[string]string{} // part → class
	var err error
	out.Batch, err = c.inRosters(ctx, tx, book, rosterAct{by, "list", d.Source}, act, func(rs *rosters) error {
		for _, p := range d.Plan.Parts {
			switch p.Target {
			case lists.NoClass:
				continue
			case lists.NewClass:
				id, err := c.classFor(ctx, tx, by, p, d, book)
				if err != nil {
					return err
				}
				ids[p.Key] = id
				rs.made(id)
			default:
				ids[p.Key] = p.Target
			}
			if !slices.Contains(out.Classes, ids[p.Key]) {
				out.Classes = append(out.Classes, ids[p.Key])
			}
		}
		for _, a := range d.Plan.Acts(d.Answers) {
			if err := c.carryOut(rs, a, ids); err != nil {
				return err
			}
		}
		for _, id := range rs.ids {
			if err := rs.of[id].Apart(); err != nil {
				return err
			}
		}
		return nil
	})
	for _, l := range d.Plan.Lines {
		if l.Accepted && l.Student != nil {
			out.Students++
		}
	}
	if i := slices.Index(out.Classes, d.ClassID); i > 0 {
		out.Classes[0], out.Classes[i] = out.Classes[i], out.Classes[0]
	}
	return out, err
}

// carryOut does one act of a plan.
func (c *Lists) carryOut(rs *rosters, a lists.Act, ids map[string]string) error {
	confirmed := ""
	if account, ok := rs.book.ByAddress(a.Record.Address); ok && a.Same {
		confirmed = account.ID
	}
	if a.Kind == lists.Join {
		rs.of[ids[a.Group]].Join(a.Record, confirmed)
		return nil
	}
	row, err := rs.of[a.Class].at(a.Row)
	if err != nil {
		return err
	}
	if a.Kind == lists.Leave {
		row.SetLeft(true, c.Now())
		return nil
	}
	row.Record = a.Record
	row.Confirmed = cmp.Or(confirmed, row.Confirmed)
	row.SetLeft(false, c.Now())
	return nil
}

// classFor adds a class for a part of the list, with the teachers the file
// names for it where they are staff of the school.
func (c *Lists) classFor(ctx context.Context, tx *store.Store, by string, p lists.Part, d draft.View, book *seam.Known) (string, error) {
	cl, err := c.newClass("", cmp.Or(naming.Tidy(p.Class), "New class"), p.Period)
	if err != nil {
		return "", err
	}
	var others []string
	for _, t := range d.Teachers(p) {
		a := book.AccountAt(t.Address)
		if d.Settings.NoStaff || a.ID == "" || a.Role == accounts.Student || a.ID == by {
			continue
		}
		others = append(others, a.ID)
	}
	return cl.ID, addClass(ctx, tx, cl, by, others...)
}

// ListBefore makes the roster as it stood before an act into a list to be
// compared and accepted: the way back once something was packed on it.
func (c *Lists) ListBefore(ctx context.Context, by, class, batch string) (draft.View, error) {
	entries, err := c.Store.HistorySince(ctx, class, batch)
	if err != nil {
		return draft.View{}, seam.NotFound(err)
	}
	rows, err := c.Store.Rows(ctx, class)
	if err != nil {
		return draft.View{}, err
	}
	now := classes.NewRoster(class, rows, store.NewID)
	var acts [][]lists.RowChange
	for _, e := range entries {
		acts = append(acts, e.Changes)
	}
	var records []record.Record
	for _, s := range lists.Before(now.States(), acts) {
		records = append(records, s.Record)
	}
	t := roster.Table{}
	for i, cells := range record.Table("", records) {
		t.Rows = append(t.Rows, roster.Row{Line: i + 1, Cells: cells})
	}
	source := entries[len(entries)-1].At.In(c.School().Zone).Format(time.DateTime)
	return c.bring(ctx, by, class, source, tables.Book{Sheets: []tables.Sheet{{Table: t}}}, true, nil)
}
