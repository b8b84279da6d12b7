package store

import "context"

// Lingering returns, by class, the accounts that were given one of its own or its
// teams' places, a document of several, or classmates' copies, and are neither of its staff nor in its list, and
// whom nothing waits to take it from; of all classes for an empty one.
func (s *Store) Lingering(ctx context.Context, class string) (map[string][]string, error) {
	type given struct {
		Class   string `db:"class_id"`
		Key     string `db:"key"`
		Account string `db:"account"`
	}
	of, args := ``, []any{}
	if class != "" {
		of, args = ` and l.class_id = $1`, []any{class}
	}
	var all []given
	err := s.All(ctx, &all, `
		select l.class_id, l.key, g.account from ledger l cross join lateral jsonb_object_keys(l.granted) g(account)
		where l.ended_at is null and (l.row_id is null and (l.handout_id is null or l.purpose = 'copy')
		    or l.row_id is not null and l.purpose = 'copy' and exists (select 1 from handouts h
			where h.id = l.handout_id and (h.settings ? 'classmates' or h.settings ? 'passing'))
		      and not exists (select 1 from rows r where r.id = l.row_id and r.account = g.account))`+of+`
		  and not exists (select 1 from staff s where s.class_id = l.class_id and s.account = g.account)
		  and not exists (select 1 from rows r where r.class_id = l.class_id and r.account = g.account and r.left_at is null)
		order by l.class_id, g.account, l.key`, args...)
	if err != nil || len(all) == 0 {
		return nil, err
	}
	var classes []string
	for _, g := range all {
		classes = append(classes, g.Class)
	}
	var waiting []given
	if err := s.All(ctx, &waiting, `select ru.class_id, st.key, st.account from runs ru join steps st on st.run_id = ru.id
		where ru.class_id = any($1::uuid[]) and ru.state <> 'stopped' and st.act = 'take'
			and st.state in ('waiting', 'stuck')`, classes); err != nil {
		return nil, err
	}
	taken := map[given]bool{}
	for _, g := range waiting {
		taken[g] = true
	}
	out := map[string][]string{}
	for _, g := range all {
		if those := out[g.Class]; !taken[g] && (len(those) == 0 || those[len(those)-1] != g.Account) {
			out[g.Class] = append(those, g.Account)
		}
	}
	return out, nil
}
