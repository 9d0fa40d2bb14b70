package httpapi_test

import (
	"bytes"
	"context"
	"net/http"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/pgtest"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// empty serves a database where nobody set up anything, and says which codes were printed.
func empty(t *testing.T) (f *fixture, codes *[]string) {
	t.Helper()
	s, err := store.Open(t.Context(), pgtest.New(t))
	require.NoError(t, err)
	t.Cleanup(s.Close)
	f = &fixture{t: t, now: time.Date(2026, 5, 4, 12, 0, 0, 0, time.UTC)}
	f.shop = shop.New(s, func() time.Time { return f.now })
	f.shop.HashAtNoCost()
	codes = &[]string{}
	f.shop.TellCode(func(code string) { *codes = append(*codes, code) })
	require.NoError(t, f.shop.OfferSetUp(t.Context()))
	require.Len(t, *codes, 1)
	return f.over(s), codes
}

func firstShop(code string) map[string]any {
	return map[string]any{"code": code, "name": " Tidewrack Lane ", "time_zone": "Europe/Lisbon", "locale": "en-GB", "currency": "GBP",
		"length_unit": "mm", "distance_unit": "mi", "temperature_unit": "c", "volume_unit": "ml", "mass_unit": "g",
		"owner": map[string]any{"name": "Wenna Sallow", "secret": "slack water at noon"}, "device": "office"}
}

// A new shop is set up by whoever knows the code that was printed: three wrong ones make another, everything wrong is said at
// its field, and once somebody works here the door is shut.
func TestFirstRun(t *testing.T) {
	t.Parallel()
	f, codes := empty(t)
	c := f.caller()
	var open struct{ Open bool }
	c.must(http.StatusOK, "GET", "/setup", nil, &open)
	assert.True(t, open.Open)
	c.must(http.StatusOK, "GET", "/people", nil, nil)

	said := ""
	for range 3 {
		a := c.must(http.StatusUnprocessableEntity, "POST", "/setup/code", map[string]any{"code": "AAAA-AAAA"}, nil)
		assert.NotEqual(t, said, a.Title)
		said = a.Title
	}
	assert.Contains(t, said, "A new one was printed")
	require.Len(t, *codes, 2)
	a := c.must(http.StatusUnprocessableEntity, "POST", "/setup", firstShop((*codes)[0]), nil)
	assert.Equal(t, "code", a.Fields[0].Path)
	code := (*codes)[1]
	c.must(http.StatusNoContent, "POST", "/setup/code", map[string]any{"code": " " + code[:4] + code[5:] + " "}, nil)

	wrong := firstShop(code)
	wrong["name"], wrong["time_zone"], wrong["currency"], wrong["owner"] = " ", "Sea/Level", "shells", map[string]any{"name": "", "secret": "short"}
	a = c.must(http.StatusUnprocessableEntity, "POST", "/setup", wrong, nil)
	paths := []string{}
	for _, field := range a.Fields {
		paths = append(paths, field.Path)
	}
	assert.ElementsMatch(t, []string{"name", "time_zone", "currency", "owner.name", "owner.secret"}, paths)

	var session people.SessionView
	c.must(http.StatusCreated, "POST", "/setup", firstShop(code), &session)
	assert.Equal(t, "Tidewrack Lane", session.Shop.Name)
	assert.Equal(t, record.RoleOwner, session.Person.Role)
	assert.Equal(t, rules.SetUpSteps(), session.Shop.SettingUp)
	var v rules.RulesView
	c.must(http.StatusOK, "GET", "/rules", nil, &v)
	assert.Positive(t, v.Rules.Work.LabourHour)
	assert.Equal(t, 4200, *v.Rules.Classes[2].Chain)
	var page rules.SettingChanges
	c.must(http.StatusOK, "GET", "/settings/changes", nil, &page)
	assert.Equal(t, "person-added", page.Changes[0].Kind)

	var left struct{ Left []string }
	for i, step := range rules.SetUpSteps() {
		c.must(http.StatusOK, "PUT", "/settings/set-up/"+step, nil, &left)
		assert.Len(t, left.Left, len(rules.SetUpSteps())-1-i)
	}
	c.must(http.StatusOK, "PUT", "/rules", map[string]any{"version": v.Version, "rules": v.Rules}, nil) // the steps are no change of the rules
	var now people.SessionView
	c.must(http.StatusOK, "GET", "/session", nil, &now)
	assert.Empty(t, now.Shop.SettingUp)

	for at, body := range map[string]any{"/setup": firstShop(code), "/setup/code": map[string]any{"code": code}} {
		assert.Equal(t, "set-up-closed", f.caller().must(http.StatusConflict, "POST", at, body, nil).Code)
	}
	f.caller().must(http.StatusOK, "GET", "/setup", nil, &open)
	assert.False(t, open.Open)
	require.NoError(t, f.shop.OfferSetUp(t.Context()))
	assert.Len(t, *codes, 2, "another start prints no code")
}

// Two who know the code set the shop up at once: there is one shop and one owner, and the other is told so.
func TestSetUpTwiceAtOnce(t *testing.T) {
	t.Parallel()
	f, codes := empty(t)
	answers := make(chan int, 2)
	for i := range 2 {
		go func() {
			n := firstShop((*codes)[0])
			n["owner"] = map[string]any{"name": []string{"Wenna Sallow", "Maud Kestle"}[i], "secret": "slack water at noon"}
			answers <- f.caller().call("POST", "/setup", n, nil).status
		}()
	}
	assert.ElementsMatch(t, []int{http.StatusCreated, http.StatusConflict}, []int{<-answers, <-answers})
	all, err := f.shop.ListPeople(t.Context())
	require.NoError(t, err)
	assert.Len(t, all, 1)
}

// A shop comes back from its backup through the page: with the code alone, whole or not at all, and its people sign in.
func TestRestoredFromThePage(t *testing.T) {
	t.Parallel()
	from := serve(t)
	bike := from.signedIn().addBike("Aldous Fenwick-Reyes", twelve())
	var file bytes.Buffer
	_, err := from.db.Backup(t.Context(), &file, from.now)
	require.NoError(t, err)

	f, codes := empty(t)
	send := func(code string, body []byte) (int, string) {
		req, err := http.NewRequestWithContext(context.Background(), "POST", f.url+"/api/v1/setup/restore?code="+code, bytes.NewReader(body))
		require.NoError(t, err)
		req.Header.Set("Content-Type", "application/octet-stream")
		resp, err := http.DefaultClient.Do(req)
		require.NoError(t, err)
		defer func() { _ = resp.Body.Close() }()
		var text bytes.Buffer
		_, err = text.ReadFrom(resp.Body)
		require.NoError(t, err)
		return resp.StatusCode, text.String()
	}
	status, text := send("AAAA-AAAA", file.Bytes())
	assert.Equal(t, http.StatusUnprocessableEntity, status, text)
	for _, bad := range [][]byte{[]byte("no backup"), file.Bytes()[:file.Len()/2]} {
		status, text = send((*codes)[0], bad)
		assert.Equal(t, http.StatusUnprocessableEntity, status)
		assert.Contains(t, text, "Nothing was changed")
	}
	status, text = send((*codes)[0], file.Bytes())
	require.Equal(t, http.StatusOK, status, text)
	assert.Contains(t, text, `"bikes":1`)
	c := f.caller()
	c.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": from.mira.ID, "pin": "2718"}, nil)
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag, nil, nil)
	status, _ = send((*codes)[0], file.Bytes())
	assert.Equal(t, http.StatusConflict, status)
}
