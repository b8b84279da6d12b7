package signing

import (
	"context"
	"time"
)

// A JoinDoor is where students ask to be let into a class, by its link, until a moment.
type JoinDoor struct {
	ClassID  string    `db:"class_id"`
	Link     string    `db:"link"`
	OpenedBy string    `db:"opened_by"`
	Until    time.Time `db:"until"`
}

// A JoinAsk is somebody who asked.
type JoinAsk struct {
	Account string    `db:"account"`
	At      time.Time `db:"at"`
}

const doorColumns = `class_id, link, opened_by, until`

// JoinDoor returns a class's; pg.ErrNotFound where it never had one, or it was shut.
func (s Signing) JoinDoor(ctx context.Context, class string) (JoinDoor, error) {
	var d JoinDoor
	return d, s.Get(ctx, &d, `select `+doorColumns+` from join_doors where class_id = $1`, class)
}

// JoinDoorAt returns the one of a link that is open at a moment.
func (s Signing) JoinDoorAt(ctx context.Context, link string, now time.Time) (JoinDoor, error) {
	var d JoinDoor
	return d, s.Get(ctx, &d, `select `+doorColumns+` from join_doors where link = $1 and until > $2`, link, now)
}

// OpenJoinDoor opens a class's. One that is there keeps its link, unless it was over.
func (s Signing) OpenJoinDoor(ctx context.Context, d JoinDoor, now time.Time) error {
	return s.Exec(ctx, `insert into join_doors (class_id, link, opened_by, until) values ($1, $2, $3, $4)
		on conflict (class_id) do update set link = case when join_doors.until > $5 then join_doors.link
			else excluded.link end, opened_by = excluded.opened_by, until = excluded.until`, d.ClassID, d.Link, d.OpenedBy, d.Until, now)
}

// ShutJoinDoor shuts a class's.
func (s Signing) ShutJoinDoor(ctx context.Context, class string) error {
	return s.Exec(ctx, `delete from join_doors where class_id = $1`, class)
}

// InsertJoinAsk notes that somebody asked, where no more than most did; asked again it is the
// first time that counts. full says that there are as many.
func (s Signing) InsertJoinAsk(ctx context.Context, class, account string, at time.Time, most int) (full bool, err error) {
	var n int
	if err := s.Get(ctx, &n, `select count(*) from join_asks where class_id = $1 and account <> $2`, class, account); err != nil || n >= most {
		return n >= most, err
	}
	return false, s.Exec(ctx, `insert into join_asks (class_id, account, at) values ($1, $2, $3) on conflict do nothing`, class, account, at)
}

// JoinAsks are those who asked to be let into a class and aren't on its list, the first first.
func (s Signing) JoinAsks(ctx context.Context, class string) ([]JoinAsk, error) {
	out := []JoinAsk{}
	return out, s.All(ctx, &out, `select account, at from join_asks a
		where class_id = $1 and not exists (select 1 from rows r
		where r.class_id = $1 and r.account = a.account and r.left_at is null) order by at, account`, class)
}

// DropJoinAsks forgets that some asked.
func (s Signing) DropJoinAsks(ctx context.Context, class string, accounts []string) error {
	return s.Exec(ctx, `delete from join_asks where class_id = $1 and account = any($2)`, class, accounts)
}
