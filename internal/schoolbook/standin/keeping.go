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

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/schoolbook"
)

var _ schoolbook.Keeper = (*Standin)(nil)

// tx runs do in a transaction, with the book of a revision that nobody else changes until
// it ends. What leaves nobody in the office, where somebody was, is refused.
func (s *Standin) tx(ctx context.Context, do func(tx *sqlx.Tx, revision string) error) error {
	tx, err := s.db.BeginTxx(ctx, nil)
	if err != nil {
		return err
	}
	defer tx.Rollback() // after a commit it does nothing
	var revision string
	if err := tx.GetContext(ctx, &revision, `select n::text from schoolbook.revision for update`); err != nil {
		return err
	}
	manned := func() (n int, err error) {
		return n, tx.GetContext(ctx, &n, `select count(*) from schoolbook.accounts where role = 'office' and not off and password <> ''`)
	}
	before, err := manned()
	if err != nil {
		return err
	}
	if err := do(tx, revision); err != nil {
		return taken(err)
	}
	after, err := manned()
	if err == nil && before > 0 && after == 0 {
		err = schoolbook.ErrLast
	}
	if err != nil {
		return err
	}
	return tx.Commit()
}

// put enters accounts, or brings those with their ids up to date.
func put(ctx context.Context, tx *sqlx.Tx, accounts ...accounts.Account) error {
	b, err := json.Marshal(accounts)
	if err != nil {
		return err
	}
	_, err = tx.ExecContext(ctx, `insert into schoolbook.accounts (id, address, given, family, number, role, off, password)
		select x."ID", x."Address", x."Given", x."Family", x."Number", x."Role", x."Off", ''
		from jsonb_to_recordset($1::jsonb) x ("ID" text, "Address" text, "Given" text, "Family" text, "Number" text, "Role" text, "Off" boolean)
		on conflict (id) do update set address = excluded.address, given = excluded.given, family = excluded.family,
			number = excluded.number, role = excluded.role, off = excluded.off`, string(b))
	return err
}

// Put implements schoolbook.Keeper.
func (s *Standin) Put(ctx context.Context, a accounts.Account) error {
	return s.tx(ctx, func(tx *sqlx.Tx, _ string) error { return put(ctx, tx, a) })
}

// Edit implements schoolbook.Keeper.
func (s *Standin) Edit(ctx context.Context, id string, do func(*accounts.Account) error) error {
	return s.tx(ctx, func(tx *sqlx.Tx, _ string) error {
		var a accounts.Account
		if err := tx.GetContext(ctx, &a, `select `+columns+` from schoolbook.accounts where id = $1`, id); errors.Is(err, sql.ErrNoRows) {
			return schoolbook.ErrNobody
		} else if err != nil {
			return err
		}
		if err := do(&a); err != nil {
			return err
		}
		return put(ctx, tx, a)
	})
}

// PutAll implements schoolbook.Keeper.
func (s *Standin) PutAll(ctx context.Context, revision string, accounts []accounts.Account) error {
	return s.tx(ctx, func(tx *sqlx.Tx, now string) error {
		if now != revision {
			return schoolbook.ErrMoved
		}
		return put(ctx, tx, accounts...)
	})
}

// taken is what the database says of an address that another account has.
func taken(err error) error {
	var pg *pgconn.PgError
	if errors.As(err, &pg) && pg.Code == pgerrcode.UniqueViolation {
		return schoolbook.ErrTaken
	}
	return err
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
func (s *Standin) SetCodes(ctx context.Context, c schoolbook.Codes) error {
	ids, sums := make([]string, 0, len(c.Of)), make([]string, 0, len(c.Of))
	for id, code := range c.Of {
		ids, sums = append(ids, id), append(sums, sum(code))
	}
	return s.tx(ctx, func(tx *sqlx.Tx, _ string) error {
		if !c.Replace {
			var good schoolbook.CodesGood
			if err := tx.SelectContext(ctx, &good.Accounts, `select id from schoolbook.accounts
				where id = any($1) and code <> '' and code_until > $2 and code_by <> $3 order by id`, ids, c.At, c.By); err != nil {
				return err
			}
			if len(good.Accounts) > 0 {
				return &good
			}
		}
		_, err := tx.ExecContext(ctx, `update schoolbook.accounts a
			set code = x.code, code_until = $3, code_by = $5, password = case when $4 then '' else password end
			from unnest($1::text[], $2::text[]) x (id, code) where a.id = x.id`, ids, sums, c.Until, c.Away, c.By)
		return err
	})
}

// UseCode implements schoolbook.Keeper. Of two who use it at once one gets in.
func (s *Standin) UseCode(ctx context.Context, address, code, password string, now time.Time) (accounts.Account, error) {
	hash, err := s.hash(ctx, password) // also for a wrong one: it takes as long
	if err != nil {
		return accounts.Account{}, err
	}
	var a accounts.Account
	fits := `lower(address) = lower($1) and code = $2 and code <> '' and code_until > $3 and not off`
	args := []any{strings.TrimSpace(address), sum(code), now}
	// A wrong one touches nothing: a statement that changes no row raises the book's revision, too.
	if err = s.db.GetContext(ctx, &a, `select `+columns+` from schoolbook.accounts where `+fits, args...); err == nil {
		err = s.db.GetContext(ctx, &a, `update schoolbook.accounts
			set password = $4, code = '', code_until = null, code_by = '' where `+fits+` returning `+columns, append(args, hash)...)
	}
	if errors.Is(err, sql.ErrNoRows) {
		return a, schoolbook.ErrRefused
	}
	return a, err
}
