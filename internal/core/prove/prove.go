// Package prove runs a script in a scratch database that it makes and drops, reads what came of it, and compares that with
// what the script was made from.
package prove

import (
	"context"
	"crypto/rand"
	"encoding/hex"
	"errors"
	"fmt"
	"slices"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/references"
	"echo-atlas/internal/core/schema"
)

// ErrNoScratch says that an engine has no scratch here.
var ErrNoScratch = errors.New("this program can make no scratch database there")

// StatementError says which statement of a script a server did not take.
type StatementError struct {
	Subject schema.ID
	Number  int // from 1
	Line    int // in the script, counted from its first statement's line 1
	Text    string
	Said    error
}

func (e *StatementError) Error() string {
	return fmt.Sprintf("statement %d, about %s, failed: %v", e.Number, e.Subject.Qualified(), e.Said)
}

func (e *StatementError) Unwrap() error { return e.Said }

// Proof is what came of a script.
type Proof struct {
	Statements int
	Result     *diff.Result // of what was read and what was made
	// Missing are users and roles that the scratch server does not have: owners and rights were left out because of them.
	Missing []string
	// LeftOut is what would do something by itself, and so was not made.
	LeftOut []schema.ID
	Took    time.Duration
	// Rows is how many made-up rows were there before what ran behind, in how many Tables; Lost are those where some are missing.
	Rows, Tables int64
	Lost         []Lost
	// Unfilled is why no rows were there: the script does not run on those that were tried.
	Unfilled error
}

// Exact reports whether what was made is what was read.
func (p *Proof) Exact() bool { return !p.Result.Summary.Differs() && len(p.Lost) == 0 }

// Job is what is to be proved.
type Job struct {
	Catalogue *catalogue.Catalogue
	Engine    engine.Engine
	Target    engine.Target // the scratch server
	Contents  *catalogue.Contents
	Entries   []*catalogue.Entry
	Options   ddl.Options
	// Then returns what is run behind, on what was made; what comes of it is compared with Becomes, as far as Wanted goes. It may
	// be nil.
	Then    func(without []schema.Aspect) (*ddl.Script, error)
	Becomes *catalogue.Contents
	// Kept returns what a table is afterwards whose rows are to be kept; ok is false for one that goes. Rows are made up where it is
	// not nil.
	Kept   func(schema.ID) (_ schema.ID, ok bool)
	Wanted func(schema.ID) bool // nil: all
	// Progress is told how many statements ran, and of how many; it may be nil.
	Progress func(done, all int)
}

// patience is how long the scratch database may take to go, also after an interruption.
const patience = 30 * time.Second

// Run proves a job. The scratch database is dropped whatever happens; an error of that is returned beside the proof.
func Run(ctx context.Context, j Job) (proof *Proof, err error) {
	builder, ok := j.Engine.(engine.Builder)
	if !ok {
		return nil, ErrNoScratch
	}
	started := time.Now()
	bench, err := builder.Workbench(ctx, j.Target)
	if err != nil {
		return nil, err
	}
	defer func() {
		ending, cancel := context.WithTimeout(context.WithoutCancel(ctx), patience)
		defer cancel()
		err = errors.Join(err, bench.Close(ending))
	}()
	proof = &Proof{}
	script, err := j.script(ctx, builder, bench, proof)
	if err != nil {
		return nil, err
	}
	name, err := scratchName()
	if err != nil {
		return nil, err
	}
	url, err := bench.Make(ctx, name)
	if err != nil {
		return nil, fmt.Errorf("making the scratch database %s: %w", name, err)
	}
	if err := run(ctx, bench, builder.Acts, script, j.Progress); err != nil {
		return nil, err
	}
	proof.Statements = len(script.Statements)
	var tables []*schema.Object
	var had map[schema.ID]int64
	if j.Kept != nil {
		if tables, err = j.tables(ctx); err != nil {
			return nil, err
		}
		if had, err = fill(ctx, bench, j.Engine, tables); err != nil {
			return nil, err
		}
	}
	if j.Then != nil {
		next, err := j.Then(j.Options.Without)
		if err != nil {
			return nil, err
		}
		if err := run(ctx, bench, builder.Acts, next, nil); err != nil {
			return nil, err
		}
		proof.Statements = len(next.Statements)
	}
	if proof.Result, err = compare(ctx, j, script, url, proof.LeftOut); err != nil {
		return nil, err
	}
	if j.Kept != nil {
		if err := proof.count(ctx, bench, j, tables, had); err != nil {
			return nil, err
		}
	}
	proof.Took = time.Since(started)
	return proof, nil
}

