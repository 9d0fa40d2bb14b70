package formats_test

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"

	"github.com/muktihari/fit/encoder"
	"github.com/muktihari/fit/profile/filedef"
	"github.com/muktihari/fit/profile/mesgdef"
	"github.com/muktihari/fit/profile/typedef"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"earnestpony/internal/formats"
)

var began = time.Date(2026, 5, 1, 8, 30, 0, 0, time.UTC)

// circle is a ride round a circle of that radius about 50° north, and its length.
func circle(radiusKM float64, points int) (track [][2]float64, km float64) {
	perLat := 6371.0088 * math.Pi / 180
	for i := range points + 1 {
		a := 2 * math.Pi * float64(i) / float64(points)
		track = append(track, [2]float64{50 + radiusKM*math.Sin(a)/perLat, 1 + radiusKM*math.Cos(a)/(perLat*math.Cos(50*math.Pi/180))})
	}
	return track, 2 * math.Pi * radiusKM
}

// gpx writes a track at ten seconds a point.
func gpx(track [][2]float64) []byte {
	var b strings.Builder
	b.WriteString(`<?xml version="1.0"?><gpx version="1.1" xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>`)
	for i, p := range track {
		fmt.Fprintf(&b, `<trkpt lat="%.7f" lon="%.7f"><ele>3</ele><time>%s</time></trkpt>`, p[0], p[1], began.Add(time.Duration(i)*10*time.Second).Format(time.RFC3339))
	}
	b.WriteString(`</trkseg></trk></gpx>`)
	return []byte(b.String())
}

// fit writes the same ride by another library's writer: with its distance, or with its points alone.
func fit(t *testing.T, track [][2]float64, km float64) []byte {
	a := filedef.NewActivity()
	a.FileId.SetType(typedef.FileActivity).SetTimeCreated(began)
	for i, p := range track {
		r := mesgdef.NewRecord(nil).SetTimestamp(began.Add(time.Duration(i) * 10 * time.Second)).SetPositionLatDegrees(p[0]).SetPositionLongDegrees(p[1])
		a.Records = append(a.Records, r)
	}
	end := began.Add(time.Duration(len(track)-1) * 10 * time.Second)
	if km > 0 {
		a.Sessions = append(a.Sessions, mesgdef.NewSession(nil).SetTimestamp(end).SetStartTime(began).SetTotalDistanceScaled(km*1000).SetTotalElapsedTimeScaled(end.Sub(began).Seconds()))
	}
	file := a.ToFIT(nil)
	var out bytes.Buffer
	require.NoError(t, encoder.New(&out).Encode(&file))
	return out.Bytes()
}

// The same ride reads alike from each kind of file, and a known circle gives its length.
func TestRideFiles(t *testing.T) {
	track, km := circle(3, 400)
	files := map[string][]byte{
		"gpx": gpx(track), "fit by its points": fit(t, track, 0), "fit by its distance": fit(t, track, km),
		"csv":                     fmt.Appendf(nil, "started_at,distance_km,duration_min\r\n2026-05-01T08:30:00Z,%.4f,66.67\r\n", km),
		"with a mark at its head": append([]byte("\xef\xbb\xbf"), gpx(track)...),
	}
	for name, data := range files {
		rides, faults := formats.ReadRides(data)
		require.Empty(t, faults, name)
		require.Len(t, rides, 1, name)
		assert.InEpsilon(t, km, rides[0].KM, 0.005, name)
		assert.True(t, rides[0].Start.Equal(began), "%s: %s", name, rides[0].Start)
		assert.InDelta(t, 4000, rides[0].End.Sub(rides[0].Start).Seconds(), 1, name)
	}
}

