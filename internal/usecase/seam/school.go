package seam

import (
	"cmp"
	"context"
	"maps"
	"strconv"
	"strings"
	"sync/atomic"
	"time"

	"jollysatchel/internal/core/school"
	"jollysatchel/internal/store"
)

// A School is what the whole school has in common.
type School struct {
	Name     string
	Domain   string // of its addresses; empty: not checked
	Zone     *time.Location
	Language string // BCP 47
	Quota    int64  // bytes a satchel may weigh; 0: UsualQuota
	Disk     int64  // bytes everything of the school may weigh; 0: UsualDisk
	// OfficeCodes keeps codes for students' next sign-in to the office.
	OfficeCodes bool
	// StaffReset lets teachers give codes to students of their classes who have a password.
	StaffReset bool
	// OutsideMail lets people write to addresses of other domains that are no account's.
	OutsideMail bool
	// ListAccounts lets class lists that teachers accept enter students into the school book.
	ListAccounts bool
	// Words are the school's own for what screens call class, period and handout,
	// by the names the interface gives them.
	Words map[string]string
	// Site is where the school's pages are, without a slash at its end; Post is how its
	// mail goes out.
	Site string
	// SiteSaid reports that somebody said so: else it is this machine.
	SiteSaid bool
	Post     school.Post
	// Service is the school's own service that people sign in with.
	Service school.Service
}

// usualZone is where a school is that nobody said anything about.
const usualZone = "Europe/Lisbon"

// A Charter says what the school is: what is fixed where the program was started, else
// what the office said, else what is usual.
type Charter struct {
	store *store.Store
	fixed School
	here  string
	now   atomic.Pointer[School]
	said  atomic.Bool
}

// NewCharter reads what was said; fixed holds what can't be changed, here is where
// the pages are as long as nobody says where.
func NewCharter(ctx context.Context, st *store.Store, fixed School, here string) (*Charter, error) {
	c := &Charter{store: st, fixed: fixed, here: here}
	return c, c.Read(ctx)
}

// School is the school as it was last read.
func (c *Charter) School() School { return *c.now.Load() }

// Said reports whether anybody ever said anything.
func (c *Charter) Said() bool { return c.said.Load() }

// Read reads it again: another program may have changed it.
func (c *Charter) Read(ctx context.Context) error {
	said, there, err := c.store.SchoolSettings(ctx)
	if err != nil {
		return err
	}
	next := c.Over(said)
	c.now.Store(&next)
	c.said.Store(there)
	return nil
}

// Over is the school with what was said.
func (c *Charter) Over(said school.Settings) School {
	s := School{
		Name: cmp.Or(c.fixed.Name, said.Name), Domain: cmp.Or(c.fixed.Domain, said.Domain), Zone: c.fixed.Zone,
		Language: cmp.Or(c.fixed.Language, said.Language, "en"), Quota: cmp.Or(c.fixed.Quota, said.SatchelMB*1_000_000),
		Disk: c.fixed.Disk, Words: map[string]string{}, OfficeCodes: said.OfficeCodes, StaffReset: said.StaffReset,
		OutsideMail: said.OutsideMail, ListAccounts: said.ListAccounts,
		Site: cmp.Or(c.fixed.Site, said.Site, c.here), SiteSaid: cmp.Or(c.fixed.Site, said.Site) != "", Post: said.Post, Service: said.Service,
	}
	if s.Zone == nil {
		zone, err := time.LoadLocation(cmp.Or(said.Zone, usualZone))
		if err != nil { // it was one when it was said
			zone = time.UTC
		}
		s.Zone = zone
	}
	maps.Copy(s.Words, said.Words)
	maps.Copy(s.Words, c.fixed.Words)
	return s
}

// Settings are the school as if all of it had been said.
func (s School) Settings() school.Settings {
	return school.Settings{Name: s.Name, Domain: s.Domain, Zone: s.Zone.String(), Language: s.Language,
		SatchelMB: s.Quota / 1_000_000, OfficeCodes: s.OfficeCodes, StaffReset: s.StaffReset, OutsideMail: s.OutsideMail,
		ListAccounts: s.ListAccounts, Words: s.Words, Site: s.Site, Post: s.Post, Service: s.Service}
}

// Fixed are the names of what can't be changed: name, domain, zone, language,
// satchelMB, site, and words.
func (c *Charter) Fixed() []string {
	var out []string
	for _, x := range []struct {
		name string
		is   bool
	}{{"name", c.fixed.Name != ""}, {"domain", c.fixed.Domain != ""}, {"zone", c.fixed.Zone != nil},
		{"language", c.fixed.Language != ""}, {"satchelMB", c.fixed.Quota > 0}, {"site", c.fixed.Site != ""}, {"words", len(c.fixed.Words) > 0}} {
		if x.is {
			out = append(out, x.name)
		}
	}
	return out
}

// PostAddress is where the school's mail comes from.
func (s School) PostAddress() string {
	if s.Post.From != "" {
		return s.Post.From
	}
	domain := s.Domain
	if domain == "" {
		_, host, _ := strings.Cut(s.Site, "://")
		if domain, _, _ = strings.Cut(host, ":"); domain == "" || !strings.Contains(domain, ".") || domain[0] >= '0' && domain[0] <= '9' {
			domain = "school.invalid"
		}
	}
	return "satchel@" + domain
}

// PostServer is the school's mail server as people name it; empty: the stand-in.
func (s School) PostServer() string {
	if s.Post.Server == "" || s.Post.Port == 0 {
		return s.Post.Server
	}
	return s.Post.Server + ":" + strconv.Itoa(s.Post.Port)
}

// UsualQuota is what a satchel, or what a class writes on together, may weigh, in
// bytes, where the school says nothing else.
const UsualQuota = 1_000_000_000

// UsualDisk is what everything of a school may weigh, in bytes, each content once.
const UsualDisk = 500_000_000_000
