package telling

import "time"

// Again is what happens to messages that somebody sends once more, to the addresses their rows have
// now: those that failed are tried again, by their ids; those that were sent, or failed as part of a
// mail of several, go as others of the same words. What is under way stays so.
func Again(found []Message, now map[string]string, by string, at time.Time, newID func() string) (retry map[string]string, anew []Message) {
	retry = map[string]string{}
	for _, m := range found {
		if !m.Outside && now[m.Row] != "" {
			m.ToAddress = now[m.Row]
		}
		switch {
		case m.State == Failed && !m.InDigest:
			retry[m.ID] = m.ToAddress
		case m.State == Failed, m.State == Sent:
			m.SentBy, m.About = by, "again/"+newID()
			m.State, m.NotBefore, m.MadeAt = Waiting, at, at
			anew = append(anew, m)
		}
	}
	return retry, anew
}

// CountWritten is how many of some messages somebody wrote.
func CountWritten(of []Message) int {
	n := 0
	for _, m := range of {
		if m.Kind == Written {
			n++
		}
	}
	return n
}
