package accounts

import (
	"strconv"

	"jollysatchel/internal/core/lists"
	"jollysatchel/internal/core/record"
)

// Bound has those lines of a list be wrong that would say of an account what is longer than the
// office may say; a class's list may hold longer values. What isn't changed may be from before the
// bound, as in a Change.
func Bound(lines []lists.BookLine) {
	for i, l := range lines {
		if l.Act != lists.BookEnter && l.Act != lists.BookChange {
			continue
		}
		now, to := entered(l.Now).texts(), entered(l.To).texts()
		for f, x := range to {
			if len(*x.value) > x.most && *x.value != *now[f].value {
				lines[i].Act, lines[i].Code = lists.BookWrong, "value-too-long"
				lines[i].Args = map[string]string{"column": record.Field(x.field).Label(), "most": strconv.Itoa(x.most)}
				break
			}
		}
	}
}

func entered(e lists.BookEntry) *Account {
	return &Account{Given: e.Given, Family: e.Family, Address: e.Address, Number: e.Number}
}
