// Package localpg starts and stops a private PostgreSQL on loopback from Debian's binaries, so that
// the demo and the tests need no system cluster and never touch one.
//
// The server runs as the user who starts it; PostgreSQL refuses to run as root, so then it runs as
// the user postgres that Debian's package brings. Its data lie in a folder of the project's state
// folder, or, where that user cannot enter it or its path is too long for a socket, in a folder of
// /var/tmp that only that user may enter. A fast server's lie in memory where there is room: every
// test makes a database and drops it, hundreds of files each time, which a disk's file system spends
// more time on than the test on its work.
package localpg

import (
	"bytes"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"hash/crc32"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrNoBinaries reports that PostgreSQL's server is not installed.
var ErrNoBinaries = errors.New("PostgreSQL's server programs are not installed: apt-get install postgresql, or give the address of a server with --database")

// ErrNoCluster reports that no private server was made in a state folder.
var ErrNoCluster = errors.New("no private PostgreSQL was made there")

const (
	role       = "pony" // owns our databases
	bootUser   = "postgres"
	firstPort  = 54320 // the first of the ports tried; system clusters sit at 5432 and up
	ports      = 100   // how many are tried
	socketPath = 107   // bytes that a socket's path may have
	patience   = time.Minute
	memory     = "/dev/shm"
)

// Cluster is one private server.
type Cluster struct {
	dir  string // data and socket
	lock string // file locked while one of us makes or starts it
	bin  string // PostgreSQL's programs
	fast bool
	as   *user.User // nil: as ourselves
}

// Find returns the cluster called name of a state folder, whether it runs or not. A fast one gives
// up safety on a crash for speed and is for tests alone.
func Find(state, name string, fast bool) (*Cluster, error) { return find(state, name, fast, true) }

// Existing returns the cluster called name of a state folder, or [ErrNoCluster] where none was made
// there; it makes no file or folder.
func Existing(state, name string) (*Cluster, error) {
	if _, err := os.Stat(state); err != nil {
		return nil, ErrNoCluster
	}
	c, err := find(state, name, false, false)
	if err == nil && !c.exists() {
		err = ErrNoCluster
	}
	return c, err
}

func find(state, name string, fast, make bool) (*Cluster, error) {
	bins, err := filepath.Glob("/usr/lib/postgresql/*/bin/initdb")
	if err != nil || len(bins) == 0 {
		return nil, ErrNoBinaries
	}
	slices.SortFunc(bins, func(a, b string) int { return version(a) - version(b) })
	c := &Cluster{bin: filepath.Dir(bins[len(bins)-1]), fast: fast}
	if os.Geteuid() == 0 {
		if c.as, err = user.Lookup(bootUser); err != nil {
			return nil, fmt.Errorf("PostgreSQL does not run as root, and Debian's user for it is missing: %w", err)
		}
	}
	state, err = filepath.Abs(state)
	if err != nil {
		return nil, err
	}
	c.lock = filepath.Join(state, "pg-"+name+".lock")
	c.dir, err = c.place(state, name, make)
	return c, err
}

func version(initdb string) int {
	v, _ := strconv.Atoi(filepath.Base(filepath.Dir(filepath.Dir(initdb)))) // 0 for a folder that is no version
	return v
}

// place decides where the data lie.
func (c *Cluster) place(state, name string, make bool) (string, error) {
	who, err := c.owner()
	if err != nil {
		return "", err
	}
	unique := fmt.Sprintf("pony-%s-%08x-%s", who.Username, crc32.ChecksumIEEE([]byte(state)), name)
	fallback := filepath.Join("/var/tmp", unique)
	wanted := filepath.Join(state, "pg-"+name)
	if make {
		if err := os.MkdirAll(state, 0o755); err != nil {
			return "", err
		}
	}
	dir := wanted
	if len(filepath.Join(wanted, ".s.PGSQL.00000")) > socketPath || !c.mayEnter(state) {
		dir = fallback
	}
	if inMemory := filepath.Join(memory, unique); c.fast && roomy() || !make && isThere(inMemory) {
		dir = inMemory
	}
	info, err := os.Lstat(dir)
	if errors.Is(err, os.ErrNotExist) {
		if !make {
			return "", ErrNoCluster
		}
		if err := os.Mkdir(dir, 0o700); err != nil {
			return "", err
		}
		uid, gid, err := ids(who)
		if err != nil {
			return "", err
		}
		return dir, os.Lchown(dir, uid, gid)
	}
	if err != nil {
		return "", err
	}
	// /var/tmp is everybody's: a folder that somebody else put there is not ours to use.
	if stat, ok := info.Sys().(*syscall.Stat_t); !info.IsDir() || !ok || strconv.Itoa(int(stat.Uid)) != who.Uid {
		return "", fmt.Errorf("%s exists but is no folder of %s: remove it or choose another state folder", dir, who.Username)
	}
	return dir, nil
}

// roomy says whether the tests' databases have room in memory, and the machine beside them.
func roomy() bool {
	var fs syscall.Statfs_t
	return syscall.Statfs(memory, &fs) == nil && uint64(fs.Bsize)*fs.Bavail >= 4<<30
}

func isThere(dir string) bool {
	_, err := os.Lstat(dir)
	return err == nil
}

func (c *Cluster) owner() (*user.User, error) {
	if c.as != nil {
		return c.as, nil
	}
	return user.Current()
}

func ids(u *user.User) (uid, gid int, err error) {
	uid, err1 := strconv.Atoi(u.Uid)
	gid, err2 := strconv.Atoi(u.Gid)
	return uid, gid, errors.Join(err1, err2)
}

func (c *Cluster) mayEnter(dir string) bool {
	return c.command(context.Background(), "test", "-x", dir).Run() == nil
}

// command runs a program as the server's user, in a folder that everybody may enter.
func (c *Cluster) command(ctx context.Context, name string, args ...string) *exec.Cmd {
	cmd := exec.CommandContext(ctx, name, args...)
	cmd.Dir = "/"
	// Settings for some other server must not lead us there.
	cmd.Env = slices.DeleteFunc(os.Environ(), func(v string) bool { return strings.HasPrefix(v, "PG") })
	if c.as != nil {
		if uid, gid, err := ids(c.as); err == nil {
			cmd.SysProcAttr = &syscall.SysProcAttr{Credential: &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}}
		}
		cmd.Env = append(cmd.Env, "HOME="+c.as.HomeDir, "USER="+c.as.Username)
	}
	return cmd
}

