package store

import (
	"bytes"
	"context"
	"encoding/gob"
	"errors"
	"slices"
	"sync"
	"time"

	"jollysatchel/internal/core/roster"
)

// A Draft is a list that was brought in and not accepted yet. Its id names this
// list and no other; its revision grows with every correction.
type Draft struct {
	ID        string
	ClassID   string
	Revision  int64
	Source    string
	Settings  DraftSettings
	Sheets    []DraftSheet
	Ambiguous bool // the letters could be read in several ways, and the original is kept
	ChangedAt time.Time
}

// DraftSettings are what was answered about a list. The last group is about the
// sheet that is looked at, and forgotten when another is turned to.
type DraftSettings struct {
	FamilyFirst bool               `json:"family_first"`
	Derive      roster.AddressRule `json:"derive"`
	ByPeriod    bool               `json:"by_period"` // periods are classes of their own
	Without     bool               `json:"without"`   // accept without addresses
	Own         bool               `json:"own"`       // our own roster as it once stood: an empty cell means empty
	NoStaff     bool               `json:"no_staff"`  // the file's teachers aren't added to new classes
	Teachers    []DraftTeacher     `json:"teachers,omitempty"`
	Encoding    string             `json:"encoding,omitempty"` // how the letters were read
	Encodings   []DraftReading     `json:"encodings,omitempty"`
	Sheet       string             `json:"sheet"` // the sheet that is looked at
	OfSheet     DraftSheetAnswers  `json:"of_sheet"`
}

// DraftSheetAnswers are what was answered about the sheet that is looked at.
type DraftSheetAnswers struct {
	Roles   map[int]roster.Role `json:"roles,omitempty"`
	Heading *int                `json:"heading,omitempty"`
	LeftOut map[int]bool        `json:"left_out,omitempty"` // true: out; false: taken in although it looks like none
	Same    map[int]bool        `json:"same,omitempty"`     // lines whose address is theirs although the book has another name
	Said    map[int]string      `json:"said,omitempty"`     // line → row it is, "new" for nobody's
	Ticked  map[string]bool     `json:"ticked,omitempty"`   // lines of the comparison the teacher ticked or unticked
	Targets map[string]string   `json:"targets,omitempty"`  // part → class id, "new" or "out"
}

// A DraftReading is one way to read a text's letters, with a word as example and
// what it is in place of.
type DraftReading struct {
	Encoding string `json:"encoding"`
	Example  string `json:"example"`
	Instead  string `json:"instead"`
}

// A DraftTeacher is one the file names for a class.
type DraftTeacher struct {
	Class   string `json:"class"`
	Period  string `json:"period"`
	Name    string `json:"name"`
	Address string `json:"address"`
}

// A DraftSheet is a sheet of the file. Rows are given when a draft is put, and
// read by DraftRows.
type DraftSheet struct {
	Name          string
	Hidden        bool
	HiddenColumns []int
	Rows          []roster.Row
}

// HoldDraft keeps a class's draft from being changed by others until the
// transaction ends. Where classes are held too, they are held before.
func (s *Store) HoldDraft(ctx context.Context, class string) error {
	return s.exec(ctx, `select pg_advisory_xact_lock(hashtextextended('draft ' || $1, 0))`, class)
}

// PutDraft keeps a list in place of the one the class had. original is what a
// text was read from, where that can be done in several ways.
func (s *Store) PutDraft(ctx context.Context, d Draft, original []byte) error {
	if err := s.exec(ctx, `delete from drafts where class_id = $1`, d.ClassID); err != nil {
		return err
	}
	if err := s.exec(ctx, `insert into drafts (id, class_id, revision, source, settings, original, changed_at) values ($1, $2, 1, $3, $4, $5, $6)`,
		d.ID, d.ClassID, d.Source, asJSON[DraftSettings]{d.Settings}, original, d.ChangedAt); err != nil {
		return err
	}
	if err := s.putSheets(ctx, d); err != nil {
		return err
	}
	for _, sheet := range d.Sheets { // looked at next, and they never change; should this fail yet, nobody asks for them
		s.sheets.put(sheetKey{d.ID, sheet.Name, d.Settings.Encoding}, sheet.Rows)
	}
	return nil
}

