// Package standin is the school book that ships with Jolly Satchel, kept in
// PostgreSQL in the schema schoolbook.
package standin

import (
	"context"
	"database/sql"
	"embed"
	"errors"
	"io/fs"
	"strings"
	"time"

	"github.com/jmoiron/sqlx"
	"github.com/pressly/goose/v3"
	"github.com/pressly/goose/v3/database"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/gate"
	"jollysatchel/internal/schoolbook"
)

//go:embed migrations/*.sql
var migrations embed.FS

// A Standin is a school book on PostgreSQL.
type Standin struct {
	db *sqlx.DB
	// Demo lets the demo's passwords open.
	Demo bool
}

var _ schoolbook.Book = (*Standin)(nil)

// New returns the stand-in on db. Migrate must have been called on it once.
func New(db *sqlx.DB) *Standin { return &Standin{db: db} }

// Migrate brings the stand-in's schema up to date.
func Migrate(ctx context.Context, db *sql.DB) error {
	dir, err := fs.Sub(migrations, "migrations")
	if err != nil {
		return err
	}
	store, err := database.NewStore(database.DialectPostgres, "schoolbook_versions")
	if err != nil {
		return err
	}
	p, err := goose.NewProvider(goose.DialectCustom, db, dir, goose.WithStore(store))
	if err != nil {
		return err
	}
	_, err = p.Up(ctx)
	return err
}

// Add enters an account; hash is a password hash made by Hash. An account that
// is there already is left as it is.
func (s *Standin) Add(ctx context.Context, a accounts.Account, hash string) error {
	_, err := s.db.ExecContext(ctx, `insert into schoolbook.accounts (id, address, given, family, number, role, password)
		values ($1, $2, $3, $4, $5, $6, $7) on conflict do nothing`,
		a.ID, a.Address, a.Given, a.Family, a.Number, a.Role, hash)
	return err
}

// Update brings an account up to date: its names, number, address and role.
func (s *Standin) Update(ctx context.Context, a accounts.Account) error {
	_, err := s.db.ExecContext(ctx, `update schoolbook.accounts
		set address = $2, given = $3, family = $4, number = $5, role = $6 where id = $1`, a.ID, a.Address, a.Given, a.Family, a.Number, a.Role)
	return err
}

// Remove takes accounts out of the book.
func (s *Standin) Remove(ctx context.Context, ids []string) error {
	_, err := s.db.ExecContext(ctx, `delete from schoolbook.accounts where id = any($1)`, ids)
	return err
}

// Revision implements schoolbook.Book.
func (s *Standin) Revision(ctx context.Context) (string, error) {
	var n string
	return n, s.db.GetContext(ctx, &n, `select n::text from schoolbook.revision`)
}

const columns = `id, address, given, family, number, role, off, password <> '' as ready, code_until, code_by`

// ByAddress implements schoolbook.Book.
func (s *Standin) ByAddress(ctx context.Context, addresses []string) (map[string]accounts.Account, error) {
	lower := make([]string, len(addresses))
	for i, a := range addresses {
		lower[i] = strings.ToLower(a)
	}
	return s.some(ctx, `lower(address) = any($1)`, lower, func(a accounts.Account) string { return strings.ToLower(a.Address) })
}

// ByID implements schoolbook.Book.
func (s *Standin) ByID(ctx context.Context, ids []string) (map[string]accounts.Account, error) {
	return s.some(ctx, `id = any($1)`, ids, func(a accounts.Account) string { return a.ID })
}

func (s *Standin) some(ctx context.Context, where string, arg any, key func(accounts.Account) string) (map[string]accounts.Account, error) {
	var found []accounts.Account
	if err := s.db.SelectContext(ctx, &found, `select `+columns+` from schoolbook.accounts where `+where, arg); err != nil {
		return nil, err
	}
	m := make(map[string]accounts.Account, len(found))
	for _, a := range found {
		m[key(a)] = a
	}
	return m, nil
}

// All implements schoolbook.Book.
func (s *Standin) All(ctx context.Context) ([]accounts.Account, error) {
	all := []accounts.Account{}
	err := s.db.SelectContext(ctx, &all, `select `+columns+` from schoolbook.accounts
		order by role = 'student', role, family collate "und-x-icu", given collate "und-x-icu", id`)
	return all, err
}

// MaxPassword is the longest password, in bytes.
const MaxPassword = 256

// SignIn implements schoolbook.Book. An unknown address takes as long as a
// wrong password. Passwords are checked a few at a time: each takes memory.
func (s *Standin) SignIn(ctx context.Context, address, password string) (accounts.Account, error) {
	if len(password) > MaxPassword {
		return accounts.Account{}, schoolbook.ErrRefused
	}
	var row struct {
		accounts.Account
		Password string `db:"password"`
	}
	err := s.db.GetContext(ctx, &row, `select `+columns+`, password from schoolbook.accounts
		where lower(address) = lower($1)`, strings.TrimSpace(address))
	if err != nil && !errors.Is(err, sql.ErrNoRows) {
		return accounts.Account{}, err
	}
	hash, ofDemo := strings.CutPrefix(row.Password, demoMark)
	if err != nil || hash == "" || ofDemo && !s.Demo || row.Off {
		hash = decoy
	}
	leave, busy := checking.Enter(ctx)
	if busy != nil {
		return accounts.Account{}, busy
	}
	defer leave()
	if !verify(hash, password) || hash == decoy {
		return accounts.Account{}, schoolbook.ErrRefused
	}
	return row.Account, nil
}

// checking lets one password be checked at a time, on as many processors as there
// are; a class of people wait.
var checking = gate.New(1, 120, 15*time.Second)

// demoMark is before the hash of a password that is printed for all to see: it
// opens nothing but the demo.
const demoMark = "demo:"

// MarkDemo marks the passwords of accounts as the demo's.
func (s *Standin) MarkDemo(ctx context.Context, ids []string) error {
	_, err := s.db.ExecContext(ctx, `update schoolbook.accounts set password = $2 || password
		where id = any($1) and password <> '' and not starts_with(password, $2)`, ids, demoMark)
	return err
}
