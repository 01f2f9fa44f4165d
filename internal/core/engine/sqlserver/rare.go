package sqlserver

// What is met more rarely: compression, statistics that people made, XML schemas, security policies, and the count of what is not read.

import (
	"context"
	"database/sql"
	"fmt"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// rareJobs are queries of views that only later versions have, or that only some users may ask; what they give is told, or left out.
func (r *reader) rareJobs() []job {
	jobs := []job{
		{sql: compressionQuery, each: r.compression}, {sql: statisticsQuery, each: r.statistic}, {sql: policiesQuery, each: r.policy}, {sql: predicatesQuery, each: r.predicate},
		{fileGroupsQuery, r.fileGroup, r.untold("file groups")}, {filesQuery, r.file, r.untold("the files of file groups")}, {trackedQuery, r.tracked, r.untold("tables with change tracking")}, {numberedQuery, r.numbered, r.untold("numbered procedures")},
		{xmlPathsQuery, r.xmlPath, r.untold("the paths of selective XML indexes")}, {xmlSpacesQuery, r.xmlSpace, r.untold("the namespaces of selective XML indexes")},
		{sql: encryptedQuery, each: r.encrypted}, {signersQuery, r.signed, signerHidden}, {keyholdersQuery, r.signed, signerHidden},
	}
	since := func(version int, j job) {
		if r.s == nil || r.s.version >= version {
			jobs = append(jobs, j)
		}
	}
	since(14, job{sql: retentionQuery, each: r.retention})
	since(14, job{sql: graphQuery, each: func(row *engine.Row) { r.unwritten(int(row.Int(0)), "a table of a graph") }})
	since(15, job{sql: sequentialQuery, each: func(row *engine.Row) {
		if x := r.indexes[at{int(row.Int(0)), int(row.Int(1))}]; x != nil {
			x.settings = append(x.settings, schema.Property{Name: "sequential key", Value: "yes"})
		}
	}})
	since(16, job{sql: ledgerQuery, each: func(row *engine.Row) { r.unwritten(int(row.Int(0)), "a ledger table") }})
	for _, u := range unread {
		jobs = append(jobs, job{sql: u.sql, each: func(row *engine.Row) {
			if n := row.Int(0); n > 0 {
				r.remark("unread", "", fmt.Sprintf("%d of %s are not part of the catalogue yet", n, u.what))
			}
		}, refused: func(context.Context, *sql.DB) error {
			r.remark("unread", "", u.what+" are not part of the catalogue, and could not be counted")
			return nil
		}})
	}
	return jobs
}

// untold returns what is done where a view may not be asked, or is none of this edition's: it is said.
func (r *reader) untold(what string) func(context.Context, *sql.DB) error {
	return func(context.Context, *sql.DB) error {
		r.remark("unread", "", what+" could not be read")
		return nil
	}
}

func (r *reader) signed(row *engine.Row) { r.signers[int(row.Int(0))] = row.Text(1) }

// signerHidden: a user without the name of its certificate gets a place for it, and a remark of its own.
func signerHidden(context.Context, *sql.DB) error { return nil }

// unwritten says that a table is of a sort which no script writes.
func (r *reader) unwritten(id int, sort string) {
	if o := r.made[id]; o != nil {
		r.option(id, unwrittenSort, sort)
		r.remark("unread", o.ID().Qualified(), sort+": what makes it so is not part of the catalogue yet, and no script writes it")
	}
}

// unwrittenSort is the setting of a table that is no ordinary one.
const unwrittenSort = "sort"

func (r *reader) encrypted(row *engine.Row) {
	id := int(row.Int(0))
	if o, c := r.made[id], r.named[at{id, int(row.Int(1))}]; o != nil && c != nil {
		c.Settings = append(c.Settings, schema.Property{Name: encryptedColumn, Value: "yes"})
		r.remark("unread", o.ID().Qualified(), "the column "+c.Name+" is always encrypted: its key is not part of the catalogue yet, and no script writes the table")
	}
}

const encryptedColumn = "always encrypted"

// unreplicated is the setting of a constraint that what a replication agent does is not checked by.
func unreplicated(yes bool) []schema.Property {
	if !yes {
		return nil
	}
	return []schema.Property{{Name: "not for replication", Value: "yes"}}
}

func (r *reader) space(row *engine.Row) { r.spaces[int(row.Int(0))] = row.Text(1) }

// largeValues keeps where large values lie, where that is not the place of the table. A table on a partition scheme has them in its partitions.
func (r *reader) largeValues(id int, space string) {
	home := r.home(id, -1)
	if home != nil && home.spaceType != "PS" && space != "" && (space != home.space || space != "PRIMARY") {
		r.option(id, "large values on", quote(space))
		r.marks = append(r.marks, func() { r.lies(r.made[id], space) })
	}
}

func (r *reader) compression(row *engine.Row) {
	id := at{int(row.Int(0)), int(row.Int(1))}
	r.pressed[id] = append(r.pressed[id], row.Text(3))
}

// compressionOf writes how the partitions of an index or a heap are compressed, "" where none is.
func (r *reader) compressionOf(id at, x *index) string {
	usual := "NONE"
	if x.typ == 5 || x.typ == 6 {
		usual = "COLUMNSTORE"
	}
	parts := r.pressed[id]
	kinds := map[string][]int{}
	var order []string
	for i, p := range parts {
		if kinds[p] == nil {
			order = append(order, p)
		}
		kinds[p] = append(kinds[p], i+1)
	}
	if len(order) == 1 && order[0] != usual {
		return "DATA_COMPRESSION = " + order[0]
	}
	var texts []string
	for _, kind := range order {
		if len(order) > 1 && kind != usual {
			texts = append(texts, "DATA_COMPRESSION = "+kind+" ON PARTITIONS ("+spans(kinds[kind])+")")
		}
	}
	return strings.Join(texts, ", ")
}

// spans writes ascending numbers as those that follow one another: 1, 3 TO 5.
func spans(numbers []int) string {
	var texts []string
	for i := 0; i < len(numbers); {
		j := i
		for j+1 < len(numbers) && numbers[j+1] == numbers[j]+1 {
			j++
		}
		text := itoa(numbers[i])
		if j > i {
			text += " TO " + itoa(numbers[j])
		}
		texts = append(texts, text)
		i = j + 1
	}
	return strings.Join(texts, ", ")
}

func (r *reader) retention(row *engine.Row) {
	if unit := row.Text(2); unit != "INFINITE" {
		r.option(int(row.Int(0)), "history retention", row.Text(1)+" "+unit)
	}
}

func (r *reader) statistic(row *engine.Row) {
	id := at{int(row.Int(0)), int(row.Int(1))}
	on, c := r.made[id[0]], r.named[at{id[0], int(row.Int(7))}]
	if on == nil || c == nil || on.Kind == schema.KindTableType {
		return
	}
	o := r.statistics[id]
	if o == nil {
		o = &schema.Object{Kind: schema.KindStatistics, Schema: on.Schema, Within: on.Name, Name: row.Text(2), Definition: "CREATE STATISTICS " + quote(row.Text(2)) + " ON " + qualify(on.Schema, on.Name) + " ("}
		r.statistics[id] = o
		tail := ")"
		if row.Truth(4) {
			tail += " WHERE " + row.Text(5)
		}
		var options []string
		if row.Truth(3) {
			options = append(options, "NORECOMPUTE")
		}
		if row.Truth(6) {
			options = append(options, "INCREMENTAL = ON")
		}
		if len(options) > 0 {
			tail += " WITH " + strings.Join(options, ", ")
		}
		r.comments = append(r.comments, func() {
			o.Definition += tail
			r.reading.Objects = append(r.reading.Objects, o)
		})
	} else {
		o.Definition += ", "
	}
	o.Definition += quote(c.Name)
	r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ColumnEnd(on.ID(), c.Name), Evidence: schema.Recorded, Use: schema.UseStatisticsOn})
}

