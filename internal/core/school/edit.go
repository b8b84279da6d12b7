package school

import (
	"net/netip"
	"net/url"
	"regexp"
	"slices"
	"strings"
	"time"

	"golang.org/x/text/language"

	"jollysatchel/internal/core/change"
	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/roster"
)

// Words are what a school can have a word of its own for, by the names the interface gives them.
var Words = []string{"class", "Class", "classes", "period", "Period", "handout", "Handout", "handouts", "Handouts"}

// What a school's settings keep to.
const (
	mostName      = 200 // bytes
	mostWord      = 40  // bytes
	mostSatchelMB = 1_000_000
	mostSite      = 300    // bytes
	mostPerMinute = 60_000 // messages
)

// A Change is what the office says. Nil parts stay.
type Change struct {
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
	Post         *Post              `json:"post,omitempty"`
	Service      *Service           `json:"service,omitempty"`
}

// Of is what an office said with a change. is is the school as it is with what was said, what is
// fixed and what is usual; was is what was looked at of that; fixed are the names of what can't
// be said. The error is a *change.Invalid or a *change.Changed.
func (ch Change) Of(said, is Settings, was Change, fixed []string) (Settings, error) {
	e := editing{ch, was, is, fixed, &said}
	for _, part := range []func() error{e.texts, e.satchelMB, e.switches, e.post, e.service, e.words} {
		if err := part(); err != nil {
			return said, err
		}
	}
	return said, nil
}

type editing struct {
	to, was Change
	is      Settings
	fixed   []string
	said    *Settings
}

func (e editing) free(field string) error {
	if slices.Contains(e.fixed, field) {
		return change.Refuse(field, "fixed")
	}
	return nil
}

func (e editing) texts() error {
	for _, x := range []struct {
		field   string
		to, was *string
		is      string
		said    *string
		check   func(string) (string, error)
	}{
		{"name", e.to.Name, e.was.Name, e.is.Name, &e.said.Name, schoolName},
		{"domain", e.to.Domain, e.was.Domain, e.is.Domain, &e.said.Domain, domainName},
		{"zone", e.to.Zone, e.was.Zone, e.is.Zone, &e.said.Zone, zoneName},
		{"language", e.to.Language, e.was.Language, e.is.Language, &e.said.Language, languageTag},
		{"site", e.to.Site, e.was.Site, e.is.Site, &e.said.Site, siteAddress},
	} {
		if x.to == nil {
			continue
		}
		to, err := x.check(*x.to)
		if err != nil {
			return err
		}
		if err := e.free(x.field); err != nil {
			return err
		}
		if err := change.Unless(x.was, x.field, x.is, to); err != nil {
			return err
		}
		*x.said = to
	}
	return nil
}

func (e editing) satchelMB() error {
	if e.to.SatchelMB == nil {
		return nil
	}
	if *e.to.SatchelMB < 0 || *e.to.SatchelMB > mostSatchelMB {
		return change.TooMany("satchelMB", "too-large-number", mostSatchelMB)
	}
	if err := e.free("satchelMB"); err != nil {
		return err
	}
	return put(e.was.SatchelMB, "satchelMB", e.is.SatchelMB, &e.said.SatchelMB, *e.to.SatchelMB)
}

func (e editing) switches() error {
	for _, x := range []struct {
		field   string
		to, was *bool
		is      bool
		said    *bool
	}{
		{"officeCodes", e.to.OfficeCodes, e.was.OfficeCodes, e.is.OfficeCodes, &e.said.OfficeCodes},
		{"staffReset", e.to.StaffReset, e.was.StaffReset, e.is.StaffReset, &e.said.StaffReset},
		{"outsideMail", e.to.OutsideMail, e.was.OutsideMail, e.is.OutsideMail, &e.said.OutsideMail},
		{"listAccounts", e.to.ListAccounts, e.was.ListAccounts, e.is.ListAccounts, &e.said.ListAccounts},
	} {
		if x.to == nil {
			continue
		}
		if err := put(x.was, x.field, x.is, x.said, *x.to); err != nil {
			return err
		}
	}
	return nil
}

func (e editing) post() error {
	if e.to.Post == nil {
		return nil
	}
	to, err := e.to.Post.checked()
	if err != nil {
		return err
	}
	return put(e.was.Post, "post", e.is.Post, &e.said.Post, to)
}

