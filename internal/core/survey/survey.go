// Package survey drives engines side by side and stores what they read as new snapshots.
package survey

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/config"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
)

// Target is a server to survey.
type Target struct {
	Server config.Server
	// Trusted says that the configuration may use secrets, and run the programs that give them.
	Trusted bool
}

// Event tells how a survey gets on.
type Event struct {
	Server, Database string
	Stage            string // "connecting", "reading", "storing", "done", "failed"
	Objects          int
	Took             time.Duration
	Err              error
	Note             string // of the stage "note": something that the user should be told of the server
}

// Result is the outcome for one database, or for a server that could not be reached.
type Result struct {
	Server, Database string
	Environment      string
	Engine           string
	Snapshot         *catalogue.Snapshot // nil if it failed
	Changes          *catalogue.Changes  // nil for the first snapshot
	Same             bool                // nothing differs from the snapshot before
	Took             time.Duration
	Err              error
	Last             *catalogue.Snapshot // the snapshot that stays where a reading failed
}

// Surveyor surveys servers.
type Surveyor struct {
	Engines   engine.Registry
	Catalogue *catalogue.Catalogue
	Jobs      int // how many databases are read side by side
	Label     string
	Timeout   time.Duration // to connect
	Patience  time.Duration // how long a server may take over one answer
	System    bool          // read the engines' own objects and those of extensions, too
	Client    string        // what servers show of the sessions
	Log       *slog.Logger
	Progress  func(Event) // called by one goroutine at a time; may be nil
}

// run gathers the results of one survey.
type run struct {
	*Surveyor
	lock    sync.Mutex
	results []Result
	slots   chan struct{}
}

// Run surveys the targets and returns one result for each database, in the order of servers and
// databases. What fails stands in its own result and spoils no other.
func (s *Surveyor) Run(ctx context.Context, targets []Target) []Result {
	r := &run{Surveyor: s, slots: make(chan struct{}, max(1, s.Jobs))}
	var all sync.WaitGroup
	for _, t := range targets {
		all.Go(func() { r.server(ctx, t) })
	}
	all.Wait()
	slices.SortStableFunc(r.results, func(a, b Result) int {
		if c := strings.Compare(a.Server, b.Server); c != 0 {
			return c
		}
		return strings.Compare(a.Database, b.Database)
	})
	return r.results
}

func (r *run) tell(e Event) {
	if r.Progress != nil {
		r.lock.Lock()
		defer r.lock.Unlock()
		r.Progress(e)
	}
}

func (r *run) finish(res Result) {
	stage := "done"
	if res.Err != nil {
		stage = "failed"
		last, err := r.Catalogue.Latest(context.Background()) // the survey may have been cancelled
		if err == nil {
			for _, s := range last {
				if s.Server == res.Server && s.Database == res.Database {
					res.Last = s
				}
			}
		}
	}
	r.remember(res)
	objects := 0
	if res.Snapshot != nil {
		for _, n := range res.Snapshot.Counts {
			objects += n
		}
	}
	r.tell(Event{Server: res.Server, Database: res.Database, Stage: stage, Objects: objects, Took: res.Took, Err: res.Err})
	r.lock.Lock()
	defer r.lock.Unlock()
	r.results = append(r.results, res)
}

// remember keeps which readings failed last, so that answers can tell.
func (r *run) remember(res Result) {
	var err error
	switch {
	case errors.Is(res.Err, context.Canceled):
	case res.Err != nil:
		err = r.Catalogue.NoteFailure(context.Background(), catalogue.Failure{Server: res.Server, Database: res.Database, At: time.Now(), Reason: res.Err.Error()})
	default:
		err = r.Catalogue.ForgetFailure(context.Background(), res.Server, res.Database)
	}
	if err != nil && r.Log != nil {
		r.Log.Warn("what failed is not remembered", "server", res.Server, "database", res.Database, "error", err)
	}
}

