package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/demo"
	"earnestpony/internal/localpg"
	"earnestpony/internal/shop"
)

func demoCommand() *cli.Command {
	return &cli.Command{
		Name:  "demo",
		Usage: "serve the demo shop",
		Description: "Makes the demo shop the first time, with a history that ends today, and keeps what was done to it\n" +
			"after that; --reset starts over.",
		Flags: []cli.Flag{addrFlag, databaseFlag, stateFlag,
			&cli.BoolFlag{Name: "reset", Usage: "throw the demo's data away and make them anew"},
			&cli.BoolFlag{Name: "load-only", Usage: "make the data but do not serve"}},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			if err := makeDemo(ctx, cmd); err != nil {
				return fmt.Errorf("make the demo shop: %w", err)
			}
			s, err := openStore(ctx, cmd, demoDatabase)
			if err != nil {
				return err
			}
			defer s.Close()
			if cmd.Bool("load-only") {
				return nil
			}
			ln, err := listenNear(ctx, cmd.String("addr"), cmd.IsSet("addr"))
			if err != nil {
				return err
			}
			out := cmd.Root().Writer
			fmt.Fprintf(out, "\n  %s is open at  http://%s\n\n  Sign in as      PIN, or the owner's password\n", demo.ShopName, ln.Addr())
			for _, p := range demo.People() {
				fmt.Fprintf(out, "  %-14s  %-20s  %s\n", p.Name, p.PIN, p.Role)
			}
			fmt.Fprintf(out, "\n  Ctrl-C stops the server; make stop stops its database.\n\n")
			clock, err := demo.Clock(ctx, s)
			if err != nil {
				return err
			}
			return serve(ctx, ln, s, options{clock: clock, tool: true, replies: true, gatewayFails: gatewayFails})
		},
	}
}

// The demo is made in one database and then given the other name, so that a demo whose making was
// interrupted is never taken for a whole one.
const (
	demoDatabase   = "demo"
	demoInTheWorks = "demo_in_the_works"
)

// makeDemo makes the demo shop unless there is one.
func makeDemo(ctx context.Context, cmd *cli.Command) error {
	if cmd.String("database") != "" {
		if cmd.Bool("reset") {
			return errors.New("--reset is for the private database alone: empty the one at --database yourself")
		}
		return loadDemo(ctx, cmd, "")
	}
	cluster, err := localpg.Find(cmd.String("state"), clusterName, false)
	if err != nil {
		return err
	}
	if cmd.Bool("reset") {
		if err := cluster.Drop(ctx, demoDatabase); err != nil {
			return err
		}
	}
	if has, err := cluster.Has(ctx, demoDatabase); has || err != nil {
		return err
	}
	if err := cluster.Drop(ctx, demoInTheWorks); err != nil {
		return err
	}
	if err := loadDemo(ctx, cmd, demoInTheWorks); err != nil {
		return err
	}
	return cluster.Rename(ctx, demoInTheWorks, demoDatabase)
}

// loadDemo fills a database that holds no shop yet.
func loadDemo(ctx context.Context, cmd *cli.Command, database string) error {
	s, err := openStore(ctx, cmd, database)
	if err != nil {
		return err
	}
	defer s.Close()
	if there, err := shop.New(s, time.Now).IsSetUp(ctx); there || err != nil {
		return err
	}
	slog.Info("making the demo shop, which takes a few seconds")
	return demo.Make(ctx, s)
}

// listenNear listens at addr, or, where nobody asked for just that port, on the next free one.
func listenNear(ctx context.Context, addr string, asked bool) (net.Listener, error) {
	lc := &net.ListenConfig{}
	ln, err := lc.Listen(ctx, "tcp", addr)
	if err == nil || asked {
		if err != nil {
			err = fmt.Errorf("cannot serve there, choose another address with --addr: %w", err)
		}
		return ln, err
	}
	host, _, err := net.SplitHostPort(addr)
	if err != nil {
		return nil, err
	}
	return lc.Listen(ctx, "tcp", net.JoinHostPort(host, "0"))
}
