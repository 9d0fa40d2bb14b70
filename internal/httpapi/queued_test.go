package httpapi_test

import (
	"bytes"
	"image"
	"image/png"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/jobs"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// kept is what comes with a write that a device kept: done at a time by its own clock, which is so much behind ours.
func kept(author uuid.UUID, at time.Time, behind time.Duration, more ...string) map[string]string {
	h := map[string]string{"Written-By": author.String(), "Happened-At": at.Add(-behind).Format(time.RFC3339Nano), "Clock-Behind": fmtMS(behind), "Idempotency-Key": uuid.NewString()}
	for i := 0; i+1 < len(more); i += 2 {
		h[more[i]] = more[i+1]
	}
	return h
}

func fmtMS(d time.Duration) string { return strings.TrimSuffix(jsonOf(d.Milliseconds()), "\n") }

func newID(t *testing.T) uuid.UUID {
	t.Helper()
	id, err := uuid.NewV7()
	require.NoError(t, err)
	return id
}

// soak is a job of a bike that is planned as a soak.
func (c *caller) soak(tag string) jobs.Job {
	c.t.Helper()
	var job jobs.Job
	c.must(http.StatusCreated, "POST", "/bikes/"+tag+"/jobs", map[string]any{"frame_grade": 2, "drivetrain_grade": 3, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true}, &job)
	c.must(http.StatusOK, "PUT", "/jobs/"+job.ID.String()+"/plan", map[string]any{"version": job.Version}, &job)
	return job
}

// What a device kept comes later than it was done: everything has the time at which it was done, by the shop's clock however
// wrong the device's is, and history says both.
func TestKeptWritesHaveTheirOwnTime(t *testing.T) {
	t.Parallel()
	for _, behind := range []time.Duration{0, time.Hour, -time.Hour} {
		t.Run(behind.String(), func(t *testing.T) {
			t.Parallel()
			f := serve(t)
			c := f.signedIn()
			bike := c.addBike("Ottoline Brack", twelve())
			job := c.soak(bike.Tag)
			began := f.now
			f.now = f.now.Add(time.Hour)
			send := func(status int, path string, body any, after time.Duration) answer {
				a := c.call("POST", path, body, kept(f.mira.ID, began.Add(after), behind))
				require.Equal(t, status, a.status, "%s: %s", path, a.body)
				return a
			}
			path := "/jobs/" + job.ID.String()
			wait := newID(t)
			var waiting *jobs.StepView // the first step that a wait follows, done with what comes before it
			for i := range job.StepList {
				s := &job.StepList[i]
				if s.Wait != nil && s.Wait.Least > 0 {
					waiting = s
					break
				}
				send(http.StatusOK, path+"/steps/"+s.Code, map[string]any{"action": "skip", "reason": "done before"}, time.Minute)
			}
			require.NotNil(t, waiting)
			send(http.StatusOK, path+"/steps/"+waiting.Code, map[string]any{"action": "begin", "seen": waiting.Cautions}, 2*time.Minute)
			send(http.StatusOK, path+"/steps/"+waiting.Code, map[string]any{"action": "done", "seen": waiting.Cautions, "wait_ids": map[string]any{waiting.Code: wait}}, 5*time.Minute)
			send(http.StatusCreated, path+"/findings?id="+newID(t).String(), map[string]any{"code": "cable-frayed"}, 6*time.Minute)
			send(http.StatusCreated, path+"/notes", map[string]any{"text": "bell is loose"}, 7*time.Minute)
			send(http.StatusCreated, "/bikes/"+bike.Tag+"/measurements", measure.NewMeasurement{InstrumentID: c.tool("ruler"), Entries: places("304.9 mm", "304.9 mm", "304.9 mm")}, 8*time.Minute)
			send(http.StatusCreated, "/bikes/"+bike.Tag+"/odometer", map[string]any{"km": 1200}, 9*time.Minute)
			c.must(http.StatusOK, "GET", path, nil, &job)
			i := slices.IndexFunc(job.StepList, func(s jobs.StepView) bool { return s.Code == waiting.Code })
			assert.WithinDuration(t, began.Add(5*time.Minute), *job.StepList[i].DoneAt, 0)
			assert.Equal(t, 180, job.StepList[i].WorkedS, "the time at it is the mechanic's, not the network's")
			require.Len(t, job.Waits, 1)
			assert.Equal(t, wait, job.Waits[0].ID)
			assert.WithinDuration(t, began.Add(5*time.Minute), job.Waits[0].BeganAt, 0, "a wait started when it was started")
			var ledger measure.LedgerPage
			c.must(http.StatusOK, "GET", "/bikes/"+bike.Tag+"/ledger", nil, &ledger)
			for kind, after := range map[string]time.Duration{"job-finding": 6, "job-note": 7, "measurement": 8, "odometer": 9} {
				e := ledger.Entries[slices.IndexFunc(ledger.Entries, func(e measure.LedgerEntry) bool { return e.Kind == kind })]
				assert.WithinDuration(t, began.Add(after*time.Minute), e.HappenedAt, 0, kind)
				assert.WithinDuration(t, f.now, e.WrittenAt, 0, kind)
			}
			a := c.call("POST", path+"/notes", map[string]any{"text": "from tomorrow"}, kept(f.mira.ID, f.now.Add(26*time.Hour), behind))
			require.Equal(t, http.StatusCreated, a.status, "what is dated ahead was done now at the latest: %s", a.body)
			c.must(http.StatusOK, "GET", path, nil, &job)
			assert.False(t, job.Notes[len(job.Notes)-1].At.After(f.now))

			second := c.soak(c.addBike("Jory Quillfeather", twelve()).Tag)
			path = "/jobs/" + second.ID.String()
			for _, s := range second.StepList {
				if s.Code == waiting.Code {
					break
				}
				send(http.StatusOK, path+"/steps/"+s.Code, map[string]any{"action": "skip", "reason": "done before"}, 10*time.Minute)
			}
			send(http.StatusOK, path+"/steps/"+waiting.Code, map[string]any{"action": "begin", "seen": waiting.Cautions}, 11*time.Minute)
			a = c.call("POST", path+"/steps/"+waiting.Code, map[string]any{"action": "done", "seen": waiting.Cautions, "wait_ids": map[string]any{waiting.Code: wait}}, kept(f.mira.ID, f.now, 0))
			assert.Equal(t, "name-taken", a.Code, "a wait that runs elsewhere by that name: %s", a.body)
		})
	}
}

// What a device made without a network goes by the names that it gave: its ids, and a tag until the shop gives one, by which
// the bike is still found. What is built on it names it, and is refused where it did not arrive.
func TestThingsMadeOnADevice(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	bikeID, jobID := newID(t), newID(t)
	added, opened := kept(f.mira.ID, f.now, 0), map[string]string(nil)
	body := bikes.NewBike{Customer: &record.CustomerFacts{Name: "Jory Quillfeather"}, Facts: twelve()}
	intake := map[string]any{"frame_grade": 2, "drivetrain_grade": 3, "lubricant_on": "oil", "complaints": []string{}, "has_joining_link": true}
	orphan := c.call("POST", "/bikes/new-7q2m4k/jobs?id="+jobID.String(), intake, kept(f.mira.ID, f.now, 0, "Follows", added["Idempotency-Key"]))
	assert.Equal(t, "follows-nothing", orphan.Code, "%s", orphan.body)
	a := c.call("POST", "/bikes?id="+bikeID.String()+"&made_as=NEW-7Q2M4K", body, added)
	require.Equal(t, http.StatusCreated, a.status, "%s", a.body)
	opened = kept(f.mira.ID, f.now, 0, "Follows", added["Idempotency-Key"])
	a = c.call("POST", "/bikes/new-7q2m4k/jobs?id="+jobID.String(), intake, opened)
	require.Equal(t, http.StatusCreated, a.status, "%s", a.body)
	var bike bikes.Bike
	c.must(http.StatusOK, "GET", "/bikes/NEW-7Q2M4K", nil, &bike)
	assert.Regexp(t, `^B-`, bike.Tag, "the shop gave it a tag")
	var job jobs.Job
	c.must(http.StatusOK, "GET", "/jobs/"+jobID.String(), nil, &job)
	assert.Equal(t, bike.Tag, job.Tag)
	var found struct{ Bikes []bikes.BikeRow }
	for _, q := range []string{"new-7q2m4k", "7q2m4k"} {
		c.must(http.StatusOK, "GET", "/bikes?q="+url.QueryEscape(q), nil, &found)
		require.Len(t, found.Bikes, 1, q)
	}
	c.must(http.StatusOK, "PUT", "/bikes/NEW-7Q2M4K", map[string]any{"version": bike.Version, "customer_id": bike.Customer.ID, "facts": record.BikeFacts{Make: "Gannet"}}, nil)
	c.must(http.StatusOK, "GET", "/bikes?q=new-7q2m4k", nil, &found)
	require.Len(t, found.Bikes, 1, "and is found by it after a change")

	faultID, waitID := newID(t), newID(t)
	c.must(http.StatusCreated, "POST", "/jobs/"+jobID.String()+"/findings?id="+faultID.String(), map[string]any{"code": "tyre-cut"}, nil)
	c.must(http.StatusCreated, "POST", "/waits?id="+waitID.String(), map[string]any{"what": "glue", "minutes": 5}, nil)
	a = c.call("POST", "/jobs/"+jobID.String()+"/hand-back", map[string]any{"version": 0}, kept(f.mira.ID, f.now, 0))
	assert.Equal(t, "changed-meanwhile", a.Code, "a version nobody saw is none: %s", a.body)
	a = c.call("POST", "/jobs/"+jobID.String()+"/hand-back", map[string]any{"version": 0}, kept(f.mira.ID, f.now, 0, "Follows", opened["Idempotency-Key"]))
	assert.Equal(t, "not-planned", a.Code, "the version that the write before left: %s", a.body)
	c.must(http.StatusOK, "PUT", "/jobs/"+jobID.String()+"/plan", map[string]any{"version": job.Version}, nil)
	a = c.call("POST", "/jobs/"+jobID.String()+"/hand-back", map[string]any{"version": 0}, kept(f.mira.ID, f.now, 0, "Follows", opened["Idempotency-Key"]))
	assert.Equal(t, "changed-meanwhile", a.Code, "somebody planned it since: %s", a.body)

	again := kept(f.mira.ID, f.now, 0)
	for _, path := range []string{"/bikes?made_as=NEW-IIIIII", "/bikes?id=" + uuid.NewString(), "/bikes?made_as=0186-K"} {
		assert.Equal(t, http.StatusUnprocessableEntity, c.call("POST", path, body, again).status, path)
	}
	assert.Equal(t, http.StatusNotFound, c.call("GET", "/bikes/NEW-000000", nil, nil).status)

	onJob := "/jobs/" + jobID.String()
	for _, taken := range []struct {
		path string
		body any
	}{
		{"/bikes?id=" + bikeID.String(), body},
		{"/bikes?made_as=NEW-7Q2M4K", body},
		{"/bikes/" + bike.Tag + "/jobs?id=" + jobID.String(), intake},
		{onJob + "/findings?id=" + faultID.String(), map[string]any{"code": "cable-frayed"}},
		{"/waits?id=" + waitID.String(), map[string]any{"what": "glue", "minutes": 5}},
	} {
		a = c.call("POST", taken.path, taken.body, kept(f.mira.ID, f.now, 0))
		assert.Equal(t, []any{http.StatusConflict, "name-taken"}, []any{a.status, a.Code}, "%s: %s", taken.path, a.body)
	}
}

// What somebody wrote on a device is theirs, whoever is signed in when it is sent, under what they may do by then; and it is
// taken for no longer than the device may send for them.
func TestKeptWritesAreTheirAuthors(t *testing.T) {
	t.Parallel()
	f := serve(t)
	tobiah, err := f.shop.AddPerson(t.Context(), "Tobiah Marsh", "mechanic", "3141")
	require.NoError(t, err)
	boss := f.asOwner()
	c := f.signedIn()
	job := c.soak(c.addBike("Ottoline Brack", twelve()).Tag)
	path := "/jobs/" + job.ID.String() + "/notes"
	note := func(by uuid.UUID) answer {
		return c.call("POST", path, map[string]any{"text": "noted"}, kept(by, f.now, 0))
	}
	in := func(p record.Person, pin string, unsent ...uuid.UUID) {
		c.must(http.StatusOK, "PUT", "/session", map[string]any{"person_id": p.ID, "pin": pin, "unsent": append([]uuid.UUID{}, unsent...)}, nil)
	}
	assert.Equal(t, "author-signed-out", note(tobiah.ID).Code, "he never signed in here")
	in(tobiah, "3141", f.mira.ID)
	require.Equal(t, http.StatusCreated, note(f.mira.ID).status)
	c.must(http.StatusOK, "GET", "/jobs/"+job.ID.String(), nil, &job)
	assert.Equal(t, "Mira Oxenholt", job.Notes[0].By)
	in(tobiah, "3141")
	assert.Equal(t, "author-signed-out", note(f.mira.ID).Code, "with nothing left to send, nothing is sent for her any more")
	in(f.mira, "2718", tobiah.ID)

	late := c.call("POST", path, map[string]any{"text": "old"}, kept(f.mira.ID, f.now.Add(-15*24*time.Hour), 0))
	assert.Equal(t, "kept-too-long", late.Code)
	late = c.call("POST", path, map[string]any{"text": "old"}, kept(f.mira.ID, f.now.Add(-15*24*time.Hour), 0, "Looked-Over", "true"))
	assert.Equal(t, http.StatusCreated, late.status, "%s", late.body)

	for _, needs := range []struct{ method, path string }{{"PUT", "/staff/" + tobiah.ID.String()}, {"POST", "/ledger/" + uuid.NewString() + "/strike"}, {"POST", "/measurements/" + uuid.NewString() + "/countersign"}} {
		a := c.call(needs.method, needs.path, map[string]any{}, kept(tobiah.ID, f.now, 0))
		assert.Equal(t, "needs-connection", a.Code, "%s: %s", needs.path, a.body)
	}
	step := func(by uuid.UUID) answer {
		return c.call("POST", "/jobs/"+job.ID.String()+"/steps/"+job.StepList[0].Code, map[string]any{"action": "begin", "seen": job.StepList[0].Cautions}, kept(by, f.now, 0))
	}
	boss.must(http.StatusOK, "PUT", "/staff/"+tobiah.ID.String(), people.StaffChange{Version: 1, StaffFacts: people.StaffFacts{Name: "Tobiah Marsh", Role: "counter", State: people.Here}}, nil)
	assert.Equal(t, "author-signed-out", step(tobiah.ID).Code, "another role ends it everywhere")
	in(tobiah, "3141", f.mira.ID)
	in(f.mira, "2718", tobiah.ID)
	assert.Equal(t, http.StatusForbidden, step(tobiah.ID).status, "he is of the counter by now")
	assert.Equal(t, http.StatusCreated, note(tobiah.ID).status)

	drop := func(of uuid.UUID) int {
		return c.call("POST", "/unsent/dropped", map[string]any{"of": of, "what": []string{"Note: noted"}}, nil).status
	}
	assert.Equal(t, http.StatusNoContent, drop(tobiah.ID), "a mechanic drops a colleague's")
	in(tobiah, "3141", f.mira.ID)
	assert.Equal(t, http.StatusNoContent, drop(tobiah.ID))
	assert.Equal(t, http.StatusForbidden, drop(f.mira.ID))
	var changes rules.SettingChanges
	boss.must(http.StatusOK, "GET", "/settings/changes", nil, &changes)
	assert.Equal(t, "Tobiah Marsh: Note: noted", changes.Changes[0].Fields[0].Before)

	var devices []people.DeviceView
	boss.must(http.StatusOK, "GET", "/devices", nil, &devices)
	here := devices[slices.IndexFunc(devices, func(d people.DeviceView) bool { return d.SignedIn == "Tobiah Marsh" })]
	boss.must(http.StatusOK, "DELETE", "/devices/"+here.ID.String()+"/session", nil, nil)
	gone := note(f.mira.ID)
	assert.Equal(t, []any{"author-signed-out", "true"}, []any{gone.Code, gone.header.Get("Signed-Out-From-Afar")}, "what it keeps of the shop goes")
	in(f.mira, "2718")
	assert.Empty(t, c.call("GET", "/session", nil, nil).header.Get("Signed-Out-From-Afar"))
	assert.Equal(t, http.StatusCreated, note(f.mira.ID).status)
	c.must(http.StatusNoContent, "DELETE", "/session?unsent="+f.mira.ID.String(), nil, nil)
	assert.Equal(t, http.StatusCreated, note(f.mira.ID).status, "signed out with something left to send")
	c.must(http.StatusNoContent, "DELETE", "/session", nil, nil)
	assert.Equal(t, "author-signed-out", note(f.mira.ID).Code)
}

// Pictures come last: what only adds to a job comes to it even where it was closed since, and nothing else does.
func TestPicturesOfAClosedJob(t *testing.T) {
	t.Parallel()
	f := serve(t)
	c := f.signedIn()
	job := c.soak(c.addBike("Ottoline Brack", twelve()).Tag)
	path := "/jobs/" + job.ID.String()
	then := f.now
	f.now = f.now.Add(time.Hour)
	c.must(http.StatusOK, "POST", path+"/cancel", map[string]any{"version": job.Version, "reason": "took it home"}, nil)
	var picture bytes.Buffer
	require.NoError(t, png.Encode(&picture, image.NewGray(image.Rect(0, 0, 40, 30))))
	photo := func(at time.Time) answer {
		return c.call("POST", path+"/photos", picture.String(), kept(f.mira.ID, at, 0, "Content-Type", "application/octet-stream"))
	}
	assert.Equal(t, "job-closed", photo(f.now).Code)
	assert.Equal(t, http.StatusCreated, photo(then).status)
	assert.Equal(t, http.StatusCreated, c.call("POST", path+"/notes", map[string]any{"text": "scratch was there"}, kept(f.mira.ID, then, 0)).status)
	assert.Equal(t, "job-closed", c.call("POST", path+"/findings", map[string]any{"code": "cable-frayed"}, kept(f.mira.ID, then, 0)).Code)
}