func (c *Cluster) run(ctx context.Context, name string, args ...string) error {
	out, err := c.command(ctx, filepath.Join(c.bin, name), args...).CombinedOutput()
	if err != nil {
		return fmt.Errorf("%s: %w: %s", name, err, bytes.TrimSpace(out))
	}
	return nil
}

// Start makes the cluster if there is none, starts it if it does not run, and returns the address
// of a database called db in it, made if it is not there.
func (c *Cluster) Start(ctx context.Context, db string) (string, error) {
	lock, err := os.OpenFile(c.lock, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return "", err
	}
	defer func() { _ = lock.Close() }() // which gives the lock back
	if err := syscall.Flock(int(lock.Fd()), syscall.LOCK_EX); err != nil {
		return "", fmt.Errorf("lock %s: %w", c.lock, err)
	}
	if !c.exists() {
		if err := c.init(ctx); err != nil {
			return "", err
		}
	}
	if err := c.start(ctx); err != nil {
		return "", err
	}
	return c.open(ctx, db)
}

func (c *Cluster) exists() bool {
	return c.command(context.Background(), "test", "-f", filepath.Join(c.dir, "PG_VERSION")).Run() == nil
}

func (c *Cluster) init(ctx context.Context) error {
	// C.UTF-8 is built in; the machine's own LANG may name a locale that is not installed.
	err := c.run(ctx, "initdb", "-D", c.dir, "-U", bootUser, "-E", "UTF8", "--locale=C.UTF-8",
		"--auth-local=peer", "--auth-host=scram-sha-256")
	if err != nil {
		return err
	}
	me, err := c.owner()
	if err != nil {
		return err
	}
	conf := fmt.Sprintf("listen_addresses = '127.0.0.1'\nunix_socket_directories = '%s'\nunix_socket_permissions = 0700\ntimezone = 'UTC'\nmax_connections = 200\n", c.dir)
	if c.fast {
		// An autovacuum worker belongs to another role, and keeps a test's database from being dropped.
		conf += "fsync = off\nsynchronous_commit = off\nfull_page_writes = off\nautovacuum = off\n"
	}
	// The user who runs the server is its superuser over the socket, under the system's own check of
	// who is calling; nobody else gets in without the password.
	ident := fmt.Sprintf("pony %s %s\n", me.Username, bootUser)
	hba := "local all all peer map=pony\nhost all all 127.0.0.1/32 scram-sha-256\n"
	for _, f := range []struct {
		name, text string
		add        bool
	}{{"postgresql.conf", conf, true}, {"pg_ident.conf", ident, false}, {"pg_hba.conf", hba, false}, {"pony.password", rand.Text(), false}} {
		if err := c.write(ctx, f.name, f.text, f.add); err != nil {
			return err
		}
	}
	return nil
}

// write puts text into a file of the cluster as the server's user.
func (c *Cluster) write(ctx context.Context, name, text string, add bool) error {
	args := []string{filepath.Join(c.dir, name)}
	if add {
		args = append([]string{"-a"}, args...)
	}
	cmd := c.command(ctx, "tee", args...)
	cmd.Stdin = strings.NewReader(text)
	if out, err := cmd.Output(); err != nil {
		return fmt.Errorf("write %s: %w: %s", name, err, out)
	}
	return nil
}

func (c *Cluster) read(ctx context.Context, name string) (string, error) {
	out, err := c.command(ctx, "cat", filepath.Join(c.dir, name)).Output()
	if err != nil {
		return "", fmt.Errorf("read %s of %s: %w", name, c.dir, err)
	}
	return strings.TrimSpace(string(out)), nil
}

