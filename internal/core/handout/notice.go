package handout

import (
	"net/url"
	"strings"
	"unicode"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/packing"
	"jollysatchel/internal/core/room"
)

// Notice is the way that gives no document: what it says is on the pages of all who
// are in. There is nothing to pack, and nothing to hand in.
type Notice struct {
	Plan room.Plan
	Settings
}

var _ Way = Notice{}

// Wanted implements room.Subject: nothing, and everybody who is left out.
func (h Notice) Wanted(c room.Class) ([]packing.Wanted, []packing.Absent) {
	var absent []packing.Absent
	for _, st := range c.Students {
		if why, out := h.Out[st.Row]; out {
			absent = append(absent, packing.Absent{Whom: packing.Whom{Row: st.Row}, Name: st.Name, Reason: packing.Reason{Code: why}})
		}
	}
	return nil, absent
}

// Own implements Way.
func (h Notice) Own(room.Class) []packing.Wanted { return nil }

// What a handout's links keep to.
const (
	MostLinks   = 10
	MostAddress = 2000 // bytes
	MostWords   = 200  // bytes of what a link is called
)

// A Link leads to an example or a lesson.
type Link struct {
	Words   string `json:"words"`
	Address string `json:"address"`
}

// Tidy is the link without white space around it; where it has no words, its host is
// what it is called.
func (l Link) Tidy() Link {
	l.Words, l.Address = naming.Tidy(l.Words), strings.TrimSpace(l.Address)
	if u, err := url.Parse(l.Address); l.Words == "" && err == nil {
		l.Words = u.Hostname()
	}
	return l
}

// Problem says what is wrong with a tidy link; empty for nothing. Only addresses that
// begin with http or https are links, and none that names a person before its host: it
// would look like another than it is.
func (l Link) Problem() (code string) {
	u, err := url.Parse(l.Address)
	switch {
	case len(l.Address) > MostAddress, len(l.Words) > MostWords:
		return "link-long"
	case err != nil, strings.ContainsFunc(l.Address, func(r rune) bool { return unicode.IsSpace(r) || unicode.IsControl(r) }):
		return "link-unreadable"
	case !strings.EqualFold(u.Scheme, "http") && !strings.EqualFold(u.Scheme, "https"):
		return "link-scheme"
	case u.Hostname() == "", u.User != nil:
		return "link-unreadable"
	}
	return ""
}
