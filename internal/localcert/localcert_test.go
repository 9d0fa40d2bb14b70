package localcert

import (
	"crypto/tls"
	"crypto/x509"
	"os"
	"path/filepath"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// A tablet that trusts the authority trusts the server by each of its names, and by no other; the authority stays when the
// server's certificate is made anew, and nobody else reads the keys.
func TestATabletTrustsTheServer(t *testing.T) {
	dir := filepath.Join(t.TempDir(), "certs")
	now := time.Now()
	made, err := Make(dir, []string{"pony.workshop.test", "192.168.7.20"}, now)
	require.NoError(t, err)
	assert.True(t, made.NewAuthority)
	text, err := os.ReadFile(filepath.Join(dir, AuthorityFile))
	require.NoError(t, err)
	tablet := x509.NewCertPool()
	require.True(t, tablet.AppendCertsFromPEM(text))
	trusts := func(name string, at time.Time) error {
		pair, err := tls.LoadX509KeyPair(filepath.Join(dir, ServerFile), filepath.Join(dir, ServerKeyFile))
		require.NoError(t, err)
		leaf, err := x509.ParseCertificate(pair.Certificate[0])
		require.NoError(t, err)
		_, err = leaf.Verify(x509.VerifyOptions{Roots: tablet, DNSName: name, CurrentTime: at})
		return err
	}
	assert.NoError(t, trusts("pony.workshop.test", now))
	assert.NoError(t, trusts("192.168.7.20", now))
	assert.Error(t, trusts("elsewhere.test", now))
	assert.Error(t, trusts("pony.workshop.test", now.AddDate(2, 0, 0)))
	for _, key := range []string{authorityKeyFile, ServerKeyFile} {
		st, err := os.Stat(filepath.Join(dir, key))
		require.NoError(t, err)
		assert.Equal(t, os.FileMode(0o600), st.Mode().Perm(), key)
	}

	made, err = Make(dir, []string{"pony.workshop.test"}, now.AddDate(1, 0, 0))
	require.NoError(t, err)
	assert.False(t, made.NewAuthority, "tablets trust it already")
	assert.NoError(t, trusts("pony.workshop.test", now.AddDate(2, 0, 0)))

	for _, hosts := range [][]string{nil, {""}, {"https://pony.test"}, {"pony.test:8321"}, {"two names"}} {
		_, err := Make(dir, hosts, now)
		assert.Error(t, err, "%q", hosts)
	}
	_, err = Make(dir, []string{"pony.workshop.test"}, now.AddDate(9, 11, 0))
	assert.ErrorContains(t, err, "ends on")
	require.NoError(t, os.WriteFile(filepath.Join(dir, AuthorityFile), []byte("torn"), 0o600))
	_, err = Make(dir, []string{"pony.workshop.test"}, now)
	assert.ErrorContains(t, err, "the authority in")
}
