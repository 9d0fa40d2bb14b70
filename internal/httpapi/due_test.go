package httpapi_test

import (
	"io"
	"net/http"
	"strings"
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
)

// What is due over HTTP, every answer held against the contract, and what strangers may open without signing in.
func TestDueOverHTTP(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	var what due.BikeDue
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/due", nil, &what)
	assert.NotEmpty(t, what.Tasks)
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/events", map[string]any{"event": "soaked-ride", "note": "causeway"}, &what)
	assert.Equal(t, "due", what.Tasks[0].State)
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/due/wash", map[string]any{"note": "hosed"}, nil)
	assert.Equal(t, http.StatusNotFound, c.call("POST", "/bikes/"+bike.Tag+"/due/polish", map[string]any{}, nil).status)
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", "/bikes/"+bike.Tag+"/events", map[string]any{"event": "tea"}, nil).status)
	for range 3 {
		c.addBike("Another", twelve())
	}
	var page due.DuePage
	c.must(http.StatusOK, "GET", "/due?limit=2", nil, &page)
	require.Len(t, page.Rows, 2)
	assert.Equal(t, bike.Tag, page.Rows[0].Tag)
	var rest due.DuePage
	c.must(http.StatusOK, "GET", "/due?limit=5&after="+page.Next, nil, &rest)
	assert.Len(t, rest.Rows, 2, "goes on where it ended")
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("GET", "/due?after=tea", nil, nil).status)
	c.must(http.StatusOK, "GET", "/due?state=due&within=7&quiet=true&customer="+bike.Customer.ID.String(), nil, &page)

	assert.Equal(t, "not-told", c.call("POST", "/bikes/"+bike.Tag+"/draft", nil, nil).Code, "the owner did not agree")
	c.must(http.StatusOK, "PUT", "/customers/"+bike.Customer.ID.String(), map[string]any{"version": 1, "facts": map[string]any{"name": "Ottoline Brack", "email": "o@example.com", "contact_way": "mail", "consent": true}}, nil)
	var m contact.Message
	c.must(http.StatusCreated, "POST", "/bikes/"+bike.Tag+"/draft", nil, &m)
	assert.Equal(t, "has-draft", c.call("POST", "/bikes/"+bike.Tag+"/draft", nil, nil).Code)
	c.must(http.StatusOK, "PUT", "/messages/"+m.ID.String(), map[string]any{"action": "send", "version": m.Version}, &m)
	assert.Equal(t, http.StatusConflict, c.call("PUT", "/messages/"+m.ID.String(), map[string]any{"action": "send", "version": 1}, nil).status)
	c.must(http.StatusOK, "GET", "/messages", nil, nil)
	c.must(http.StatusOK, "GET", "/gateway/received", nil, nil)
	c.must(http.StatusCreated, "POST", "/gateway/replies", map[string]any{"from": "o@example.com", "text": "STOP"}, nil)

	var link, feed contact.GivenLink
	c.must(http.StatusCreated, "POST", "/links", map[string]any{"kind": "owner", "tag": bike.Tag, "name": "Tag"}, &link)
	c.must(http.StatusCreated, "POST", "/links", map[string]any{"kind": "calendar-shop"}, &feed)
	assert.Contains(t, link.Code, "<svg")
	stranger := c.caller()
	token := strings.TrimPrefix(link.Path, "/o/")
	var owner contact.OwnerPage
	stranger.must(http.StatusOK, "GET", "/owner-page/"+token, nil, &owner)
	stranger.must(http.StatusCreated, "POST", "/owner-page/"+token, map[string]any{"km": 400, "event": "squeak"}, &owner)
	assert.Equal(t, 1, owner.Told)
	assert.Equal(t, http.StatusNotFound, stranger.call("GET", "/owner-page/guessed", nil, nil).status)
	assert.Equal(t, http.StatusUnauthorized, stranger.call("GET", "/due", nil, nil).status)
	open := func(path string) (int, string) {
		res, err := stranger.http.Get(c.url + path)
		require.NoError(t, err)
		defer func() { _ = res.Body.Close() }()
		text, err := io.ReadAll(res.Body)
		require.NoError(t, err)
		return res.StatusCode, string(text)
	}
	status, text := open(feed.Path)
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, text, "BEGIN:VEVENT")
	status, _ = open("/calendar/guessed.ics")
	assert.Equal(t, http.StatusNotFound, status)
	status, text = open("/schemas/bike-passport.json")
	assert.Equal(t, http.StatusOK, status)
	assert.Contains(t, text, "Bike passport")

	var reports []contact.OwnerReportRow
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/reports", nil, &reports)
	c.must(http.StatusNoContent, "PUT", "/owner-reports/"+reports[0].ID.String(), map[string]any{"confirm": true}, nil)
	var live []contact.LiveLink
	c.must(http.StatusOK, "GET", "/links?tag="+bike.Tag, nil, &live)
	require.Len(t, live, 1)
	c.must(http.StatusNoContent, "DELETE", "/links/"+live[0].ID.String(), nil, nil)
	assert.Equal(t, http.StatusNotFound, stranger.call("GET", "/owner-page/"+token, nil, nil).status, "withdrawn")
}

// Files in and out over HTTP, held against the contract.
func TestFormatsOverHTTP(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Ottoline Brack", twelve())
	bytes := map[string]string{"Content-Type": "application/octet-stream"}
	a := c.call("POST", "/bikes/"+bike.Tag+"/rides?name=a.csv", "started_at,distance_km\n2020-05-01 08:30,12\nx,1\n", bytes)
	assert.Equal(t, http.StatusCreated, a.status, "%s", a.body)
	passport := c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/passport", nil, nil)
	a = c.call("POST", "/passports?customer="+bike.Customer.ID.String(), string(passport.body), bytes)
	assert.Equal(t, http.StatusCreated, a.status, "%s", a.body)
	assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", "/passports", "tea", bytes).status)
	table := c.must(http.StatusOK, "GET", "/tables/customers", nil, nil)
	assert.Contains(t, string(table.body), "Ottoline Brack")
	a = c.call("POST", "/tables/customers?write=true", "name,email\nNerys,not an address\n", bytes)
	assert.Equal(t, http.StatusCreated, a.status)
	assert.Contains(t, string(a.body), "not an email address")
	assert.Equal(t, http.StatusNotFound, c.call("POST", "/tables/tea?write=true", "x", bytes).status)
	c.must(http.StatusOK, "GET", "/customers/"+bike.Customer.ID.String()+"/data", nil, nil)
	var erased bikes.Customer
	c.must(http.StatusCreated, "POST", "/customers/"+bike.Customer.ID.String()+"/erase", map[string]any{"version": 1}, &erased)
	assert.Equal(t, "Erased owner", erased.Facts.Name)
}
