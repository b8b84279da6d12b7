package standin

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"strings"
	"time"

	"github.com/jackc/pgerrcode"
	"github.com/jackc/pgx/v5/pgconn"
	"github.com/jmoiron/sqlx"

	"jollysatchel/internal/schoolbook"
)

var _ schoolbook.Keeper = (*Standin)(nil)

// tx runs do in a transaction. Whoever changes who is in the office waits for the other.
func (s *Standin) tx(ctx context.Context, do func(tx *sqlx.Tx) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() // after a commit it does nothing
	if _, err := tx.ExecContext(ctx, `select 1 from schoolbook.accounts where role = 'office' order by id for update`); err != nil {
		return err
	}
	if err := do(tx); err != nil {
		return err
	}
	return tx.Commit()
}

// manned refuses what leaves nobody in the office, where somebody was.
func manned(ctx context.Context, tx *sqlx.Tx, do func() error) error {
	count := func() (n int, err error) {
		return n, tx.GetContext(ctx, &n, `select count(*) from schoolbook.accounts where role = 'office' and not off`)
	}
	before, err := count()
	if err != nil {
		return err
	}
	if err := do(); err != nil {
		return err
	}
	after, err := count()
	if err == nil && before > 0 && after == 0 {
		err = schoolbook.ErrLast
	}
	return err
}

// Put implements schoolbook.Keeper.
func (s *Standin) Put(ctx context.Context, a schoolbook.Account) error {
	err := s.tx(ctx, func(tx *sqlx.Tx) error {
		return manned(ctx, tx, func() error {
			_, err := tx.ExecContext(ctx, `insert into schoolbook.accounts (id, address, given, family, number, role, password) values ($1, $2, $3, $4, $5, $6, '')
				on conflict (id) do update set address = excluded.address, given = excluded.given, family = excluded.family, number = excluded.number, role = excluded.role`,
				a.ID, a.Address, a.Given, a.Family, a.Number, a.Role)
			return err
		})
	})
	return taken(err)
}

// PutAll implements schoolbook.Keeper.
func (s *Standin) PutAll(ctx context.Context, accounts []schoolbook.Account) error {
	b, err := json.Marshal(accounts)
	if err != nil {
		return err
	}
	err = s.tx(ctx, func(tx *sqlx.Tx) error {
		return manned(ctx, tx, func() error {
			_, err := tx.ExecContext(ctx, `insert into schoolbook.accounts (id, address, given, family, number, role, off, password)
				select x."ID", x."Address", x."Given", x."Family", x."Number", x."Role", x."Off", '' from jsonb_to_recordset($1::jsonb) x ("ID" text, "Address" text, "Given" text, "Family" text, "Number" text, "Role" text, "Off" boolean)
				on conflict (id) do update set address = excluded.address, given = excluded.given, family = excluded.family, number = excluded.number, role = excluded.role, off = excluded.off`, string(b))
			return err
		})
	})
	return taken(err)
}

// taken is what the database says of an address that another account has.
func taken(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == pgerrcode.UniqueViolation {
		return schoolbook.ErrTaken
	}
	return err
}

// Switch implements schoolbook.Keeper.
func (s *Standin) Switch(ctx context.Context, ids []string, off bool) error {
	return s.tx(ctx, func(tx *sqlx.Tx) error {
		return manned(ctx, tx, func() error {
			_, err := tx.ExecContext(ctx, `update schoolbook.accounts set off = $2 where id = any($1)`, ids, off)
			return err
		})
	})
}

// SetPassword implements schoolbook.Keeper.
func (s *Standin) SetPassword(ctx context.Context, id, password string) error {
	hash, err := s.hash(ctx, password)
	if err != nil {
		return err
	}
	res, err := s.db.ExecContext(ctx, `update schoolbook.accounts set password = $2, code = '', code_until = null where id = $1`, id, hash)
	if err != nil {
		return err
	}
	if n, err := res.RowsAffected(); err != nil || n == 0 {
		return errors.Join(err, schoolbook.ErrNobody)
	}
	return nil
}

// hash makes a hash in turn with those that are checked: each takes memory.
func (s *Standin) hash(ctx context.Context, password string) (string, error) {
	leave, err := checking.Enter(ctx)
	if err != nil {
		return "", err
	}
	defer leave()
	return Hash(password)
}

// ChangePassword implements schoolbook.Keeper.
func (s *Standin) ChangePassword(ctx context.Context, id, before, password string) error {
	var address string
	if err := s.db.GetContext(ctx, &address, `select address from schoolbook.accounts where id = $1`, id); err != nil {
		if errors.Is(err, sql.ErrNoRows) {
			return schoolbook.ErrNobody
		}
		return err
	}
	if _, err := s.SignIn(ctx, address, before); err != nil {
		return err
	}
	return s.SetPassword(ctx, id, password)
}

// SetCodes implements schoolbook.Keeper. A code is as good as random, so a fast hash of
// it gives nothing away.
func (s *Standin) SetCodes(ctx context.Context, codes map[string]string, until time.Time, away bool) error {
	ids, sums := make([]string, 0, len(codes)), make([]string, 0, len(codes))
	for id, code := range codes {
		ids, sums = append(ids, id), append(sums, sum(code))
	}
	_, err := s.db.ExecContext(ctx, `update schoolbook.accounts a set code = x.code, code_until = $3, password = case when $4 then '' else password end
		from unnest($1::text[], $2::text[]) x (id, code) where a.id = x.id`, ids, sums, until, away)
	return err
}

// UseCode implements schoolbook.Keeper. Of two who use it at once one gets in.
func (s *Standin) UseCode(ctx context.Context, address, code, password string, now time.Time) (schoolbook.Account, error) {
	hash, err := s.hash(ctx, password) // also for a wrong one: it takes as long
	if err != nil {
		return schoolbook.Account{}, err
	}
	var a schoolbook.Account
	fits := `lower(address) = lower($1) and code = $2 and code <> '' and code_until > $3 and not off`
	args := []any{strings.TrimSpace(address), sum(code), now}
	// A wrong one touches nothing: a statement that changes no row raises the book's revision, too.
	if err = s.db.GetContext(ctx, &a, `select `+columns+` from schoolbook.accounts where `+fits, args...); err == nil {
		err = s.db.GetContext(ctx, &a, `update schoolbook.accounts set password = $4, code = '', code_until = null where `+fits+` returning `+columns, append(args, hash)...)
	}
	if errors.Is(err, sql.ErrNoRows) {
		return a, schoolbook.ErrRefused
	}
	return a, err
}
