package cupboardtest

import (
	"errors"
	"io"
	"strings"
	"testing"
	"time"

	"jollysatchel/internal/core/access"
	"jollysatchel/internal/core/ledger"
	"jollysatchel/internal/cupboard"
)

func bin(t *testing.T, r *room) {
	class, satchel := r.classroom()
	c := r.file("oduya", satchel.ID, "log.md", "text")
	v, err := r.Write(r.ctx, "oduya", r.key(), c.ID, 1, strings.NewReader("more"))
	r.ok(err)
	var conflict *cupboard.Conflict
	if err := r.Bin(r.ctx, "oduya", r.key(), c.ID, cupboard.Seen{c.ID: 1}); !errors.As(err, &conflict) || conflict.Current.Number != v.Number {
		t.Errorf("binned at a version that isn't the newest: %v", err)
	}
	if err := r.Bin(r.ctx, "oduya", r.key(), satchel.ID, cupboard.Seen{c.ID: 1}); !errors.As(err, &conflict) ||
		conflict.Current.Number != v.Number {
		t.Errorf("a folder binned in which something was written since: %v", err)
	}
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	if err := r.Bin(r.ctx, "oduya", r.key(), satchel.ID, cupboard.Seen{c.ID: v.Number}); !errors.As(err, &conflict) ||
		conflict.Current.Number != 1 {
		t.Errorf("a folder binned to which another's came since: %v", err)
	}
	r.ok(r.Bin(r.ctx, "dube", r.key(), essay.ID, nil))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, cupboard.Seen{c.ID: v.Number}))
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, cupboard.Seen{})) // one's own goes along
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	r.ok(r.Remove(r.ctx, "dube", r.key(), essay.ID))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), c.ID, cupboard.Seen{c.ID: v.Number}))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, cupboard.Seen{})) // what is in the bin already doesn't count
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	_, err = r.Write(r.ctx, "oduya", r.key(), c.ID, v.Number, strings.NewReader("in the bin"))
	r.is(err, cupboard.ErrNotFound, "written in the bin")
	r.ok(r.Restore(r.ctx, "oduya", r.key(), c.ID))
	r.is(r.Bin(r.ctx, "dube", r.key(), c.ID, nil), cupboard.ErrNoRight, "a copy, by its student")
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	for _, id := range []string{satchel.ID, c.ID} {
		for _, as := range []string{"oduya", "dube"} {
			_, err := r.Get(r.ctx, as, id)
			r.is(err, cupboard.ErrNotFound, "in the bin")
		}
		if st := r.state(id); st.Place != ledger.InBin || st.BinUntil.IsZero() {
			t.Errorf("state %+v", st)
		}
	}
	if there, err := r.List(r.ctx, "oduya", class.ID); err != nil || len(there) != 0 {
		t.Errorf("still listed: %v, %v", there, err)
	}
	in, err := r.Binned(r.ctx, "oduya")
	r.ok(err)
	if len(in) != 1 || in[0].ID != satchel.ID || in[0].By != "oduya" || in[0].Name != "Dube" {
		t.Errorf("the bin holds %+v", in)
	}
	r.is(r.Restore(r.ctx, "eriksen", r.key(), satchel.ID), cupboard.ErrNotFound, "by one who sees nothing")
	r.is(r.Restore(r.ctx, "dube", r.key(), satchel.ID), cupboard.ErrNoRight, "by one who could edit")
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	if r.text("dube", c.ID, 0) != "more" || r.state(satchel.ID).Parent != class.ID {
		t.Error("it isn't where it lay")
	}
	r.is(r.Restore(r.ctx, "oduya", r.key(), satchel.ID), cupboard.ErrNotFound, "what isn't in the bin")

	// Its folder binned after it: it comes back to the top of its owner's things.
	pocket := r.folder("oduya", satchel.ID, "Field work")
	r.ok(r.Bin(r.ctx, "oduya", r.key(), pocket.ID, nil))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	r.ok(r.Restore(r.ctx, "oduya", r.key(), pocket.ID))
	if got, err := r.Get(r.ctx, "oduya", pocket.ID); err != nil || got.Parent != "" || len(got.Path) != 0 {
		t.Errorf("restored: %+v, %v", got, err)
	}

	until := r.state(satchel.ID).BinUntil
	r.Stage.Pass(time.Until(until) + 48*time.Hour)
	if st := r.state(satchel.ID); st.Place != ledger.Gone {
		t.Errorf("after its term: %+v", st)
	}
	r.is(r.Restore(r.ctx, "oduya", r.key(), satchel.ID), cupboard.ErrNotFound, "after its term")
	r.ok(r.Stage.Forget(r.ctx))
	if st := r.state(c.ID); st.Place != ledger.Gone {
		t.Errorf("what was in it: %+v", st)
	}
	if st := r.state(pocket.ID); st.Place != ledger.Lies {
		t.Errorf("what was restored: %+v", st)
	}
}

