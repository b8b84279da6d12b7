package seam

import (
	"context"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/core/letters"
	"jollysatchel/internal/core/picture"
	"jollysatchel/internal/core/telling"
	"jollysatchel/internal/store"
)

// A Courier carries messages out.
type Courier interface {
	// Post keeps messages within tx and has them sent once it is committed; of what somebody
	// was told before they aren't told again. It returns how many are new.
	Post(ctx context.Context, tx *store.Store, of []telling.Message) (int, error)
	// Wake has what waits sent once tx is committed.
	Wake(ctx context.Context, tx *store.Store) error
}

// Letters prepares those of a class.
func (c *House) Letters(ctx context.Context, st *store.Store, s *picture.Picture) (*letters.Book, error) {
	wishes, err := st.Wishes(ctx, letters.Accounts(s))
	is := c.School()
	return letters.Of(s, letters.School{Site: is.Site, Domain: is.Domain, OutsideMail: is.OutsideMail, Zone: is.Zone}, c.Now(), wishes), err
}

// Sender is an account as letters name it.
func Sender(a accounts.Account) letters.Sender {
	return letters.Sender{Account: a.ID, Address: a.Address, Name: a.Name()}
}

// Tell tells a class's students of something within tx. Invented ones aren't told.
func (c *House) Tell(ctx context.Context, tx *store.Store, s *picture.Picture, t letters.Tale, rows []string) (int, error) {
	if s.Practice {
		return 0, nil
	}
	m, err := c.Letters(ctx, tx, s)
	if err != nil {
		return 0, err
	}
	return c.Courier.Post(ctx, tx, m.Messages(t, rows))
}
