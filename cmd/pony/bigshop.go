package main

import (
	"context"
	"fmt"
	"io"
	"log/slog"
	"net"
	"os"
	"runtime"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/bigshop"
	"earnestpony/internal/localpg"
	"earnestpony/internal/shop"
	"earnestpony/internal/store"
)

func bigShopCommand() *cli.Command {
	return &cli.Command{
		Name: "bigshop", Usage: "measure the program in a shop of 2 000 and of 20 000 bikes, in databases of its own", Flags: []cli.Flag{stateFlag,
			&cli.StringFlag{Name: "out", Usage: "file to write the report to; standard output without one"}},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			cluster, err := localpg.Find(cmd.String("state"), clusterName, false)
			if err != nil {
				return err
			}
			slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, &slog.HandlerOptions{Level: slog.LevelInfo})))
			results := map[int]measured{}
			for _, bikes := range []int{2_000, 20_000} {
				if results[bikes], err = measureShop(ctx, cluster, bikes); err != nil {
					return fmt.Errorf("%d bikes: %w", bikes, err)
				}
			}
			out := io.Writer(os.Stdout)
			if path := cmd.String("out"); path != "" {
				f, err := os.Create(path)
				if err != nil {
					return err
				}
				defer func() { _ = f.Close() }()
				out = f
			}
			return report(out, results[2_000], results[20_000])
		},
	}
}

type measured struct {
	bikes  int
	ledger int64
	took   []bigshop.Took
	plans  []string
}

func measureShop(ctx context.Context, cluster *localpg.Cluster, bikes int) (measured, error) {
	m := measured{bikes: bikes}
	name := fmt.Sprintf("bigshop_%d", bikes)
	if err := cluster.Drop(ctx, name); err != nil {
		return m, err
	}
	dsn, err := cluster.Start(ctx, name)
	if err != nil {
		return m, err
	}
	defer func() { _ = cluster.Drop(context.WithoutCancel(ctx), name) }()
	slow := &bigshop.Slow{}
	s, err := store.OpenTraced(ctx, dsn, slow)
	if err != nil {
		return m, err
	}
	defer s.Close()
	if err := s.Migrate(ctx); err != nil {
		return m, err
	}
	if err := bigshop.Load(ctx, s, bikes); err != nil {
		return m, err
	}
	if err := s.Pool().QueryRow(ctx, `select count(*) from ledger`).Scan(&m.ledger); err != nil {
		return m, err
	}
	service := shop.New(s, time.Now)
	people, err := service.ListPeople(ctx)
	if err != nil {
		return m, err
	}
	tools, err := service.Instruments(ctx, false)
	if err != nil {
		return m, err
	}
	tool := ""
	for _, t := range tools {
		if t.Kind == "gauge-percent" {
			tool = t.ID.String()
		}
	}
	ln, err := (&net.ListenConfig{}).Listen(ctx, "tcp", "127.0.0.1:0")
	if err != nil {
		return m, err
	}
	serving, stop := context.WithCancel(ctx)
	served := make(chan error, 1)
	quiet := slog.Default()
	slog.SetDefault(slog.New(slog.DiscardHandler)) // a line for each request would be measured too
	defer slog.SetDefault(quiet)
	go func() { served <- serve(serving, ln, s, options{gatewayFails: gatewayFails}) }()
	slow.Reset()
	m.took, err = bigshop.Measure(ctx, "http://"+ln.Addr().String(), people[0].ID.String(), tool, bikes)
	if err == nil {
		m.plans, err = slow.Plans(ctx, s.Pool(), 6)
	}
	stop()
	if served := <-served; err == nil {
		err = served
	}
	return m, err
}

func rate(perSecond float64) string {
	if perSecond == 0 {
		return "–"
	}
	return fmt.Sprintf("%.0f", perSecond)
}

func report(w io.Writer, small, big measured) error {
	var b strings.Builder
	fmt.Fprintf(&b, "# How long answers take in a big shop\n\n")
	fmt.Fprintf(&b, "Made by `make bench` on %s with %d processors, %s: the server and its PostgreSQL (with fsync) on one machine, asked over HTTP by clients on it too, each of which pauses a quarter of a second between questions, as a person who taps fast; the last column is what the machine answers when nobody pauses. Live event delivery is from when a write is sent until it is heard by each client, all of which follow.\n", runtime.GOOS, runtime.NumCPU(), runtime.Version())
	fmt.Fprintf(&b, "%d bikes, %d of their parts, %d odometer readings, %d entries in the ledger.\n\n", big.bikes, 3*big.bikes, 10*big.bikes, big.ledger)
	b.WriteString("| asked | clients | p50 ms | p95 ms | p99 ms | target p95 | p95 at 2 000 bikes | times | a second without pauses |\n| --- | --- | --- | --- | --- | --- | --- | --- | --- |\n")
	ms := func(d time.Duration) string { return fmt.Sprintf("%.1f", float64(d.Microseconds())/1000) }
	for i, t := range big.took {
		target := bigshop.ReadTarget
		if t.Writes {
			target = bigshop.WriteTarget
		}
		said := "–"
		if t.Clients == 32 {
			said = "missed: " + ms(target)
			if t.P95 <= target {
				said = "kept: " + ms(target)
			}
		}
		before := small.took[i].P95
		fmt.Fprintf(&b, "| %s | %d | %s | %s | %s | %s | %s | %.2f | %s |\n", t.Name, t.Clients, ms(t.P50), ms(t.P95), ms(t.P99), said, ms(before), float64(t.P95)/float64(before), rate(t.Rate))
	}
	b.WriteString("\n## The slowest statements\n")
	for _, p := range big.plans {
		fmt.Fprintf(&b, "\n```\n%s\n```\n", p)
	}
	_, err := io.WriteString(w, b.String())
	return err
}