func refusals(t *testing.T, r *room) {
	_, satchel := r.classroom()
	own := r.folder("dube", satchel.ID, "My notes")
	r.file("dube", own.ID, "a", "x")
	r.file("oduya", own.ID, "b", "x")
	r.file("oduya", own.ID, "c", "x")
	for what, err := range map[string]error{"bin": r.Bin(r.ctx, "dube", r.key(), own.ID, nil),
		"move": r.Move(r.ctx, "dube", r.key(), own.ID, ""), "end": r.Remove(r.ctx, "dube", r.key(), own.ID)} {
		var refused *cupboard.Refused
		if !errors.As(err, &refused) || refused.Missing != 2 || !errors.Is(err, cupboard.ErrNoRight) {
			t.Errorf("%s: %v", what, err)
		}
	}
	r.ok(r.Rename(r.ctx, "dube", r.key(), own.ID, "Notes")) // a name concerns nobody else
	r.ok(r.Bin(r.ctx, "oduya", r.key(), own.ID, nil))       // the class's teacher may
}

func othersInBin(t *testing.T, r *room) {
	_, satchel := r.classroom()
	pocket := r.folder("oduya", satchel.ID, "Field work")
	own := r.folder("dube", pocket.ID, "My notes")
	note := r.file("dube", own.ID, "note", "mine")
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	in, err := r.Binned(r.ctx, "dube")
	r.ok(err)
	if len(in) != 1 || in[0].ID != own.ID {
		t.Fatalf("the student's bin: %+v", in)
	}
	r.is(r.Restore(r.ctx, "dube", r.key(), own.ID), cupboard.ErrWaits, "out of a satchel that is in the bin")
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	if r.text("dube", note.ID, 0) != "mine" || r.level("oduya", note.ID) != access.Edit {
		t.Error("it isn't back where staff reach it")
	}
	r.ok(r.Bin(r.ctx, "dube", r.key(), own.ID, nil))
	r.ok(r.Bin(r.ctx, "oduya", r.key(), satchel.ID, nil))
	r.is(r.Restore(r.ctx, "dube", r.key(), own.ID), cupboard.ErrWaits, "binned before its satchel was")
	r.ok(r.Restore(r.ctx, "oduya", r.key(), satchel.ID))
	r.ok(r.Restore(r.ctx, "dube", r.key(), own.ID))
	if r.level("oduya", note.ID) != access.Edit {
		t.Error("what comes back isn't within the teacher's reach")
	}
}

