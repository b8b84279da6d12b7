package web

import (
	"io"
	"net"
	"net/http"
	"net/netip"
	"net/url"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
)

// How slowly a request may come and its answer be taken.
const (
	bodyStart    = 20 * time.Second // before the first byte counts
	bodyRate     = 32 << 10         // bytes a second, from there on
	answerWithin = 3 * time.Minute
)

// keepUp ends a connection whose other side doesn't keep up: a body that comes
// slowly, an answer that isn't taken. Long answers give themselves more.
func keepUp(c *gin.Context) {
	rc := http.NewResponseController(c.Writer)
	now := time.Now()
	_ = rc.SetWriteDeadline(now.Add(answerWithin)) // a recorder in a test has none
	_ = rc.SetReadDeadline(now.Add(bodyStart))
	c.Request.Body = &pacedBody{ReadCloser: c.Request.Body, rc: rc, begun: now}
}

// A pacedBody may take longer the more of it has come.
type pacedBody struct {
	io.ReadCloser
	rc    *http.ResponseController
	begun time.Time
	n     int64
}

func (b *pacedBody) Read(p []byte) (int, error) {
	_ = b.rc.SetReadDeadline(b.begun.Add(bodyStart + time.Duration(b.n)*time.Second/bodyRate))
	n, err := b.ReadCloser.Read(p)
	if b.n += int64(n); err == io.EOF {
		_ = b.rc.SetReadDeadline(time.Time{}) // what is read now is whether it hangs up
	}
	return n, err
}

// origin is where a request comes from: its address, of IPv6 the network.
func origin(c *gin.Context) string {
	a, err := netip.ParseAddr(c.ClientIP())
	if err != nil {
		return c.RemoteIP()
	}
	if a = a.Unmap(); a.Is6() {
		if p, err := a.Prefix(64); err == nil {
			return p.String()
		}
	}
	return a.String()
}

// proxied reports whether a request comes through one whose word is taken.
func (s *desk) proxied(c *gin.Context) bool {
	a, err := netip.ParseAddr(c.RemoteIP())
	return err == nil && slices.ContainsFunc(s.Proxies, func(p netip.Prefix) bool { return p.Contains(a.Unmap()) })
}

// secure reports whether the way to the browser is encrypted.
func (s *desk) secure(c *gin.Context) bool {
	return c.Request.TLS != nil || s.proxied(c) && c.GetHeader("X-Forwarded-Proto") == "https"
}

// ours refuses requests for names that aren't this server's: a page of another
// site that has its name lead here would else be let in.
func (s *Server) ours(c *gin.Context) {
	if c.FullPath() == "/healthz" { // asked by address, by what watches over it
		return
	}
	name := hostname(c.Request.Host)
	if here(name) || slices.ContainsFunc(s.options.Hosts, func(h string) bool { return strings.EqualFold(h, name) }) {
		return
	}
	s.refuse(c, errHost)
}

func hostname(host string) string {
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	return strings.TrimSuffix(strings.Trim(host, "[]"), ".")
}

// here reports whether a name is this machine's own.
func here(name string) bool {
	if strings.EqualFold(name, "localhost") {
		return true
	}
	a, err := netip.ParseAddr(name)
	return err == nil && a.IsLoopback()
}

// atThisMachine reports that a request was made here, by a page of ours or none,
// and wasn't passed on by anything.
func (s *desk) atThisMachine(c *gin.Context) bool {
	for _, h := range []string{"Forwarded", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Real-Ip", "Via"} {
		if c.GetHeader(h) != "" {
			return false
		}
	}
	if !here(c.RemoteIP()) || !here(hostname(c.Request.Host)) {
		return false
	}
	from := c.GetHeader("Origin")
	if from == "" {
		return true
	}
	u, err := url.Parse(from)
	return err == nil && strings.EqualFold(u.Host, c.Request.Host)
}
