package tables

import (
	"archive/zip"
	"bytes"
	"io"
	"os"
	"path"
	"strconv"
	"strings"

	"github.com/xuri/excelize/v2"

	"jollysatchel/internal/core/roster"
)

// xlsx is the spreadsheet format of ECMA-376. Cells are read as people see
// them: dates and numbers in their form, formulas as their last result.
type xlsx struct{}

func (xlsx) name() string { return "xlsx" }

func (xlsx) recognises(b []byte) bool { return has(b, "xl/workbook.xml") }

// inMemory is how large a part may be, in bytes, that is read in memory; a
// larger one goes through a file of its own.
const inMemory = 32 << 20

// read walks over the parts twice: first to see that they keep to the limits
// and what is merged and hidden, then with the library that knows how numbers
// and dates look. The library is given nothing but what was walked over.
func (xlsx) read(b []byte, left *budget) (Book, error) {
	p, err := unpack(b)
	if err != nil {
		return Book{}, err
	}
	var known bytes.Buffer
	w, err := p.workbook(&known, left)
	if err != nil {
		return Book{}, err
	}
	dir, err := os.MkdirTemp("", "jollysatchel-list-*")
	if err != nil {
		return Book{}, err
	}
	defer os.RemoveAll(dir)
	f, err := excelize.OpenReader(&known, excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: inMemory, TmpDir: dir})
	if err != nil {
		return Book{}, &Error{Code: "damaged", Args: map[string]string{"what": err.Error()}}
	}
	defer f.Close()
	var book Book
	for i, name := range f.GetSheetList() {
		visible, err := f.GetSheetVisible(name)
		if err != nil {
			return Book{}, damagedSheet(name)
		}
		var seen sheetParts
		if i < len(w.sheets) && w.parts[w.sheets[i]] != nil {
			seen = *w.parts[w.sheets[i]]
		}
		t, err := sheetOf(f, name, seen, left)
		if err != nil {
			return Book{}, err
		}
		book.Sheets = append(book.Sheets, Sheet{Name: name, Hidden: !visible, Table: t})
	}
	return book, nil
}

func damagedSheet(name string) error {
	return &Error{Code: "damaged", Args: map[string]string{"what": "sheet " + name}}
}

// A workbook is what a first walk over the parts of a file tells.
type workbook struct {
	sheets []string // the part of each sheet, in their order
	parts  map[string]*sheetParts
}

// sheetParts are a sheet's merged cells and hidden columns.
type sheetParts struct {
	merged []string // A2:A5
	hidden [][2]int // from column to column, from 1
}

// The parts of a workbook that are read, in small letters, beside its sheets.
const (
	sharedName    = "xl/sharedstrings.xml"
	bookName      = "xl/workbook.xml"
	relationsName = "xl/_rels/workbook.xml.rels"
	sheetFolder   = "xl/worksheets/"
)

// smallParts describe the others. What a relation calls by another name than these,
// or has outside of the sheets' folder, is not there.
var smallParts = map[string]bool{
	"[content_types].xml": true, "_rels/.rels": true, bookName: true, relationsName: true, "xl/styles.xml": true, "xl/theme/theme1.xml": true,
}

// workbook walks over all parts that will be read, and copies them, packed as they
// are, to an archive of their own. A name that is there twice counts once.
func (p *pack) workbook(known io.Writer, left *budget) (workbook, error) {
	w := workbook{parts: map[string]*sheetParts{}}
	var order []string         // relation of each sheet
	ids := map[string]string{} // part of each relation
	var shared []int32         // length of each shared text
	copies, taken := zip.NewWriter(known), map[string]bool{}
	for pass := range 2 { // what sheets refer to comes first
		for _, f := range p.File {
			name := strings.ToLower(strings.TrimPrefix(f.Name, "/"))
			sheet := strings.HasPrefix(name, sheetFolder) && path.Ext(name) == ".xml"
			if sheet != (pass == 1) || !sheet && name != sharedName && !smallParts[name] || taken[name] {
				continue
			}
			taken[name] = true
			do := func(tag, []byte) error { return nil }
			switch {
			case sheet:
				w.parts[name] = &sheetParts{}
				do = sheetWalk(w.parts[name], shared, left)
			case name == sharedName:
				do = sharedWalk(&shared)
			case f.UncompressedSize64 > maxSettings:
				return w, &Error{Code: "swells"}
			case name == bookName:
				do = func(t tag, _ []byte) error {
					if string(t.name) == "sheet" && !t.closes {
						order = append(order, string(t.prefixed("id")))
					}
					return nil
				}
			case name == relationsName:
				do = func(t tag, _ []byte) error {
					if string(t.name) == "Relationship" && !t.closes {
						ids[string(t.attribute("Id"))] = strings.ToLower(partAt(string(t.attribute("Target"))))
					}
					return nil
				}
			}
			if err := walk(f, left, do); err != nil {
				return w, err
			}
			if err := copies.Copy(f); err != nil {
				return w, &Error{Code: "damaged", Args: map[string]string{"what": f.Name}}
			}
		}
	}
	for _, id := range order {
		w.sheets = append(w.sheets, ids[id])
	}
	return w, copies.Close()
}

// partAt is the part a relation of the workbook leads to.
func partAt(target string) string {
	if !strings.HasPrefix(target, "/") {
		target = "xl/" + target
	}
	return strings.TrimPrefix(path.Clean(target), "/")
}

