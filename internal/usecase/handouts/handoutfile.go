package handouts

import (
	"cmp"
	"context"

	"jollysatchel/internal/core/handout"
	"jollysatchel/internal/core/planfile"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/usecase/seam"
)

// HandoutFile is a handout's sentence as a file, with its title.
func (c *Handouts) HandoutFile(ctx context.Context, class, id string) ([]byte, string, error) {
	h, err := c.Store.Handout(ctx, class, id)
	if err != nil {
		return nil, "", seam.NotFound(err)
	}
	cl, err := c.Store.Class(ctx, class)
	if err != nil {
		return nil, "", seam.NotFound(err)
	}
	given, err := c.TemplatesOf(ctx, h)
	if err != nil {
		return nil, "", err
	}
	return planfile.WriteHandout(planfile.Of(h, cl.Plan, given)), cmp.Or(h.Title, "handout"), nil
}

// ReadHandoutFile begins a handout as a file says. Of the account's templates the
// one of that name is taken, of the class's pockets too; where there is none, that
// part is left to be said. columns is as in ReadRoomFile.
func (c *Handouts) ReadHandoutFile(ctx context.Context, by, class string, file []byte,
	columns map[string]record.Field) (handout.Handout, error) {
	cl, _, err := c.ClassNow(ctx, class)
	if err != nil {
		return handout.Handout{}, err
	}
	r := planfile.Reader{Known: cl.Vocabulary(), Columns: columns}
	f, err := r.ReadHandout(file)
	if err != nil {
		return handout.Handout{}, planfile.Refused("file", err)
	}
	if len(r.Unknown) > 0 {
		return handout.Handout{}, planfile.AskFor(r.Unknown)
	}
	templates, err := c.Store.Templates(ctx, by)
	if err != nil {
		return handout.Handout{}, err
	}
	change, err := f.Change(cl.Plan, templates)
	if err != nil {
		return handout.Handout{}, planfile.Refused("file", err)
	}
	h, err := c.NewHandout(ctx, by, class, "")
	if err != nil {
		return h, err
	}
	read, err := c.ChangeHandout(seam.Within(ctx, "read"), by, class, h.ID, change, handout.Change{})
	if err != nil { // what it says isn't kept by half
		if e := c.DeleteHandout(seam.Within(ctx, "drop"), by, class, h.ID); e != nil {
			return h, e
		}
		return h, err
	}
	return read, nil
}
