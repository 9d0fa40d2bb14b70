// Package localcert makes the certificates of a shop's own network: an authority that its tablets are told to trust once,
// and of that a certificate for the machine that serves the shop. Browsers start pages without a network only from an
// address that nobody can listen in on, and no public authority certifies a machine in a back room.
package localcert

import (
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"fmt"
	"io/fs"
	"math/big"
	"net"
	"os"
	"path/filepath"
	"strings"
	"time"
)

// The files in the folder that certificates are kept in.
const (
	AuthorityFile    = "authority.pem" // given to every tablet
	authorityKeyFile = "authority-key.pem"
	ServerFile       = "server.pem"
	ServerKeyFile    = "server-key.pem"
)

const (
	authorityYears = 10
	serverDays     = 397 // browsers trust none that is longer
	startsBefore   = time.Hour
)

// Made is what [Make] made.
type Made struct {
	NewAuthority bool // there was none: tablets are told to trust it
	Hosts        []string
	Until        time.Time // when the server's certificate ends
}

// Make makes a certificate for a server that is reached by any of the hosts, names or addresses, in a folder; and the
// authority that signs it, where the folder has none yet. The keys are readable to their owner alone.
func Make(dir string, hosts []string, now time.Time) (Made, error) {
	made := Made{Hosts: hosts, Until: now.AddDate(0, 0, serverDays)}
	if len(hosts) == 0 {
		return made, errors.New("a certificate is for at least one name or address by which tablets reach the server")
	}
	for _, h := range hosts {
		if net.ParseIP(h) == nil && (h == "" || strings.ContainsAny(h, " /:@*")) {
			return made, fmt.Errorf("%q is no name or address of a machine: give it without http:// and port", h)
		}
	}
	if err := os.MkdirAll(dir, 0o700); err != nil {
		return made, fmt.Errorf("keep certificates: %w", err)
	}
	authority, err := tls.LoadX509KeyPair(filepath.Join(dir, AuthorityFile), filepath.Join(dir, authorityKeyFile))
	if errors.Is(err, fs.ErrNotExist) {
		made.NewAuthority = true
		authority, err = makeAuthority(dir, now)
	}
	if err != nil {
		return made, fmt.Errorf("the authority in %s: %w", dir, err)
	}
	ca, err := x509.ParseCertificate(authority.Certificate[0])
	if err != nil {
		return made, fmt.Errorf("the authority in %s: %w", dir, err)
	}
	if ca.NotAfter.Before(made.Until) {
		return made, fmt.Errorf("the authority in %s ends on %s: make a new one in another folder and have the tablets trust it", dir, ca.NotAfter.Format("2 January 2006"))
	}
	leaf := &x509.Certificate{Subject: pkix.Name{CommonName: hosts[0]}, NotBefore: now.Add(-startsBefore), NotAfter: made.Until,
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true}
	for _, h := range hosts {
		if ip := net.ParseIP(h); ip != nil {
			leaf.IPAddresses = append(leaf.IPAddresses, ip)
		} else {
			leaf.DNSNames = append(leaf.DNSNames, h)
		}
	}
	return made, sign(dir, ServerFile, ServerKeyFile, leaf, ca, authority.PrivateKey)
}

func makeAuthority(dir string, now time.Time) (tls.Certificate, error) {
	ca := &x509.Certificate{Subject: pkix.Name{CommonName: "Earnest Pony, this workshop"}, NotBefore: now.Add(-startsBefore), NotAfter: now.AddDate(authorityYears, 0, 0),
		KeyUsage: x509.KeyUsageCertSign | x509.KeyUsageCRLSign, IsCA: true, BasicConstraintsValid: true, MaxPathLenZero: true}
	if err := sign(dir, AuthorityFile, authorityKeyFile, ca, ca, nil); err != nil {
		return tls.Certificate{}, err
	}
	return tls.LoadX509KeyPair(filepath.Join(dir, AuthorityFile), filepath.Join(dir, authorityKeyFile))
}

// sign makes a key and a certificate for it, signed by an authority or, where by is nil, by itself, and writes both.
func sign(dir, file, keyFile string, cert, parent *x509.Certificate, by any) error {
	key, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return err
	}
	if by == nil {
		by = key
	}
	if cert.SerialNumber, err = rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120)); err != nil {
		return err
	}
	der, err := x509.CreateCertificate(rand.Reader, cert, parent, key.Public(), by)
	if err != nil {
		return err
	}
	secret, err := x509.MarshalPKCS8PrivateKey(key)
	if err != nil {
		return err
	}
	return errors.Join(
		os.WriteFile(filepath.Join(dir, keyFile), pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: secret}), 0o600),
		os.WriteFile(filepath.Join(dir, file), pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: der}), 0o644))
}
