package change

// A script is proved where OLD was made first: what it makes of that is compared with NEW.

import (
	"context"
	"errors"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/prove"
	"echo-atlas/internal/core/schema"
)

// Job is what is to be proved.
type Job struct {
	Catalogue *catalogue.Catalogue
	Engine    engine.Engine
	Target    engine.Target // the scratch server
	Old, New  *catalogue.Contents
	Result    *diff.Result
	Options   Options
}

// Prove makes the old database in a scratch database, runs the script, and compares what comes of it with the new one. What
// loses data is run, too.
func Prove(ctx context.Context, j Job) (*prove.Proof, error) {
	var entries []*catalogue.Entry
	for i := range j.Old.All() {
		entries = append(entries, j.Old.At(i))
	}
	differing := map[schema.Identity]bool{}
	for i := range j.Result.Objects {
		differing[j.Result.Objects[i].ID.Identity()] = true
	}
	job := prove.Job{Catalogue: j.Catalogue, Engine: j.Engine, Target: j.Target, Contents: j.Old, Entries: entries, Options: ddl.Options{Without: j.Options.Without}, Becomes: j.New,
		Wanted: func(id schema.ID) bool { return differing[id.Identity()] }}
	job.Then = func(without []schema.Aspect) (*ddl.Script, error) {
		o := j.Options
		o.Without, o.WithLossy, o.Together = without, true, false
		plan, err := Write(ctx, j.Catalogue, j.Engine, j.Old, j.New, j.Result, o)
		if err != nil {
			return nil, err
		}
		return plan.Script, nil
	}
	names := map[schema.ID]schema.ID{}
	for i := range j.Result.Objects {
		if d := &j.Result.Objects[i]; d.Was.Name != "" {
			names[d.Was] = d.ID
		}
	}
	job.Kept = func(id schema.ID) (schema.ID, bool) {
		to, ok := names[id]
		if !ok {
			to = id
		}
		e := j.New.Find(to)
		if e == nil {
			return id, false
		}
		return e.ID, true
	}
	proof, err := prove.Run(ctx, job)
	var failed *prove.StatementError
	if !errors.As(err, &failed) { // some rows may not allow it, as a note says: then it is seen whether it runs without
		return proof, err
	}
	job.Kept = nil
	proof, again := prove.Run(ctx, job)
	if again != nil {
		return nil, again
	}
	proof.Unfilled = failed
	return proof, nil
}
