package register

import (
	"maps"
	"slices"
	"strconv"
	"time"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/leaving"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/progress"
	"jollysatchel/internal/core/room"
)

// A Note is something in a class that needs attention; Count is how many
// students or lines it concerns.
type Note struct {
	Reason packing.Reason `json:"reason"`
	Count  int            `json:"count"`
	About  string         `json:"about,omitempty"` // id of the handout it is about
}

// NoteOf is a note of a kind that concerns so many, about something or nothing.
func NoteOf(code, about string, n int, args map[string]string) Note {
	all := map[string]string{"count": strconv.Itoa(n)}
	maps.Copy(all, args)
	return Note{Reason: packing.Reason{Code: code, Args: all}, Count: n, About: about}
}

// Decided says that what a note is about waits for a decision that the class's teachers alone make, so that
// nobody else of its staff is asked for it.
func (n Note) Decided() bool { return slices.Contains(decided, n.Reason.Code) }

var decided = []string{"movers-asked", "leavers-asked", "satchels-asked", "list-waits", "joiners-ask", "late-texts", "doors-differ"}

// Attention lists what needs attention in a class on a day, as in ISO 8601, where l is what a
// top-up would pack.
func (r *Facts) Attention(l picture.Lacking, day string) (notes []Note) {
	add := func(code string, n int) {
		if n > 0 {
			notes = append(notes, NoteOf(code, "", n, nil))
		}
	}
	unsent := 0
	for _, h := range r.Handouts {
		if h.SendProblem != nil {
			unsent++
		}
	}
	add("handouts-unsent", unsent)
	if len(r.Entries) == 0 {
		return notes
	}
	unknown, waiting := map[string]bool{}, 0
	for _, st := range r.Students {
		if st.Problem != nil {
			unknown[st.ID] = true
		}
		if st.Waits != nil && r.Entries[room.SatchelKey(r.ID, st.ID)] != nil {
			waiting++
		}
	}
	add("students-unknown", len(unknown))
	add("students-waiting", waiting)
	lines := map[string]bool{}
	for k := range r.Stuck {
		if k.Whom.Row == "" || !unknown[k.Whom.Row] {
			lines[k.Whom.Row+string(k.What.Purpose)] = true
		}
	}
	add("lines-stuck", len(lines))
	add("students-missing", l.Students)
	add("changes-waiting", l.Changes)
	asked := 0
	for _, st := range r.Room.Students {
		if st.Asked != nil && (st.Asked.Code == packing.MovedHere || st.Asked.Code == packing.SatchelRefused) {
			asked++
		}
	}
	add("movers-asked", asked)
	asked = 0
	for _, l := range leaving.Leavers(r.Picture, nil) {
		if l.Decision == "" {
			asked++
		}
	}
	add("leavers-asked", asked)
	return append(notes, r.due(day)...)
}

// due are notes of handouts that are due today or tomorrow, and how many have not begun
// there.
func (r *Facts) due(day string) (notes []Note) {
	today, err := time.Parse(time.DateOnly, day)
	if err != nil {
		return nil
	}
	for _, h := range r.Handouts {
		if h.Due.IsZero() || !h.Packed() || h.Settings.Way == handout.NoticeName {
			continue
		}
		code := ""
		switch h.Due.Format(time.DateOnly) {
		case day:
			code = "due-today"
		case today.AddDate(0, 0, 1).Format(time.DateOnly):
			code = "due-tomorrow"
		default:
			continue
		}
		absent, keys, idle, all := r.Out(h), r.KeysOf(h), 0, 0
		for _, st := range r.Students {
			if _, out := absent[st.ID]; out {
				continue
			}
			all++
			switch r.cell(keys(st.ID), st, false).State {
			case progress.Waits:
				all--
			case progress.Working, progress.Stuck:
			default:
				idle++
			}
		}
		if all > 0 {
			notes = append(notes, NoteOf(code, h.ID, 1,
				map[string]string{"all": strconv.Itoa(all), "title": h.Title, "time": h.Due.Format("15:04"), "idle": strconv.Itoa(idle)}))
		}
	}
	return notes
}