func (e editing) service() error {
	if e.to.Service == nil {
		return nil
	}
	to, err := e.to.Service.checked()
	if err != nil {
		return err
	}
	return put(e.was.Service, "service", e.is.Service, &e.said.Service, to)
}

// words are the school's own, without those it left empty.
func (e editing) words() error {
	if e.to.Words == nil {
		return nil
	}
	words := map[string]string{}
	for name, word := range *e.to.Words {
		word = naming.Tidy(word)
		switch {
		case !slices.Contains(Words, name):
			return change.Refuse("words", "no-such-word")
		case len(word) > mostWord:
			return change.TooLong("words", mostWord)
		case word != "":
			words[name] = word
		}
	}
	if err := e.free("words"); err != nil {
		return err
	}
	return put(e.was.Words, "words", e.is.Words, &e.said.Words, words)
}

// put has yours said, unless what holds isn't what was looked at.
func put[T any](was *T, field string, is T, said *T, yours T) error {
	if err := change.UnlessSame(was, field, is, yours); err != nil {
		return err
	}
	*said = yours
	return nil
}

func schoolName(s string) (string, error) {
	if s = naming.Tidy(s); s == "" {
		return "", change.Refuse("name", "missing")
	}
	if len(s) > mostName {
		return "", change.TooLong("name", mostName)
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
	if err != nil || u.Scheme != "http" && u.Scheme != "https" || u.Hostname() == "" || u.User != nil || u.Path != "" ||
		u.RawQuery != "" || u.Fragment != "" || len(s) > mostSite {
		return "", change.Refuse("site", "no-site")
	}
	return s, nil
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

// serverName is what a server can be called.
var serverName = regexp.MustCompile(`^[A-Za-z0-9]([A-Za-z0-9.:-]{0,251}[A-Za-z0-9])?$`)

// checked is how the school's mail is to go out, or what is wrong with it.
func (p Post) checked() (Post, error) {
	p.Server, p.User, p.From = strings.TrimSpace(p.Server), strings.TrimSpace(p.User), strings.ToLower(strings.TrimSpace(p.From))
	switch {
	case p.Server != "" && !serverName.MatchString(p.Server):
		return p, change.Refuse("post.server", "no-server")
	case p.Port < 0 || p.Port > 65535:
		return p, change.TooMany("post.port", "too-large-number", 65535)
	case p.Security != "" && p.Security != StartTLS && p.Security != TLS && p.Security != Open:
		return p, change.Refuse("post.security", "no-such-choice")
	case len(p.User) > mostName:
		return p, change.TooLong("post.user", mostName)
	case p.From != "" && roster.AddressForm(p.From) != "":
		return p, change.Refuse("post.from", "no-such-address")
	case p.PerMinute < 0 || p.PerMinute > mostPerMinute:
		return p, change.TooMany("post.perMinute", "too-large-number", mostPerMinute)
	}
	return p, nil
}

// checked is the service to sign in with, or what is wrong with it.
func (p Service) checked() (Service, error) {
	p.Issuer, p.Client, p.Name = strings.TrimSpace(p.Issuer), strings.TrimSpace(p.Client), naming.Tidy(p.Name)
	switch {
	case p.Issuer == "":
		return p, nil
	case len(p.Issuer) > mostSite || !IssuerAddress(p.Issuer):
		return p, change.Refuse("service.issuer", "no-service")
	case p.Client == "":
		return p, change.Refuse("service.client", "missing")
	case len(p.Client) > mostName:
		return p, change.TooLong("service.client", mostName)
	case len(p.Name) > mostName:
		return p, change.TooLong("service.name", mostName)
	}
	return p, nil
}

// IssuerAddress checks where a service is: https, but for this machine.
func IssuerAddress(issuer string) bool {
	u, err := url.Parse(issuer)
	if err != nil || u.Hostname() == "" || u.User != nil || u.RawQuery != "" || u.Fragment != "" {
		return false
	}
	ip, err := netip.ParseAddr(u.Hostname())
	here := u.Hostname() == "localhost" || err == nil && ip.IsLoopback()
	return u.Scheme == "https" || u.Scheme == "http" && here
}
