package cli_test

import (
	"database/sql"
	"errors"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"sync"
	"syscall"
	"testing"
	"time"

	"echo-atlas/internal/standin"
	"echo-atlas/internal/testservers"
)

// someTables is a small database in SQL that all engines take.
func someTables(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "CREATE TABLE t%d (id int NOT NULL PRIMARY KEY, berth int, note varchar(40) DEFAULT 'x', CHECK (berth > %d));\n", i, i)
		fmt.Fprintf(&b, "CREATE INDEX t%d_berth ON t%d (berth);\nCREATE VIEW v%d AS SELECT id, berth + 1 AS next FROM t%d;\n", i, i, i, i)
	}
	return b.String()
}

// intact checks that the catalogue's file is whole and returns how many snapshots it holds.
func (p *place) intact() int {
	p.t.Helper()
	db, err := sql.Open("sqlite", filepath.Join(p.dir, "home", "catalogue.db"))
	if err != nil {
		p.t.Fatal(err)
	}
	defer db.Close()
	var state string
	var n int
	if err := db.QueryRow("PRAGMA integrity_check").Scan(&state); err != nil || state != "ok" {
		p.t.Fatalf("the catalogue: %s %v", state, err)
	}
	if err := db.QueryRow("SELECT count(*) FROM snapshot").Scan(&n); err != nil {
		p.t.Fatal(err)
	}
	return n
}

// A server that drops the connection, hangs or sends nonsense costs only its own snapshot, wherever in
// its answers that happens.
func TestFaultyServer(t *testing.T) {
	for _, s := range []testservers.Server{testservers.Postgres(t), testservers.MariaDB(t)} {
		t.Run(s.Name(), func(t *testing.T) {
			t.Parallel()
			p := newPlace(t)
			url := s.Database(t, someTables(12))
			direct := url[strings.Index(url, "127.0.0.1:"):]
			direct, _, _ = strings.Cut(direct, "/")
			name := s.Engine().Database(url)
			through := func(f testservers.Fault) *testservers.Proxy {
				proxy := testservers.Faulty(t, direct, testservers.FramingOf(s.Name()), f)
				p.file("echo-atlas.toml", fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = %q\n[servers.beside]\nurl = \"sqlite:beside.db\"\n", strings.Replace(url, direct, proxy.Addr, 1)))
				return proxy
			}
			p.file("beside.db", "")
			whole := through(testservers.Fault{After: math.MaxInt64})
			p.want(0, "survey")
			total := whole.Passed()
			for _, do := range []string{"drop", "nonsense", "hang", "trickle"} {
				points := []int64{0, 2, total / 10, total / 3, total / 2, total * 2 / 3, total * 9 / 10}
				switch do { // these may take as long as the program waits
				case "hang":
					points = []int64{0, total * 2 / 3}
				case "trickle", "nonsense":
					points = []int64{total / 2}
				}
				for _, after := range points {
					proxy := through(testservers.Fault{After: after, Do: do})
					before := p.intact()
					d := answer[rows](p, 3, "survey", "--connect-timeout", "2s", "--answer-timeout", "1s")
					select {
					case <-proxy.Reached():
					default:
						t.Errorf("%s after %d of %d messages never happened", do, after, total)
					}
					for _, x := range d.Databases {
						if failed := x.Error != ""; failed != strings.HasPrefix(x.Address, "quay") {
							t.Errorf("%s after %d messages: %s: %q", do, after, x.Address, x.Error)
						}
					}
					if n := p.intact(); n != before+1 {
						t.Errorf("%s after %d messages: %d snapshots more, want that of the other server", do, after, n-before)
					}
				}
			}
			got := answer[rows](p, 0, "list", "quay/"+name, "--kind", "table")
			if got.Total != 12 {
				t.Errorf("the last reading has %d tables", got.Total)
			}
			holds(t, "list", p.want(0, "list", "quay/"+name), "read ")
			holds(t, "a failed --fresh", p.want(3, "list", "quay/"+name, "--fresh"), "read ")
		})
	}
}

