package accounts

import (
	"strconv"

	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/roster"
)

// Bound has those lines of a list be wrong that would give an account what is longer than the
// office may say of it; a class's list may hold longer values.
func Bound(lines []roster.BookLine) {
	for i, l := range lines {
		if l.Act != roster.BookEnter && l.Act != roster.BookChange {
			continue
		}
		a := Account{Given: l.To.Given, Family: l.To.Family, Address: l.To.Address, Number: l.To.Number}
		for _, x := range a.texts() {
			if len(*x.value) > x.most {
				lines[i].Act, lines[i].Code = roster.BookWrong, "value-too-long"
				lines[i].Args = map[string]string{"column": record.Field(x.field).Label(), "most": strconv.Itoa(x.most)}
				break
			}
		}
	}
}
