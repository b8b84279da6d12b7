package classroom

import (
	"context"
	"strconv"
	"time"

	"golang.org/x/sync/errgroup"

	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/store"
)

// A Note is something in a class that needs attention.
type Note = store.Note

// A Tab is a class as it hangs on the rail. Troubled says that it can't be read
// just now; then its name alone is known.
type Tab struct {
	store.Class
	Staff    []Member
	Students int
	Notes    []Note
	Ready    bool // its room has been packed
	Troubled bool
}

// A Member is somebody on a class's staff.
type Member struct{ Account, Name, Role string }

// atOnce is how many classes are read at the same time for one who looks.
const atOnce = 4

// Rail returns the classes on whose staff an account is, all of them for an empty
// one, with what needs attention there. One that can't be read takes nothing
// along; of one that didn't change nothing is worked out again.
func (c *Registers) Rail(ctx context.Context, account string) ([]Tab, error) {
	classes, err := c.Store.Classes(ctx, account)
	if err != nil {
		return nil, err
	}
	ids := make([]string, len(classes))
	for i, cl := range classes {
		ids[i] = cl.ID
	}
	known, err := c.Store.Tabs(ctx, ids)
	if err != nil {
		return nil, err
	}
	staff, err := c.Store.StaffOf(ctx, ids)
	if err != nil {
		return nil, err
	}
	book, err := c.book(ctx)
	if err != nil {
		return nil, err
	}
	day := c.Now().In(c.School().Zone).Format(time.DateOnly)
	out := make([]Tab, len(classes))
	var all errgroup.Group
	all.SetLimit(atOnce)
	for i, cl := range classes {
		out[i] = Tab{Class: cl, Staff: book.members(staff[cl.ID])}
		tag := Tag{cl.Revision, book.revision, day}
		if p := known[cl.ID]; p.Tag == tag.String() {
			out[i].take(p)
			continue
		}
		all.Go(func() error {
			p, err := c.tab(ctx, cl.ID, tag)
			if err != nil && ctx.Err() != nil {
				return ctx.Err()
			}
			if err != nil {
				c.Log.Warn("a class can't be read", "class", cl.ID, "error", err)
				out[i].Troubled = true
				return nil
			}
			out[i].take(p)
			return nil
		})
	}
	return out, all.Wait()
}

func (p *Tab) take(of store.Tab) { p.Students, p.Ready, p.Notes = of.Students, of.Ready, of.Notes }

// tab works out what the rail says of a class.
func (c *Registers) tab(ctx context.Context, class string, tag Tag) (store.Tab, error) {
	r, err := c.readAt(ctx, class, tag)
	if err != nil {
		return store.Tab{}, err
	}
	p := store.Tab{ClassID: class, Tag: tag.String(), Students: len(r.Students), Ready: len(r.entries) > 0, Notes: r.attention()}
	return p, c.Store.SaveTab(ctx, p)
}

// members are a class's staff by name.
func (b *knownBook) members(staff []store.StaffMember) []Member {
	out := make([]Member, len(staff))
	for i, m := range staff {
		out[i] = Member{m.Account, b.account(m.Account).Name(), m.Role}
	}
	return out
}

// makeAttention lists what needs attention in a class today.
func (r *reading) makeAttention() (notes []Note) {
	add := func(code string, n int) {
		if n > 0 {
			notes = append(notes, Note{Reason: packing.Reason{Code: code, Args: map[string]string{"count": strconv.Itoa(n)}}, Count: n})
		}
	}
	unsent := 0
	for _, h := range r.handouts {
		if h.SendProblem != nil {
			unsent++
		}
	}
	add("handouts-unsent", unsent)
	if len(r.entries) == 0 {
		return notes
	}
	unknown := map[string]bool{}
	for _, st := range r.Students {
		if st.Problem != nil {
			unknown[st.ID] = true
		}
	}
	add("students-unknown", len(unknown))
	lines := map[string]bool{}
	for k := range r.stuck {
		if k.Whom.Row == "" || !unknown[k.Whom.Row] {
			lines[k.Whom.Row+string(k.What.Purpose)] = true
		}
	}
	add("lines-stuck", len(lines))
	l := r.lacks()
	add("students-missing", l.Students)
	add("changes-waiting", l.Changes)
	asked := 0
	for _, st := range r.room.Students {
		if st.Asked != nil {
			asked++
		}
	}
	add("movers-asked", asked)
	asked = 0
	for _, l := range r.leavers(nil) {
		if l.Decision == "" {
			asked++
		}
	}
	add("leavers-asked", asked)
	return notes
}