// Ctrl-C ends a survey with 130 and leaves the catalogue as it was.
func TestInterrupted(t *testing.T) {
	s := testservers.Postgres(t)
	p := newPlace(t)
	url := s.Database(t, someTables(8))
	address := fmt.Sprintf("127.0.0.1:%d", s.Port())
	p.want(0, "survey", "--from", url, "--name", "quay")
	before := p.intact()
	proxy := testservers.Faulty(t, address, testservers.PostgresMessages, testservers.Fault{After: 60, Do: "hang"})
	cmd := exec.Command(program, "survey", "--from", strings.Replace(url, address, proxy.Addr, 1), "--name", "quay")
	cmd.Dir, cmd.Env = p.dir, p.env
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	<-proxy.Reached()
	if err := cmd.Process.Signal(os.Interrupt); err != nil {
		t.Fatal(err)
	}
	_ = cmd.Wait()
	if code := cmd.ProcessState.ExitCode(); code != 130 {
		t.Errorf("exit code %d, want 130", code)
	}
	if n := p.intact(); n != before {
		t.Errorf("%d snapshots, there were %d", n, before)
	}
}

// A survey that is killed at any moment leaves a catalogue that works; surveys side by side do not
// disturb each other.
func TestKilledAndSideBySide(t *testing.T) {
	p := newPlace(t)
	path := filepath.Join(p.dir, "big.db")
	db, err := sql.Open("sqlite", path)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec("BEGIN;" + someTables(1500) + "COMMIT;"); err != nil {
		t.Fatal(err)
	}
	args := []string{"survey", "--from", "sqlite:big.db", "--name", "quay"}
	started := time.Now()
	p.want(0, args...)
	took := time.Since(started)
	random := rand.New(rand.NewPCG(7, 7))
	rounds := min(testservers.Rounds(12), 400)
	for round := range rounds {
		if _, err := db.Exec(fmt.Sprintf("CREATE TABLE more%d (id int); DROP VIEW v%d;", round, round)); err != nil {
			t.Fatal(err)
		}
		cmd := exec.Command(program, args...)
		cmd.Dir, cmd.Env = p.dir, p.env
		if err := cmd.Start(); err != nil {
			t.Fatal(err)
		}
		time.Sleep(time.Duration(random.Int64N(int64(took))))
		_ = cmd.Process.Kill()
		_ = cmd.Wait()
		p.intact()
		p.want(0, "list", "quay")
	}
	before := p.intact()
	var all sync.WaitGroup
	codes := make([]string, 4)
	for i := range codes {
		all.Go(func() {
			cmd := exec.Command(program, args...)
			cmd.Dir, cmd.Env = p.dir, p.env
			if out, err := cmd.CombinedOutput(); err != nil {
				codes[i] = fmt.Sprint(err, string(out))
			}
		})
	}
	all.Wait()
	if failed := strings.Join(codes, ""); failed != "" {
		t.Errorf("surveys side by side: %s", failed)
	}
	if n := p.intact(); n != before+len(codes) {
		t.Errorf("%d surveys side by side left %d snapshots", len(codes), n-before)
	}
	if d := answer[rows](p, 0, "list", "quay", "--kind", "table"); d.Total != 1500+rounds {
		t.Errorf("%d tables", d.Total)
	}
}

