package packing

// An Outcome is what a list says of one student: that they are given what it is about,
// left out, or to be fixed first. Section is AlreadyThere for who is given.
type Outcome struct {
	Row     string  `json:"row"`
	Section Section `json:"section"`
	Reason  *Reason `json:"reason,omitempty"`
}

// Outcomes says of every student a list is about exactly one thing, in its order. What
// must be fixed goes before what is given.
func (l List) Outcomes() []Outcome {
	var out []Outcome
	at := map[string]int{}
	for _, line := range l.Lines {
		row := line.Wanted.Key.Whom.Row
		if row == "" || line.Section == ToChange {
			continue
		}
		i, known := at[row]
		if !known {
			i = len(out)
			at[row], out = i, append(out, Outcome{Row: row, Section: AlreadyThere})
		}
		copied := line.Wanted.Key.What.Purpose == Copy || line.Wanted.Key.What == (What{})
		switch o := &out[i]; {
		case line.Section == NeedsFixing && o.Section != NeedsFixing, line.Section == LeftOut && copied && o.Section == AlreadyThere:
			o.Section, o.Reason = line.Section, line.Reason
		}
	}
	return out
}