// collection keeps an XML schema collection; the server gives its text on demand.
func (r *reader) collection(row *engine.Row) {
	o := &schema.Object{Kind: schema.KindXMLSchemas, Schema: row.Text(1), Name: row.Text(2)}
	r.typeOf[-int(row.Int(0))] = o
	r.reading.Objects = append(r.reading.Objects, o)
	r.later = append(r.later, func(ctx context.Context, db *sql.DB) error {
		inner := func(s string) string { return strings.ReplaceAll(s, "'", "''") }
		err := engine.Rows(ctx, db, fmt.Sprintf(collectionQuery, inner(o.Schema), inner(o.Name)), func(row *engine.Row) {
			if !row.Null(0) {
				o.Definition = "CREATE XML SCHEMA COLLECTION " + qualify(o.Schema, o.Name) + " AS " + literal(row.Text(0))
			}
		})
		if saysNumber(err, permissionDenied, stateDenied, viewDenied, noSuchCollection) {
			err = nil
		}
		if err == nil && o.Definition == "" {
			r.remark("hidden", o.ID().Qualified(), "its schemas are not shown: the user lacks a right on it")
		}
		return err
	})
}

func (r *reader) policy(row *engine.Row) {
	id := int(row.Int(0))
	o := &schema.Object{Kind: schema.KindSecurityPolicy, Schema: r.schemas[int(row.Int(1))], Name: row.Text(2)}
	o.Definition = "CREATE SECURITY POLICY " + qualify(o.Schema, o.Name)
	onOff := func(on bool) string { return map[bool]string{true: "ON", false: "OFF"}[on] }
	tail := " WITH (STATE = " + onOff(row.Truth(3)) + ", SCHEMABINDING = " + onOff(row.Truth(4)) + ")"
	if row.Truth(5) {
		tail += " NOT FOR REPLICATION"
	}
	r.made[id], r.policies[id] = o, o
	r.order = append(r.order, id)
	r.comments = append(r.comments, func() { o.Definition += tail })
}

func (r *reader) predicate(row *engine.Row) {
	o, on := r.policies[int(row.Int(0))], r.made[int(row.Int(1))]
	if o == nil || on == nil {
		return
	}
	if strings.Contains(o.Definition, " PREDICATE ") {
		o.Definition += ","
	}
	call := row.Text(2)
	if row.Null(2) {
		r.hides(int(row.Int(0)), "what its predicates are")
	}
	if strings.HasPrefix(call, "(") && strings.HasSuffix(call, ")") {
		call = call[1 : len(call)-1]
	}
	o.Definition += " ADD " + row.Text(3) + " PREDICATE " + call + " ON " + qualify(on.Schema, on.Name)
	if operation := row.Text(4); operation != "" {
		o.Definition += " " + operation
	}
	r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(on.ID()), Evidence: schema.Recorded, Use: schema.UseStandsOn})
}