// acquire waits for a free slot.
func (r *run) acquire(ctx context.Context) error {
	select {
	case r.slots <- struct{}{}:
		return nil
	case <-ctx.Done():
		return ctx.Err()
	}
}

func (r *run) server(ctx context.Context, t Target) {
	urls, err := r.URLs(t.Server)
	if err != nil {
		r.finish(Result{Server: t.Server.Name, Environment: t.Server.Environment, Err: err})
		return
	}
	if t.Server.Files != "" {
		var names []string
		for _, url := range urls {
			names = append(names, r.databaseOf(url))
		}
		for _, idle := range Idle(t.Server, names, nil) {
			r.tell(Event{Server: t.Server.Name, Stage: "note", Note: idle})
		}
	}
	var all sync.WaitGroup
	for _, url := range urls {
		all.Go(func() {
			if err := r.acquire(ctx); err != nil {
				r.finish(Result{Server: t.Server.Name, Database: r.databaseOf(url), Environment: t.Server.Environment, Err: err})
				return
			}
			r.url(ctx, t, url)
		})
	}
	all.Wait()
}

// databaseOf returns the database that a URL names, "" if that is not known before connecting.
func (r *run) databaseOf(url string) string {
	e, err := r.Engines.ForURL(url)
	if err != nil {
		return ""
	}
	return e.Database(url)
}

// url surveys what one URL names. It is called with a slot and gives it back.
func (r *run) url(ctx context.Context, t Target, url string) {
	started := time.Now()
	fail := func(err error) {
		r.finish(Result{Server: t.Server.Name, Database: r.databaseOf(url), Environment: t.Server.Environment, Err: err, Took: time.Since(started)})
	}
	release := sync.OnceFunc(func() { <-r.slots })
	defer release()
	r.tell(Event{Server: t.Server.Name, Database: r.databaseOf(url), Stage: "connecting"})
	e, err := r.Engines.ForURL(url)
	if err != nil {
		fail(err)
		return
	}
	session, err := Connect(ctx, e, t, url, Options{r.Timeout, r.Patience, r.System, r.Client}, r.Log)
	if err != nil {
		fail(err)
		return
	}
	defer session.Close()
	var databases []string
	var remarks []schema.Remark
	err = engine.Guarded(func() (err error) {
		databases, remarks, err = session.Databases(ctx)
		return err
	})()
	if err != nil {
		fail(err)
		return
	}
	for _, remark := range remarks {
		if chosen(t.Server, remark.Subject) {
			r.finish(Result{Server: t.Server.Name, Database: remark.Subject, Environment: t.Server.Environment, Engine: e.Name(),
				Err: fmt.Errorf("database %s stayed hidden: %s", names.Quote(remark.Subject), remark.Reason)})
		}
	}
	if t.Server.Files == "" {
		for _, idle := range Idle(t.Server, databases, remarks) {
			r.tell(Event{Server: t.Server.Name, Stage: "note", Note: idle})
		}
	}
	databases = slices.DeleteFunc(databases, func(n string) bool { return !chosen(t.Server, n) })
	for _, missing := range t.Server.Databases {
		name := names.Name{Text: missing}
		if !name.IsPattern() && !slices.Contains(databases, missing) && !slices.ContainsFunc(remarks, func(k schema.Remark) bool { return k.Subject == missing }) {
			r.finish(Result{Server: t.Server.Name, Database: missing, Environment: t.Server.Environment, Engine: e.Name(),
				Err: fmt.Errorf("the server has no database %s, which the configuration databases", names.Quote(missing))})
		}
	}
	var all sync.WaitGroup
	for i, name := range databases {
		if i == 0 {
			continue // read below, in the slot that is held
		}
		all.Go(func() {
			if err := r.acquire(ctx); err != nil {
				r.finish(Result{Server: t.Server.Name, Database: name, Environment: t.Server.Environment, Engine: e.Name(), Err: err})
				return
			}
			defer func() { <-r.slots }()
			r.database(ctx, session, e, t, name)
		})
	}
	if len(databases) > 0 {
		r.database(ctx, session, e, t, databases[0])
	}
	release()
	all.Wait()
}

