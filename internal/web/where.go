package web

import (
	"io"
	"net/http"
	"net/netip"
	"slices"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"jollysatchel/internal/web/desk"
)

// How slowly a request may come and its answer be taken.
const bodyStart = 20 * time.Second // before the first byte counts

const bodyRate = 32 << 10 // bytes a second, from there on

const answerWithin = 3 * time.Minute

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

// ours refuses requests for names that aren't this server's: a page of another
// site that has its name lead here would else be let in.
func (s *Server) ours(c *gin.Context) {
	if c.FullPath() == "/healthz" { // asked by address, by what watches over it
		return
	}
	name := desk.Hostname(c.Request.Host)
	if desk.Here(name) || slices.ContainsFunc(s.options.Hosts, func(h string) bool { return strings.EqualFold(h, name) }) {
		return
	}
	s.refuse(c, errHost)
}
