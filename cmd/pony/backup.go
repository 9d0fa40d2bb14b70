package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"path/filepath"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/shop"
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
			s, err := openStore(ctx, cmd, "shop")
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
			if err := errors.Join(s.Backup(ctx, f, time.Now().UTC()), f.Sync(), f.Close()); err != nil {
				return err
			}
			if err := os.Rename(f.Name(), path); err != nil {
				return err
			}
			slog.Info("backed up", "file", path)
			return nil
		},
	}
}

func restoreCommand() *cli.Command {
	return &cli.Command{
		Name: "restore", Usage: "read a backup into an empty database", ArgsUsage: "FILE", Flags: shopFlags,
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
			s, err := openStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			if err := s.Restore(ctx, f, info.Size()); err != nil {
				return err
			}
			slog.Info("restored", "file", path)
			return nil
		},
	}
}

func verifyCommand() *cli.Command {
	return &cli.Command{
		Name: "verify", Usage: "hold what is kept against what the ledger alone says", Flags: shopFlags,
		Action: func(ctx context.Context, cmd *cli.Command) error {
			s, err := openStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			odd, err := shop.New(s, time.Now).Verify(ctx)
			if err != nil {
				return err
			}
			for _, line := range odd {
				fmt.Println(line)
			}
			if len(odd) > 0 {
				return fmt.Errorf("%d things are not as the ledger has them", len(odd))
			}
			fmt.Println("all that is kept is as the ledger has it")
			return nil
		},
	}
}