func closing(t *testing.T, r *room) {
	class, satchel := r.classroom()
	r.share(class.ID, map[string]access.Level{"lindqvist": access.Edit})
	essay := r.file("dube", satchel.ID, "essay.md", "mine")
	at := essay.MadeAt
	r.is(r.Close(r.ctx, "dube", r.key(), essay.ID, access.Mark{}), cupboard.ErrNoRight, "by its owner, in another's tree")
	r.ok(r.Close(r.ctx, "oduya", r.key(), satchel.ID,
		access.Mark{Since: at, By: "oduya", Spares: []string{"oduya", "lindqvist"}, Exempt: map[string]time.Time{"eriksen": at.Add(time.Hour)}}))
	r.share(satchel.ID, map[string]access.Level{"eriksen": access.Edit}) // rules can be changed all the same
	for as, want := range map[string]access.Level{"dube": access.Read, "lindqvist": access.Edit, "eriksen": access.Edit} {
		if l := r.level(as, essay.ID); l != want {
			t.Errorf("%s has %v, want %v", as, l, want)
		}
	}
	_, err := r.AddFile(r.ctx, "dube", r.key(), cupboard.NewThing{Parent: satchel.ID, Name: "x"}, strings.NewReader("x"))
	r.is(err, cupboard.ErrNoRight, "adding to what is closed")
	for what, err := range map[string]error{
		"rename": r.Rename(r.ctx, "dube", r.key(), essay.ID, "x"), "move": r.Move(r.ctx, "dube", r.key(), essay.ID, ""),
		"bin": r.Bin(r.ctx, "dube", r.key(), essay.ID, nil),
		"end": r.Remove(r.ctx, "dube", r.key(), essay.ID), "hand over": r.HandOver(r.ctx, "dube", r.key(), essay.ID, "lindqvist"),
	} {
		r.is(err, cupboard.ErrNoRight, what+" what is closed, by its owner")
	}
	got, err := r.Get(r.ctx, "dube", essay.ID)
	r.ok(err)
	if got.Closed == nil || got.Closed.By != "oduya" {
		t.Errorf("the mark isn't told: %+v", got)
	}
	r.Stage.Pass(2 * time.Hour)
	if l := r.level("eriksen", essay.ID); l != access.Read {
		t.Errorf("after the extra time: %v", l)
	}
	r.ok(r.Reopen(r.ctx, "oduya", r.key(), satchel.ID))
	if l := r.level("dube", essay.ID); l != access.Owner {
		t.Errorf("open again: %v", l)
	}
}

func roots(t *testing.T, r *room) {
	class, satchel := r.classroom()
	r.share(class.ID, map[string]access.Level{"lindqvist": access.Edit})
	r.file("dube", satchel.ID, "essay.md", "mine")
	own := r.file("dube", "", "own.md", "mine")
	away := r.file("dube", "", "away.md", "mine")
	r.ok(r.Bin(r.ctx, "dube", r.key(), away.ID, nil))
	for as, want := range map[string][]string{"oduya": {class.ID}, "lindqvist": {class.ID}, "dube": {satchel.ID, own.ID}, "eriksen": nil} {
		got, err := r.Roots(r.ctx, as)
		r.ok(err)
		var ids []string
		for _, th := range got {
			ids = append(ids, th.ID)
		}
		if strings.Join(ids, " ") != strings.Join(want, " ") {
			t.Errorf("%s: %+v", as, got)
		}
	}
}

func seeking(t *testing.T, r *room) {
	text := strings.Repeat("0123456789", 70_000)
	f := r.file("oduya", "", "x", text)
	c, _, err := r.Open(r.ctx, "oduya", f.ID, 0)
	r.ok(err)
	defer c.Close()
	read := func(n int) string {
		t.Helper()
		b := make([]byte, n)
		_, err := io.ReadFull(c, b)
		r.ok(err)
		return string(b)
	}
	for _, at := range []int64{0, 1, 256<<10 - 3, 256 << 10, 512<<10 - 1, 699_990} {
		if got, err := c.Seek(at, io.SeekStart); err != nil || got != at || read(10) != text[at:at+10] {
			t.Errorf("from %d: %d, %v", at, got, err)
		}
	}
	if at, err := c.Seek(-20, io.SeekEnd); err != nil || at != 699_980 || read(10) != text[699_980:699_990] {
		t.Errorf("from its end: %d, %v", at, err)
	}
	if at, err := c.Seek(-5, io.SeekCurrent); err != nil || at != 699_985 || read(5) != "56789" {
		t.Errorf("back a little: %d, %v", at, err)
	}
	if _, err := c.Seek(-1, io.SeekStart); err == nil {
		t.Error("before its beginning")
	}
	if _, err := c.Seek(10, io.SeekEnd); err != nil {
		t.Error(err)
	}
	if n, err := c.Read(make([]byte, 1)); n != 0 || !errors.Is(err, io.EOF) {
		t.Errorf("after its end: %d, %v", n, err)
	}
}