// Jumps are dropped and counted, pauses kept, and what lies between segments is not ridden.
func TestJumpsAndPauses(t *testing.T) {
	track, km := circle(3, 400)
	track[200] = [2]float64{51, 2}
	rides, faults := formats.ReadRides(gpx(track))
	require.Empty(t, faults)
	assert.Equal(t, 1, rides[0].Jumps)
	assert.InEpsilon(t, km, rides[0].KM, 0.005)

	paused := strings.Replace(string(gpx(track[:100])), "</trkseg></trk>", `</trkseg><trkseg><trkpt lat="52" lon="3"><time>2026-05-01T12:00:00Z</time></trkpt><trkpt lat="52.001" lon="3"><time>2026-05-01T12:00:30Z</time></trkpt></trkseg></trk>`, 1)
	rides, faults = formats.ReadRides([]byte(paused))
	require.Empty(t, faults)
	assert.Zero(t, rides[0].Jumps)
	assert.InDelta(t, km*99/400+0.111, rides[0].KM, 0.01)
	assert.Equal(t, 12, rides[0].End.Hour())
}

// What is wrong is named, with its line in a table; the good lines are kept.
func TestRideFilesThatAreWrong(t *testing.T) {
	track, _ := circle(1, 40)
	broken := fit(t, track, 6)
	broken[len(broken)/2] ^= 0xff
	for name, c := range map[string]struct {
		data []byte
		says string
	}{
		"empty":          {nil, "empty"},
		"something else": {[]byte("PNG\x00\x01\x02"), "no GPX, FIT or CSV"},
		"cut short":      {gpx(track)[:900], "not whole XML"},
		"a route":        {[]byte(`<gpx><trk><trkseg><trkpt lat="50" lon="1"/><trkpt lat="50" lon="1.1"/></trkseg></trk></gpx>`), "no time"},
		"off the earth":  {[]byte(`<gpx><trk><trkseg><trkpt lat="150" lon="1"><time>2026-05-01T12:00:00Z</time></trkpt></trkseg></trk></gpx>`), "nowhere on earth"},
		"no track":       {[]byte(`<gpx></gpx>`), "no track"},
		"a web page":     {[]byte(`<html></html>`), "no GPX"},
		"damaged":        {broken, "damaged"},
		"no columns":     {[]byte("day,km\n1,2\n"), "no GPX, FIT or CSV file of rides"},
		"one column":     {[]byte("day,distance_km\n1,2\n"), "started_at is missing"},
	} {
		rides, faults := formats.ReadRides(c.data)
		assert.Empty(t, rides, name)
		require.Len(t, faults, 1, name)
		assert.Contains(t, faults[0].Error(), c.says, name)
	}
	rides, faults := formats.ReadRides([]byte("started_at,distance_km\n2026-05-01 08:30,12.5\nyesterday,3\n2026-05-02 08:30,-4\n2026-05-03 08:30,7\n"))
	assert.Len(t, rides, 2)
	require.Len(t, faults, 2)
	assert.Contains(t, faults[0].Error(), `line 3: started_at "yesterday"`)
	assert.Contains(t, faults[1].Error(), `line 4: distance_km "-4"`)
}

// A calendar is one that calendar programs read: folded lines, whole days, names that stay.
func TestCalendar(t *testing.T) {
	day := time.Date(2026, 5, 4, 0, 0, 0, 0, time.UTC)
	feed := string(formats.Calendar("Tidewrack Lane, due", []formats.CalendarEvent{{UID: "B-0001-A.due@x.invalid", Day: day, Summary: "B-0001-A; Brack, O.", Text: strings.Repeat("a long line of things to do ", 8), Changed: began}}))
	for line := range strings.Lines(feed) {
		assert.LessOrEqual(t, len(line), 77, "longer lines are folded")
		assert.True(t, strings.HasSuffix(line, "\r\n"))
	}
	for _, want := range []string{"BEGIN:VCALENDAR", "VERSION:2.0", "UID:B-0001-A.due@x.invalid", "DTSTART;VALUE=DATE:20260504", "DTEND;VALUE=DATE:20260505", `SUMMARY:B-0001-A\; Brack\, O.`, "DTSTAMP:20260501T083000Z"} {
		assert.Contains(t, feed, want+"\r\n")
	}
}