func (s *Store) putSheets(ctx context.Context, d Draft) error {
	for n, sheet := range d.Sheets {
		var b bytes.Buffer
		if err := gob.NewEncoder(&b).Encode(sheet.Rows); err != nil {
			return err
		}
		if err := s.exec(ctx, `insert into draft_sheets (draft_id, n, name, hidden, hidden_columns, rows) values ($1, $2, $3, $4, $5, $6)`,
			d.ID, n, sheet.Name, sheet.Hidden, asJSON[[]int]{sheet.HiddenColumns}, b.Bytes()); err != nil {
			return err
		}
	}
	return nil
}

// Draft returns a class's draft without its rows.
func (s *Store) Draft(ctx context.Context, class string) (Draft, error) {
	if !ValidID(class) {
		return Draft{}, ErrNotFound
	}
	var d struct {
		ID        string                `db:"id"`
		Revision  int64                 `db:"revision"`
		Source    string                `db:"source"`
		Settings  asJSON[DraftSettings] `db:"settings"`
		Ambiguous bool                  `db:"ambiguous"`
		ChangedAt time.Time             `db:"changed_at"`
	}
	if err := s.get(ctx, &d, `select id, revision, source, settings, original is not null as ambiguous, changed_at from drafts where class_id = $1`, class); err != nil {
		return Draft{}, err
	}
	out := Draft{ID: d.ID, ClassID: class, Revision: d.Revision, Source: d.Source, Settings: d.Settings.V, Ambiguous: d.Ambiguous, ChangedAt: d.ChangedAt.UTC()}
	var sheets []struct {
		Name          string        `db:"name"`
		Hidden        bool          `db:"hidden"`
		HiddenColumns asJSON[[]int] `db:"hidden_columns"`
	}
	if err := s.all(ctx, &sheets, `select name, hidden, hidden_columns from draft_sheets where draft_id = $1 order by n`, d.ID); err != nil {
		return Draft{}, err
	}
	for _, sh := range sheets {
		out.Sheets = append(out.Sheets, DraftSheet{Name: sh.Name, Hidden: sh.Hidden, HiddenColumns: sh.HiddenColumns.V})
	}
	return out, nil
}

// HasDraft reports whether a list waits in a class.
func (s *Store) HasDraft(ctx context.Context, class string) (bool, error) {
	var there bool
	return there, s.get(ctx, &there, `select exists (select 1 from drafts where class_id = $1)`, class)
}

// DraftOriginal returns what an ambiguous draft was read from.
func (s *Store) DraftOriginal(ctx context.Context, draft string) ([]byte, error) {
	var b []byte
	return b, s.get(ctx, &b, `select original from drafts where id = $1 and original is not null`, draft)
}

// RereadDraft puts other rows in place of a draft's: the same list, its letters
// read in another way. What was corrected in its cells is kept.
func (s *Store) RereadDraft(ctx context.Context, d Draft) error {
	if err := s.exec(ctx, `delete from draft_sheets where draft_id = $1`, d.ID); err != nil {
		return err
	}
	s.sheets.forget(d.ID)
	return s.putSheets(ctx, d)
}

// A DraftCell is a corrected cell.
type DraftCell struct {
	Line  int    `db:"line"`
	Field int    `db:"field"`
	Value string `db:"value"`
}