// sharedWalk measures the texts that cells refer to.
func sharedWalk(shared *[]int32) func(tag, []byte) error {
	length, elements := 0, 0
	return func(t tag, text []byte) error {
		if elements++; elements > 8*maxShared {
			return &Error{Code: "too-many-cells"}
		}
		switch {
		case string(t.name) == "t" && t.closes:
			length += len(text)
		case string(t.name) == "si" && (t.closes || t.empty):
			if len(*shared) >= maxShared {
				return &Error{Code: "too-many-cells"}
			}
			*shared = append(*shared, int32(length))
			length = 0
		}
		return nil
	}
}

// sheetWalk counts what the cells of a sheet hold, and notes what is merged and
// hidden.
func sheetWalk(seen *sheetParts, shared []int32, left *budget) func(tag, []byte) error {
	longest := int32(0)
	for _, n := range shared {
		longest = max(longest, n)
	}
	// A walk of its own budget: what is read after it counts again.
	counting := newBudget(left.ctx)
	column, width, count, refers := 0, 0, 0, false
	return func(t tag, text []byte) error {
		switch name := string(t.name); {
		case name == "row" && !t.closes:
			column, count = 0, 0
		case name == "row":
			err := counting.take(width, 0)
			width = 0
			return err
		case name == "c" && !t.closes:
			column++
			if at := t.attribute("r"); at != nil {
				var err error
				if column, err = columnOf(at); err != nil {
					return err
				}
			}
			if count++; count > excelize.MaxColumns {
				return &Error{Code: "too-many-columns"}
			}
			switch kind := string(t.attribute("t")); kind {
			case "", "b", "d", "e", "n", "str", "inlineStr":
				refers = false
			case "s":
				refers = true
			default:
				return &Error{Code: "damaged", Args: map[string]string{"what": "a cell of no known kind"}}
			}
		case name == "f" && !t.closes:
			width = max(width, column)
		case (name == "v" || name == "t") && t.closes:
			width = max(width, column)
			n := len(text)
			if refers && name == "v" {
				n = int(longest)
				if i, err := strconv.Atoi(string(text)); err == nil && i >= 0 && i < len(shared) {
					n = int(shared[i])
				}
			}
			return counting.spend(n) // the cell is counted with its row
		case name == "mergeCell" && !t.closes:
			if len(seen.merged) >= MaxRows {
				return &Error{Code: "too-many-cells"}
			}
			seen.merged = append(seen.merged, string(t.attribute("ref")))
		case name == "col" && !t.closes:
			if hidden := string(t.attribute("hidden")); (hidden == "1" || hidden == "true") && len(seen.hidden) < excelize.MaxColumns {
				seen.hidden = append(seen.hidden, [2]int{t.number("min"), t.number("max")})
			}
		}
		return nil
	}
}

// columnOf is the column of a cell by its name, such as AB12.
func columnOf(name []byte) (int, error) {
	column, _, err := excelize.CellNameToCoordinates(string(name))
	if err != nil {
		return 0, &Error{Code: "damaged", Args: map[string]string{"what": "a cell is called " + string(name[:min(len(name), 20)])}}
	}
	return column, nil
}

func sheetOf(f *excelize.File, name string, seen sheetParts, left *budget) (roster.Table, error) {
	var t roster.Table
	rows, err := f.Rows(name)
	if err != nil {
		return t, nil // a sheet of another kind, such as a chart
	}
	defer rows.Close()
	width := 0
	for line := 1; rows.Next(); line++ {
		cells, err := rows.Columns()
		if err != nil {
			return t, damagedSheet(name)
		}
		if err := left.tick(); err != nil {
			return t, err
		}
		if cells = trimmed(cells); len(cells) == 0 {
			continue
		}
		for i, c := range cells {
			cells[i] = keep(c)
		}
		for len(t.Rows) < line-1 { // blank rows, known to be above something
			if err := grow(&t, roster.Row{Line: len(t.Rows) + 1, Cells: []string{}}); err != nil {
				return t, err
			}
		}
		if err := grow(&t, roster.Row{Line: line, Cells: cells, Hidden: rows.GetRowOpts().Hidden}); err != nil {
			return t, err
		}
		for _, c := range cells {
			if err := left.take(1, len(c)); err != nil {
				return t, err
			}
		}
		width = max(width, len(cells))
	}
	for _, m := range seen.merged {
		from, to, _ := strings.Cut(m, ":")
		c0, r0, err0 := excelize.CellNameToCoordinates(from)
		_, r1, err1 := excelize.CellNameToCoordinates(to)
		if err0 == nil && err1 == nil {
			if err := spread(&t, r0-1, r1-1, c0-1, left); err != nil {
				return t, err
			}
		}
	}
	for i := range width {
		for _, h := range seen.hidden {
			if i+1 >= h[0] && i+1 <= h[1] {
				t.HiddenColumns = append(t.HiddenColumns, i)
				break
			}
		}
	}
	return t, nil
}

// spread puts a cell that is merged over several rows into each of them, as it
// is seen beside each. Over several columns it stays in the first.
func spread(t *roster.Table, from, to, column int, left *budget) error {
	if from >= len(t.Rows) || column >= len(t.Rows[from].Cells) || t.Rows[from].Cells[column] == "" {
		return nil
	}
	v := t.Rows[from].Cells[column]
	for i := from + 1; i <= to && i < len(t.Rows); i++ {
		cells := t.Rows[i].Cells
		if err := left.take(max(1, column+1-len(cells)), 0); err != nil {
			return err
		}
		if err := left.take(1, len(v)); err != nil {
			return err
		}
		for len(cells) <= column {
			cells = append(cells, "")
		}
		cells[column] = v
		t.Rows[i].Cells = cells
	}
	return nil
}