// A full disk is an error that says so, and the catalogue stays as it was.
func TestFullDisk(t *testing.T) {
	p := newPlace(t)
	home := filepath.Join(p.dir, "home")
	if err := os.Mkdir(home, 0o755); err != nil {
		t.Fatal(err)
	}
	if err := syscall.Mount("tmpfs", home, "tmpfs", 0, "size=512k"); err != nil {
		if errors.Is(err, syscall.EPERM) {
			fmt.Fprintf(os.Stderr, "\n*** A FULL DISK IS NOT TESTED: making a small file system: %v ***\n\n", err)
			t.Skip(err)
		}
		t.Fatal(err)
	}
	t.Cleanup(func() {
		if err := syscall.Unmount(home, 0); err != nil {
			t.Error(err)
		}
	})
	db, err := sql.Open("sqlite", filepath.Join(p.dir, "d.db"))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	if _, err := db.Exec(someTables(5)); err != nil {
		t.Fatal(err)
	}
	p.want(0, "survey", "--from", "sqlite:d.db", "--name", "quay")
	if _, err := db.Exec("BEGIN;" + strings.ReplaceAll(someTables(2500), " t", " more_t") + "COMMIT"); err == nil {
		t.Fatal("the second script was to fail on names that exist")
	}
	_, _ = db.Exec("ROLLBACK")
	var b strings.Builder
	random := rand.New(rand.NewPCG(1, 2))
	for i := range 2500 { // names that do not compress
		fmt.Fprintf(&b, "CREATE TABLE u%d (c%x int, c%x int, c%x int);\n", i, random.Uint64(), random.Uint64(), random.Uint64())
	}
	if _, err := db.Exec("BEGIN;" + b.String() + "COMMIT"); err != nil {
		t.Fatal(err)
	}
	out, _, code := p.run("survey", "--from", "sqlite:d.db", "--name", "quay")
	if code != 3 && code != 4 {
		t.Errorf("exit code %d", code)
	}
	holds(t, "the survey", out, "the disk is full", "its last reading stays")
	if n := p.intact(); n != 1 {
		t.Errorf("%d snapshots", n)
	}
	if d := answer[rows](p, 0, "list", "quay", "--kind", "table"); d.Total != 5 {
		t.Errorf("%d tables", d.Total)
	}

	// What only reads answers where nothing at all can be written.
	reads := func(when string) {
		t.Helper()
		for _, args := range [][]string{{"snapshots"}, {"list", "quay", "--kind", "table"}, {"find", "t1"}, {"show", "t1"}, {"ddl", "quay"}} {
			if out, errs, code := p.run(args...); code != 0 || out == "" {
				t.Errorf("%s: %v: exit code %d\n%s", when, args, code, errs)
			}
		}
	}
	rest, err := os.Create(filepath.Join(home, "rest"))
	if err != nil {
		t.Fatal(err)
	}
	for block := make([]byte, 512); ; {
		if _, err := rest.Write(block); err != nil {
			break
		}
	}
	rest.Close()
	reads("on a full disk")
	if err := syscall.Mount("", home, "", syscall.MS_REMOUNT|syscall.MS_RDONLY, ""); err != nil {
		t.Fatal(err)
	}
	reads("on a read-only disk")
	p.fails(3, []string{"snapshots", "label", "quay", "low tide"})
}

func TestDamagedCatalogue(t *testing.T) {
	p := demoPlace(t)
	path := filepath.Join(filepath.Dir(p.dir), "home", "catalogue.db")
	if _, err := os.Stat(path); err != nil {
		path = filepath.Join(p.dir, "catalogue", "catalogue.db")
	}
	whole, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for what, spoil := range map[string]func(b []byte) []byte{
		"zeros in the middle": func(b []byte) []byte { clear(b[len(b)/4 : len(b)*3/4]); return b },
		"cut short":           func(b []byte) []byte { return b[:len(b)/2] },
		"text":                func([]byte) []byte { return []byte(strings.Repeat("no catalogue at all ", 500)) },
	} {
		if err := os.WriteFile(path, spoil(append([]byte(nil), whole...)), 0o600); err != nil {
			t.Fatal(err)
		}
		os.Remove(path + "-wal")
		os.Remove(path + "-shm")
		_, errs, code := p.run("show", "quay-live/berths/mooring")
		if code != 4 || !strings.Contains(errs, "the catalogue is damaged") || !strings.Contains(errs, "survey again") {
			t.Errorf("%s: exit code %d: %s", what, code, errs)
		}
	}
	// Damage behind the list of snapshots: every command that comes upon it says so.
	db, err := sql.Open("sqlite", path)
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, spoil := range []string{"UPDATE chunk SET entries = x'00', places = x''", "UPDATE node SET body = x'00'", "DELETE FROM node", "DELETE FROM chunk", "UPDATE pack SET body = x'00'", "UPDATE snapshot SET version = version || '!'", "DROP TRIGGER snapshot_goes; DELETE FROM snapshot WHERE id = 2"} {
		if err := os.WriteFile(path, whole, 0o600); err != nil {
			t.Fatal(err)
		}
		if _, err := db.Exec("PRAGMA wal_checkpoint(truncate);" + spoil + "; PRAGMA wal_checkpoint(truncate)"); err != nil {
			t.Fatal(err)
		}
		for _, args := range [][]string{{"find", "no such thing at all"}, {"find", "paid_on", "--text"}, {"list", "quay-live/berths", "--kind", "column"}, {"show", "quay-live/berths/mooring"}, {"ddl", "quay-live/berths"}, {"trace", "quay-live/berths/mooring"}, {"diff", "quay-live/berths", "quay-dev/berths"}} {
			out, errs, code := p.run(args...)
			whole := code <= 1 && !strings.Contains(spoil, "snapshot") && !(code == 1 && args[0] == "find" && strings.Contains(spoil, "chunk")) // a miss is none where anything is damaged
			if code != 4 && !whole || strings.Contains(errs, "goroutine ") {
				t.Errorf("%s: %v: exit code %d\n%s%s", spoil, args, code, out, errs)
			}
		}
	}
}

