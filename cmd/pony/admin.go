package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"log/slog"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/localpg"
	"earnestpony/internal/shop"
	"earnestpony/internal/shop/record"
	"earnestpony/internal/shop/rules"
)

// testClusterName is the server that internal/pgtest starts.
const testClusterName = "test"

func stopCommand() *cli.Command {
	return &cli.Command{
		Name:  "stop",
		Usage: "stop the private PostgreSQL servers of the state folder",
		Flags: []cli.Flag{stateFlag, &cli.BoolFlag{Name: "tests", Usage: "only the one that the tests run on"}},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			names := []string{testClusterName}
			if !cmd.Bool("tests") {
				names = append(names, clusterName)
			}
			for _, name := range names {
				cluster, err := localpg.Find(cmd.String("state"), name, name == testClusterName) // the tests' lies in memory
				if errors.Is(err, localpg.ErrNoBinaries) {
					return nil // nothing can be running
				}
				if err != nil {
					return err
				}
				if err := cluster.Stop(ctx); err != nil {
					return err
				}
			}
			return nil
		},
	}
}

func migrateCommand() *cli.Command {
	return &cli.Command{
		Name:  "migrate",
		Usage: "bring the database's schema up to date without serving",
		Flags: []cli.Flag{databaseFlag, stateFlag},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			s, err := openStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			s.Close()
			slog.Info("the schema is up to date")
			return nil
		},
	}
}

func shopCommand() *cli.Command {
	return &cli.Command{
		Name:      "shop",
		Usage:     "set up a new shop in an empty database",
		ArgsUsage: "NAME",
		Flags:     []cli.Flag{databaseFlag, stateFlag, zoneFlag},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			if cmd.Args().Len() != 1 {
				return errors.New(`shop takes the shop's name: pony shop "Harbour Cycles"`)
			}
			s, err := openStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			zone := cmp.Or(cmd.String(zoneFlag.Name), machineZone())
			err = shop.New(s, time.Now).SetUp(ctx, rules.NewShop{Name: cmd.Args().First(), TimeZone: zone, Tools: rules.HouseTools()})
			if problem, is := errors.AsType[*record.Problem](err); is && len(problem.Fields) > 0 {
				return errors.New(problem.Fields[0].Message)
			}
			if err != nil {
				return err
			}
			fmt.Fprintf(cmd.Root().Writer, "Set up, by the clocks of %s. Add who works there with: pony person NAME\n", zone)
			return nil
		},
	}
}
