// Package bigshop measures the program in a shop of many years: it fills a database of its own with thousands
// of bikes and their history, asks the server as many screens would at once, and reports how long answers take.
package bigshop

import (
	"context"
	"fmt"
	"log/slog"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgxpool"

	"earnestpony/internal/shop"
	"earnestpony/internal/shop/bikes"
	"earnestpony/internal/shop/measure"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
	"earnestpony/internal/store"
)

// PIN signs the one mechanic of a big shop in.
const PIN = "2718"

// ledgerABike is how many entries each bike has: one that it came, three chains, ten odometer readings, eight
// measurements, and the rest services.
const (
	chainsABike   = 3
	readingsABike = 10
	measuredABike = 8
	servicesABike = 28
)

// Load fills an empty database with so many bikes, by the database's own hand: fifty entries a bike.
func Load(ctx context.Context, s *store.Store, bikes int) error {
	service := shop.New(s, time.Now)
	if err := service.SetUp(ctx, rules.NewShop{Name: "Big shop", TimeZone: "UTC", Tools: rules.HouseTools()}); err != nil {
		return err
	}
	mira, err := service.AddPerson(ctx, "Mira Oxenholt", "mechanic", PIN)
	if err != nil {
		return err
	}
	who, err := service.Actor(ctx, mira, "stand 1")
	if err != nil {
		return err
	}
	tool, body, err := pattern(ctx, service, who)
	if err != nil {
		return err
	}
	began := time.Now()
	for _, step := range []struct {
		what, sql string
		args      []any
	}{
		{"owners", `insert into customers (id, name, folded, phone, contact_way, consent, created_at)
			select md5('c' || i)::uuid, 'Owner ' || md5(i::text), 'owner ' || md5(i::text), '0555 ' || i, 'message', i % 20 = 0, now() - interval '500 days' from generate_series(1, $1) i`, []any{bikes / 2}},
		{"bikes", `insert into bikes (id, tag_number, customer_id, make, model, colour, kind, drivetrain_kind, sprocket_count, motor, lubricant, weekly_km, folded, created_at)
			select md5('b' || i)::uuid, nextval('bike_tag_number'), md5('c' || (1 + i % ($1 / 2)))::uuid, 'Make ' || i % 40, 'Model ' || i % 300, 'sea grey', 'everyday', 'derailleur', 11, 'none', 'all-weather', 20 + i % 120,
			'b-' || i || ' make ' || i % 40 || ' model ' || i % 300 || ' sea grey', now() - interval '500 days' from generate_series(1, $1) i`, []any{bikes}},
		{"what came", entries("'a'", "'bike-added'", "1", "'450 days'", `jsonb_build_object('facts', jsonb_build_object('make', 'Make ' || i % 40, 'model', 'Model ' || i % 300, 'colour', 'sea grey', 'kind', 'everyday',
			'drivetrain_kind', 'derailleur', 'sprocket_count', 11, 'motor', 'none', 'lubricant', 'all-weather', 'weekly_km', 20 + i % 120))`), []any{bikes, mira.ID}},
		{"chains", entries("'f'", "'chain-fitted'", fmt.Sprint(chainsABike), "(440 - 140 * (k - 1)) || ' days'", `'{"what":"11-speed"}'::jsonb`), []any{bikes, mira.ID}},
		{"odometer readings", entries("'o'", "'odometer'", fmt.Sprint(readingsABike), "(430 - 42 * (k - 1)) || ' days'", `jsonb_build_object('km', 500 + k * (100 + i % 300))`), []any{bikes, mira.ID}},
		{"services", entries("'s'", "'task-done'", fmt.Sprint(servicesABike), "(420 - 15 * (k - 1) + i % 13) || ' days'",
			`jsonb_build_object('task', (array['relubricate', 'clean-on-bike', 'wash', 'brakes', 'pivots', 'look-at-teeth', 'deep-clean'])[1 + (k + i) % 7])`), []any{bikes, mira.ID}},
		{"measurements", `insert into ledger (id, bike_id, kind, happened_at, written_at, person_id, device, body)
			select md5('m' || i || '-' || k)::uuid, md5('b' || i)::uuid, 'measurement', at, at, $2, 'stand 1',
				jsonb_set($3::jsonb, '{wear,elongation_pct}', to_jsonb(round((0.05 + 0.006 * ((430 - 50 * (k - 1)) % 140) * (0.3 + (i % 10) / 10.0))::numeric, 3)))
			from generate_series(1, $1) i, generate_series(1, ` + fmt.Sprint(measuredABike) + `) k, lateral (select now() - (425 - 50 * (k - 1)) * interval '1 day' as at) t`, []any{bikes, mira.ID, body}},
		{"measurements, laid out", `insert into measurements (entry_id, bike_id, instrument_id, taken_at, elongation_pct, sigma_pct, limit_pct, verdict)
			select l.id, l.bike_id, $1, l.happened_at, (l.body->'wear'->>'elongation_pct')::double precision, 0.05, 0.5, 'ok' from ledger l where l.kind = 'measurement' and not exists (select from measurements m where m.entry_id = l.id)`, []any{tool}},
		{"what each needs", `insert into bike_due (bike_id) select id from bikes on conflict do nothing`, nil},
	} {
		if _, err := s.Pool().Exec(ctx, step.sql, step.args...); err != nil {
			return fmt.Errorf("load %s: %w", step.what, err)
		}
		slog.Info("loaded", "what", step.what, "after", time.Since(began).Round(time.Second))
	}
	for _, work := range []func() error{
		func() error { _, err := s.Pool().Exec(ctx, `vacuum analyze`); return err },
		func() error { return reckon(ctx, service, began) },
		func() error { _, err := s.Pool().Exec(ctx, `vacuum analyze`); return err },
	} {
		if err := work(); err != nil {
			return err
		}
	}
	return nil
}

