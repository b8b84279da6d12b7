package record

import (
	"fmt"
	"strconv"
)

// SchoolYearOf returns the school year a day belongs to, such as "2026-27": one
// begins with August (common practice, no published source). The day is written
// as in ISO 8601, 2026-11-25; anything else gives nothing.
func SchoolYearOf(day string) string {
	if len(day) != len("2026-11-25") {
		return ""
	}
	year, errYear := strconv.Atoi(day[:4])
	month, errMonth := strconv.Atoi(day[5:7])
	if errYear != nil || errMonth != nil {
		return ""
	}
	if month < 8 {
		year--
	}
	return fmt.Sprintf("%d-%02d", year, (year+1)%100)
}

// DayValues are the columns that a day stands for, and the term it is in.
func DayValues(day, term string) Values {
	v := Values{Date: day, SchoolYear: SchoolYearOf(day), Term: term}
	if len(day) >= 4 {
		v[Year] = day[:4]
	}
	return v
}