// start starts the server on the port it had before, or else on the next free one.
func (c *Cluster) start(ctx context.Context) error {
	if c.Running(ctx) {
		return nil
	}
	port := firstPort
	if had, err := c.read(ctx, "pony.port"); err == nil {
		port, _ = strconv.Atoi(had) // 0 is never free and so is passed over
	}
	ctx, cancel := context.WithTimeout(ctx, patience)
	defer cancel()
	var last error
	for try := range ports {
		if free(port) {
			// Without -l the server would keep our output open, and whoever reads it would wait for ever.
			last = c.run(ctx, "pg_ctl", "-D", c.dir, "-l", filepath.Join(c.dir, "server.log"), "-w", "-t", "60", "-o", "-p "+strconv.Itoa(port), "start")
			if last == nil {
				return c.write(ctx, "pony.port", strconv.Itoa(port), false)
			}
			if ctx.Err() != nil {
				break
			}
		}
		port = firstPort + try
	}
	log, _ := c.read(ctx, "server.log") // only to say more about the failure that is already at hand
	lines := strings.Split(log, "\n")
	return fmt.Errorf("PostgreSQL does not start: %w\n%s", last, strings.Join(lines[max(0, len(lines)-15):], "\n"))
}

func free(port int) bool {
	if port == 0 {
		return false
	}
	l, err := net.Listen("tcp", net.JoinHostPort("127.0.0.1", strconv.Itoa(port)))
	if err != nil {
		return false
	}
	return l.Close() == nil
}

// Running reports whether the server runs and answers.
func (c *Cluster) Running(ctx context.Context) bool {
	port, err := c.read(ctx, "pony.port")
	return err == nil && c.run(ctx, "pg_ctl", "-D", c.dir, "status") == nil &&
		c.run(ctx, "pg_isready", "-q", "-h", c.dir, "-p", port) == nil
}

// open makes the role and the database if they are not there, and returns the database's address.
func (c *Cluster) open(ctx context.Context, db string) (string, error) {
	port, err := c.read(ctx, "pony.port")
	if err != nil {
		return "", err
	}
	password, err := c.read(ctx, "pony.password")
	if err != nil {
		return "", err
	}
	const script = `
		select format('create role %I login createdb password %L', :'role', :'password')
			where not exists (select from pg_roles where rolname = :'role') \gexec
		select format('create database %I owner %I', :'db', :'role')
			where not exists (select from pg_database where datname = :'db') \gexec`
	cmd := c.command(ctx, filepath.Join(c.bin, "psql"), "-h", c.dir, "-p", port, "-U", bootUser, "-d", "postgres", "-qAtX", "-f", "-",
		"-v", "ON_ERROR_STOP=1", "-v", "role="+role, "-v", "password="+password, "-v", "db="+db)
	cmd.Stdin = strings.NewReader(script)
	if out, err := cmd.CombinedOutput(); err != nil {
		return "", fmt.Errorf("make database %s: %w: %s", db, err, bytes.TrimSpace(out))
	}
	return fmt.Sprintf("postgres://%s:%s@127.0.0.1:%s/%s?sslmode=disable", role, password, port, db), nil
}

// Drop removes the database called db, whoever is connected to it.
func (c *Cluster) Drop(ctx context.Context, db string) error {
	return c.exec(ctx, func(conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, "drop database if exists "+pgx.Identifier{db}.Sanitize()+" with (force)")
		return err
	})
}

// Has reports whether there is a database called db.
func (c *Cluster) Has(ctx context.Context, db string) (has bool, err error) {
	err = c.exec(ctx, func(conn *pgx.Conn) error {
		return conn.QueryRow(ctx, "select exists (select from pg_database where datname = $1)", db).Scan(&has)
	})
	return has, err
}

// Rename gives a database to which nobody is connected another name.
func (c *Cluster) Rename(ctx context.Context, from, to string) error {
	return c.exec(ctx, func(conn *pgx.Conn) error {
		_, err := conn.Exec(ctx, "alter database "+pgx.Identifier{from}.Sanitize()+" rename to "+pgx.Identifier{to}.Sanitize())
		return err
	})
}

func (c *Cluster) exec(ctx context.Context, do func(*pgx.Conn) error) error {
	url, err := c.Start(ctx, "postgres")
	if err != nil {
		return err
	}
	conn, err := pgx.Connect(ctx, url)
	if err != nil {
		return err
	}
	return errors.Join(do(conn), conn.Close(ctx))
}

// Stop stops the server. It is no error when it does not run.
func (c *Cluster) Stop(ctx context.Context) error {
	if !c.exists() || c.run(ctx, "pg_ctl", "-D", c.dir, "status") != nil {
		return nil
	}
	return c.run(ctx, "pg_ctl", "-D", c.dir, "-m", "fast", "-w", "stop")
}

// Dir returns where the data lie.
func (c *Cluster) Dir() string { return c.dir }
