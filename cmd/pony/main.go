// Command pony is Earnest Pony: the server, the demo, and the tools around them.
package main

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/signal"
	"syscall"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/calc"
)

func main() {
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	err := root().Run(ctx, os.Args)
	var refused *calc.Refusal
	switch {
	case err == nil:
	case errors.As(err, &refused):
		printProblem(os.Stderr, refused)
		os.Exit(2)
	default:
		fmt.Fprintln(os.Stderr, "pony:", err)
		os.Exit(1)
	}
}

// Flags that several commands share. Each can be given in the environment instead.
var (
	addrFlag = &cli.StringFlag{
		Name: "addr", Value: "127.0.0.1:8321", Sources: cli.EnvVars("PONY_ADDR"),
		Usage: "address to serve on; loopback unless said otherwise",
	}
	databaseFlag = &cli.StringFlag{
		Name: "database", Sources: cli.EnvVars("PONY_DATABASE"),
		Usage: "address of the shop's PostgreSQL database, postgres://…; without one a private server is started in the state folder",
	}
	stateFlag = &cli.StringFlag{
		Name: "state", Value: ".local", Sources: cli.EnvVars("PONY_STATE"),
		Usage: "folder for the private PostgreSQL and what else a machine must remember",
	}
	publicFlag = &cli.StringFlag{
		Name: "public-url", Sources: cli.EnvVars("PONY_PUBLIC_URL"),
		Usage: "where browsers find the server when something stands in front of it, such as https://pony.example",
	}
)

func root() *cli.Command {
	return &cli.Command{
		Name:           "pony",
		Usage:          "wear, service and records for a bike shop's workshop",
		HideVersion:    true,
		ExitErrHandler: func(context.Context, *cli.Command, error) {}, // main says it
		Description: "Every flag can be set in the environment instead; pony COMMAND --help shows them all.\n\n" +
			"PONY_ADDR        address to serve on; 127.0.0.1:8321\n" +
			"PONY_DATABASE    address of the shop's PostgreSQL database, postgres://…; without one a private\n" +
			"                 server is started\n" +
			"PONY_STATE       folder for the private server; .local\n" +
			"PONY_PUBLIC_URL  where browsers find the server when something stands in front of it",
		Commands: []*cli.Command{serveCommand(), demoCommand(), stopCommand(), migrateCommand(), shopCommand(), personCommand(), certCommand(), backupCommand(), restoreCommand(), verifyCommand(), dayCommand(), calcCommand(), calibrationCommand(), bigShopCommand()},
		CommandNotFound: func(_ context.Context, _ *cli.Command, name string) {
			fmt.Fprintf(os.Stderr, "pony: there is no command %q: see pony help\n", name)
			os.Exit(1)
		},
		Before: func(ctx context.Context, _ *cli.Command) (context.Context, error) {
			slog.SetDefault(slog.New(slog.NewTextHandler(os.Stderr, nil)))
			return ctx, nil
		},
	}
}