// entries writes so many entries of one kind for each bike.
func entries(prefix, kind, each, ago, body string) string {
	return `insert into ledger (id, bike_id, kind, happened_at, written_at, person_id, device, body)
		select md5(` + prefix + ` || i || '-' || k)::uuid, md5('b' || i)::uuid, ` + kind + `, at, at, $2, 'stand 1', ` + body + `
		from generate_series(1, $1) i, generate_series(1, ` + each + `) k, lateral (select now() - (` + ago + `)::interval as at) t`
}

// pattern records one real measurement on a bike of its own, whose body those of the others are made after.
func pattern(ctx context.Context, s *shop.Service, who record.Actor) (tool any, body string, err error) {
	owner, err := s.AddCustomer(ctx, who, record.CustomerFacts{Name: "Pattern"})
	if err != nil {
		return nil, "", err
	}
	eleven, none := 11, "none"
	bike, err := s.AddBike(ctx, who, bikes.NewBike{CustomerID: owner.ID, Facts: record.BikeFacts{DrivetrainKind: "derailleur", SprocketCount: &eleven, Motor: none}})
	if err != nil {
		return nil, "", err
	}
	tools, err := s.Instruments(ctx, false)
	if err != nil {
		return nil, "", err
	}
	for _, t := range tools {
		if t.Kind != "gauge-percent" {
			continue
		}
		m, err := s.RecordMeasurement(ctx, who, bike.Tag, measure.NewMeasurement{InstrumentID: t.ID, Entries: []measure.BenchEntry{{Place: 1, Text: "0.21"}, {Place: 2, Text: "0.2"}, {Place: 3, Text: "0.22"}}})
		if err != nil {
			return nil, "", err
		}
		text, err := marshal(m.MeasurementBody)
		return t.ID, text, err
	}
	return nil, "", fmt.Errorf("no percent gauge on the bench")
}

// reckon makes what each bike needs, as the server would in the background.
func reckon(ctx context.Context, s *shop.Service, began time.Time) error {
	var running sync.WaitGroup
	failed := make(chan error, 1)
	running.Go(func() {
		for {
			n, err := s.RefreshDue(ctx)
			if err != nil || n == 0 {
				failed <- err
				return
			}
		}
	})
	running.Wait()
	if _, err := s.DraftRecalls(ctx); err != nil { // what is to be told was told when the shop is measured
		return err
	}
	slog.Info("reckoned what each bike needs", "after", time.Since(began).Round(time.Second))
	return <-failed
}

// pool is what the plans are asked of.
type pool = *pgxpool.Pool