// script writes the script that is proved, without what would act by itself and without owners and rights that the server does not
// know.
func (j *Job) script(ctx context.Context, builder engine.Builder, bench engine.Workbench, proof *Proof) (*ddl.Script, error) {
	kept := make([]*catalogue.Entry, 0, len(j.Entries))
	for _, e := range j.Entries {
		if builder.Acts(e.ID.Kind) {
			proof.LeftOut = append(proof.LeftOut, e.ID)
		} else {
			kept = append(kept, e)
		}
	}
	j.Entries = kept
	script, err := ddl.Write(ctx, j.Catalogue, j.Engine, j.Contents, j.Entries, j.Options)
	if err != nil {
		return nil, err
	}
	if !slices.Contains(j.Options.Without, schema.Owners) || !slices.Contains(j.Options.Without, schema.Grants) {
		roles, err := rolesOf(ctx, *j, script)
		if err != nil {
			return nil, err
		}
		if proof.Missing, err = bench.Lacks(ctx, roles); err != nil {
			return nil, fmt.Errorf("looking for users and roles on the scratch server: %w", err)
		}
		if len(proof.Missing) > 0 {
			j.Options.Without = append(slices.Clone(j.Options.Without), schema.Owners, schema.Grants)
			if script, err = ddl.Write(ctx, j.Catalogue, j.Engine, j.Contents, j.Entries, j.Options); err != nil {
				return nil, err
			}
		}
	}
	for _, st := range script.Statements {
		if st.Unknown != nil {
			proof.LeftOut = append(proof.LeftOut, st.Subject)
		}
	}
	return script, nil
}

// tables returns the tables that may hold rows of their own.
func (j *Job) tables(ctx context.Context) ([]*schema.Object, error) {
	var entries []*catalogue.Entry
	for _, e := range j.Entries {
		if e.ID.Kind == schema.KindTable {
			entries = append(entries, e)
		}
	}
	objects, err := j.Catalogue.Objects(ctx, entries)
	if err != nil {
		return nil, err
	}
	for i, o := range objects {
		o.Kind, o.Schema, o.Name = entries[i].ID.Kind, entries[i].ID.Schema, entries[i].ID.Name
	}
	return slices.DeleteFunc(objects, func(o *schema.Object) bool { return o.Relation == nil || o.Setting(schema.System) != "" }), nil
}

// count compares how many rows tables have with how many they had.
func (p *Proof) count(ctx context.Context, bench engine.Workbench, j Job, tables []*schema.Object, had map[schema.ID]int64) error {
	var now []*schema.Object
	was := map[schema.ID]schema.ID{}
	for _, o := range tables {
		id, kept := j.Kept(o.ID())
		if n := had[o.ID()]; n > 0 && kept {
			p.Rows, p.Tables = p.Rows+n, p.Tables+1
			was[id] = o.ID()
			now = append(now, &schema.Object{Kind: id.Kind, Schema: id.Schema, Name: id.Name})
		}
	}
	has, err := counts(ctx, bench, j.Engine, now)
	if err != nil {
		return err
	}
	for _, o := range now {
		if n := has[o.ID()]; n < had[was[o.ID()]] {
			p.Lost = append(p.Lost, Lost{o.ID(), had[was[o.ID()]], n})
		}
	}
	return nil
}

