package tables

import (
	"bytes"

	"github.com/xuri/excelize/v2"

	"jollysatchel/internal/core/roster"
)

// xlsx is the spreadsheet format of ECMA-376. Cells are read as people see
// them: dates and numbers in their form, formulas as their last result.
type xlsx struct{}

func (xlsx) name() string { return "xlsx" }

func (xlsx) recognises(b []byte) bool { return has(b, "xl/workbook.xml") }

func (xlsx) read(b []byte) (Book, error) {
	if _, err := unpack(b); err != nil {
		return Book{}, err
	}
	f, err := excelize.OpenReader(bytes.NewReader(b), excelize.Options{UnzipSizeLimit: maxUnpacked, UnzipXMLSizeLimit: maxUnpacked})
	if err != nil {
		return Book{}, &Error{Code: "damaged", Args: map[string]string{"what": err.Error()}}
	}
	defer f.Close()
	var book Book
	for _, name := range f.GetSheetList() {
		visible, err := f.GetSheetVisible(name)
		if err != nil {
			return Book{}, damagedSheet(name)
		}
		t, err := sheetOf(f, name)
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

func sheetOf(f *excelize.File, name string) (roster.Table, error) {
	var t roster.Table
	rows, err := f.Rows(name)
	if err != nil {
		return t, nil // a sheet of another kind, such as a chart
	}
	defer rows.Close()
	filled, width := 0, 0
	for line := 1; rows.Next(); line++ {
		cells, err := rows.Columns()
		if err != nil {
			return t, damagedSheet(name)
		}
		if cells = trimmed(cells); cells == nil {
			cells = []string{}
		}
		if err := grow(&t, roster.Row{Line: line, Cells: cells, Hidden: rows.GetRowOpts().Hidden}); err != nil {
			return t, err
		}
		if len(cells) > 0 {
			filled, width = line, max(width, len(cells))
		}
	}
	t.Rows = t.Rows[:filled]
	merged, err := f.GetMergeCells(name, true)
	if err != nil {
		return t, damagedSheet(name)
	}
	for _, m := range merged {
		c0, r0, err0 := excelize.CellNameToCoordinates(m.GetStartAxis())
		_, r1, err1 := excelize.CellNameToCoordinates(m.GetEndAxis())
		if err0 == nil && err1 == nil {
			spread(&t, r0-1, r1-1, c0-1)
		}
	}
	for i := range width {
		column, err := excelize.ColumnNumberToName(i + 1)
		if err != nil {
			break
		}
		if visible, err := f.GetColVisible(name, column); err == nil && !visible {
			t.HiddenColumns = append(t.HiddenColumns, i)
		}
	}
	return t, nil
}

// spread puts a cell that is merged over several rows into each of them, as it
// is seen beside each. Over several columns it stays in the first.
func spread(t *roster.Table, from, to, column int) {
	if from >= len(t.Rows) || column >= len(t.Rows[from].Cells) || t.Rows[from].Cells[column] == "" {
		return
	}
	v := t.Rows[from].Cells[column]
	for i := from + 1; i <= to && i < len(t.Rows); i++ {
		cells := t.Rows[i].Cells
		for len(cells) <= column {
			cells = append(cells, "")
		}
		cells[column] = v
		t.Rows[i].Cells = cells
	}
}
