package httpapi

import (
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
)

// encodings are the ways in which the built page is compressed beside itself, the shortest first.
var encodings = []struct{ name, ext string }{{"br", ".br"}, {"gzip", ".gz"}}

// page serves the built page: files as they are, every other address without a dot as the page,
// which finds its place by the address. What was compressed when it was built is sent so to who takes it.
func page(dist fs.FS) gin.HandlerFunc {
	_ = mime.AddExtensionType(".webmanifest", "application/manifest+json") // fails for a malformed type alone
	indexes := map[string][]byte{}
	for _, e := range append(encodings, struct{ name, ext string }{}) {
		if index, err := fs.ReadFile(dist, "index.html"+e.ext); err == nil {
			indexes[e.name] = index
		}
	}
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
		c.Header("Vary", "Accept-Encoding")
		accepted := c.Request.Header.Get("Accept-Encoding")
		if isFile(dist, name) && name != "index.html" {
			if strings.HasPrefix(name, "assets/") {
				c.Header("Cache-Control", "public, max-age=31536000, immutable") // their names change with their content
			} else {
				c.Header("Cache-Control", "no-cache")
			}
			for _, e := range encodings {
				if kind := mime.TypeByExtension(path.Ext(name)); kind != "" && accepts(accepted, e.name) && isFile(dist, name+e.ext) {
					c.Header("Content-Type", kind)
					c.Header("Content-Encoding", e.name)
					name += e.ext
					break
				}
			}
			http.ServeFileFS(c.Writer, c.Request, dist, name)
			return
		}
		switch {
		case path.Ext(name) != "" && name != "index.html":
			refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.") // a missing file is not the page
		case indexes[""] == nil:
			c.String(http.StatusServiceUnavailable, "The page is not built: run make build.\n")
		default:
			c.Header("Cache-Control", "no-cache")
			index := indexes[""]
			for _, e := range encodings {
				if indexes[e.name] != nil && accepts(accepted, e.name) {
					c.Header("Content-Encoding", e.name)
					index = indexes[e.name]
					break
				}
			}
			c.Data(http.StatusOK, "text/html; charset=utf-8", index) // ServeFile would send /index.html elsewhere
		}
	}
}

func isFile(dist fs.FS, name string) bool {
	st, err := fs.Stat(dist, name)
	return err == nil && !st.IsDir()
}

// accepts reports whether an Accept-Encoding header takes an encoding, by name: what only a star takes is sent plain.
func accepts(header, encoding string) bool {
	for one := range strings.SplitSeq(header, ",") {
		name, weight, _ := strings.Cut(strings.TrimSpace(one), ";")
		if strings.TrimSpace(name) != encoding {
			continue
		}
		q, weighed := strings.CutPrefix(strings.TrimSpace(weight), "q=")
		v, err := strconv.ParseFloat(q, 64)
		return !weighed || err == nil && v > 0
	}
	return false
}