// run runs the statements of a script one by one.
func run(ctx context.Context, bench engine.Workbench, acts func(schema.Kind) bool, script *ddl.Script, progress func(done, all int)) error {
	settings := map[string]string{}
	for i, p := range script.Pieces() {
		if acts(p.Subject.Kind) || p.Text == "" { // it came along, or there is none
			continue
		}
		for _, set := range p.Settings {
			if settings[set.Name] != set.Text {
				settings[set.Name] = set.Text
				if err := bench.Run(ctx, set.Text); err != nil {
					return &StatementError{p.Subject, i + 1, p.Line, set.Text, err}
				}
			}
		}
		if err := bench.Run(ctx, p.Text); err != nil {
			if ctx.Err() != nil {
				return ctx.Err()
			}
			return &StatementError{p.Subject, i + 1, p.Line, p.Text, err}
		}
		if progress != nil {
			progress(i+1, len(script.Statements))
		}
	}
	return nil
}

// compare reads what was made, and compares it with what was to be made.
func compare(ctx context.Context, j Job, script *ddl.Script, url string, left []schema.ID) (*diff.Result, error) {
	target := j.Target
	target.URL = url
	session, err := j.Engine.Connect(ctx, target)
	if err != nil {
		return nil, fmt.Errorf("reading what the script made: %w", err)
	}
	defer session.Close()
	database := j.Engine.Database(url)
	var reading *schema.Reading
	err = engine.Guarded(func() (err error) {
		reading, err = session.Read(ctx, database)
		return err
	})()
	if err != nil {
		return nil, fmt.Errorf("reading what the script made: %w", err)
	}
	reading.Sift()
	references.Add(reading, j.Engine, nil)
	made, err := j.Catalogue.SaveGuest(ctx, catalogue.Origin{Server: "scratch", Path: url}, reading)
	if err != nil {
		return nil, err
	}
	selected := map[schema.ID]bool{}
	for _, e := range append(slices.Clone(j.Entries), script.Added...) {
		selected[e.ID] = true
	}
	for _, id := range left {
		delete(selected, id)
	}
	there := map[schema.ID]bool{}
	for i := range j.Contents.All() {
		there[j.Contents.At(i).ID] = true
	}
	o := diff.For(j.Engine)
	o.Without, o.Exact = j.Options.Without, true
	o.Order = j.Becomes == nil // a script of changes cannot put a column between others everywhere
	if j.Becomes != nil {
		o.Wanted = func(id schema.ID) bool { return !slices.Contains(left, id) && (j.Wanted == nil || j.Wanted(id)) }
		return diff.Compare(ctx, j.Catalogue, j.Becomes.Snapshot, made, o)
	}
	// What comes with the selection, such as the members of an extension, is not part of it; what nobody knows is.
	o.Wanted = func(id schema.ID) bool { return selected[id] || !there[id] }
	return diff.Compare(ctx, j.Catalogue, j.Contents.Snapshot, made, o)
}

// rolesOf returns who owns the objects of a script or has rights on them.
func rolesOf(ctx context.Context, j Job, script *ddl.Script) ([]string, error) {
	objects, err := j.Catalogue.Objects(ctx, append(slices.Clone(j.Entries), script.Added...))
	if err != nil {
		return nil, err
	}
	seen := map[string]bool{}
	var roles []string
	add := func(name string) {
		if name != "" && !seen[name] {
			seen[name] = true
			roles = append(roles, name)
		}
	}
	for _, o := range objects {
		add(o.Owner)
		for _, g := range o.Grants {
			add(g.Grantee)
		}
	}
	slices.Sort(roles)
	return roles, nil
}

// scratchName returns a name that nothing bears.
func scratchName() (string, error) {
	var b [6]byte
	if _, err := rand.Read(b[:]); err != nil {
		return "", fmt.Errorf("choosing a name: %w", err)
	}
	return "echo_atlas_proof_" + hex.EncodeToString(b[:]), nil
}