// DraftRows returns the rows of a draft's sheet as they were corrected. They are
// shared with others: nobody writes to them.
func (s *Store) DraftRows(ctx context.Context, d Draft) ([]roster.Row, error) {
	rows, err := s.sheetRows(ctx, d)
	if err != nil {
		return nil, err
	}
	var cells []DraftCell
	if err := s.all(ctx, &cells, `select line, field, value from draft_cells where draft_id = $1 and sheet = $2`, d.ID, d.Settings.Sheet); err != nil || len(cells) == 0 {
		return rows, err
	}
	rows = slices.Clone(rows)
	at := make(map[int]int, len(cells))
	for _, c := range cells {
		at[c.Line] = -1
	}
	for i, r := range rows {
		if _, wanted := at[r.Line]; wanted {
			at[r.Line] = i
			rows[i].Cells = slices.Clone(r.Cells)
		}
	}
	for _, c := range cells {
		i := at[c.Line]
		if i < 0 {
			continue
		}
		for len(rows[i].Cells) <= c.Field {
			rows[i].Cells = append(rows[i].Cells, "")
		}
		rows[i].Cells[c.Field] = c.Value
	}
	return rows, nil
}

func (s *Store) sheetRows(ctx context.Context, d Draft) ([]roster.Row, error) {
	key := sheetKey{d.ID, d.Settings.Sheet, d.Settings.Encoding}
	if rows, ok := s.sheets.get(key); ok {
		return rows, nil
	}
	var b []byte
	if err := s.get(ctx, &b, `select rows from draft_sheets where draft_id = $1 and name = $2`, d.ID, d.Settings.Sheet); err != nil {
		if errors.Is(err, ErrNotFound) {
			return nil, nil
		}
		return nil, err
	}
	var rows []roster.Row
	if err := gob.NewDecoder(bytes.NewReader(b)).Decode(&rows); err != nil {
		return nil, err
	}
	s.sheets.put(key, rows)
	return rows, nil
}

// SetDraftCell keeps a corrected cell.
func (s *Store) SetDraftCell(ctx context.Context, d Draft, c DraftCell) error {
	return s.exec(ctx, `insert into draft_cells (draft_id, sheet, line, field, value) values ($1, $2, $3, $4, $5) on conflict (draft_id, sheet, line, field) do update set value = excluded.value`,
		d.ID, d.Settings.Sheet, c.Line, c.Field, c.Value)
}

// SaveDraft keeps what was answered about a draft and returns its new revision.
func (s *Store) SaveDraft(ctx context.Context, d Draft) (int64, error) {
	var revision int64
	return revision, s.get(ctx, &revision, `update drafts set settings = $2, changed_at = $3, revision = revision + 1 where id = $1 returning revision`, d.ID, asJSON[DraftSettings]{d.Settings}, d.ChangedAt)
}

// DeleteDraft forgets a draft by its id.
func (s *Store) DeleteDraft(ctx context.Context, draft string) error {
	return s.one(ctx, `delete from drafts where id = $1`, draft)
}

// A sheetCache keeps the rows of the sheets that were looked at last, as they
// came: they never change, and a long list takes long to decode.
type sheetCache struct {
	mu    sync.Mutex
	rows  map[sheetKey][]roster.Row
	order []sheetKey // the latest last
	total int
}

type sheetKey struct{ draft, sheet, encoding string }

// cachedRows bounds what the cache holds.
const cachedRows = 400_000

func (c *sheetCache) get(k sheetKey) ([]roster.Row, bool) {
	c.mu.Lock()
	defer c.mu.Unlock()
	rows, ok := c.rows[k]
	if ok {
		c.order = append(slices.DeleteFunc(c.order, func(o sheetKey) bool { return o == k }), k)
	}
	return rows, ok
}

func (c *sheetCache) put(k sheetKey, rows []roster.Row) {
	c.mu.Lock()
	defer c.mu.Unlock()
	if _, there := c.rows[k]; there || len(rows) > cachedRows {
		return
	}
	c.rows[k], c.total, c.order = rows, c.total+len(rows), append(c.order, k)
	for c.total > cachedRows {
		c.drop(c.order[0])
	}
}

func (c *sheetCache) forget(draft string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	for _, k := range slices.Clone(c.order) {
		if k.draft == draft {
			c.drop(k)
		}
	}
}

func (c *sheetCache) drop(k sheetKey) {
	c.total -= len(c.rows[k])
	delete(c.rows, k)
	c.order = slices.DeleteFunc(c.order, func(o sheetKey) bool { return o == k })
}
