package store

import (
	"context"
	"errors"
	"time"
)

// SchoolSettings are what an office said about its school; empty: nothing was said.
type SchoolSettings struct {
	Name      string `json:"name,omitempty"`
	Domain    string `json:"domain,omitempty"`
	Zone      string `json:"zone,omitempty"`     // as in the zone database
	Language  string `json:"language,omitempty"` // BCP 47
	SatchelMB int64  `json:"satchel_mb,omitempty"`
	// OfficeCodes keeps codes for students' next sign-in to the office.
	OfficeCodes bool `json:"office_codes,omitempty"`
	// StaffReset lets teachers give codes to students of their classes who have a password.
	StaffReset bool `json:"staff_reset,omitempty"`
	// OutsideMail lets people write to addresses of other domains that are no account's.
	OutsideMail bool `json:"outside_mail,omitempty"`
	// ListAccounts lets class lists that teachers accept enter students into the school book.
	ListAccounts bool              `json:"list_accounts,omitempty"`
	Words        map[string]string `json:"words,omitempty"`
	Site         string            `json:"site,omitempty"` // where its pages are, without a slash at its end
	Post         PostSettings      `json:"post,omitzero"`
	Service      ServiceSettings   `json:"service,omitzero"`
}

// ServiceSettings are the school's own service that people sign in with. Its secret isn't
// kept here.
type ServiceSettings struct {
	Client string `json:"client,omitempty"` // what we are called there
	Issuer string `json:"issuer,omitempty"` // empty: there is none
	Make   bool   `json:"make,omitempty"`   // whoever it vouches for gets a student's account
	Name   string `json:"name,omitempty"`   // what people call it
}

// PostSettings are how the school's mail goes out. Its password isn't kept here.
type PostSettings struct {
	From      string `json:"from,omitempty"`      // address
	PerMinute int    `json:"perMinute,omitempty"` // messages; 0: as many as there are
	Port      int    `json:"port,omitempty"`      // 0: the usual one
	Security  string `json:"security,omitempty"`
	Server    string `json:"server,omitempty"` // empty: the stand-in
	User      string `json:"user,omitempty"`
}

// SchoolSettings returns what was said; there is false where nothing ever was. Within a
// transaction, nobody else changes it until that ends.
func (s *Store) SchoolSettings(ctx context.Context) (out SchoolSettings, there bool, err error) {
	var row struct {
		Settings asJSON[SchoolSettings] `db:"settings"`
	}
	query := `select settings from school`
	if s.SQLTx() != nil {
		query += ` for update`
	}
	err = s.get(ctx, &row, query)
	if errors.Is(err, ErrNotFound) {
		return out, false, nil
	}
	return row.Settings.V, err == nil, err
}

// SaveSchoolSettings keeps what was said.
func (s *Store) SaveSchoolSettings(ctx context.Context, to SchoolSettings, at time.Time) error {
	return s.exec(ctx, `insert into school (settings, changed_at) values ($1, $2) on conflict (id) do update set settings = excluded.settings, changed_at = excluded.changed_at`, asJSON[SchoolSettings]{to}, at)
}

// A FirstKey opens the first start once: its digest is kept, not itself.
type FirstKey struct {
	Digest  []byte    `db:"digest"`
	Address string    `db:"address"` // of the account it mends; empty: whatever is said
	Until   time.Time `db:"until"`
}

// InsertFirstKey keeps one; those before it open nothing any more.
func (s *Store) InsertFirstKey(ctx context.Context, k FirstKey) error {
	return s.exec(ctx, `with before as (delete from first_keys where address = $2) insert into first_keys (digest, address, until) values ($1, $2, $3)`, k.Digest, k.Address, k.Until)
}

// FirstKey returns the key of a digest; within a transaction it is held until that ends.
func (s *Store) FirstKey(ctx context.Context, digest []byte) (FirstKey, error) {
	var k FirstKey
	query := `select digest, address, until from first_keys where digest = $1`
	if s.SQLTx() != nil {
		query += ` for update`
	}
	return k, s.get(ctx, &k, query, digest)
}

// SpendFirstKey has a key open nothing any more.
func (s *Store) SpendFirstKey(ctx context.Context, digest []byte) error {
	return s.one(ctx, `delete from first_keys where digest = $1`, digest)
}
