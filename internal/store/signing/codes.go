package signing

import (
	"context"
	"encoding/json"
	"time"
)

// Place notes that the office placed the students of a class there who are on its list now and
// have an account.
func (s Signing) Place(ctx context.Context, classes []string, by string, at time.Time) error {
	return s.Exec(ctx, `insert into placements (class_id, account, by, at) select class_id, account, $2, $3 from rows
		where class_id = any($1::uuid[]) and left_at is null and account <> ''
		on conflict do nothing`, classes, by, at)
}

// Placed are the accounts that the office placed in a class.
func (s Signing) Placed(ctx context.Context, class string) (map[string]bool, error) {
	var found []string
	err := s.All(ctx, &found, `select account from placements where class_id = $1`, class)
	out := make(map[string]bool, len(found))
	for _, a := range found {
		out[a] = true
	}
	return out, err
}

// A CodeMade is a code that was made for an account.
type CodeMade struct {
	ID      string    `db:"id" json:"id"`
	Account string    `db:"account" json:"account"`
	By      string    `db:"by" json:"by"`
	At      time.Time `db:"at" json:"at"`
	Until   time.Time `db:"until" json:"until"`
	Mailed  bool      `db:"mailed" json:"mailed"` // to the account's own address
	Away    bool      `db:"away" json:"away"`     // the password it had opens nothing any more
}

// InsertCodes keeps who made codes for whom.
func (s Signing) InsertCodes(ctx context.Context, made []CodeMade) error {
	b, err := json.Marshal(made)
	if err != nil {
		return err
	}
	return s.Exec(ctx, `insert into codes_made select *
		from jsonb_to_recordset($1::jsonb) as c(id uuid, account text, by text, at timestamptz, until timestamptz,
			mailed boolean, away boolean)`, string(b))
}

// CodesMade are the codes made for an account, the latest first, twenty at most.
func (s Signing) CodesMade(ctx context.Context, account string) ([]CodeMade, error) {
	out := []CodeMade{}
	return out, s.All(ctx, &out, `select id, account, by, at, until, mailed, away from codes_made where account = $1
		order by at desc, id limit 20`, account)
}

// ClassesOf returns the classes that each of some accounts is in the list of.
func (s Signing) ClassesOf(ctx context.Context, accounts []string) (map[string][]string, error) {
	var rows []struct {
		Class   string `db:"class_id"`
		Account string `db:"account"`
	}
	if err := s.All(ctx, &rows, `select distinct class_id, account from rows
		where account = any($1) and account <> '' and left_at is null order by class_id`, accounts); err != nil {
		return nil, err
	}
	out := map[string][]string{}
	for _, r := range rows {
		out[r.Account] = append(out[r.Account], r.Class)
	}
	return out, nil
}
