package letters

import (
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/telling"
)

// An Ask is a message that somebody wants to send, or to see first: about a handout
// or none, to the rows that are meant (none: all who are in), at their own addresses or
// at those of a column. Kind is telling.Written, or what a handout tells by itself.
type Ask struct {
	Kind    telling.Kind
	Handout string
	Rows    []string
	Column  record.Field
	Text    *telling.Text // nil: what it says where nothing else was said
	Row     string        // whose is shown
}

// A Preview is a message as it would go out.
type Preview struct {
	Text     telling.Text   // with its columns
	Letter   telling.Letter // to the one who is shown
	Row      string
	Name     string
	To       []string
	Readers  []Meant  // all who are meant, in the order of the class
	Messages int      // that would be sent
	Strange  []string // words in brackets that are no column
	Lacking  map[string]int
	Columns  []string // that can be asked for, as they are written
}

// A Meant is somebody who is meant.
type Meant struct {
	Row, Name string
	Odd       telling.Oddity
}
