// Package web holds the built page.
package web

import (
	"embed"
	"io/fs"
)

//go:embed all:dist
var dist embed.FS

// Dist returns the files that `make build` made of web/src; none but a placeholder before.
func Dist() fs.FS {
	sub, err := fs.Sub(dist, "dist")
	if err != nil {
		panic(err) // only for a malformed path
	}
	return sub
}
