package httpapi_test

import (
	"bytes"
	"encoding/json"
	"image"
	"image/png"
	"net/http"
	"strings"
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
)

func TestBikesAreFound(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	facts := twelve()
	facts.FrameNumber = "WX 40%_1"
	bike := c.addBike("Délphine Ærøsteguy", facts)
	c.addBike("Aldous Fenwick-Reyes", record.BikeFacts{Make: "Pellowe"})
	find := func(q string) bikes.BikePage {
		var page bikes.BikePage
		a := c.call("GET", "/bikes?q="+strings.NewReplacer(" ", "+", "%", "%25").Replace(q), nil, nil)
		require.Equal(t, http.StatusOK, a.status)
		require.NoError(t, json.Unmarshal(a.body, &page))
		return page
	}
	for _, q := range []string{bike.Tag, "0001", strings.ToLower(strings.ReplaceAll(bike.Tag, "-", "")), "delphine", "AEROST", "wharf lop", "40%_", "deĺph wharf"} {
		page := find(q)
		require.Equal(t, 1, page.Total, "%q", q)
		assert.Equal(t, bike.Tag, page.Bikes[0].Tag, "%q", q)
	}
	assert.Equal(t, 2, find("").Total)
	assert.Zero(t, find("wharf pellowe").Total)

	var page bikes.BikePage
	c.must(http.StatusOK, "GET", "/bikes?limit=1", nil, &page)
	require.Len(t, page.Bikes, 1)
	require.NotEmpty(t, page.Next)
	c.must(http.StatusOK, "GET", "/bikes?limit=1&after="+page.Next, nil, &page)
	require.Len(t, page.Bikes, 1)
	assert.Equal(t, "Pellowe", page.Bikes[0].Make)

	// A mistyped tag is refused, and never opens the other bike.
	slip := bike.Tag[:5] + "2" + bike.Tag[6:]
	assert.Equal(t, "tag-mistyped", c.must(http.StatusUnprocessableEntity, "GET", "/bikes/"+slip, nil, nil).Code)
	assert.Equal(t, "not-a-tag", c.must(http.StatusUnprocessableEntity, "GET", "/bikes/fenwick", nil, nil).Code)
	assert.Equal(t, "bike-not-found", c.must(http.StatusNotFound, "GET", "/bikes/B-0186-G", nil, nil).Code)
	a := c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/qr", nil, nil)
	assert.Contains(t, string(a.body), "<svg")
}

func TestSecondChangeIsShownBothVersions(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	change := func(version int, colour string) answer {
		facts := twelve()
		facts.Colour = colour
		return c.call("PUT", "/bikes/"+bike.Tag, map[string]any{"version": version, "customer_id": bike.Customer.ID, "facts": facts}, nil)
	}
	require.Equal(t, http.StatusOK, change(1, "slate green").status)
	a := change(1, "claret")
	require.Equal(t, http.StatusConflict, a.status)
	assert.Equal(t, "changed-meanwhile", a.Code)
	assert.Equal(t, "slate green", a.Theirs["facts"].(map[string]any)["colour"])
	assert.Equal(t, "claret", a.Yours["facts"].(map[string]any)["colour"])
	assert.InDelta(t, 2, a.Theirs["version"], 0)
	require.Equal(t, http.StatusOK, change(2, "claret").status)

	// Side by side from one version, one wins and the others are told.
	var wins, conflicts int
	var mu sync.Mutex
	var all sync.WaitGroup
	for _, colour := range []string{"a", "b", "c", "d", "e", "f"} {
		all.Go(func() {
			a := change(3, colour)
			mu.Lock()
			defer mu.Unlock()
			switch a.status {
			case http.StatusOK:
				wins++
			case http.StatusConflict:
				conflicts++
			}
		})
	}
	all.Wait()
	assert.Equal(t, 1, wins)
	assert.Equal(t, 5, conflicts)

	var page measure.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	require.Len(t, page.Entries, 4, "added, and three changes that were kept")
	assert.Equal(t, []string{"colour"}, page.Entries[0].Changed)
	assert.Equal(t, "Mira Oxenholt", page.Entries[0].By)
	assert.Equal(t, "stand 1", page.Entries[0].Device)
}

