package mariadb

// Partitions and periods are in no view of the catalogue, only in what SHOW CREATE TABLE prints.

import (
	"context"
	"errors"
	"slices"
	"strings"

	"github.com/go-sql-driver/mysql"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"

	"echo-atlas/internal/core/engine"
)

var (
	periodText    = engine.Lazily("\n  PERIOD FOR (SYSTEM_TIME|`(?:[^`]|``)+`) (\\(`(?:[^`]|``)+`, `(?:[^`]|``)+`\\))")
	overlapText   = engine.Lazily("\n  (?:UNIQUE|PRIMARY) KEY (?:`((?:[^`]|``)+)` )?\\((?:`(?:[^`]|``)+`(?:\\(\\d+\\))?,)*`((?:[^`]|``)+)` WITHOUT OVERLAPS\\)")
	partitionText = engine.Lazily(`(?s)\n ?(?:/\*!\d{5,6} )?PARTITION BY (.*?)(?: \*/)?$`)
	indexBlock    = engine.Lazily("\n  (?:UNIQUE |FULLTEXT |SPATIAL )?KEY `((?:[^`]|``)+)` [^\n]* KEY_BLOCK_SIZE=(\\d+)")
	vectorIndex   = engine.Lazily("\n  VECTOR KEY `((?:[^`]|``)+)` \\([^\n]*\\)((?: `\\w+`=(?:'[^']*'|\\w+))+)")
	tableEnd      = engine.Lazily(`(?s)\n\) ENGINE=(.*)$`)
	unionText     = engine.Lazily("(?: UNION=)(\\((?:`(?:[^`]|``)+`,?)+\\))")
	insertMethod  = engine.Lazily(` INSERT_METHOD=(\w+)`)
	connection    = engine.Lazily(`(?: CONNECTION=)('(?:[^']|'')*')`)
	transactional = engine.Lazily(`(?: TRANSACTIONAL=)([01])`)
	urlPassword   = engine.Lazily(`(://[^:/@]*):[^@]*@`)
	simpleLess    = engine.Lazily("^`(?:[^`]|``)+` < `(?:[^`]|``)+`$")
)

// special reads what information_schema does not tell of a table (partitions, periods, versioning) from
// its statement. Only tables that show a sign of it are asked for.
func (r *reader) special(ctx context.Context) error {
	for name, o := range r.tables {
		if o.Kind != schema.KindTable || o.Relation == nil {
			continue
		}
		// The period of a table shows as a check that it begins before it ends.
		mayHavePeriod := slices.ContainsFunc(o.Relation.Checks, func(c schema.Check) bool { return c.Column == "" && simpleLess().MatchString(c.Expression) })
		storage := o.Setting("engine") != "InnoDB" || strings.Contains(strings.ToLower(o.Setting("options")), "key_block_size") // which have words of their own
		if !r.partitioned[name] && !r.vectors[name] && r.kinds[name] != "SYSTEM VERSIONED" && !mayHavePeriod && !storage {
			continue
		}
		var table, text string
		err := r.s.db.QueryRowContext(ctx, "SHOW CREATE TABLE "+quote(r.database)+"."+quote(name)).Scan(&table, &text)
		var said *mysql.MySQLError
		switch {
		case errors.As(err, &said) && said.Number == 1205:
			r.remark("locked", o.ID().Qualified(), "another session keeps it locked, so its partitions and periods were not read; survey again later")
			continue
		case errors.As(err, &said):
			r.remark("hidden", o.ID().Qualified(), "its partitions and periods are not known: "+said.Message)
			continue
		case err != nil:
			return err
		}
		r.applySpecial(o, text)
	}
	return nil
}

func (r *reader) applySpecial(o *schema.Object, text string) {
	set := func(name, value string) {
		o.Settings = append(o.Settings, schema.Property{Name: name, Value: value})
	}
	for _, m := range periodText().FindAllStringSubmatch(text, -1) {
		if m[1] == "SYSTEM_TIME" {
			set("system period", m[2])
			continue
		}
		set("period", m[1]+" "+m[2])
		name := strings.ReplaceAll(strings.Trim(m[1], "`"), "``", "`")
		o.Relation.Checks = slices.DeleteFunc(o.Relation.Checks, func(c schema.Check) bool { return c.Name == name })
	}
	for _, m := range overlapText().FindAllStringSubmatch(text, -1) {
		r.overlaps[[2]string{o.Name, strings.ReplaceAll(m[1], "``", "`")}] = strings.ReplaceAll(m[2], "``", "`")
	}
	if r.kinds[o.Name] == "SYSTEM VERSIONED" {
		set("system versioning", "yes")
	}
	if m := partitionText().FindStringSubmatch(text); m != nil {
		set("partition by", m[1])
	}
	r.applyStorage(o, text)
	slices.SortFunc(o.Settings, func(a, b schema.Property) int { return strings.Compare(a.Name, b.Name) })
}

// applyStorage keeps what single storage engines are told, which information_schema leaves out. A password never leaves the server.
func (r *reader) applyStorage(o *schema.Object, text string) {
	set := func(name, value string) {
		o.Settings = append(o.Settings, schema.Property{Name: name, Value: value})
	}
	for _, m := range indexBlock().FindAllStringSubmatch(text, -1) {
		if x := r.indexes[[2]string{o.Name, strings.ReplaceAll(m[1], "``", "`")}]; x != nil {
			x.block = m[2]
		}
	}
	for _, m := range vectorIndex().FindAllStringSubmatch(text, -1) {
		if x := r.indexes[[2]string{o.Name, strings.ReplaceAll(m[1], "``", "`")}]; x != nil {
			x.vector = strings.TrimSpace(m[2])
		}
	}
	m := tableEnd().FindStringSubmatch(text)
	if m == nil {
		return
	}
	tail := m[1]
	if before, _, ok := strings.Cut(tail, " COMMENT='"); ok && !strings.Contains(before, "CONNECTION") { // nothing in it is an option
		_, after, _ := strings.Cut(tail, " COMMENT=")
		if tokens := sqltext.Tokens(after, rules()); len(tokens) > 0 {
			tail = before + after[tokens[0].End:]
		}
	}
	if m := unionText().FindStringSubmatch(tail); m != nil {
		set("union", r.own(m[1]))
	}
	if m := insertMethod().FindStringSubmatch(tail); m != nil {
		set("insert method", m[1])
	}
	if m := connection().FindStringSubmatch(tail); m != nil {
		shown := urlPassword().ReplaceAllString(m[1], "$1@")
		set("connection", shown)
		if shown != m[1] {
			r.remark("hidden", o.ID().Qualified(), "the password of its connection is left out")
		}
	}
	if m := transactional().FindStringSubmatch(tail); m != nil && m[1] == "1" {
		set("transactional", "1")
	}
}
