package httpapi_test

import (
	"net/http"
	"regexp"
	"slices"
	"strings"
	"sync"
	"sync/atomic"
	"testing"
	"time"

	"github.com/getkin/kin-openapi/openapi3"
	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

func TestSignInSlowsAndLocks(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.caller()
	assert.Equal(t, "not-signed-in", c.must(http.StatusUnauthorized, "GET", "/bikes", nil, nil).Code)
	try := func(pin string) answer {
		return c.call("PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": pin}, nil)
	}
	for range 2 {
		a := try("0000")
		require.Equal(t, http.StatusUnauthorized, a.status)
		assert.Equal(t, "wrong-pin", a.Code)
	}
	waits := []int{2, 4, 300, 600}
	for _, seconds := range waits {
		a := try("0000")
		require.Equal(t, http.StatusTooManyRequests, a.status)
		assert.Equal(t, seconds, a.RetryAfter)
		assert.NotEmpty(t, a.header.Get("Retry-After"))
		// The right PIN is not even looked at before the wait is over.
		require.Equal(t, http.StatusTooManyRequests, try("2718").status)
		f.now = f.now.Add(time.Duration(seconds) * time.Second)
	}
	a := try("2718")
	require.Equal(t, http.StatusOK, a.status, "%s", a.body)
	cookie := a.header.Get("Set-Cookie")
	for _, want := range []string{"HttpOnly", "SameSite=Strict", "Path=/"} {
		assert.Contains(t, cookie, want)
	}
	assert.Equal(t, http.StatusUnauthorized, try("0000").status, "a right PIN starts the count again")

	// Somebody who does not work here is answered like a wrong PIN.
	a = c.call("PUT", "/session", map[string]any{"person_id": uuid.New(), "pin": "2718"}, nil)
	assert.Equal(t, "wrong-pin", a.Code)

	c.must(http.StatusOK, "GET", "/session", nil, nil)
	f.now = f.now.Add(7 * time.Hour)
	c.must(http.StatusOK, "GET", "/session", nil, nil) // being used keeps it alive
	f.now = f.now.Add(9 * time.Hour)
	c.must(http.StatusUnauthorized, "GET", "/session", nil, nil) // idle for longer than the shop allows

	c = f.signedIn()
	c.must(http.StatusNoContent, "DELETE", "/session", nil, nil)
	c.must(http.StatusUnauthorized, "GET", "/session", nil, nil)
}

// Guesses sent side by side are counted one by one.
func TestGuessesSideBySide(t *testing.T) {
	t.Parallel()
	f := serve(t)
	var all sync.WaitGroup
	var wrong atomic.Int32 // answers that came without a wait, so that the next could follow at once
	for range 12 {
		c := f.caller()
		all.Go(func() {
			if c.call("PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": "0000"}, nil).Code == "wrong-pin" {
				wrong.Add(1)
			}
		})
	}
	all.Wait()
	assert.EqualValues(t, 2, wrong.Load(), "two slips are free, however many come at once")
	assert.Equal(t, http.StatusTooManyRequests, f.caller().call("PUT", "/session", map[string]any{"person_id": f.mira.ID, "pin": "2718"}, nil).status)
}

func TestWritesFromOtherSitesAreRefused(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	for _, header := range []map[string]string{{"Origin": "https://elsewhere.example"}, {"Sec-Fetch-Site": "cross-site"}} {
		a := c.call("POST", "/customers", record.CustomerFacts{Name: "Nobody"}, header)
		assert.Equal(t, http.StatusForbidden, a.status)
		assert.Equal(t, "cross-origin", a.Code)
	}
	var found bikes.CustomerPage
	c.must(http.StatusOK, "GET", "/customers", nil, &found)
	assert.Empty(t, found.Customers)
}

// Who may do what is in one table with a row for each operation of the contract that needs somebody signed in, and
// whoever may not is told so in words before anything is looked at.
func TestRolesAsTheTableSays(t *testing.T) {
	t.Parallel()
	f := serve(t)
	doc, err := openapi3.NewLoader().LoadFromFile("../../api/openapi.yaml")
	require.NoError(t, err)
	callers := map[record.Role]*caller{}
	for i, role := range []record.Role{record.RoleOwner, record.RoleMechanic, record.RoleCounter, record.RoleApprentice} {
		secret := []string{"harbour wall at low water", "4669", "5772", "8426"}[i]
		p, err := f.shop.AddPerson(t.Context(), "Person "+secret, string(role), secret)
		require.NoError(t, err)
		callers[role] = f.caller()
		callers[role].must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": p.ID, "pin": secret}, nil)
	}
	rows := map[string]bool{people.Release: true}
	refused := 0
	for path, item := range doc.Paths.Map() {
		for method, o := range item.Operations() {
			if o.Security != nil && len(*o.Security) == 0 {
				continue
			}
			rule, listed := people.Operations()[o.OperationID]
			if !assert.True(t, listed, "%s has no row", o.OperationID) {
				continue
			}
			rows[o.OperationID] = true
			at := strings.NewReplacer("{tag}", "B-0001-C").Replace(path)
			at = regexp.MustCompile(`\{[a-z]+\}`).ReplaceAllString(at, uuid.NewString())
			for role, c := range callers {
				if slices.Contains(rule.Roles, role) {
					continue
				}
				refused++
				a := c.call(method, at, nil, nil)
				assert.Equal(t, []any{http.StatusForbidden, "not-allowed", rule.Refusal}, []any{a.status, a.Code, a.Title}, "%s by %s", o.OperationID, role)
				assert.NotEmpty(t, rule.Refusal)
			}
		}
	}
	assert.Greater(t, refused, 10)
	for operation := range people.Operations() {
		assert.True(t, rows[operation], "%s is nothing that can be done", operation)
	}
}