// Idle returns what the configuration says of a server's databases to no effect: patterns of databases and skip that
// none of the databases fits.
func Idle(s config.Server, databases []string, hidden []schema.Remark) []string {
	fits := func(p string) bool {
		is := func(n string) bool { return p == n || names.MatchPattern(p, n) }
		return slices.ContainsFunc(databases, is) || slices.ContainsFunc(hidden, func(k schema.Remark) bool { return is(k.Subject) })
	}
	var idle []string
	for _, p := range s.Databases {
		if (names.Name{Text: p}).IsPattern() && !fits(p) {
			idle = append(idle, fmt.Sprintf("databases = [%q] fits no database of the server", p))
		}
	}
	for _, p := range s.Skip {
		if database, _, _ := strings.Cut(p, "/"); !fits(database) {
			idle = append(idle, fmt.Sprintf("skip = [%q] fits no database of the server", p))
		}
	}
	return idle
}

// Chosen returns those of the databases of a server that the configuration wants.
func Chosen(s config.Server, databases []string) []string {
	return slices.DeleteFunc(slices.Clone(databases), func(n string) bool { return !chosen(s, n) })
}

// chosen reports whether the configuration wants a database.
func chosen(s config.Server, database string) bool {
	fits := func(patterns []string) bool {
		return slices.ContainsFunc(patterns, func(p string) bool { return p == database || names.MatchPattern(p, database) })
	}
	return (len(s.Databases) == 0 || database == engine.ServerLevel || fits(s.Databases)) && !fits(s.Skip)
}

func (r *run) database(ctx context.Context, session engine.Server, e engine.Engine, t Target, name string) {
	started := time.Now()
	res := Result{Server: t.Server.Name, Database: name, Environment: t.Server.Environment, Engine: e.Name()}
	r.tell(Event{Server: t.Server.Name, Database: name, Stage: "reading"})
	var reading *schema.Reading
	err := engine.Guarded(func() (err error) {
		if reading, err = session.Read(ctx, name); err == nil {
			reading.Sift()
			r.skipObjects(t.Server, reading)
		}
		return err
	})()
	origin := catalogue.Origin{Server: t.Server.Name, Environment: t.Server.Environment, Family: t.Server.Family, Label: r.Label}
	var draft *catalogue.Draft
	if err == nil {
		err = engine.Guarded(func() (err error) {
			if reading.Engine != e.Name() { // the server is of another make than its URL says
				if e, err = r.Engines.Named(reading.Engine); err != nil {
					return err
				}
				res.Engine = e.Name()
			}
			if draft, err = r.Catalogue.Draft(reading); err == nil {
				references.Add(reading, e, draft.Earlier(ctx, origin))
			}
			return err
		})()
	}
	if err == nil {
		r.tell(Event{Server: t.Server.Name, Database: name, Stage: "storing", Objects: len(reading.Objects)})
		storing := time.Now()
		err = engine.Guarded(func() (err error) {
			res.Snapshot, res.Changes, err = draft.Save(ctx, origin)
			return err
		})()
		if r.Log != nil {
			r.Log.Debug("stored", "took", time.Since(storing))
			if err == nil && res.Snapshot.Untidy != nil {
				r.Log.Warn("stored, but the index of names was not put in order", "error", res.Snapshot.Untidy)
			}
		}
	}
	res.Err = err
	res.Same = res.Changes != nil && *res.Changes == catalogue.Changes{}
	res.Took = time.Since(started)
	r.finish(res)
}

