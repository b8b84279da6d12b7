package web

import (
	"io/fs"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"

	"jollysatchel/internal/usecase/seam"
	"jollysatchel/ui"
)

// frontend serves the built interface: files by name, and the one page for
// every other address, which the page itself resolves.
func (s *Server) frontend() gin.HandlerFunc {
	dist, err := fs.Sub(ui.Dist, "dist")
	if err != nil {
		panic(err) // the folder is embedded
	}
	files := http.FileServerFS(dist)
	return func(c *gin.Context) {
		name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
		if strings.HasPrefix(name, "api/") || name == "api" {
			s.refuse(c, seam.ErrNotFound)
			return
		}
		if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
			s.refuse(c, seam.ErrNotFound)
			return
		}
		if info, err := fs.Stat(dist, name); err == nil && !info.IsDir() && name != "index.html" {
			c.Status(http.StatusOK) // gin's NoRoute has set 404
			if strings.HasPrefix(name, "assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable")
			}
			files.ServeHTTP(c.Writer, c.Request)
			return
		}
		if strings.HasPrefix(name, "assets/") {
			s.refuse(c, seam.ErrNotFound)
			return
		}
		page, err := fs.ReadFile(dist, "index.html")
		if err != nil {
			c.String(http.StatusServiceUnavailable, "The interface hasn't been built yet: run make build.")
			return
		}
		c.Header("Cache-Control", "no-cache")
		c.Data(http.StatusOK, "text/html; charset=utf-8", page)
	}
}
