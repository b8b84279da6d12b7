package classroom

import (
	"context"
	"database/sql"
	"errors"
	"maps"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/store"
	"jollysatchel/internal/tables"
)

// rosterStates are the rows of rosters as they stand, by class and row.
type rosterStates map[string]map[string]store.RowState

// changeRosters does something to the rosters of classes, all or nothing, and
// keeps every row's state before and after. Acts on one class follow each
// other, so that none works on what another is changing. do is given the
// states before and returns classes it made. The batch that comes back names
// the act for taking it back; it is empty where nothing changed.
func (c *Classroom) changeRosters(ctx context.Context, by, kind, source string, classes []string, do func(tx *store.Store, before rosterStates) ([]string, error)) (string, error) {
	batch, any := store.NewID(), false
	err := c.Store.Tx(ctx, func(tx *store.Store) error {
		if err := tx.LockClasses(ctx, classes); err != nil {
			return err
		}
		before := rosterStates{}
		for _, id := range classes {
			var err error
			if before[id], err = states(ctx, tx, id); err != nil {
				return err
			}
		}
		made, err := do(tx, before)
		if err != nil {
			return err
		}
		touched := append(slices.Clone(classes), made...)
		slices.Sort(touched)
		for _, id := range slices.Compact(touched) {
			after, err := states(ctx, tx, id)
			if err != nil {
				return err
			}
			changes := differences(before[id], after)
			if len(changes) == 0 {
				continue
			}
			any = true
			h := store.HistoryEntry{ID: store.NewID(), ClassID: id, Batch: batch, At: c.Now(), Account: by, Kind: kind, Source: source, Changes: store.JSON[[]store.RowChange]{V: changes}}
			if err := tx.InsertHistory(ctx, h); err != nil {
				return err
			}
			if err := tx.Touch(ctx, id); err != nil {
				return err
			}
		}
		return nil
	})
	if err != nil || !any {
		batch = ""
	}
	return batch, err
}

func states(ctx context.Context, tx *store.Store, class string) (map[string]store.RowState, error) {
	members, err := tx.AllMembers(ctx, class)
	out := make(map[string]store.RowState, len(members))
	for _, m := range members {
		out[m.ID] = m.State()
	}
	return out, err
}

func differences(before, after map[string]store.RowState) []store.RowChange {
	var out []store.RowChange
	for _, row := range sortedKeys(after) {
		a := after[row]
		if b, ok := before[row]; !ok {
			out = append(out, store.RowChange{Row: row, After: &a})
		} else if !same(b, a) {
			out = append(out, store.RowChange{Row: row, Before: &b, After: &a})
		}
	}
	for _, row := range sortedKeys(before) {
		b := before[row]
		if _, there := after[row]; !there {
			out = append(out, store.RowChange{Row: row, Before: &b})
		}
	}
	return out
}

func same(a, b store.RowState) bool {
	if !maps.Equal(a.Extra, b.Extra) || (a.Left == nil) != (b.Left == nil) || a.Left != nil && !a.Left.Equal(*b.Left) {
		return false
	}
	a.Extra, b.Extra, a.Left, b.Left = nil, nil, nil, nil
	return reflect.DeepEqual(a, b)
}

// setField puts a value into a field of a row, as FieldChange names it.
func setField(s *store.RowState, field, value string) bool {
	switch roster.Role(field) {
	case roster.Given:
		s.Given = value
	case roster.Family:
		s.Family = value
	case roster.Preferred:
		s.Preferred = value
	case roster.Address:
		s.Address = value
	case roster.Number:
		s.Number = value
	case roster.Period:
		s.Period = value
	case roster.Level:
		s.Level = value
	case roster.Team:
		s.Team = value
	default:
		heading, ok := strings.CutPrefix(field, "extra:")
		if !ok || heading == "" {
			return false
		}
		s.Extra = maps.Clone(s.Extra)
		if s.Extra == nil {
			s.Extra = map[string]string{}
		}
		s.Extra[heading] = value
	}
	return true
}

// A CellEdit puts a value into one field of one row of a roster.
type CellEdit struct{ Row, Field, Value string }

// EditRoster changes cells of a class's roster, all of them or none.
func (c *Classroom) EditRoster(ctx context.Context, by, class string, edits []CellEdit) (string, error) {
	var addresses []string
	for _, e := range edits {
		if e.Field == string(roster.Address) {
			addresses = append(addresses, e.Value)
		}
	}
	accounts, err := c.Book.ByAddress(ctx, addresses)
	if err != nil {
		return "", err
	}
	return c.changeRosters(ctx, by, "edit", "", []string{class}, func(tx *store.Store, before rosterStates) ([]string, error) {
		now := before[class]
		to := maps.Clone(now)
		for _, e := range edits {
			s, ok := to[e.Row]
			if !ok {
				return nil, ErrNotFound
			}
			value := tidy(e.Value)
			args := map[string]string{"row": e.Row, "field": e.Field, "value": value}
			switch {
			case len(value) > 500:
				return nil, &Invalid{e.Field, "too-long", args}
			case e.Field == string(roster.Address) && value != "" && roster.AddressForm(value) != "":
				args["why"] = roster.AddressForm(value)
				return nil, &Invalid{e.Field, "address-malformed", args}
			case !setField(&s, e.Field, value):
				return nil, &Invalid{e.Field, "no-such-cell", args}
			case s.Given == "" && s.Family == "" && s.Preferred == "":
				return nil, &Invalid{e.Field, "name-missing", args}
			}
			to[e.Row] = s
		}
		if err := addressesApart(to); err != nil {
			return nil, err
		}
		a := accepter{Classroom: c, tx: tx, accounts: accounts}
		for _, row := range sortedKeys(to) {
			if !same(now[row], to[row]) {
				if err := a.restate(ctx, class, row, now[row], to[row]); err != nil {
					return nil, err
				}
			}
		}
		return nil, nil
	})
}