// skipObjects drops what patterns of the form database/object say.
func (r *run) skipObjects(s config.Server, reading *schema.Reading) {
	for _, p := range s.Skip {
		database, object, ok := strings.Cut(p, "/")
		if ok && names.MatchPattern(database, reading.Database) {
			before := len(reading.Objects)
			reading.Objects = slices.DeleteFunc(reading.Objects, func(o *schema.Object) bool {
				id := o.ID()
				return names.MatchPattern(object, id.Name) || names.MatchPattern(object, id.String()) || o.On() != "" && names.MatchPattern(object, o.On())
			})
			if left := before - len(reading.Objects); left > 0 {
				reading.Remarks = append(reading.Remarks, schema.Remark{State: "unread", Reason: fmt.Sprintf("the configuration skips %q: %d objects", p, left)})
			} else if !strings.ContainsAny(database, "*%?") {
				reading.Remarks = append(reading.Remarks, schema.Remark{State: "note", Reason: fmt.Sprintf("skip = [%q] fits no object of the database", p)})
			}
		}
	}
}

// Options of a session: how long to wait, and whether to read the engine's own objects.
type Options struct {
	Connect, Answer time.Duration
	System          bool
	Client          string // what servers show of the session
}

// Connect opens a session, within the time limit.
func Connect(ctx context.Context, e engine.Engine, t Target, url string, o Options, log *slog.Logger) (_ engine.Server, err error) {
	if o.Connect > 0 {
		var cancel context.CancelFunc
		ctx, cancel = context.WithTimeout(ctx, o.Connect)
		defer cancel()
	}
	defer engine.Recover(&err)
	return e.Connect(ctx, engine.Target{URL: url, Trusted: t.Trusted, Password: Password(t), Log: log, Patience: o.Answer, System: o.System, Client: o.Client})
}

// Password returns how a server's password is got, nil if the engine's own ways are left to it.
func Password(t Target) func(context.Context) (string, error) {
	switch {
	case !t.Trusted:
		return nil
	case t.Server.PasswordEnv != "":
		return func(context.Context) (string, error) {
			if p, ok := os.LookupEnv(t.Server.PasswordEnv); ok {
				return p, nil
			}
			return "", fmt.Errorf("the environment variable %s, which password_env names, is not set", t.Server.PasswordEnv)
		}
	case t.Server.PasswordCommand != "":
		return func(ctx context.Context) (string, error) {
			cmd := exec.CommandContext(ctx, "/bin/sh", "-c", t.Server.PasswordCommand)
			endWithChildren(cmd)
			out, err := cmd.Output()
			if ctx.Err() != nil {
				return "", fmt.Errorf("running password_command: it gave no password in time: %w", ctx.Err())
			}
			if err != nil {
				var exit *exec.ExitError
				if errors.As(err, &exit) && len(exit.Stderr) > 0 {
					return "", fmt.Errorf("running password_command: %w: %s", err, strings.TrimSpace(string(exit.Stderr)))
				}
				return "", fmt.Errorf("running password_command: %w", err)
			}
			first, _, _ := strings.Cut(string(out), "\n")
			return strings.TrimRight(first, "\r"), nil
		}
	}
	return nil
}

// URLs returns the URLs of a server: its own, or one for each of its files.
func (s *Surveyor) URLs(server config.Server) ([]string, error) {
	if server.Files == "" {
		return []string{server.URL}, nil
	}
	files, err := filepath.Glob(server.Files)
	if err != nil {
		return nil, fmt.Errorf("the pattern %q of the server's files is not understood: %w", server.Files, err)
	}
	var urls []string
	seen := map[string]string{}
	for _, f := range files {
		if strings.HasSuffix(f, "-wal") || strings.HasSuffix(f, "-shm") || strings.HasSuffix(f, "-journal") {
			continue
		}
		url := engine.FileURL(f)
		e, err := s.Engines.ForURL(url)
		if err != nil {
			return nil, err
		}
		name := e.Database(url)
		if other, twice := seen[name]; twice {
			return nil, fmt.Errorf("the files %s and %s would both be the database %s; narrow the pattern %q", other, f, name, server.Files)
		}
		seen[name] = f
		urls = append(urls, url)
	}
	if len(urls) == 0 {
		return nil, errors.New("no file matches " + server.Files)
	}
	return urls, nil
}
