package store

import "context"

// Lingering returns, by class, the accounts that were given one of its own places
// and are neither of its staff nor in its list, and whom nothing waits to take it
// from; of all classes for an empty one.
func (s *Store) Lingering(ctx context.Context, class string) (map[string][]string, error) {
	var rows []struct {
		Class   string `db:"class_id"`
		Account string `db:"account"`
	}
	err := s.all(ctx, &rows, `
		select distinct l.class_id, g.account from ledger l cross join lateral jsonb_object_keys(l.granted) g(account)
		where l.ended_at is null and l.row_id is null and l.team_id is null and l.handout_id is null and ($1 = '' or l.class_id::text = $1)
		  and not exists (select 1 from staff s where s.class_id = l.class_id and s.account = g.account)
		  and not exists (select 1 from rows r where r.class_id = l.class_id and r.account = g.account and r.left_at is null)
		  and not exists (select 1 from steps st join runs ru on ru.id = st.run_id where ru.class_id = l.class_id and ru.state <> 'stopped' and st.key = l.key and st.account = g.account and st.act = 'take' and st.state in ('waiting', 'stuck'))`, class)
	out := map[string][]string{}
	for _, r := range rows {
		out[r.Class] = append(out[r.Class], r.Account)
	}
	return out, err
}
