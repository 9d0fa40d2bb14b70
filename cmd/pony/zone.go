package main

import (
	"cmp"
	"context"
	"log/slog"
	"os"
	"path/filepath"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/shop"
	"earnestpony/internal/store"
)

var zoneFlag = &cli.StringFlag{Name: "time-zone", Usage: "the shop's time zone where it has none yet, such as Europe/Berlin; else the machine's"}

// settleZone gives a shop that was made before shops had a time zone the one that is said, or the machine's, and says so.
func settleZone(ctx context.Context, s *store.Store, said string) error {
	zone := cmp.Or(said, machineZone())
	settled, err := shop.New(s, time.Now).SettleTimeZone(ctx, zone)
	if settled {
		slog.Warn("the shop had no time zone yet: its days and hours are those of this one until Settings say otherwise", "zone", zone)
	}
	return err
}

// machineZone is the zone that this machine is set to, by its IANA name; UTC where it does not say.
func machineZone() string {
	candidates := []string{strings.TrimPrefix(os.Getenv("TZ"), ":")}
	if text, err := os.ReadFile("/etc/timezone"); err == nil {
		candidates = append(candidates, strings.TrimSpace(string(text)))
	}
	if path, err := filepath.EvalSymlinks("/etc/localtime"); err == nil {
		if _, name, is := strings.Cut(path, "/zoneinfo/"); is {
			candidates = append(candidates, name)
		}
	}
	for _, name := range candidates {
		if _, err := time.LoadLocation(name); err == nil && name != "" && name != "Local" {
			return name
		}
	}
	return "UTC"
}
