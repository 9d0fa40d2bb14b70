package main

import (
	"context"
	"fmt"

	"github.com/urfave/cli/v3"

	"earnestpony/core/forecast/fairtest"
)

func calibrationCommand() *cli.Command {
	return &cli.Command{
		Name:  "calibration",
		Usage: "hold the forecast against simulated chains and print how often it was right",
		Flags: []cli.Flag{
			&cli.IntFlag{Name: "forecasts", Value: 6000, Usage: "at least so many forecasts"},
			&cli.IntFlag{Name: "lives", Value: 1000, Usage: "so many chains kept by the rule until they are replaced"},
			&cli.Uint64Flag{Name: "seed", Value: 1, Usage: "the same seed gives the same report"},
		},
		Action: func(_ context.Context, cmd *cli.Command) error {
			report, err := fairtest.Run(cmd.Int("forecasts"), cmd.Int("lives"), cmd.Uint64("seed"))
			if err != nil {
				return err
			}
			fmt.Fprint(cmd.Root().Writer, report)
			return nil
		},
	}
}
