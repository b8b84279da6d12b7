// Package school is what an office says of its school, as plain values.
package school

// Settings are what an office said about its school; empty: nothing was said.
type Settings struct {
	Name      string `json:"name,omitempty"`
	Domain    string `json:"domain,omitempty"`
	Zone      string `json:"zone,omitempty"`     // as in the zone database
	Language  string `json:"language,omitempty"` // BCP 47
	SatchelMB int64  `json:"satchel_mb,omitempty"`
	// OfficeCodes keeps codes for students' next sign-in to the office.
	OfficeCodes bool `json:"office_codes,omitempty"`
	// StaffReset lets teachers give codes to students of their classes who have a password.
	StaffReset bool `json:"staff_reset,omitempty"`
	// OutsideMail lets people write to addresses of other domains that are no account's.
	OutsideMail bool `json:"outside_mail,omitempty"`
	// ListAccounts lets class lists that teachers accept enter students into the school book.
	ListAccounts bool              `json:"list_accounts,omitempty"`
	Words        map[string]string `json:"words,omitempty"`
	Site         string            `json:"site,omitempty"` // where its pages are, without a slash at its end
	Post         Post              `json:"post,omitzero"`
	Service      Service           `json:"service,omitzero"`
}

// Service is the school's own service that people sign in with. Its secret isn't
// kept here.
type Service struct {
	Client string `json:"client,omitempty"` // what we are called there
	Issuer string `json:"issuer,omitempty"` // empty: there is none
	Make   bool   `json:"make,omitempty"`   // whoever it vouches for gets a student's account
	Name   string `json:"name,omitempty"`   // what people call it
}

// How the connection of the school's mail is kept from being read on the way.
const (
	StartTLS = "starttls" // begun in the open and made secret before anything is said; refused where it can't be
	TLS      = "tls"      // secret from the beginning
	Open     = "none"     // not at all: for this machine or a network of the school's own
)

// Post is how the school's mail goes out. Its password isn't kept here.
type Post struct {
	From      string `json:"from,omitempty"`      // address
	PerMinute int    `json:"perMinute,omitempty"` // messages; 0: as many as there are
	Port      int    `json:"port,omitempty"`      // 0: the usual one
	Security  string `json:"security,omitempty"`
	Server    string `json:"server,omitempty"` // empty: the stand-in
	User      string `json:"user,omitempty"`
}
