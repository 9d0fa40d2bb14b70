package httpapi

import (
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/gin-gonic/gin"
)

// page serves the built page: files as they are, every other address without a dot as the page,
// which finds its place by the address.
func page(dist fs.FS) gin.HandlerFunc {
	_ = mime.AddExtensionType(".webmanifest", "application/manifest+json") // fails for a malformed type alone
	index, indexErr := fs.ReadFile(dist, "index.html")
	return func(c *gin.Context) {
		p := path.Clean("/" + c.Request.URL.Path)
		reads := c.Request.Method == http.MethodGet || c.Request.Method == http.MethodHead
		if !reads || p == "/api" || strings.HasPrefix(p, "/api/") {
			refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.")
			return
		}
		name := strings.TrimPrefix(p, "/")
		if strings.HasPrefix(path.Base(p), ".") || strings.Contains(p, "/.") { // what keeps the folder is no part of the page
			refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.")
			return
		}
		if st, err := fs.Stat(dist, name); err == nil && !st.IsDir() && name != "index.html" {
			if strings.HasPrefix(name, "assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable") // their names change with their content
			} else {
				c.Header("Cache-Control", "no-cache")
			}
			http.ServeFileFS(c.Writer, c.Request, dist, name)
			return
		}
		switch {
		case path.Ext(name) != "" && name != "index.html":
			refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.") // a missing file is not the page
		case indexErr != nil:
			c.String(http.StatusServiceUnavailable, "The page is not built: run make build.\n")
		default:
			c.Header("Cache-Control", "no-cache")
			c.Data(http.StatusOK, "text/html; charset=utf-8", index) // ServeFile would send /index.html elsewhere
		}
	}
}
