package people

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/passwords"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/schoolbook"
	"jollysatchel/internal/store"
	"jollysatchel/internal/store/signing"
	"jollysatchel/internal/usecase/seam"
)

// mostCodes are given at once.
const mostCodes = 2000

// A Code lets somebody in for the first time, once.
type Code struct {
	Account accounts.Account
	Code    string
	Until   time.Time
}

// A CodesAsked says how codes are given: with Away, the passwords there are open nothing any
// more; with Mail, they go to the accounts' own addresses and are told nowhere else; with
// Replace, codes that another made and that are still good end.
type CodesAsked struct{ Away, Mail, Replace bool }

// GiveCodes gives accounts codes for their next sign-in. Codes are nowhere but in the answer
// and, with mail, in the messages they go out by, until those are sent. Who made them is in
// the accounts' own record, in the school book and in the log of each of their classes.
func (c *People) GiveCodes(ctx context.Context, by string, ids []string, ask CodesAsked) ([]Code, error) {
	if len(ids) > mostCodes {
		return nil, change.TooMany("accounts", "too-many", mostCodes)
	}
	found, err := c.SchoolBook.ByID(ctx, ids)
	if err != nil {
		return nil, err
	}
	at := c.Now()
	until := at.Add(codeFor)
	var out []Code
	var made []signing.CodeMade
	codes := map[string]string{}
	for _, id := range ids {
		a, there := found[id]
		if !there {
			return nil, seam.ErrNotFound
		}
		if _, twice := codes[id]; twice {
			continue
		}
		var random [10]byte
		if _, err := rand.Read(random[:]); err != nil {
			return nil, err
		}
		code := passwords.Code(random)
		codes[id] = passwords.PlainCode(code)
		out = append(out, Code{a, code, until})
		made = append(made, signing.CodeMade{ID: store.NewID(), Account: id, By: by, At: at, Until: until, Mailed: ask.Mail, Away: ask.Away})
	}
	err = c.directory.SetCodes(ctx, schoolbook.Codes{Of: codes, By: by, At: at, Until: until, Away: ask.Away, Replace: ask.Replace})
	var good *schoolbook.CodesGood
	if errors.As(err, &good) {
		first := found[good.Accounts[0]]
		return nil, &change.Invalid{Field: "accounts", Code: "codes-good",
			Args: map[string]string{"count": strconv.Itoa(len(good.Accounts)), "name": first.Name(), "until": c.Moment(*first.CodeUntil)}}
	}
	if err != nil {
		return nil, seam.BookError(err)
	}
	act := c.Act(ctx, by, "codes-given", map[string]any{"things": len(out), "accounts": ids})
	act.Key = "" // asked again, they are other codes
	err = c.Store.Change(ctx, act, nil, func(tx *store.Store) error {
		if err := tx.InsertCodes(ctx, made); err != nil || !ask.Mail {
			return err
		}
		_, err := c.Courier.Post(ctx, tx, c.codeMails(by, out))
		return err
	})
	if err != nil {
		return nil, err
	}
	return out, c.codesInLogs(ctx, by, found, ids)
}

// codesInLogs has each class see for whom of its list codes were made, and nothing of others.
func (c *People) codesInLogs(ctx context.Context, by string, found map[string]accounts.Account, ids []string) error {
	classes, err := c.Store.ClassesOf(ctx, ids)
	if err != nil {
		return err
	}
	names := map[string][]string{}
	for _, id := range ids {
		for _, class := range classes[id] {
			names[class] = append(names[class], found[id].Name())
		}
	}
	for _, class := range slices.Sorted(maps.Keys(names)) {
		n := len(names[class])
		act := c.Act(ctx, by, "codes-given-here", map[string]any{"things": n, "name": strings.Join(names[class][:min(n, 5)], ", ")}, class)
		act.Key = ""
		if err := c.Store.Change(ctx, act, nil, func(*store.Store) error { return nil }); seam.NotFound(err) != nil &&
			seam.NotFound(err) != seam.ErrNotFound {
			return err
		}
	}
	return nil
}

// CodesMade are the codes that were made for an account, the latest first.
func (c *People) CodesMade(ctx context.Context, account string) ([]signing.CodeMade, error) {
	return c.Store.CodesMade(ctx, account)
}

