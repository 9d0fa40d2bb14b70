package main

import (
	"context"
	"encoding/json"
	"errors"
	"io"
	"log/slog"
	"net/http"
	"strings"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/calc"
)

func calcCommand() *cli.Command {
	return &cli.Command{
		Name:      "calc",
		Usage:     "compute from JSON on standard input, as POST /api/v1/calc/NAME does: " + strings.Join(calc.Names(), ", "),
		ArgsUsage: "NAME",
		Description: "Prints the answer as JSON. An input that is refused is listed as problem JSON on\n" +
			"standard error, and the exit status is 2.",
		Action: func(ctx context.Context, cmd *cli.Command) error {
			if cmd.Args().Len() != 1 {
				return errors.New("calc takes one name: " + strings.Join(calc.Names(), ", "))
			}
			input, err := io.ReadAll(cmd.Root().Reader)
			if err != nil {
				return err
			}
			answer, err := calc.Run(ctx, cmd.Args().First(), input)
			if err != nil {
				return err
			}
			out := json.NewEncoder(cmd.Root().Writer)
			out.SetIndent("", "  ")
			return out.Encode(answer)
		},
	}
}

// printProblem writes a refusal as the server would answer it.
func printProblem(w io.Writer, r *calc.Refusal) {
	out := json.NewEncoder(w)
	out.SetIndent("", "  ")
	err := out.Encode(struct {
		Type   string       `json:"type"`
		Title  string       `json:"title"`
		Status int          `json:"status"`
		Code   string       `json:"code"`
		Fields []calc.Field `json:"fields"`
	}{"about:blank", "The input cannot be computed.", http.StatusUnprocessableEntity, "invalid-input", r.Fields})
	if err != nil { // standard error is gone, and with it whom to tell
		slog.Error("write problem", "err", err)
	}
}
