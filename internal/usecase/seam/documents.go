package seam

import (
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/store"
)

// DocumentsFor are the templates of documents, by id; within a transaction, none is
// taken off a list until it ends.
func DocumentsFor(ctx context.Context, tx *store.Store, documents []handout.GivenDocument) (map[string]handout.Template, error) {
	if len(documents) > handout.MostDocuments {
		return nil, change.TooMany("documents", "too-many-documents", handout.MostDocuments)
	}
	ids := make([]string, len(documents))
	for i, d := range documents {
		if ids[i] = d.Template; !store.ValidID(d.Template) {
			return nil, change.Refuse("documents", "no-such-template")
		}
	}
	if tx.SQLTx() != nil {
		if err := tx.HoldTemplates(ctx, ids); err != nil {
			return nil, err
		}
	}
	found, err := tx.TemplatesByID(ctx, ids)
	out := make(map[string]handout.Template, len(found))
	for _, t := range found {
		out[t.ID] = t
	}
	return out, err
}
