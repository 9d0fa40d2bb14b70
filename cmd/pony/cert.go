package main

import (
	"context"
	"crypto/tls"
	"errors"
	"fmt"
	"net"
	"os"
	"path/filepath"
	"time"

	"github.com/urfave/cli/v3"

	"earnestpony/internal/localcert"
)

func certCommand() *cli.Command {
	return &cli.Command{
		Name:  "cert",
		Usage: "make a certificate, so that tablets work without a network",
		Description: "Makes an authority of the shop's own, unless the folder has one, and of it a certificate for the names and\n" +
			"addresses by which tablets reach this machine. docs/running.md says how a tablet is told to trust it.",
		ArgsUsage: "NAME-OR-ADDRESS...",
		Flags:     []cli.Flag{&cli.StringFlag{Name: "dir", Value: ".local/certs", Usage: "folder that certificates and their keys are kept in"}},
		Action: func(_ context.Context, cmd *cli.Command) error {
			dir := cmd.String("dir")
			made, err := localcert.Make(dir, cmd.Args().Slice(), time.Now())
			if err != nil {
				return err
			}
			file := func(name string) string { return filepath.Join(dir, name) }
			if made.NewAuthority {
				fmt.Fprintf(os.Stdout, "A new authority: have each tablet trust %s, once.\n", file(localcert.AuthorityFile))
			}
			fmt.Fprintf(os.Stdout, "A certificate for %v, until %s. Serve with it:\n\n  pony serve --addr :8321 --certificate %s --certificate-key %s\n",
				made.Hosts, made.Until.Format("2 January 2006"), file(localcert.ServerFile), file(localcert.ServerKeyFile))
			return nil
		},
	}
}

var (
	certFlag = &cli.StringFlag{
		Name: "certificate", Sources: cli.EnvVars("PONY_CERTIFICATE"),
		Usage: "file of the server's certificate, as pony cert makes one: serve over https",
	}
	certKeyFlag = &cli.StringFlag{
		Name: "certificate-key", Sources: cli.EnvVars("PONY_CERTIFICATE_KEY"),
		Usage: "file of the certificate's key",
	}
)

// secured has what comes in over ln be encrypted, where a certificate is given, and returns its names; nil where none is.
func secured(ln net.Listener, cmd *cli.Command) (safe net.Listener, names []string, err error) {
	file, key := cmd.String(certFlag.Name), cmd.String(certKeyFlag.Name)
	if file == "" && key == "" {
		return ln, nil, nil
	}
	if file == "" || key == "" {
		return nil, nil, errors.New("a certificate has two files: give --certificate and --certificate-key")
	}
	pair, err := tls.LoadX509KeyPair(file, key)
	if err != nil {
		return nil, nil, fmt.Errorf("the certificate cannot be used: %w", err)
	}
	if time.Now().After(pair.Leaf.NotAfter) {
		return nil, nil, fmt.Errorf("the certificate ended on %s: make a new one with pony cert", pair.Leaf.NotAfter.Format("2 January 2006"))
	}
	return tls.NewListener(ln, &tls.Config{Certificates: []tls.Certificate{pair}, MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}}), append([]string{}, pair.Leaf.DNSNames...), nil
}
