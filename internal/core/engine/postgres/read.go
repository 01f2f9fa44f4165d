package postgres

// A reading is one transaction of plain rows on two connections that share a snapshot; texts that take locks come last, in
// short batches.

import (
	"context"
	"errors"
	"fmt"
	"log/slog"
	"slices"
	"strings"
	"sync"
	"time"

	"github.com/jackc/pgx/v5/pgconn"
	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Read reads a database on two connections that share one exported snapshot; definitions follow in
// short transactions of their own, since the functions that print them take locks.
func (s *server) Read(ctx context.Context, database string) (*schema.Reading, error) {
	s.budget.Refill()
	if database == engine.ServerLevel {
		return s.readServerLevel(ctx)
	}
	first, err := s.open(ctx, database)
	if err != nil {
		return nil, explain(s.target.URL, s.config.Host, err)
	}
	defer closeConn(first)
	second, err := s.open(ctx, database)
	if err != nil {
		var said *pgconn.PgError
		if !errors.As(err, &said) || said.Code != "53300" { // too_many_connections: one will do
			return nil, explain(s.target.URL, s.config.Host, err)
		}
		second = nil
	} else {
		defer closeConn(second)
	}
	r := newReader(s, database)
	if err := r.readAll(ctx, first, second); err != nil {
		return nil, fmt.Errorf("reading database %s of %s: %w", database, engine.WithoutPassword(s.target.URL), err)
	}
	if major := s.version / 10000; major > newest {
		r.remark("note", "", fmt.Sprintf("the server is of version %d; what came after %d is not known to this program, and may be missing", major, newest))
	}
	started := time.Now()
	r.assemble()
	s.log.Debug("assembled", "took", time.Since(started))
	return r.reading, nil
}

func closeConn(c *pgconn.PgConn) { _ = c.Close(context.Background()) }

// readAll reads the catalogue's rows in one consistent reading, and then definitions.
func (r *reader) readAll(ctx context.Context, first, second *pgconn.PgConn) error {
	const begin = `BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY`
	r.reading.Taken = time.Now().UTC()
	if err := exec(ctx, first, begin); err != nil {
		return err
	}
	if second == nil {
		if err := r.columnRows(ctx, first); err != nil {
			return err
		}
		if err := r.others(ctx, first); err != nil {
			return err
		}
		return r.finish(ctx, first)
	}
	var shared string
	if err := query(ctx, first, `SELECT pg_export_snapshot()`, func(row *engine.Row) error { shared = row.Text(0); return nil }); err != nil {
		return err
	}
	if err := exec(ctx, second, begin+`; SET TRANSACTION SNAPSHOT '`+shared+`'`); err != nil {
		return err
	}
	// The columns are more than half of all rows, so they have a connection to themselves. Definitions
	// are printed by whichever connection is free.
	both, inner := errgroup.WithContext(ctx)
	both.Go(engine.Guarded(func() error {
		if err := r.columnRows(inner, first); err != nil {
			return err
		}
		return r.finish(inner, first)
	}))
	both.Go(engine.Guarded(func() error {
		if err := r.others(inner, second); err != nil {
			return err
		}
		return r.finish(inner, second)
	}))
	return both.Wait()
}

// columnRows reads the columns and what goes with them.
func (r *reader) columnRows(ctx context.Context, conn *pgconn.PgConn) error {
	if err := run(ctx, r.server.log, conn, []job{{rolesQuery, r.role}, {attributesQuery, r.attribute}, {r.versioned(columnExtrasQuery), r.columnExtra}, {grantsQuery, r.grant}}); err != nil {
		return err
	}
	types, mods := r.typeArrays()
	return query(ctx, conn, typesQuery, r.typeName, types, mods)
}

// finish ends the consistent reading of a connection and prints definitions on it.
func (r *reader) finish(ctx context.Context, conn *pgconn.PgConn) error {
	if err := exec(ctx, conn, `COMMIT`); err != nil {
		return err
	}
	return r.printAll(ctx, conn)
}

// others reads all rows but the columns.
func (r *reader) others(ctx context.Context, conn *pgconn.PgConn) error {
	defer r.queue.close()
	if err := run(ctx, r.server.log, conn, []job{{membersQuery, r.member}, {classesQuery, r.class}}); err != nil {
		return err
	}
	r.queue.add(textJob{viewTextQuery, r.viewOids(), r.text, "view"})
	err := run(ctx, r.server.log, conn, []job{
		{defaultsQuery, r.columnDefault}, {schemasQuery, r.namespace}, {opclassesQuery, r.opclass},
		{collationsQuery, r.collation}, {methodsQuery, r.method}, {r.versioned(constraintsQuery), r.constraint},
		{r.versioned(indexesQuery), r.index}, {sequencesQuery, r.sequence}, {sequenceOwnersQuery, r.sequenceOwner},
		{commentsQuery, r.comment}, {needsQuery, r.need}, {r.versioned(typesOfQuery), r.typeOf}, {routinesQuery, r.routine}, {r.versioned(triggersQuery), r.trigger},
		{r.versioned(relationExtrasQuery), r.relationExtra}, {parentsQuery, r.parent}, {storesQuery, r.store},
		{foreignTablesQuery, r.foreignTable}, {memberRightsQuery, r.memberRight}, {defaultRightsQuery, r.defaultRight},
	})
	if err == nil && r.server.version >= 130000 {
		err = run(ctx, r.server.log, conn, []job{{partTriggersQuery, r.partTrigger}})
	}
	if err == nil && r.server.version >= 180000 {
		err = run(ctx, r.server.log, conn, []job{{notNullsQuery, r.notNull}})
	}
	if err != nil {
		return err
	}
	for _, t := range tails(r.server.version, slices.Contains(r.server.info.Rights, "superuser"), r.server.target.System) {
		first := len(r.tails)
		if err := run(ctx, r.server.log, conn, []job{{t.sql, r.tailRows(t)}}); err != nil {
			return err
		}
		if t.text == "" {
			continue
		}
		var oids []uint32
		for _, row := range r.tails[first:] {
			oids = append(oids, row.oid)
		}
		r.queue.add(textJob{t.text, oids, r.text, string(t.kind)})
	}
	r.queue.add(textJob{exclusionTextQuery, r.exclusionOids, r.text, string(schema.KindExclusion)})
	r.queue.add(textJob{generatedTextQuery, r.unprinted, r.text, "generated column"})
	r.queue.add(textJob{partKeyTextQuery, r.partitionedOids(), r.text, string(schema.KindPartitionedTable)})
	r.queue.add(textJob{checkTextQuery, r.checkOids, r.text, "check constraint"})
	r.queue.add(textJob{routineTextQuery, r.routineOids(), r.text, "routine"})
	r.queue.add(textJob{triggerTextQuery, r.triggerOids(), r.text, "trigger"})
	r.queue.add(textJob{indexTextQuery, r.textIndexes(), r.indexText, "index"})
	return nil
}

type job struct {
	sql  string
	each func(row *engine.Row) error
}

func run(ctx context.Context, log *slog.Logger, conn *pgconn.PgConn, jobs []job) error {
	for _, j := range jobs {
		started := time.Now()
		if err := query(ctx, conn, j.sql, j.each); err != nil {
			return err
		}
		log.Debug("read", "took", time.Since(started), "query", firstWords(j.sql))
	}
	return nil
}

// firstWords returns the beginning of a query, for the log.
func firstWords(sql string) string {
	const most = 60
	words := strings.Join(strings.Fields(sql), " ")
	return words[:min(most, len(words))]
}

func exec(ctx context.Context, conn *pgconn.PgConn, sql string) error {
	return conn.Exec(ctx, sql).Close()
}

// batch is how many definitions are printed in one transaction.
const batch = 100

type textJob struct {
	sql  string
	oids []uint32
	each func(row *engine.Row) error
	what string
}

// textQueue holds batches of definitions to print.
type textQueue struct {
	lock    sync.Mutex
	more    *sync.Cond
	waiting []textJob
	closed  bool // nothing more will come
}

func (q *textQueue) signal() *sync.Cond {
	if q.more == nil {
		q.more = sync.NewCond(&q.lock)
	}
	return q.more
}

func (q *textQueue) close() {
	q.lock.Lock()
	defer q.lock.Unlock()
	q.closed = true
	q.signal().Broadcast()
}

func (q *textQueue) add(j textJob) {
	q.lock.Lock()
	defer q.lock.Unlock()
	for chunk := range slices.Chunk(j.oids, batch) {
		q.waiting = append(q.waiting, textJob{j.sql, chunk, j.each, j.what})
	}
	q.signal().Broadcast()
}

// next returns the next batch; it waits for one until the queue is closed.
func (q *textQueue) next() (j textJob, ok bool) {
	q.lock.Lock()
	defer q.lock.Unlock()
	for len(q.waiting) == 0 && !q.closed {
		q.signal().Wait()
	}
	if len(q.waiting) == 0 {
		return textJob{}, false
	}
	j, q.waiting = q.waiting[0], q.waiting[1:]
	return j, true
}

// tryLock is how many milliseconds a definition waits for a lock. It is short, since what a batch has
// locked already is kept from other sessions meanwhile.
const tryLock = "10"

// lockPatience is how long a connection waits for locks in all before it only tries them.
const lockPatience = time.Second

// lockPauses are the times between one try at locked definitions and the next. Nothing is locked in
// them.
var lockPauses = [...]time.Duration{100 * time.Millisecond, 200 * time.Millisecond, 400 * time.Millisecond, 800 * time.Millisecond, 1500 * time.Millisecond}

// printAll prints the batches that wait, each in a transaction of its own. What somebody kept locked is
// tried again at the end.
func (r *reader) printAll(ctx context.Context, conn *pgconn.PgConn) error {
	if err := exec(ctx, conn, `SET lock_timeout = `+tryLock); err != nil {
		return err
	}
	p := printer{reader: r, conn: conn}
	for {
		j, ok := r.queue.next()
		if !ok {
			break
		}
		if err := p.batch(ctx, j, j.oids); err != nil {
			return err
		}
	}
	for _, pause := range lockPauses {
		if len(p.locked) == 0 || p.waited > lockPatience {
			break
		}
		select {
		case <-time.After(pause):
		case <-ctx.Done():
			return ctx.Err()
		}
		again := p.locked
		p.locked = nil
		for _, j := range again {
			if err := p.batch(ctx, j.textJob, j.oids); err != nil {
				return err
			}
		}
	}
	for _, j := range p.locked {
		r.textFailed(j.what, j.oids[0], j.said)
	}
	return nil
}

// printer prints definitions on one connection.
type printer struct {
	*reader
	conn   *pgconn.PgConn
	locked []lockedJob   // definitions that stand alone
	waited time.Duration // for locks
	brief  bool          // locks are hardly waited for any longer
}

type lockedJob struct {
	textJob
	said *pgconn.PgError
}

// batch prints a batch. Where one definition cannot be printed the batch is halved until it stands
// alone, so that one lock costs one definition.
func (p *printer) batch(ctx context.Context, j textJob, oids []uint32) error {
	started := time.Now()
	err := query(ctx, p.conn, j.sql, j.each, arrayOf(oids))
	var said *pgconn.PgError
	if err == nil || !errors.As(err, &said) {
		return err
	}
	if said.Code == "57014" || said.Code == "57P01" { // cancelled, shut down
		return err
	}
	if said.Code == lockNotAvailable {
		p.waited += time.Since(started)
		if p.waited > lockPatience && !p.brief {
			p.brief = true
			if err := exec(ctx, p.conn, `SET lock_timeout = 1`); err != nil {
				return err
			}
		}
	}
	if len(oids) == 1 {
		if said.Code == lockNotAvailable {
			p.locked = append(p.locked, lockedJob{textJob{j.sql, oids, j.each, j.what}, said})
		} else {
			p.textFailed(j.what, oids[0], said)
		}
		return nil
	}
	half := len(oids) / 2
	if err := p.batch(ctx, j, oids[:half]); err != nil {
		return err
	}
	return p.batch(ctx, j, oids[half:])
}