// addressesApart refuses an address that two students of a class would have.
func addressesApart(rows map[string]store.RowState) error {
	owner := map[string]store.RowState{}
	for _, row := range sortedKeys(rows) {
		s := rows[row]
		a := strings.ToLower(s.Address)
		if a == "" || s.Left != nil {
			continue
		}
		if o, taken := owner[a]; taken {
			return &Invalid{"address", "address-twice", map[string]string{"address": s.Address, "other": tidy(o.Given + " " + o.Family), "row": row, "field": "address"}}
		}
		owner[a] = s
	}
	return nil
}

// restate brings a row and its person from one state to another. An address
// that is another person's makes the row theirs.
func (a accepter) restate(ctx context.Context, class, row string, from, to store.RowState) error {
	if !strings.EqualFold(from.Address, to.Address) {
		to.Account = a.accounts[strings.ToLower(to.Address)].ID
		if to.Account != "" {
			p, err := a.tx.PersonByAccount(ctx, to.Account)
			switch {
			case err == nil && p.ID != to.Person:
				// One who has left keeps the row: it is reopened, not given away.
				if there, err := a.tx.RowOf(ctx, class, p.ID); err == nil {
					code := "address-twice"
					if there.LeftAt.Valid {
						code = "address-of-leaver"
					}
					return &Invalid{"address", code, map[string]string{"address": to.Address, "other": tidy(there.Given + " " + there.Family), "row": row, "field": "address"}}
				} else if err != nil && !errors.Is(err, store.ErrNotFound) {
					return err
				}
				to.Person = p.ID
			case err != nil && !errors.Is(err, store.ErrNotFound):
				return err
			}
		}
	}
	return a.tx.RestoreRow(ctx, class, row, to)
}

// AddStudents puts students into a class, all of them or none.
func (c *Classroom) AddStudents(ctx context.Context, by, class string, students []roster.Student) (string, error) {
	var addresses []string
	for i, s := range students {
		s.Given, s.Family, s.Preferred, s.Address, s.Number = tidy(s.Given), tidy(s.Family), tidy(s.Preferred), tidy(s.Address), tidy(s.Number)
		switch {
		case s.Given == "" && s.Family == "":
			return "", &Invalid{"family", "name-missing", nil}
		case s.Address != "" && roster.AddressForm(s.Address) != "":
			return "", &Invalid{"address", "address-malformed", map[string]string{"value": s.Address, "why": roster.AddressForm(s.Address)}}
		}
		students[i], addresses = s, append(addresses, s.Address)
	}
	accounts, err := c.Book.ByAddress(ctx, addresses)
	if err != nil {
		return "", err
	}
	return c.changeRosters(ctx, by, "added", "", []string{class}, func(tx *store.Store, before rosterStates) ([]string, error) {
		there, n := map[string]string{}, len(students)
		for _, s := range before[class] {
			if s.Left == nil {
				there[strings.ToLower(s.Address)], there[s.Number] = tidy(s.Given+" "+s.Family), tidy(s.Given+" "+s.Family)
				n++
			}
		}
		delete(there, "")
		if n > MaxStudents {
			return nil, &Invalid{"list", "too-many-students", map[string]string{"most": strconv.Itoa(MaxStudents), "count": strconv.Itoa(n)}}
		}
		a := accepter{Classroom: c, tx: tx, accounts: accounts}
		for _, s := range students {
			for _, key := range []string{strings.ToLower(s.Address), s.Number} {
				if name, taken := there[key]; taken {
					return nil, &Invalid{"address", "student-there", map[string]string{"name": name}}
				}
			}
			if err := a.join(ctx, class, s, nil); err != nil {
				return nil, err
			}
		}
		return nil, nil
	})
}

// SetLeft ends rows of a class, or reopens them. The students' things stay as
// they are.
func (c *Classroom) SetLeft(ctx context.Context, by, class string, rows []string, left bool) (string, error) {
	kind, at := "returned", sql.NullTime{}
	if left {
		kind, at = "left", sql.NullTime{Time: c.Now(), Valid: true}
	}
	return c.changeRosters(ctx, by, kind, "", []string{class}, func(tx *store.Store, before rosterStates) ([]string, error) {
		now := maps.Clone(before[class])
		var change []string
		for _, row := range rows {
			s, ok := now[row]
			if !ok {
				return nil, ErrNotFound
			}
			if (s.Left != nil) != left {
				change = append(change, row)
				s.Left = nil
				now[row] = s
			}
		}
		if !left {
			if err := addressesApart(now); err != nil {
				return nil, err
			}
		}
		return nil, tx.SetLeft(ctx, class, change, at)
	})
}