func TestInputIsCheckedByTheContract(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	put := func(facts string) answer {
		return c.call("PUT", "/bikes/"+bike.Tag, `{"version":1,"customer_id":"`+bike.Customer.ID.String()+`","facts":`+facts+`}`, nil)
	}
	for facts, path := range map[string]string{
		`{"chain_links":3}`:                                     "facts.chain_links",
		`{"motor":"steam"}`:                                     "facts.motor",
		`{"wings":2}`:                                           "facts",
		`{"ring_teeth":[34,3]}`:                                 "facts.ring_teeth[1]",
		`{"make":"` + strings.Repeat("x", 81) + `"}`:            "facts.make",
		`{"drivetrain_kind":"hub-gear","sprocket_count":8}`:     "facts.sprocket_count",
		`{"mix":{"fair":1,"dusty":0,"wet":1,"mud":0,"salt":0}}`: "facts.mix",
		`{"limit_pct":0.8}`:                                     "facts.together_pct",
		`{"sprocket_count":12,"sprocket_teeth":[11,12,13]}`:     "facts.sprocket_teeth",
		`{"drivetrain_kind":"derailleur","chain_links":113}`:    "facts.chain_links",
	} {
		a := put(facts)
		require.Equal(t, http.StatusUnprocessableEntity, a.status, "%s: %s", facts, a.body)
		require.NotEmpty(t, a.Fields, facts)
		assert.Equal(t, path, a.Fields[0].Path, "%s: %s", facts, a.body)
	}
	assert.Equal(t, "not-json", c.call("POST", "/customers", `{`, nil).Fields[0].Code)
	assert.Equal(t, http.StatusRequestEntityTooLarge, c.call("POST", "/customers", `{"name":"`+strings.Repeat("x", 2<<20)+`"}`, nil).status)
	assert.Equal(t, "customer-not-found", c.call("POST", "/bikes", bikes.NewBike{CustomerID: uuid.New()}, nil).Fields[0].Code)
	assert.Equal(t, "has-bikes", c.call("PUT", "/customers/"+bike.Customer.ID.String()+"/archived", map[string]any{"version": 1, "archived": true}, nil).Code)
	var now bikes.Bike
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag, nil, &now)
	assert.Equal(t, bike, now, "nothing was half saved")
}

// A photo is drawn anew and small; what is no picture is refused.
func TestPhoto(t *testing.T) {
	t.Parallel()
	c := serve(t).signedIn()
	bike := c.addBike("Aldous Fenwick-Reyes", twelve())
	at := "/bikes/" + bike.Tag + "/photo"
	put := func(body []byte) answer {
		return c.call("PUT", at, string(body), map[string]string{"Content-Type": "application/octet-stream"})
	}
	assert.Equal(t, "photo-not-found", c.must(http.StatusNotFound, "GET", at, nil, nil).Code)
	big := image.NewNRGBA(image.Rect(0, 0, 2400, 1200))
	var picture, junk bytes.Buffer
	require.NoError(t, png.Encode(&picture, big))
	a := put(picture.Bytes())
	require.Equal(t, http.StatusOK, a.status, "%s", a.body)
	a = c.must(http.StatusOK, "GET", at, nil, nil)
	config, format, err := image.DecodeConfig(bytes.NewReader(a.body))
	require.NoError(t, err)
	assert.Equal(t, []any{"jpeg", 1600, 800}, []any{format, config.Width, config.Height})

	junk.WriteString("<svg onload=alert(1)>")
	assert.Equal(t, "not-a-picture", put(junk.Bytes()).Code)
	assert.Equal(t, "not-a-picture", put(picture.Bytes()[:picture.Len()/2]).Code, "a picture cut short")
	assert.Equal(t, http.StatusRequestEntityTooLarge, put(bytes.Repeat([]byte{0xff}, bikes.MaxPhotoBytes+1)).status)
	var now bikes.Bike
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag, nil, &now)
	assert.NotNil(t, now.PhotoAt, "the good one is still there")
	var without bikes.Bike
	c.must(http.StatusOK, "DELETE", at, nil, &without)
	assert.Nil(t, without.PhotoAt)
	c.must(http.StatusOK, "DELETE", at, nil, nil)
	var page measure.LedgerPage
	c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &page)
	assert.Len(t, page.Entries, 3, "added, photo kept, photo taken away")
}