// codeMails are the messages that bring people their codes.
func (c *People) codeMails(by string, codes []Code) []telling.Message {
	school, now := c.School(), c.Now()
	out := make([]telling.Message, len(codes))
	for i, x := range codes {
		until := x.Until.In(school.Zone).Format("Mon 2 Jan, 15:04")
		out[i] = telling.CodeFor(x.Account.ID, x.Account.Name(), x.Account.Address, x.Code, until, school.Name, school.Site, now)
		out[i].About, out[i].SentBy = "code/"+store.NewID(), by
	}
	return out
}

// ClassCodes gives students of a class codes, where their accounts are known: those of rows,
// or all who have no way in yet; anyone who comes in through the school's own service has one.
// Otherwise anyone who can put somebody on a list could become them, so a teacher prints codes for
// those alone whom the office placed in the class, and has all others mailed; and who has a
// way in is given none unless the office lets teachers do that.
func (c *People) ClassCodes(ctx context.Context, by, class string, rows []string, ask CodesAsked) ([]Code, error) {
	if c.School().OfficeCodes {
		return nil, change.Refuse("rows", "office-only")
	}
	cl, book, err := c.ClassNow(ctx, class)
	if err != nil {
		return nil, err
	}
	placed, err := c.Store.Placed(ctx, class)
	if err != nil {
		return nil, err
	}
	var ids []string
	unplaced := ""
	for _, st := range cl.Students {
		a := book.Account(st.Account)
		if a.Role != accounts.Student || a.Off {
			continue
		}
		ready := a.Ready || c.School().Service.Issuer != ""
		picked := len(rows) == 0 && !ready &&
			(a.CodeUntil == nil || a.CodeBy == by || ask.Replace || !a.CodeUntil.After(c.Now())) || slices.Contains(rows, st.ID)
		switch {
		case !picked:
		case ready && !c.School().StaffReset:
			return nil, change.Refuse("rows", "reset-by-office", "name", a.Name())
		case !ask.Mail && !placed[a.ID]:
			unplaced = a.Name()
			if len(rows) > 0 {
				return nil, change.Refuse("rows", "not-placed", "name", unplaced)
			}
		default:
			ids = append(ids, a.ID)
		}
	}
	switch {
	case len(ids) == 0 && unplaced != "":
		return nil, change.Refuse("rows", "not-placed", "name", unplaced)
	case len(ids) == 0:
		return nil, change.Refuse("rows", "nobody-needs-codes")
	}
	return c.GiveCodes(ctx, by, ids, ask)
}

// A Placing is how many of a class's students have an account, and how many of those the office
// placed in it. Seen tells who they are from who is on the list by now.
type Placing struct {
	Students, Placed int
	Seen             string
}

// Placing returns a class's.
func (c *People) Placing(ctx context.Context, class string) (Placing, error) {
	book, err := c.Book(ctx)
	if err != nil {
		return Placing{}, err
	}
	return c.placing(ctx, c.Store, book, class)
}

func (c *People) placing(ctx context.Context, st *store.Store, book *seam.Known, class string) (Placing, error) {
	var out Placing
	cl, err := c.ReadClass(ctx, st, book, class)
	if err != nil {
		return out, err
	}
	placed, err := st.Placed(ctx, class)
	var accounts []string
	for _, x := range cl.Students {
		if x.Account != "" && x.Problem == nil {
			accounts = append(accounts, x.Account)
			if placed[x.Account] {
				out.Placed++
			}
		}
	}
	slices.Sort(accounts)
	out.Students, out.Seen = len(accounts), hex.EncodeToString(digestOf(strings.Join(accounts, "\n"))[:12])
	return out, err
}

// PlaceClass is the office's yes to a class: its teachers may print codes for those who are on
// its list now. seen is that of the Placing it said yes to: nobody is put among them meanwhile.
func (c *People) PlaceClass(ctx context.Context, by, class, seen string) error {
	book, err := c.Book(ctx)
	if err != nil {
		return err
	}
	what := map[string]any{}
	return seam.NotFound(c.Store.Change(ctx, c.Act(ctx, by, "class-placed", what, class), nil, func(tx *store.Store) error {
		now, err := c.placing(ctx, tx, book, class)
		if err != nil {
			return err
		}
		if now.Seen != seen {
			return &change.Changed{Field: "list"}
		}
		what["things"] = now.Students
		return tx.Place(ctx, []string{class}, by, c.Now())
	}))
}
