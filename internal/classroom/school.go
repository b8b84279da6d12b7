package classroom

import (
	"cmp"
	"context"
	"maps"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"sync/atomic"
	"time"

	"golang.org/x/text/language"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/room"
	"jollysatchel/internal/core/roster"
	"jollysatchel/internal/core/school"
	"jollysatchel/internal/post"
	"jollysatchel/internal/service"
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

// SchoolWords are what a school can have a word of its own for.
var SchoolWords = []string{"class", "Class", "classes", "period", "Period", "handout", "Handout", "handouts", "Handouts"}

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

// NewCharter reads what was said; fixed holds what can't be said otherwise, here is where
// the pages are as long as nobody says where.
func NewCharter(ctx context.Context, st *store.Store, fixed School, here string) (*Charter, error) {
	c := &Charter{store: st, fixed: fixed, here: here}
	return c, c.Read(ctx)
}

// School is the school as it was last read.
func (c *Charter) School() School { return *c.now.Load() }

// Said reports whether anybody ever said anything.
func (c *Charter) Said() bool { return c.said.Load() }

// Read reads it anew: another program may have changed it.
func (c *Charter) Read(ctx context.Context) error {
	said, there, err := c.store.SchoolSettings(ctx)
	if err != nil {
		return err
	}
	next := c.over(said)
	c.now.Store(&next)
	c.said.Store(there)
	return nil
}

// over is the school with what was said.
func (c *Charter) over(said school.Settings) School {
	s := School{
		Name: cmp.Or(c.fixed.Name, said.Name), Domain: cmp.Or(c.fixed.Domain, said.Domain), Zone: c.fixed.Zone,
		Language: cmp.Or(c.fixed.Language, said.Language, "en"), Quota: cmp.Or(c.fixed.Quota, said.SatchelMB*1_000_000), Disk: c.fixed.Disk, Words: map[string]string{}, OfficeCodes: said.OfficeCodes, StaffReset: said.StaffReset, OutsideMail: said.OutsideMail, ListAccounts: said.ListAccounts,
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

// Fixed are the names of what can't be said otherwise: name, domain, zone, language,
// satchelMB, site, and words.
func (c *Charter) Fixed() []string {
	var out []string
	for _, x := range []struct {
		name string
		is   bool
	}{{"name", c.fixed.Name != ""}, {"domain", c.fixed.Domain != ""}, {"zone", c.fixed.Zone != nil}, {"language", c.fixed.Language != ""}, {"satchelMB", c.fixed.Quota > 0}, {"site", c.fixed.Site != ""}, {"words", len(c.fixed.Words) > 0}} {
		if x.is {
			out = append(out, x.name)
		}
	}
	return out
}

// School is what the whole school has in common, as it is now.
func (h *house) School() School { return h.charter.School() }

// School is what the whole school has in common, as it is now.
func (c *Classroom) School() School { return c.People.School() }

// names are what the places of every class are called, in the school's words.
func (h *house) names() room.Names {
	n := h.Folders
	if own := naming.Safe(h.School().Words["Handouts"], ""); h.School().Words["Handouts"] != "" {
		n.Handouts = own
	}
	return n
}

// A SchoolChange is what the office says. Nil parts stay.
type SchoolChange struct {
	Name         *string            `json:"name,omitempty"`
	Domain       *string            `json:"domain,omitempty"`
	Zone         *string            `json:"zone,omitempty"`
	Language     *string            `json:"language,omitempty"`
	SatchelMB    *int64             `json:"satchelMB,omitempty"`
	Words        *map[string]string `json:"words,omitempty"`
	OfficeCodes  *bool              `json:"officeCodes,omitempty"`
	StaffReset   *bool              `json:"staffReset,omitempty"`
	OutsideMail  *bool              `json:"outsideMail,omitempty"`
	ListAccounts *bool              `json:"listAccounts,omitempty"`
	Site         *string            `json:"site,omitempty"`
	Post         *school.Post       `json:"post,omitempty"`
	Service      *school.Service    `json:"service,omitempty"`
}

// What a school's settings keep to.
const (
	mostSchoolName = 200 // bytes
	mostWord       = 40  // bytes
	mostSatchelMB  = 1_000_000
	mostSite       = 300    // bytes
	mostPerMinute  = 60_000 // messages
)

// apply puts a change into settings, or says what is wrong with it. is is the school as it
// is with them, and was what was looked at.
func (ch SchoolChange) apply(s *school.Settings, is School, was SchoolChange, fixed []string) error {
	for _, x := range []struct {
		field   string
		to, was *string
		is      string
		now     *string
		check   func(string) (string, error)
	}{{"name", ch.Name, was.Name, is.Name, &s.Name, schoolName}, {"domain", ch.Domain, was.Domain, is.Domain, &s.Domain, domainName}, {"zone", ch.Zone, was.Zone, is.Zone.String(), &s.Zone, zoneName}, {"language", ch.Language, was.Language, is.Language, &s.Language, languageTag}, {"site", ch.Site, was.Site, is.Site, &s.Site, siteAddress}} {
		if x.to == nil {
			continue
		}
		to, err := x.check(*x.to)
		if err != nil {
			return err
		}
		if slices.Contains(fixed, x.field) {
			return change.Refuse(x.field, "fixed")
		}
		if err := change.Unless(x.was, x.field, x.is, to); err != nil {
			return err
		}
		*x.now = to
	}
	if ch.SatchelMB != nil {
		if *ch.SatchelMB < 0 || *ch.SatchelMB > mostSatchelMB {
			return change.TooMany("satchelMB", "too-large-number", mostSatchelMB)
		}
		if slices.Contains(fixed, "satchelMB") {
			return change.Refuse("satchelMB", "fixed")
		}
		if err := change.UnlessSame(was.SatchelMB, "satchelMB", is.Quota/1_000_000, *ch.SatchelMB); err != nil {
			return err
		}
		s.SatchelMB = *ch.SatchelMB
	}
	for _, x := range []struct {
		field   string
		to, was *bool
		is      bool
		now     *bool
	}{{"officeCodes", ch.OfficeCodes, was.OfficeCodes, is.OfficeCodes, &s.OfficeCodes}, {"staffReset", ch.StaffReset, was.StaffReset, is.StaffReset, &s.StaffReset}, {"outsideMail", ch.OutsideMail, was.OutsideMail, is.OutsideMail, &s.OutsideMail}, {"listAccounts", ch.ListAccounts, was.ListAccounts, is.ListAccounts, &s.ListAccounts}} {
		if x.to == nil {
			continue
		}
		if err := change.UnlessSame(x.was, x.field, x.is, *x.to); err != nil {
			return err
		}
		*x.now = *x.to
	}
	if ch.Post != nil {
		to, err := postSettings(*ch.Post)
		if err != nil {
			return err
		}
		if err := change.UnlessSame(was.Post, "post", is.Post, to); err != nil {
			return err
		}
		s.Post = to
	}
	if ch.Service != nil {
		to, err := serviceSettings(*ch.Service)
		if err != nil {
			return err
		}
		if err := change.UnlessSame(was.Service, "service", is.Service, to); err != nil {
			return err
		}
		s.Service = to
	}
	if ch.Words != nil {
		words, err := ownWords(*ch.Words)
		if err != nil {
			return err
		}
		if slices.Contains(fixed, "words") {
			return change.Refuse("words", "fixed")
		}
		if err := change.UnlessSame(was.Words, "words", is.Words, words); err != nil {
			return err
		}
		s.Words = words
	}
	return nil
}

// ownWords are a school's own words, without those it left empty.
func ownWords(typed map[string]string) (map[string]string, error) {
	words := map[string]string{}
	for name, word := range typed {
		word = tidy(word)
		switch {
		case !slices.Contains(SchoolWords, name):
			return nil, change.Refuse("words", "no-such-word")
		case len(word) > mostWord:
			return nil, change.TooLong("words", mostWord)
		case word != "":
			words[name] = word
		}
	}
	return words, nil
}

func schoolName(s string) (string, error) {
	if s = tidy(s); s == "" {
		return "", change.Refuse("name", "missing")
	}
	if len(s) > mostSchoolName {
		return "", change.TooLong("name", mostSchoolName)
	}
	return s, nil
}

// domainName checks a domain's form, which is what may follow an @; none is none to check
// addresses against.
func domainName(s string) (string, error) {
	s = strings.ToLower(strings.TrimPrefix(strings.TrimSpace(s), "@"))
	if s != "" && roster.AddressForm("x@"+s) != "" {
		return "", change.Refuse("domain", "no-domain")
	}
	return s, nil
}

// siteAddress checks where pages are: http or https, a host, and no more.
func siteAddress(s string) (string, error) {
	s = strings.TrimRight(strings.TrimSpace(s), "/")
	if s == "" {
		return "", nil
	}
	u, err := url.Parse(s)
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Hostname() == "" || u.User != nil || u.Path != "" || u.RawQuery != "" || u.Fragment != "" || len(s) > mostSite {
		return "", change.Refuse("site", "no-site")
	}
	return s, nil
}

// serverName is what a server can be called.
var serverName = regexp.MustCompile(`^[A-Za-z0-9]([A-Za-z0-9.:-]{0,251}[A-Za-z0-9])?$`)

// postSettings checks how the school's mail is to go out.
func postSettings(p school.Post) (school.Post, error) {
	p.Server, p.User, p.From = strings.TrimSpace(p.Server), strings.TrimSpace(p.User), strings.ToLower(strings.TrimSpace(p.From))
	switch {
	case p.Server != "" && !serverName.MatchString(p.Server):
		return p, change.Refuse("post.server", "no-server")
	case p.Port < 0 || p.Port > 65535:
		return p, change.Refuse("post.port", "too-large-number", "most", "65535")
	case p.Security != "" && p.Security != post.StartTLS && p.Security != post.TLS && p.Security != post.Open:
		return p, change.Refuse("post.security", "no-such-choice")
	case len(p.User) > mostSchoolName:
		return p, change.TooLong("post.user", mostSchoolName)
	case p.From != "" && roster.AddressForm(p.From) != "":
		return p, change.Refuse("post.from", "no-such-address")
	case p.PerMinute < 0 || p.PerMinute > mostPerMinute:
		return p, change.TooMany("post.perMinute", "too-large-number", mostPerMinute)
	}
	return p, nil
}

// serviceSettings checks the school's own service to sign in with.
func serviceSettings(p school.Service) (school.Service, error) {
	p.Issuer, p.Client, p.Name = strings.TrimSpace(p.Issuer), strings.TrimSpace(p.Client), tidy(p.Name)
	switch {
	case p.Issuer == "":
		return p, nil
	case len(p.Issuer) > mostSite || !service.Address(p.Issuer):
		return p, change.Refuse("service.issuer", "no-service")
	case p.Client == "":
		return p, change.Refuse("service.client", "missing")
	case len(p.Client) > mostSchoolName:
		return p, change.TooLong("service.client", mostSchoolName)
	case len(p.Name) > mostSchoolName:
		return p, change.TooLong("service.name", mostSchoolName)
	}
	return p, nil
}

func zoneName(s string) (string, error) {
	if _, err := time.LoadLocation(s); err != nil || s == "" || s == "Local" {
		return "", change.Refuse("zone", "no-zone")
	}
	return s, nil
}

func languageTag(s string) (string, error) {
	t, err := language.Parse(s)
	if err != nil || s == "" {
		return "", change.Refuse("language", "no-language")
	}
	return t.String(), nil
}

// ChangeSchool says what the school is. All programs know within seconds.
func (c *People) ChangeSchool(ctx context.Context, by string, ch, was SchoolChange) error {
	err := c.Store.Change(ctx, c.act(ctx, by, "school-changed", ch), nil, func(tx *store.Store) error {
		return c.sayIn(ctx, tx, ch, was)
	})
	if err != nil {
		return err
	}
	return c.charter.Read(ctx)
}

// sayIn keeps a change within a transaction.
func (c *house) sayIn(ctx context.Context, tx *store.Store, ch, was SchoolChange) error {
	said, _, err := tx.SchoolSettings(ctx)
	if err != nil {
		return err
	}
	if err := ch.apply(&said, c.charter.over(said), was, c.charter.Fixed()); err != nil {
		return err
	}
	return tx.SaveSchoolSettings(ctx, said, c.Now())
}

// FixedSchool are the names of what can't be said otherwise.
func (c *People) FixedSchool() []string { return c.charter.Fixed() }
