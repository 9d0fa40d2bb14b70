package httpapi

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"os"
	"slices"
	"strings"
	"sync"
	"unicode/utf8"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/getkin/kin-openapi/openapi3filter"
	"github.com/getkin/kin-openapi/routers"
	"github.com/getkin/kin-openapi/routers/gorillamux"
	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"earnestpony/internal/httpapi/apigen"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/record"
)

// maxBody is the most that a request may carry: the longest notes many times over. A photo may be
// larger.
const maxBody = 1 << 20

// maxBackup is the largest backup of a shop that is taken: some tens of thousands of pictures.
const maxBackup = 16 << 30

// maxOvershoot is how much too much is still read, for the sake of an answer.
const maxOvershoot = 8 << 20

// contract checks every request against the OpenAPI document, and says of each whether it needs
// somebody signed in.
type contract struct {
	router routers.Router
	base   string
}

// readContract reads the contract once for the process: nothing changes it, and it is long.
var readContract = sync.OnceValues(func() (*contract, error) {
	// The library's own pattern knows only older versions of UUIDs. This is set for the process.
	openapi3.DefineStringFormatValidator("uuid", openapi3.NewCallbackValidator(uuid.Validate))
	doc, err := apigen.GetSpec()
	if err != nil {
		return nil, fmt.Errorf("read the contract: %w", err)
	}
	router, err := gorillamux.NewRouter(doc)
	if err != nil {
		return nil, fmt.Errorf("read the contract: %w", err)
	}
	return &contract{router: router, base: doc.Servers[0].URL}, nil
})

// Names under which a request carries what [contract.find] found.
const (
	foundRoute  = "pony.route"
	foundParams = "pony.params"
)

// find finds the operation that a request asks for, and with it how long the request may take and whether
// somebody must be signed in. Nothing of its body is read yet.
func (k *contract) find(c *gin.Context) {
	route, params, err := k.router.FindRoute(c.Request)
	switch {
	case errors.Is(err, routers.ErrMethodNotAllowed):
		refuse(c, http.StatusMethodNotAllowed, "method-not-allowed", "This address does not take "+c.Request.Method+".")
		return
	case err != nil:
		refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.")
		return
	}
	for _, text := range params {
		if plain, err := url.PathUnescape(text); err != nil || !plainText(plain) {
			refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address.")
			return
		}
	}
	c.Set(foundRoute, route)
	c.Set(foundParams, params)
	c.Set(operationID, operationOf(route))
	c.Set(needsPerson, route.Operation.Security == nil || len(*route.Operation.Security) > 0)
	deadlines(paceOf(operationOf(route)))(c)
}

// operationOf is an operation's id as the contract has it: the generator's copy of it begins with a capital.
func operationOf(route *routers.Route) string {
	id := route.Operation.OperationID
	return strings.ToLower(id[:1]) + id[1:]
}

// plainText reports whether a text can be kept and looked for: UTF-8 without a NUL.
func plainText(s string) bool { return utf8.ValidString(s) && !strings.ContainsRune(s, 0) }

func (k *contract) check(c *gin.Context) {
	route, ok := c.Value(foundRoute).(*routers.Route)
	params, _ := c.Value(foundParams).(map[string]string)
	if !ok {
		return // refused already
	}
	for _, values := range c.Request.URL.Query() {
		for _, text := range values {
			if !plainText(text) {
				refuse(c, http.StatusBadRequest, "invalid-input", "There are characters in this address that are no text.")
				return
			}
		}
	}
	most := int64(maxBody)
	switch paceOf(operationOf(route)) {
	case slow:
		most = bikes.MaxPhotoBytes
	case backups:
		most = maxBackup
	}
	c.Set(wholeBody, c.Request.Body)
	// The library closes what it has read; the server closes the body itself in the end.
	c.Request.Body = io.NopCloser(http.MaxBytesReader(c.Writer, c.Request.Body, most))
	err := openapi3filter.ValidateRequest(c.Request.Context(), &openapi3filter.RequestValidationInput{
		Request: c.Request, PathParams: params, Route: route,
		Options: &openapi3filter.Options{
			MultiError:         true,
			AuthenticationFunc: openapi3filter.NoopAuthenticationFunc, // signedIn does that
			// Calculations read their input themselves, the same way as on the command line.
			// A backup is read as it comes: no machine holds a whole one.
			ExcludeRequestBody: strings.HasPrefix(route.Path, "/calc/") || most == maxBackup,
		},
	})
	switch {
	case err == nil:
	case isTooLarge(err):
		refuseTooLarge(c)
	case errors.Is(err, os.ErrDeadlineExceeded):
		refuseTooSlow(c)
	case isAddress(err):
		refuse(c, http.StatusNotFound, "not-found", "There is nothing at this address: it may be mistyped, or what was there is gone.")
	default:
		f := flattened{}
		f.add("", err)
		sentence := "Something entered is not right."
		if len(f.fields) == 1 {
			sentence = f.fields[0].Message
		}
		refuse(c, http.StatusUnprocessableEntity, "invalid-input", sentence, f.fields...)
	}
}

