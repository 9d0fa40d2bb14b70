package main

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/shop"
	"earnestpony/internal/shop/people"
	"earnestpony/internal/shop/record"
)

func personCommand() *cli.Command {
	return &cli.Command{
		Name:      "person",
		Usage:     "add somebody who works in the shop, or change them: for a lost password too",
		ArgsUsage: "NAME",
		Description: "Reads the PIN, or the owner's password, as one line from standard input.\n\n" +
			"pony person \"Mira Oxenholt\"                       adds a mechanic\n" +
			"pony person --change --secret \"Mira Oxenholt\"     gives her another PIN\n" +
			"pony person --change --state left \"Posy Peake\"    signs her out everywhere: she left\n" +
			"pony person --list                                says who works here or did",
		Flags: []cli.Flag{
			databaseFlag, stateFlag,
			&cli.StringFlag{Name: "role", Value: "mechanic", Usage: "owner, mechanic, counter or apprentice", Validator: oneOf("role", "owner", "mechanic", "counter", "apprentice")},
			&cli.BoolFlag{Name: "list", Usage: "say who works here or did"},
			&cli.BoolFlag{Name: "change", Usage: "change somebody who is known by that name"},
			&cli.BoolFlag{Name: "secret", Usage: "with --change: read a new PIN, or password"},
			&cli.StringFlag{Name: "rename", Usage: "with --change: another name"},
			&cli.StringFlag{Name: "state", Usage: "with --change: here, locked or left", Validator: oneOf("state", "here", "locked", "left")},
		},
		Action: func(ctx context.Context, cmd *cli.Command) error {
			listing := cmd.Bool("list")
			if !listing && cmd.Args().Len() != 1 {
				return errors.New(`person takes a name: pony person "Mira Oxenholt"`)
			}
			s, err := openStore(ctx, cmd, "shop")
			if err != nil {
				return err
			}
			defer s.Close()
			service := shop.New(s, time.Now)
			switch {
			case listing:
				err = listStaff(ctx, cmd, service)
			case cmd.Bool("change"):
				err = changeStaff(ctx, cmd, service)
			default:
				err = addStaff(ctx, cmd, service)
			}
			if problem, is := errors.AsType[*record.Problem](err); is {
				return errors.New(problem.Message)
			}
			return err
		},
	}
}

func oneOf(what string, all ...string) func(string) error {
	return func(said string) error {
		if slices.Contains(all, said) {
			return nil
		}
		return fmt.Errorf("%q is no %s: %s or %s", said, what, strings.Join(all[:len(all)-1], ", "), all[len(all)-1])
	}
}

// readSecret reads a PIN, or a password, from standard input.
func readSecret(cmd *cli.Command) (string, error) {
	fmt.Fprint(cmd.Root().ErrWriter, "PIN: ")
	line, err := bufio.NewReader(cmd.Root().Reader).ReadString('\n')
	if err != nil && line == "" {
		return "", fmt.Errorf("no PIN on standard input: %w", err)
	}
	return strings.TrimRight(line, "\r\n"), nil
}

func addStaff(ctx context.Context, cmd *cli.Command, service *shop.Service) error {
	secret, err := readSecret(cmd)
	if err != nil {
		return err
	}
	p, err := service.AddPerson(ctx, cmd.Args().First(), cmd.String("role"), secret)
	if err != nil {
		return err
	}
	fmt.Fprintf(cmd.Root().Writer, "Added %s (%s).\n", p.Name, p.Role)
	return nil
}

func listStaff(ctx context.Context, cmd *cli.Command, service *shop.Service) error {
	staff, err := service.Staff(ctx)
	for _, m := range staff {
		fmt.Fprintf(cmd.Root().Writer, "%s (%s, %s)\n", m.Name, m.Role, m.State)
	}
	return err
}

// changeStaff changes whoever is known by a name: of two, the one who works here.
func changeStaff(ctx context.Context, cmd *cli.Command, service *shop.Service) error {
	name := cmd.Args().First()
	staff, err := service.Staff(ctx)
	if err != nil {
		return err
	}
	i := slices.IndexFunc(staff, func(m people.StaffMember) bool { return strings.EqualFold(m.Name, name) })
	if i < 0 {
		return fmt.Errorf("nobody is called %q here: pony person --list says who is", name)
	}
	m := staff[i]
	change := people.StaffChange{StaffFacts: people.StaffFacts{Name: m.Name, Role: m.Role, State: m.State}, Version: m.Version}
	if cmd.IsSet("rename") {
		change.Name = cmd.String("rename")
	}
	if cmd.IsSet("role") {
		change.Role = record.Role(cmd.String("role"))
	}
	if cmd.IsSet("state") {
		change.State = people.State(cmd.String("state"))
	}
	if cmd.Bool("secret") {
		if change.Secret, err = readSecret(cmd); err != nil {
			return err
		}
	}
	// Whoever sits at the shop's machine is not signed in: it is kept as said by themselves, there.
	m, err = service.ChangeStaff(ctx, record.Actor{Person: m.Person, Device: "the shop's machine"}, m.ID, change)
	if err != nil {
		return err
	}
	fmt.Fprintf(cmd.Root().Writer, "%s is %s, %s.\n", m.Name, m.Role, m.State)
	return nil
}
