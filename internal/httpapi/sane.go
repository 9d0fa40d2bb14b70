package httpapi

import (
	"crypto/sha256"
	"encoding/base64"
	"net"
	"net/http"
	"os"
	"slices"
	"strings"

	"github.com/getkin/kin-openapi/routers"
	"github.com/gin-gonic/gin"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/record"
)

// sane holds every text, number and time of a request against what may be, whichever operation it is for.
func sane(next apigen.StrictHandlerFunc, _ string) apigen.StrictHandlerFunc {
	return func(c *gin.Context, request any) (any, error) {
		if wrong := record.Sane(request); len(wrong) > 0 {
			return nil, &record.Problem{Kind: record.Invalid, Code: "invalid-input", Message: wrong[0].Message, Fields: wrong}
		}
		return next(c, request)
	}
}

// ourHost refuses requests for another name than ours: a page of somebody else's whose name was pointed here
// would read the shop's answers. An address without a name can be pointed nowhere else.
func (a *api) ourHost(c *gin.Context) {
	host := c.Request.Host
	if name, _, err := net.SplitHostPort(host); err == nil {
		host = name
	}
	host = strings.ToLower(strings.Trim(host, "[]"))
	machine, _ := os.Hostname() // unknown, it is nobody's
	ours := []string{"localhost", strings.ToLower(machine), strings.ToLower(machine) + ".local"}
	for _, name := range a.Names {
		ours = append(ours, strings.ToLower(name))
	}
	if a.PublicURL != nil {
		ours = append(ours, strings.ToLower(a.PublicURL.Hostname()))
	}
	if net.ParseIP(host) == nil && (host == "" || !slices.Contains(ours, host)) {
		refuse(c, http.StatusMisdirectedRequest, "not-here", "This server is not known by that name: start it with --public-url.")
	}
}

// polled are lists that screens ask for again and again: one that did not change is not sent again.
var polled = []string{"getFloor", "listJobs", "listWaits", "listDue", "listMessages", "listReceived"}

// withETag gives the answers of lists that are polled a mark of their content.
func withETag(c *gin.Context) {
	route, ok := c.Value(foundRoute).(*routers.Route)
	if !ok || c.Request.Method != http.MethodGet || !slices.Contains(polled, operationOf(route)) {
		return
	}
	held := &heldWriter{ResponseWriter: c.Writer}
	c.Writer = held
	c.Next()
	c.Writer = held.ResponseWriter
	if held.status == http.StatusOK {
		markOf(c, held.body)
	}
	if c.Writer.Header().Get("ETag") != "" && c.Request.Header.Get("If-None-Match") == c.Writer.Header().Get("ETag") {
		c.Writer.Header().Del("Content-Length")
		c.Writer.WriteHeader(http.StatusNotModified)
		c.Writer.WriteHeaderNow()
		return
	}
	if held.status != 0 {
		c.Writer.WriteHeader(held.status)
	}
	_, _ = c.Writer.Write(held.body) // whoever asked may be gone
}

// markOf marks an answer by its content, to be kept by whoever it is for and asked about each time.
func markOf(c *gin.Context, body []byte) {
	sum := sha256.Sum256(body)
	c.Header("ETag", `"`+base64.RawURLEncoding.EncodeToString(sum[:12])+`"`)
	c.Header("Cache-Control", "private, no-cache")
}

// heldWriter holds an answer back until it is known whether it must be sent.
type heldWriter struct {
	gin.ResponseWriter
	status int
	body   []byte
}

func (w *heldWriter) WriteHeader(status int) { w.status = status }
func (w *heldWriter) WriteHeaderNow()        {}
func (w *heldWriter) Written() bool          { return w.status != 0 || len(w.body) > 0 }
func (w *heldWriter) Status() int            { return max(w.status, http.StatusOK) }
func (w *heldWriter) Size() int              { return len(w.body) }

func (w *heldWriter) Write(b []byte) (int, error) {
	if w.status == 0 {
		w.status = http.StatusOK
	}
	w.body = append(w.body, b...)
	return len(b), nil
}

func (w *heldWriter) WriteString(s string) (int, error) { return w.Write([]byte(s)) }