// isAddress reports whether the address itself names nothing that can be: of a job, say, that is no job's.
func isAddress(err error) bool {
	all, ok := err.(openapi3.MultiError) //nolint:errorlint // the library's own list
	if !ok {
		all = openapi3.MultiError{err}
	}
	return slices.ContainsFunc(all, func(err error) bool {
		e, ok := errors.AsType[*openapi3filter.RequestError](err)
		return ok && e.Parameter != nil && e.Parameter.In == openapi3.ParameterInPath
	})
}

func isTooLarge(err error) bool {
	_, tooLarge := errors.AsType[*http.MaxBytesError](err)
	return tooLarge
}

// refuseTooLarge answers a request that carries too much. Its sender hears the answer only once it
// has sent all, so a little more is read and thrown away; what is left even then must not be taken
// for the next request.
func refuseTooLarge(c *gin.Context) {
	if whole, ok := c.Value(wholeBody).(io.Reader); ok {
		_, _ = io.CopyN(io.Discard, whole, maxOvershoot) // it may well end sooner
	}
	c.Header("Connection", "close")
	refuse(c, http.StatusRequestEntityTooLarge, "too-large", "That is more than can be sent at once.")
}

// flattened are the values that are wrong, at most [maxFaults] of them.
type flattened struct{ fields []record.Field }

// maxFaults is how many faults one answer names: more help nobody, and an answer stays small whatever was sent.
const maxFaults = 50

// add walks the library's tree of errors down to the values that are wrong.
func (f *flattened) add(where string, err error) {
	if len(f.fields) >= maxFaults {
		return
	}
	one := func(path, code, message string) {
		f.fields = append(f.fields, record.Field{Path: path, Code: code, Message: message})
	}
	switch e := err.(type) { //nolint:errorlint // each level is looked at by itself
	case openapi3.MultiError:
		for _, sub := range e {
			f.add(where, sub)
		}
	case *openapi3filter.RequestError:
		if e.Parameter != nil {
			where = e.Parameter.Name
		}
		var parse *openapi3filter.ParseError
		switch {
		case errors.Is(e.Err, openapi3filter.ErrInvalidRequired), errors.Is(e.Err, openapi3filter.ErrInvalidEmptyValue):
			one(where, "required", "This is needed.")
		case e.Err != nil && !errors.As(e.Err, &parse):
			f.add(where, e.Err)
		case parse != nil && e.Parameter == nil:
			one(where, "not-json", "What was sent cannot be read.")
		default:
			one(where, "wrong-kind", "This is not of the right kind.")
		}
	case *openapi3.SchemaError:
		one(pathOf(where, e.JSONPointer()), e.SchemaField, worded(e))
	default:
		one(where, "invalid", "This is not right.")
	}
}

// pathOf writes a pointer as the rest of the contract does: entries[0].text.
func pathOf(where string, pointer []string) string {
	for _, p := range pointer {
		switch {
		case p != "" && strings.Trim(p, "0123456789") == "":
			where += "[" + p + "]"
		case where == "":
			where = p
		default:
			where += "." + p
		}
	}
	return where
}

// kinds and forms say in a mechanic's words what the contract says in a program's.
var (
	kinds = map[string]string{"integer": "a whole number", "number": "a number", "string": "text", "boolean": "yes or no", "array": "a list", "object": "a group of fields"}
	forms = map[string]string{
		"date":      "A date is written as year, month and day: 2026-03-14.",
		"date-time": "A time is written with its day and zone: 2026-03-14T09:30:00Z.",
		"uuid":      "This names nothing that is known here.",
	}
)

// worded says what is wrong with a value in a mechanic's words.
func worded(e *openapi3.SchemaError) string {
	s := e.Schema
	switch e.SchemaField {
	case "required":
		return "This is needed."
	case "maxLength":
		return fmt.Sprintf("This is too long: at most %d characters.", *s.MaxLength)
	case "minLength":
		if s.MinLength == 1 {
			return "This is needed."
		}
		return fmt.Sprintf("This is too short: at least %d characters.", s.MinLength)
	case "minimum", "maximum":
		return fmt.Sprintf("%.60s is outside %s.", fmt.Sprint(e.Value), bounds(s))
	case "maxItems":
		return fmt.Sprintf("Too many: at most %d.", *s.MaxItems)
	case "minItems":
		return fmt.Sprintf("Too few: at least %d.", s.MinItems)
	case "enum":
		return fmt.Sprintf("%.60q is not one of the choices.", fmt.Sprint(e.Value))
	case "type":
		return fmt.Sprintf("This must be %s.", kinds[s.Type.Slice()[0]])
	case "format":
		if words, ok := forms[s.Format]; ok {
			return words
		}
		return "This is not of the right form."
	case "pattern":
		return "This is not of the right form."
	case "properties":
		return "There is no field of this name here."
	}
	return "This is not right." // a validator's own sentence is for nobody who stands at a bike
}

func bounds(s *openapi3.Schema) string {
	switch {
	case s.Min != nil && s.Max != nil:
		return fmt.Sprintf("%g to %g", *s.Min, *s.Max)
	case s.Min != nil:
		return fmt.Sprintf("%g and up", *s.Min)
	case s.Max != nil:
		return fmt.Sprintf("up to %g", *s.Max)
	}
	return "what can be"
}