// Undo takes an act back in all classes it touched, where nothing has changed
// since and, for rows that were added, nothing was packed.
func (c *Classroom) Undo(ctx context.Context, by, class, batch string) error {
	h, err := c.Store.HistoryEntry(ctx, class, batch)
	if err != nil {
		return notFound(err)
	}
	if h.UndoneAt.Valid {
		return &Invalid{"history", "undone-already", nil}
	}
	entries, err := c.Store.Batch(ctx, h.Batch)
	if err != nil {
		return err
	}
	mine, err := c.Store.Taught(ctx, by)
	if err != nil {
		return err
	}
	var classes []string
	for _, e := range entries {
		if !slices.ContainsFunc(mine, func(cl store.Class) bool { return cl.ID == e.ClassID }) {
			return &Invalid{"history", "other-class", nil}
		}
		adds := slices.ContainsFunc(e.Changes.V, func(ch store.RowChange) bool { return ch.Before == nil })
		packed, err := c.Store.PackedSince(ctx, e.ClassID, e.At)
		if err != nil {
			return err
		}
		if packed && (adds || e.Kind == "list") {
			return &Invalid{"history", "packed-since", nil}
		}
		classes = append(classes, e.ClassID)
	}
	_, err = c.changeRosters(ctx, by, "undone", h.Source, classes, func(tx *store.Store, before rosterStates) ([]string, error) {
		for _, e := range entries {
			for _, ch := range e.Changes.V {
				s, there := before[e.ClassID][ch.Row]
				if ch.After == nil || !there || !same(s, *ch.After) {
					return nil, &Invalid{"history", "changed-since", nil}
				}
				if ch.Before == nil {
					err = tx.DeleteRow(ctx, e.ClassID, ch.Row)
				} else {
					err = tx.RestoreRow(ctx, e.ClassID, ch.Row, *ch.Before)
				}
				if err != nil {
					return nil, err
				}
			}
		}
		return nil, tx.MarkUndone(ctx, h.Batch, c.Now())
	})
	return err
}

// ListBefore makes the roster as it stood before an act into a list to be
// compared and accepted: the way back once something was packed on it.
func (c *Classroom) ListBefore(ctx context.Context, by, class, batch string) (Draft, error) {
	if _, err := c.Store.HistoryEntry(ctx, class, batch); err != nil {
		return Draft{}, notFound(err)
	}
	then, err := states(ctx, c.Store, class)
	if err != nil {
		return Draft{}, err
	}
	entries, err := c.Store.History(ctx, class, 1_000_000)
	if err != nil {
		return Draft{}, err
	}
	at := time.Time{}
	for _, e := range entries {
		for _, ch := range e.Changes.V {
			if ch.Before == nil {
				delete(then, ch.Row)
			} else {
				then[ch.Row] = *ch.Before
			}
		}
		if at = e.At; e.Batch == batch {
			break
		}
	}
	var rows []store.RowState
	for _, row := range sortedKeys(then) {
		if s := then[row]; s.Left == nil {
			rows = append(rows, s)
		}
	}
	t := roster.Table{}
	for i, cells := range rosterTable("", rows) {
		t.Rows = append(t.Rows, roster.Row{Line: i + 1, Cells: cells})
	}
	source := at.In(c.School.Zone).Format(time.DateTime)
	return c.bring(ctx, by, class, source, tables.Book{Sheets: []tables.Sheet{{Table: t}}}, true)
}

// rosterTable writes rows as a table whose headings are recognised again.
func rosterTable(class string, rows []store.RowState) [][]string {
	seen := map[string]bool{}
	for _, r := range rows {
		for h := range r.Extra {
			seen[h] = true
		}
	}
	extras := sortedKeys(seen)
	head := []string{"Family name", "Given name", "Preferred name", "Student number", "Address", "Period", "Level", "Team"}
	if class != "" {
		head = slices.Insert(head, 5, "Class")
	}
	out := [][]string{append(head, extras...)}
	for _, r := range rows {
		cells := []string{r.Family, r.Given, r.Preferred, r.Number, r.Address, r.Period, r.Level, r.Team}
		if class != "" {
			cells = slices.Insert(cells, 5, class)
		}
		for _, h := range extras {
			cells = append(cells, r.Extra[h])
		}
		out = append(out, cells)
	}
	return out
}

// ExportRoster is the class's roster as a table, in the order of names.
func (c *Classroom) ExportRoster(cl Class) [][]string {
	var rows []store.RowState
	for _, s := range cl.Students {
		rows = append(rows, s.State())
	}
	return rosterTable(cl.Name, rows)
}
