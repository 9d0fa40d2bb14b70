package formats_test

import (
	"bytes"
	"fmt"
	"math"
	"strings"
	"testing"
	"time"
	"unicode/utf16"

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

// read reads a file about which nobody was asked anything.
func read(data []byte) ([]formats.Ride, []error) {
	f := formats.ReadRides(data, formats.RideAnswers{})
	return f.Rides, f.Faults
}

// tcx writes the same ride as a TCX activity.
func tcx(track [][2]float64, km float64) []byte {
	var b strings.Builder
	fmt.Fprintf(&b, `<?xml version="1.0"?><TrainingCenterDatabase xmlns="urn:tcx"><Activities><Activity Sport="Biking"><Lap StartTime="%s"><TotalTimeSeconds>4000</TotalTimeSeconds>`, began.Format(time.RFC3339))
	if km > 0 {
		fmt.Fprintf(&b, `<DistanceMeters>%.1f</DistanceMeters>`, km*1000)
	}
	b.WriteString(`<Track>`)
	for i, p := range track {
		fmt.Fprintf(&b, `<Trackpoint><Time>%s</Time><Position><LatitudeDegrees>%.7f</LatitudeDegrees><LongitudeDegrees>%.7f</LongitudeDegrees></Position></Trackpoint>`, began.Add(time.Duration(i)*10*time.Second).Format(time.RFC3339), p[0], p[1])
	}
	b.WriteString(`</Track></Lap></Activity></Activities></TrainingCenterDatabase>`)
	return []byte(b.String())
}

// sixteen writes a text as UTF-16, little end first.
func sixteen(text string, mark bool) []byte {
	var out []byte
	if mark {
		out = []byte{0xff, 0xfe}
	}
	for _, u := range utf16.Encode([]rune(text)) {
		out = append(out, byte(u), byte(u>>8))
	}
	return out
}

// The same ride reads alike from each kind of file, and a known circle gives its length.
func TestRideFiles(t *testing.T) {
	track, km := circle(3, 400)
	files := map[string][]byte{
		"gpx": gpx(track), "fit by its points": fit(t, track, 0), "fit by its distance": fit(t, track, km),
		"csv":                     fmt.Appendf(nil, "started_at,distance_km,duration_min\r\n2026-05-01T08:30:00Z,%.4f,66.67\r\n", km),
		"with a mark at its head": append([]byte("\xef\xbb\xbf"), gpx(track)...),
		"tcx by its laps":         tcx(track, km), "tcx by its points": tcx(track, 0),
		"gpx in UTF-16":         sixteen(string(gpx(track)), true),
		"csv in UTF-16":         sixteen(fmt.Sprintf("started_at,distance_km,duration_min\n2026-05-01T08:30:00Z,%.4f,66.67\n", km), false),
		"csv with commas":       fmt.Appendf(nil, "started_at;distance_km;duration_min\n2026-05-01T08:30:00Z;%s;66,67\n", strings.Replace(fmt.Sprintf("%.4f", km), ".", ",", 1)),
		"csv with tabs":         fmt.Appendf(nil, "Started_At\tdistance_km\tduration_min\n2026-05-01T08:30:00Z\t%.4f\t66.67\n", km),
		"gpx in ISO-8859-1":     bytes.Replace(bytes.Replace(gpx(track), []byte(`version="1.0"`), []byte(`version="1.0" encoding="ISO-8859-1"`), 1), []byte("<trk>"), []byte("<trk><name>D\xe9lphine</name>"), 1),
		"the first fix nowhere": bytes.Replace(gpx(track), []byte("<trkseg>"), fmt.Appendf(nil, `<trkseg><trkpt lat="0" lon="0"><time>%s</time></trkpt>`, began.Add(-10*time.Second).Format(time.RFC3339)), 1),
		"the first fix far off": bytes.Replace(gpx(track), []byte("<trkseg>"), fmt.Appendf(nil, `<trkseg><trkpt lat="48.5" lon="2"><time>%s</time></trkpt>`, began.Add(-10*time.Second).Format(time.RFC3339)), 1),
	}
	for name, data := range files {
		rides, faults := read(data)
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
	rides, faults := read(gpx(track))
	require.Empty(t, faults)
	assert.Equal(t, 1, rides[0].Jumps)
	assert.InEpsilon(t, km, rides[0].KM, 0.005)

	paused := strings.Replace(string(gpx(track[:100])), "</trkseg></trk>", `</trkseg><trkseg><trkpt lat="52" lon="3"><time>2026-05-01T12:00:00Z</time></trkpt><trkpt lat="52.001" lon="3"><time>2026-05-01T12:00:30Z</time></trkpt></trkseg></trk>`, 1)
	rides, faults = read([]byte(paused))
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
		"something else": {[]byte("PNG\x00\x01\x02"), "no GPX, TCX, FIT or CSV"},
		"cut short":      {gpx(track)[:900], "not whole XML"},
		"a route":        {[]byte(`<gpx><trk><trkseg><trkpt lat="50" lon="1"/><trkpt lat="50" lon="1.1"/></trkseg></trk></gpx>`), "no time"},
		"off the earth":  {[]byte(`<gpx><trk><trkseg><trkpt lat="150" lon="1"><time>2026-05-01T12:00:00Z</time></trkpt></trkseg></trk></gpx>`), "nowhere on earth"},
		"no track":       {[]byte(`<gpx></gpx>`), "no track"},
		"a web page":     {[]byte(`<html></html>`), "neither GPX nor TCX"},
		"damaged":        {broken, "damaged"},
		"no columns":     {[]byte("day,km\n1,2\n"), "no GPX, TCX, FIT or CSV file of rides"},
		"one column":     {[]byte("day,distance_km\n1,2\n"), "started_at is missing"},
		"a map":          {[]byte(`<kml><Placemark/></kml>`), "This is KML"},
		"a quotation":    {[]byte("started_at,distance_km\n\"abc\n"), "quotation mark"},
		"in the head":    {[]byte("started_at,\"distance_km\n1,2\n"), "quotation mark"},
		"a rested bike":  {[]byte(`<gpx><trk><trkseg><trkpt lat="50" lon="1"><time>2026-05-01T12:00:00Z</time></trkpt><trkpt lat="50" lon="1"><time>2026-05-01T13:00:00Z</time></trkpt></trkseg></trk></gpx>`), "does not move"},
		"nowhere at all": {[]byte(`<gpx><trk><trkseg><trkpt lat="0" lon="0"><time>2026-05-01T12:00:00Z</time></trkpt><trkpt lat="0" lon="0"><time>2026-05-01T13:00:00Z</time></trkpt></trkseg></trk></gpx>`), "no track"},
		"of year nought": {[]byte("started_at,distance_km\n0001-01-01T00:00:00Z,5\n"), "clock was not set"},
		"no number":      {[]byte(`<gpx><trk><trkseg><trkpt lat="north" lon="1"><time>2026-05-01T12:00:00Z</time></trkpt></trkseg></trk></gpx>`), "nowhere on earth"},
	} {
		rides, faults := read(c.data)
		assert.Empty(t, rides, name)
		require.Len(t, faults, 1, name)
		assert.Contains(t, faults[0].Error(), c.says, name)
	}
	rides, faults := read([]byte("started_at,distance_km\n2026-05-01 08:30,12.5\nyesterday,3\n2026-05-02 08:30,-4\n2026-05-03 08:30,7\n"))
	assert.Len(t, rides, 2)
	require.Len(t, faults, 2)
	assert.Contains(t, faults[0].Error(), `line 3: started_at "yesterday"`)
	assert.Contains(t, faults[1].Error(), `line 4: distance_km "-4"`)
}

// Each activity of a file is a ride of its own.
func TestSeveralActivitiesInOneFile(t *testing.T) {
	track, km := circle(3, 400)
	for name, data := range map[string][]byte{
		"chained FIT": append(fit(t, track, km), fit(t, track, km/2)...),
		"TCX":         bytes.Replace(tcx(track, km), []byte("</Activities>"), []byte(`<Activity><Lap StartTime="2026-05-02T08:30:00Z"><DistanceMeters>9424.8</DistanceMeters></Lap></Activity></Activities>`), 1),
	} {
		rides, faults := read(data)
		require.Empty(t, faults, name)
		require.Len(t, rides, 2, name)
		assert.InEpsilon(t, km, rides[0].KM, 0.005, name)
		assert.InEpsilon(t, km/2, rides[1].KM, 0.005, name)
	}
}

// What a file does not say is a doubt with its choices, and read as was answered.
func TestDoubtsOfRideTables(t *testing.T) {
	of := func(text string, a formats.RideAnswers) formats.RideFile {
		return formats.ReadRides([]byte("started_at;distance_km\n"+text), a)
	}
	start := func(f formats.RideFile) string {
		require.Empty(t, f.Faults)
		require.Empty(t, f.Doubts)
		return f.Rides[0].Start.Format("2006-01-02 15:04")
	}
	f := of("3/4/2026 08:30;12,5\n5/6/2026 08:30;7\n", formats.RideAnswers{})
	require.Len(t, f.Doubts, 1)
	assert.Equal(t, formats.Doubt{Code: "date-order", Choices: []string{"day-first", "month-first"}, Sample: "3/4/2026 08:30"}, f.Doubts[0])
	assert.Equal(t, "2026-04-03 08:30", start(of("3/4/2026 08:30;12,5\n", formats.RideAnswers{DateOrder: "day-first"})))
	assert.Equal(t, "2026-03-04 08:30", start(of("3/4/2026 08:30;12,5\n", formats.RideAnswers{DateOrder: "month-first"})))
	assert.Equal(t, "2026-04-03 08:30", start(of("3/4/2026 08:30;12,5\n25/4/2026 08:30;1\n", formats.RideAnswers{})), "another row says it")
	assert.Equal(t, "2026-03-04 08:30", start(of("3/4/2026 8:30 AM;12,5\n4/25/2026 08:30;1\n", formats.RideAnswers{})))
	assert.Equal(t, "2026-11-29 08:30", start(of("29.11.2026 08:30;12,5\n", formats.RideAnswers{})))
	assert.Equal(t, "2026-11-29 08:30", start(of("29.11.26 08:30;12,5\n", formats.RideAnswers{})))

	latin := "12.5.2026 08:30;3;Stra\xdfe nach S\xfcden\n"
	f = of(latin, formats.RideAnswers{})
	require.Len(t, f.Doubts, 1)
	assert.Equal(t, []string{"encoding", "windows-1252", "12.5.2026 08:30;3;Straße nach Süden"}, []string{f.Doubts[0].Code, f.Doubts[0].Choices[0], f.Doubts[0].Sample})
	assert.Equal(t, "2026-05-12 08:30", start(of(latin, formats.RideAnswers{Encoding: "windows-1252"})))
}

// However much is wrong, a hundred faults are named and the others counted; a file has five thousand rides.
func TestRideFilesWithoutEnd(t *testing.T) {
	f := formats.ReadRides([]byte("started_at,distance_km\n"+strings.Repeat("x,1\n", 4000)), formats.RideAnswers{})
	assert.Equal(t, []int{0, 100, 4000}, []int{len(f.Rides), len(f.Faults), f.Wrong})
	f = formats.ReadRides([]byte("started_at,distance_km\n"+strings.Repeat("2026-05-01 08:30,1\n", 5001)), formats.RideAnswers{})
	assert.Equal(t, []int{5000, 1}, []int{len(f.Rides), f.Wrong})
	assert.Contains(t, f.Faults[0].Error(), "5000 lines at most")
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
