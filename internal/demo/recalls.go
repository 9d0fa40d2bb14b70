package demo

import (
	"fmt"
	"time"

	"earnestpony/internal/outside"
	"earnestpony/internal/shop/contact"
	"earnestpony/internal/shop/due"
)

// tellOwners gives the shop its intervals, what owners reported, and messages in every state: drafts, one on
// its way, delivered ones, and one that reached nobody.
func (l *loader) tellOwners() error {
	if err := l.keepUp(); err != nil {
		return err
	}
	l.clock = l.end.AddDate(0, 0, -6)
	v, err := l.shop.CurrentRules(l.ctx)
	if err != nil {
		return err
	}
	v.Rules.Recalls.Text = "Hello {owner}, {bike} is due at {shop}: {why}. {leave} We are in Tidewrack Lane, and on this number. Answer STOP to hear no more of this."
	if _, err := l.shop.ChangeRules(l.ctx, l.people[0], v.Version, v.Rules); err != nil {
		return err
	}
	if err := l.keepDue(); err != nil {
		return err
	}
	page, err := l.shop.DueList(l.ctx, due.DueFilter{State: "due", Quiet: true, Limit: 6})
	if err != nil {
		return err
	}
	for i, row := range page.Rows {
		if err := l.tell(i, row.Tag); err != nil {
			return fmt.Errorf("tell of %s: %w", row.Tag, err)
		}
	}
	l.clock = l.end.Add(-26 * time.Hour)
	return l.fromOwners()
}

// keepUp has most bikes in care done in time: some lately, some so long ago that they are due soon or just now, and
// every fourth left as it is, overdue.
func (l *loader) keepUp() error {
	l.clock = l.end
	bikes, err := l.shop.FindBikes(l.ctx, "", false, "", 100)
	if err != nil {
		return err
	}
	for i, b := range bikes.Bikes {
		used := [...]float64{0, 0.1, 0.78, 1.02}[i%4] // of each interval
		if used == 0 {
			continue
		}
		due, err := l.shop.BikeDue(l.ctx, b.Tag)
		if err != nil {
			return err
		}
		for _, t := range due.Tasks {
			days := 60.0
			if t.EveryDays != nil {
				days = float64(*t.EveryDays)
			}
			if t.EveryHardKM != nil && due.RateHardKMPerDay > 0 {
				days = min(days, *t.EveryHardKM/due.RateHardKMPerDay)
			}
			if t.Code == "read-wear" || t.Code == "replace-chain" {
				continue
			}
			done := l.end.Add(-time.Duration(used*days*24) * time.Hour)
			if err := l.shop.TaskDone(l.ctx, l.mechanic(), b.Tag, t.Code, "", &done); err != nil {
				return fmt.Errorf("%s of %s: %w", t.Code, b.Tag, err)
			}
		}
	}
	return nil
}

// tell sends one message: most arrive, the second one does not whatever is tried, the last is withdrawn.
func (l *loader) tell(i int, tag string) error {
	l.clock = l.end.AddDate(0, 0, -6).Add(time.Duration(i) * 20 * time.Minute)
	m, err := l.shop.DraftRecall(l.ctx, l.counter(), tag)
	if err != nil {
		return err
	}
	action := contact.MessageAction{Action: "send", Version: m.Version}
	if i == 4 {
		action.Action = "withdraw"
	}
	if m, err = l.shop.DoMessage(l.ctx, l.counter(), m.ID, action); err != nil || i == 4 {
		return err
	}
	rates := outside.Rates{}
	if i == 1 {
		rates.Fail = 1
	}
	l.shop.PlugInGateway(outside.NewGateway(rates, l.shop.GatewayMemory(), func() time.Time { return l.clock }, seed))
	for range 6 {
		all, err := l.shop.Messages(l.ctx, nil, 200)
		if err != nil {
			return err
		}
		for _, other := range all.Messages {
			if other.ID == m.ID {
				m = other
			}
		}
		if m.NextTryAt == nil {
			break
		}
		l.clock = *m.NextTryAt
		if _, err := l.shop.SendMessages(l.ctx); err != nil {
			return err
		}
	}
	return nil
}

// fromOwners are things that owners told from their pages, and that a mechanic noted.
func (l *loader) fromOwners() error {
	page, err := l.shop.FindBikes(l.ctx, "", false, "", 12)
	if err != nil {
		return err
	}
	for i, note := range []struct{ event, words string }{{"soaked-ride", "Over the causeway at the wrong tide."}, {"squeak", "Since Sunday, only uphill."}} {
		tag := page.Bikes[3+4*i].Tag
		link, err := l.shop.GiveLink(l.ctx, l.people[0], contact.NewSecretLink{Kind: "owner", Tag: tag, Name: "Tag"})
		if err != nil {
			return err
		}
		if err := l.shop.Report(l.ctx, link.Path[len("/o/"):], "", contact.OwnerReport{Event: note.event, Note: note.words}); err != nil {
			return err
		}
	}
	if err := l.shop.ReportEvent(l.ctx, l.people[1], page.Bikes[5].Tag, "water-crossing", "ford at low water", nil); err != nil {
		return err
	}
	l.clock = l.end
	if err := l.rides("Nerys"); err != nil {
		return err
	}
	return l.keepDue()
}

// rides brings in what somebody's own computer counted of late, on some mornings.
func (l *loader) rides(owner string) error {
	page, err := l.shop.FindBikes(l.ctx, owner, false, "", 1)
	if err != nil {
		return err
	}
	table := "started_at,distance_km,duration_min\r\n"
	for _, ride := range []struct {
		daysAgo int
		km      float64
	}{{33, 61.2}, {29, 24.8}, {26, 78.4}, {19, 52.9}, {12, 83.6}, {8, 25.1}, {5, 66.3}} {
		day := l.end.AddDate(0, 0, -ride.daysAgo)
		began := time.Date(day.Year(), day.Month(), day.Day(), 9, 10, 0, 0, day.Location())
		table += fmt.Sprintf("%s,%.1f,%.0f\r\n", began.Format(time.RFC3339), ride.km, ride.km*2.6)
	}
	_, err = l.shop.ImportRides(l.ctx, l.people[3], page.Bikes[0].Tag, "rides-of-the-club.csv", []byte(table))
	return err
}

// keepDue makes what every bike needs.
func (l *loader) keepDue() error {
	for {
		n, err := l.shop.RefreshDue(l.ctx)
		if err != nil || n == 0 {
			return err
		}
	}
}