// A server whose answers are altered on the way, or tell of absurd lengths, ends no reading but its own, never the program,
// and does not take all memory.
func TestAlteredAnswers(t *testing.T) {
	t.Parallel()
	fixture, err := standin.Fixture("beacons_live")
	if err != nil {
		t.Fatal(err)
	}
	sqlServer, err := standin.Start("surveyor", "fog-and-foam", map[string]string{"beacons": fixture, "master": ""})
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(sqlServer.Close)
	postgres, mariadb := testservers.Postgres(t), testservers.MariaDB(t)
	for name, url := range map[string]string{
		"postgres": postgres.Database(t, someTables(4)), "mariadb": mariadb.Database(t, someTables(4)), "sqlserver": "sqlserver://surveyor@" + sqlServer.Addr() + "?encrypt=disable&database=beacons",
	} {
		t.Run(name, func(t *testing.T) {
			t.Parallel()
			p := newPlace(t)
			p.env = append(p.env, "BEACONS_PASSWORD=fog-and-foam")
			direct := regexp.MustCompile(`127\.0\.0\.1:\d+`).FindString(url)
			framing := testservers.FramingOf(name)
			p.file("beside.db", "")
			through := func(f testservers.Fault) *testservers.Proxy {
				proxy := testservers.Faulty(t, direct, framing, f)
				secret := ""
				if name == "sqlserver" {
					secret = "password_env = \"BEACONS_PASSWORD\"\n"
				}
				p.file("echo-atlas.toml", fmt.Sprintf("home = \"home\"\n[servers.quay]\nurl = %q\n%s[servers.beside]\nurl = \"sqlite:beside.db\"\n", strings.Replace(url, direct, proxy.Addr, 1), secret))
				return proxy
			}
			whole := through(testservers.Fault{After: math.MaxInt64})
			p.want(0, "survey", "--config", "echo-atlas.toml")
			codes, largest := map[int]int{}, int64(0)
			rounds := testservers.Rounds(12)
			for round := range rounds {
				random := rand.New(rand.NewPCG(3, uint64(round)))
				through(testservers.Fault{After: whole.Passed() * int64(round) / int64(rounds), Do: "alter", Alter: func(message []byte) []byte {
					for n := range 1 + random.IntN(3) {
						if len(message) <= framing.Header {
							break
						}
						at := framing.Header + random.IntN(len(message)-framing.Header)
						if round%3 == 1 { // an absurd length, in either order of bytes
							copy(message[at:], [][]byte{{0, 0, 0, 0, 0xff, 0x0f, 0, 0}, {0xff, 0xff, 0xff, 0x7f}, {0x7f, 0xff, 0xff, 0xff}, {0xfe, 0xff, 0xff, 0xff, 0xff, 0x7f}}[(round/3+n)%4])
						} else {
							message[at] ^= byte(1 + random.IntN(255))
						}
					}
					return message
				}})
				before := p.intact()
				cmd := exec.Command(program, "survey", "--config", "echo-atlas.toml", "--connect-timeout", "3s", "--answer-timeout", "2s")
				cmd.Dir, cmd.Env = p.dir, p.env
				out, _ := cmd.CombinedOutput()
				code := cmd.ProcessState.ExitCode()
				codes[code]++
				if code != 0 && code != 3 || strings.Contains(string(out), "goroutine ") {
					t.Errorf("round %d: exit code %d\n%s", round, code, out)
				}
				if usage, ok := cmd.ProcessState.SysUsage().(*syscall.Rusage); ok {
					largest = max(largest, usage.Maxrss>>10)
				}
				if p.intact() <= before {
					t.Errorf("round %d: the server beside lost its reading", round)
				}
			}
			if largest > 1024 {
				t.Errorf("a survey took %d MiB of memory", largest)
			}
			t.Logf("exit codes %v, at most %d MiB", codes, largest)
		})
	}
}
