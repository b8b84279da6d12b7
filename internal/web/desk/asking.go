package desk

import (
	"context"
	"net"
	"net/netip"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"jollysatchel/internal/core/accounts"
	"jollysatchel/internal/usecase/seam"
)

// Where what is known of a request stands in its gin context: who asks and as what, of the route's class whether it is
// theirs, the key that names the asking, and what it asks for.
const (
	AccountKey = "account" // in the session, too
	RoleKey    = "role"
	ClassKey   = "class"
	MineKey    = "mine"
	KeyKey     = "key"
	ContentKey = "content"
)

// maxKey is the longest key, in bytes, that names an asking.
const maxKey = 100

// Whose names the classes somebody may look into: their own by account, every
// class, an empty name, for the office.
func Whose(ctx context.Context) string {
	if role, _ := Gin(ctx).Get(RoleKey); role == accounts.Office {
		return ""
	}
	return Account(ctx)
}

// About names the asking by its key, where it has one, and says what it asks
// for; more is what could only be read once the request was under way.
func About(ctx context.Context, more any) context.Context {
	c := Gin(ctx)
	key := c.GetString(KeyKey)
	if key == "" {
		return ctx
	}
	what := []any{c.GetString(ContentKey), more}
	if ctx == context.Context(c) {
		ctx = c.Request.Context()
	}
	return seam.Asked(ctx, key, what)
}

// Gin is what gin knows of the request whose context it is.
func Gin(ctx context.Context) *gin.Context { return ctx.(*gin.Context) }

// Account is who asks; empty: nobody that is signed in.
func Account(ctx context.Context) string { return Gin(ctx).GetString(AccountKey) }

// Words are the school's own; an empty map where it has none.
func (s *Desk) Words() map[string]string {
	if s.School().Words == nil {
		return map[string]string{}
	}
	return s.School().Words
}

// proxied reports whether a request comes through one whose word is taken.
func (s *Desk) proxied(c *gin.Context) bool {
	a, err := netip.ParseAddr(c.RemoteIP())
	return err == nil && slices.ContainsFunc(s.Proxies, func(p netip.Prefix) bool { return p.Contains(a.Unmap()) })
}

// Secure reports whether the way to the browser is encrypted.
func (s *Desk) Secure(c *gin.Context) bool {
	return c.Request.TLS != nil || s.proxied(c) && c.GetHeader("X-Forwarded-Proto") == "https"
}

// Hostname is the name in a host, without its port.
func Hostname(host string) string {
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	return strings.TrimSuffix(strings.Trim(host, "[]"), ".")
}

// Here reports whether a name is this machine's own.
func Here(name string) bool {
	if strings.EqualFold(name, "localhost") {
		return true
	}
	a, err := netip.ParseAddr(name)
	return err == nil && a.IsLoopback()
}

// AtThisMachine reports that a request was made here, by a page of ours or none,
// and wasn't passed on by anything.
func (s *Desk) AtThisMachine(c *gin.Context) bool {
	for _, h := range []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Real-Ip", "Via"} {
		if c.GetHeader(h) != "" {
			return false
		}
	}
	if !Here(c.RemoteIP()) || !Here(Hostname(c.Request.Host)) {
		return false
	}
	from := c.GetHeader("Origin")
	if from == "" {
		return true
	}
	u, err := url.Parse(from)
	return err == nil && strings.EqualFold(u.Host, c.Request.Host)
}
