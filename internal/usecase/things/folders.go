package things

import (
	"cmp"
	"context"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/cupboard"
	"jollysatchel/internal/usecase/seam"
)

// mostInFolder things may be in a folder.
const mostInFolder = 5000

// mostFolders of a folder are shown at once.
const mostFolders = 500

// Folders are the folders in one, by name, and the way to it, outermost first.
type Folders struct {
	Path    []cupboard.Thing
	Folders []cupboard.Thing
	More    int  // that aren't among them
	Further bool // there are more, nobody counted how many
}

// Folders returns the folders in a folder, or what an account reaches at the top.
func (c *Things) Folders(ctx context.Context, account, in string) (Folders, error) {
	var out Folders
	t, all, err := c.inside(ctx, account, in)
	if err != nil {
		return out, err
	}
	if in != "" {
		for _, crumb := range t.Path {
			out.Path = append(out.Path, cupboard.Thing{ID: crumb.ID, Name: crumb.Name})
		}
		out.Path = append(out.Path, t)
	}
	for _, t := range all {
		switch {
		case t.Kind != cupboard.Folder:
		case len(out.Folders) >= mostFolders:
			out.More++
		default:
			out.Folders = append(out.Folders, t)
		}
	}
	return out, nil
}

// mostFound folders are found at once.
const mostFound = 40

// FindFolders are folders an account reaches, wherever they lie, whose name holds a text.
func (c *Things) FindFolders(ctx context.Context, account, text string) (Folders, error) {
	text = naming.Tidy(text)
	if len(text) > naming.MostName {
		return Folders{}, change.TooLong("find", naming.MostName)
	}
	found, err := c.cup.Find(ctx, account, text, mostFound+1)
	if len(found) > mostFound {
		return Folders{Folders: found[:mostFound], Further: true}, nil
	}
	return Folders{Folders: found}, seam.NotFound(err)
}

// MakeFolder makes a folder on the spot, in another or at the top of the account's
// own things. A name that is taken there gets a counter.
func (c *Things) MakeFolder(ctx context.Context, account, key, in, name string) (cupboard.Thing, error) {
	if naming.Tidy(name) == "" {
		return cupboard.Thing{}, change.Refuse("name", "missing")
	}
	if len(name) > naming.MostName {
		return cupboard.Thing{}, change.TooLong("name", naming.MostName)
	}
	var t cupboard.Thing
	err := c.alone(ctx, cmp.Or(in, "top of "+account), func() error {
		folder, there, err := c.inside(ctx, account, in)
		if err == nil && in != "" {
			err = c.roomIn(ctx, account, &folder)
		}
		if err == nil {
			t, err = c.makeFolder(ctx, account, key, in, name, there)
		}
		return err
	})
	return t, err
}

// inside is what is in a folder, or what an account reaches at the top.
func (c *Things) inside(ctx context.Context, account, in string) (folder cupboard.Thing, there []cupboard.Thing, err error) {
	if in == "" {
		there, err = c.cup.Roots(ctx, account)
		return folder, there, seam.NotFound(err)
	}
	if folder, err = c.cup.Get(ctx, account, in); err == nil && folder.Kind != cupboard.Folder {
		err = seam.ErrNotFound
	}
	if err == nil {
		there, err = c.cup.List(ctx, account, in)
	}
	return folder, there, seam.NotFound(err)
}

// makeFolder makes a folder beside what is there.
func (c *Things) makeFolder(ctx context.Context, account, key, in, name string, there []cupboard.Thing) (cupboard.Thing, error) {
	if len(there) >= mostInFolder {
		return cupboard.Thing{}, change.TooMany("name", "folder-full", mostInFolder)
	}
	taken := map[string]bool{}
	for _, t := range there {
		taken[naming.Fold(t.Name)] = true
	}
	t, err := c.cup.MakeFolder(ctx, account, "folder/"+account+"/"+key, cupboard.NewThing{Parent: in, Name: naming.Free(name, "", taken)})
	return t, seam.NotFound(err)
}
