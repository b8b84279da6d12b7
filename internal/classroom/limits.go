package classroom

import "strconv"

// How long what people type may be, in bytes; of codes and periods, in letters.
const (
	mostClassName = 120
	mostCode      = 12
	mostPeriod    = 20
	mostTitle     = 200
	mostMessage   = 2000
	mostPartText  = 100 // of a name's pattern
)

func tooLong(field string, most int) *Invalid {
	return &Invalid{field, "too-long", map[string]string{"most": strconv.Itoa(most)}}
}
