package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/localpg"
	"earnestpony/internal/shop"
	"earnestpony/internal/store"
)

var shopFlags = []cli.Flag{databaseFlag, stateFlag}

func backupCommand() *cli.Command {
	return &cli.Command{
		Name: "backup", Usage: "write the whole shop into one file", ArgsUsage: "FILE", Flags: shopFlags,
		Description: "The file holds all that the shop keeps, owners' names and pictures among it: keep it as carefully.",
		Action: func(ctx context.Context, cmd *cli.Command) error {
			path := cmd.Args().First()
			if path == "" {
				return errors.New("say which file to write: pony backup FILE")
			}
			s, err := findStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			// Written beside and moved there when it is whole, so that no half of one replaces a good one.
			f, err := os.CreateTemp(filepath.Dir(path), ".pony-backup-*")
			if err != nil {
				return err
			}
			defer func() { _ = os.Remove(f.Name()) }()
			holds, err := s.Backup(ctx, f, time.Now().UTC())
			if err := errors.Join(err, f.Sync(), f.Close()); err != nil {
				return err
			}
			if err := os.Rename(f.Name(), path); err != nil {
				return err
			}
			fmt.Fprintf(cmd.Root().Writer, "Backed up to %s: %s.\n", path, holds)
			return nil
		},
	}
}

func restoreCommand() *cli.Command {
	return &cli.Command{
		Name: "restore", Usage: "read a backup into an empty database", ArgsUsage: "FILE", Flags: shopFlags,
		Description: "The database must be there and hold no shop: createdb makes one, or pony migrate in the private server.\n" +
			"A backup of an older version is brought up to date.",
		Action: func(ctx context.Context, cmd *cli.Command) error {
			path := cmd.Args().First()
			if path == "" {
				return errors.New("say which file to read: pony restore FILE")
			}
			f, err := os.Open(path)
			if err != nil {
				return err
			}
			defer func() { _ = f.Close() }()
			info, err := f.Stat()
			if err != nil {
				return err
			}
			backup, err := store.OpenBackup(f, info.Size()) // before anything is touched
			if err != nil {
				return err
			}
			s, err := findStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			if err := s.Restore(ctx, backup); err != nil {
				return err
			}
			fmt.Fprintf(cmd.Root().Writer, "Restored from %s, made %s: %s.\n", path, backup.MadeAt.Format("2006-01-02 15:04"), backup.Contents)
			return nil
		},
	}
}

func verifyCommand() *cli.Command {
	return &cli.Command{
		Name: "verify", Usage: "hold what is kept against what the ledger alone says", Flags: shopFlags,
		Action: func(ctx context.Context, cmd *cli.Command) error {
			s, err := findStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			holds, err := s.Holds(ctx)
			if err != nil {
				return err
			}
			if current, err := s.Current(ctx); err != nil || !current {
				return errors.Join(err, errors.New("this shop's schema is not of this version of the program: bring it up to date with pony migrate"))
			}
			odd, err := shop.New(s, time.Now).Verify(ctx)
			if err != nil {
				return err
			}
			out := cmd.Root().Writer
			for _, line := range odd {
				fmt.Fprintln(out, line)
			}
			if len(odd) > 0 {
				return fmt.Errorf("%d things are not as the ledger has them, in %s", len(odd), holds)
			}
			fmt.Fprintf(out, "All that is kept is as the ledger has it: %s.\n", holds)
			return nil
		},
	}
}

func dayCommand() *cli.Command {
	return &cli.Command{
		Name: "day", Usage: "print the day as it is to be planned, and the plan on the wall, as JSON: to find out why it is planned so", Flags: shopFlags,
		Action: func(ctx context.Context, cmd *cli.Command) error {
			s, err := findStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			explained, err := shop.New(s, time.Now).Explain(ctx)
			if err != nil {
				return err
			}
			out := json.NewEncoder(cmd.Root().Writer)
			out.SetIndent("", "  ")
			return out.Encode(explained)
		},
	}
}

// findStore opens the database that the flags name, or the one called name in a private server. It makes
// neither a server nor a database, and leaves the schema as it is.
func findStore(ctx context.Context, cmd *cli.Command, name string) (*store.Store, error) {
	dsn := cmd.String("database")
	if dsn == "" {
		nothing := fmt.Errorf("there is no shop in %s: say where it is with --state or --database", cmd.String("state"))
		cluster, err := localpg.Existing(cmd.String("state"), clusterName)
		if errors.Is(err, localpg.ErrNoCluster) {
			return nil, nothing
		}
		if err != nil {
			return nil, err
		}
		if has, err := cluster.Has(ctx, name); err != nil || !has {
			return nil, errors.Join(err, nothing)
		}
		if dsn, err = cluster.Start(ctx, name); err != nil {
			return nil, err
		}
	}
	return store.Open(ctx, dsn)
}
