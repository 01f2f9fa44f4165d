package mariadb

// Rights, users and roles, from the grant tables or from what SHOW GRANTS says to a user who may not read them.

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// The queries for rights and users; passwords are not read. The tables of the database mysql hold what
// everybody has; who may not read them knows only their own rights.
const (
	tableGrantsQuery = `SELECT concat(quote(User), '@', quote(Host)), Table_name, '', Table_priv FROM mysql.tables_priv WHERE Db = @DB
UNION ALL SELECT concat(quote(User), '@', quote(Host)), Table_name, Column_name, Column_priv FROM mysql.columns_priv WHERE Db = @DB`
	routineGrantsQuery  = `SELECT concat(quote(User), '@', quote(Host)), Routine_name, Routine_type, Proc_priv FROM mysql.procs_priv WHERE Db = @DB`
	usersQuery          = `SELECT User, Host, is_role, default_role, plugin, ssl_type, max_questions, max_updates, max_connections, max_user_connections FROM mysql.user WHERE User NOT IN ('mariadb.sys', 'mysql', 'PUBLIC')`
	userRightsQuery     = `SELECT grantee, privilege_type, is_grantable FROM information_schema.user_privileges`
	rolesQuery          = `SELECT concat(quote(User), '@', quote(Host)), Role, Admin_option FROM mysql.roles_mapping`
	databaseRightsQuery = `SELECT grantee, table_schema, privilege_type, is_grantable FROM information_schema.schema_privileges`
	ownRightsQuery      = `SELECT privilege_type FROM information_schema.user_privileges WHERE grantee IN (concat(quote(substring_index(current_user(), '@', 1)), '@', quote(substring_index(current_user(), '@', -1))), quote(coalesce(current_role(), '')), coalesce(current_role(), ''))
UNION SELECT privilege_type FROM information_schema.schema_privileges WHERE @DB LIKE table_schema AND grantee IN (concat(quote(substring_index(current_user(), '@', 1)), '@', quote(substring_index(current_user(), '@', -1))), quote(coalesce(current_role(), '')), coalesce(current_role(), ''))`
	// strayQuery finds tables in the engine's own database that the engine did not make.
	strayQuery = `SELECT table_name FROM information_schema.tables WHERE table_schema = 'mysql' AND table_name NOT IN ('columns_priv', 'column_stats', 'db', 'event', 'func', 'general_log', 'global_priv',
  'gtid_slave_pos', 'help_category', 'help_keyword', 'help_relation', 'help_topic', 'host', 'index_stats', 'innodb_index_stats', 'innodb_table_stats', 'ndb_binlog_index', 'plugin', 'proc', 'procs_priv', 'proxies_priv', 'roles_mapping',
  'servers', 'slow_log', 'tables_priv', 'table_stats', 'time_zone', 'time_zone_leap_second', 'time_zone_name', 'time_zone_transition', 'time_zone_transition_type', 'transaction_registry', 'user')`
	allDatabasesQuery = `SELECT schema_name, default_character_set_name, default_collation_name FROM information_schema.schemata
WHERE schema_name NOT IN ('information_schema', 'performance_schema', 'mysql', 'sys')`
)

// account writes a grantee as it stands in a statement: a role has no host.
func account(grantee string) string {
	grantee = strings.TrimSuffix(grantee, "@''")
	if grantee == "''" {
		return "''@''"
	}
	return grantee
}

// split divides a set of rights into those that may be passed on and those that may not: who has Grant
// has it for all.
func split(rights string) (words []string, passable bool) {
	for _, w := range strings.Split(rights, ",") {
		switch w = strings.ToUpper(strings.TrimSpace(w)); w {
		case "":
		case "GRANT":
			passable = true
		default:
			words = append(words, w)
		}
	}
	slices.Sort(words)
	return words, passable
}

func (r *reader) addGrant(o *schema.Object, grantee, column, rights string) {
	words, passable := split(rights)
	g := schema.Grant{Grantee: account(grantee), Column: column}
	if passable {
		g.Grantable = words
	} else {
		g.Granted = words
	}
	if passable && len(words) == 0 {
		g.Grantable = []string{"USAGE"}
	}
	if len(g.Granted)+len(g.Grantable) == 0 {
		return
	}
	o.Grants = append(o.Grants, g)
	slices.SortFunc(o.Grants, func(a, b schema.Grant) int { return strings.Compare(a.PartKey(), b.PartKey()) })
}

// grants reads who may do what with the objects of the database.
func (r *reader) grants(ctx context.Context) error {
	err := r.query(ctx, tableGrantsQuery, func(row *engine.Row) {
		if o := r.tables[row.Text(1)]; o != nil {
			r.addGrant(o, row.Text(0), row.Text(2), row.Text(3))
		}
	})
	if err == nil {
		err = r.query(ctx, routineGrantsQuery, func(row *engine.Row) {
			for _, o := range r.code {
				if strings.EqualFold(o.Name, row.Text(1)) && o.Routine != nil && strings.EqualFold(routineWord(o.Kind), row.Text(2)) {
					r.addGrant(o, row.Text(0), "", row.Text(3))
				}
			}
		})
	}
	if err != nil && denied(err) {
		r.remark("hidden", "", fmt.Sprintf("the rights of others: the user %s lacks the right SELECT on the tables of the database mysql", r.s.info.User))
		return nil
	}
	return err
}

// hiddenKinds tells of the kinds that the server does not show without a right on the database.
func (r *reader) hiddenKinds(ctx context.Context) error {
	has := map[string]bool{}
	if err := r.query(ctx, ownRightsQuery, func(row *engine.Row) { has[row.Text(0)] = true }); err != nil {
		return err
	}
	hidden := func(reason string, kinds ...schema.Kind) {
		r.reading.Remarks = append(r.reading.Remarks, schema.Remark{State: "hidden", Reason: reason, Kinds: kinds})
	}
	if !has["TRIGGER"] {
		hidden(fmt.Sprintf("triggers: the user %s lacks the right TRIGGER on the database", r.s.info.User), schema.KindTrigger)
	}
	if !has["EVENT"] {
		hidden(fmt.Sprintf("events: the user %s lacks the right EVENT on the database", r.s.info.User), schema.KindEvent)
	}
	if r.plainRoutines && !has["EXECUTE"] {
		hidden(fmt.Sprintf("routines and packages: the user %s lacks the right EXECUTE on the database", r.s.info.User),
			schema.KindFunction, schema.KindProcedure, schema.KindAggregate, schema.KindPackage, schema.KindPackageBody)
	} else if r.plainRoutines && !r.s.mysql {
		hidden(fmt.Sprintf("packages, and which functions are aggregates: the user %s lacks the right SELECT on mysql.proc", r.s.info.User),
			schema.KindPackage, schema.KindPackageBody, schema.KindAggregate)
	}
	return nil
}

// Hidden tells of the kinds that a reading would not see, and of the rights of others.
func (s *server) Hidden(ctx context.Context, database string) ([]schema.Remark, error) {
	r := &reader{s: s, database: database, reading: &schema.Reading{}}
	open := func(q string) (bool, error) {
		err := r.query(ctx, q, func(*engine.Row) {})
		if err != nil && denied(err) {
			return false, nil
		}
		return true, err
	}
	rights, err := open("SELECT 1 FROM mysql.tables_priv LIMIT 1")
	if err != nil {
		return nil, err
	}
	if !rights {
		r.remark("hidden", "", fmt.Sprintf("the rights of others: the user %s lacks the right SELECT on the tables of the database mysql", s.info.User))
	}
	if database == engine.ServerLevel {
		return r.reading.Remarks, nil
	}
	routines := true
	if !s.mysql {
		if routines, err = open("SELECT 1 FROM mysql.proc LIMIT 1"); err != nil {
			return nil, err
		}
	}
	r.plainRoutines = !routines || s.mysql
	if err := r.hiddenKinds(ctx); err != nil {
		return nil, err
	}
	return r.reading.Remarks, nil
}

// routineWord returns what GRANT calls a routine.
func routineWord(k schema.Kind) string {
	if k == schema.KindAggregate {
		return "FUNCTION"
	}
	return strings.ToUpper(string(k))
}

// grantStatements writes the rights on an object.
func grantStatements(o *schema.Object, on string) []engine.Statement {
	var all []engine.Statement
	add := func(words []string, g schema.Grant, tail string) {
		if len(words) == 0 {
			return
		}
		words = slices.Clone(words)
		if g.Column != "" {
			for i := range words {
				words[i] += " (" + quote(g.Column) + ")"
			}
		}
		all = append(all, engine.Statement{Subject: o.ID(), Step: len(all) + 1, Head: "GRANT " + strings.Join(words, ", ") + " ON " + on + " TO " + g.Grantee + tail,
			Requires: []engine.Resource{engine.ResourceOf(o.ID())}, Settings: usual})
	}
	for _, g := range o.Grants {
		add(g.Granted, g, "")
		add(g.Grantable, g, " WITH GRANT OPTION")
	}
	return all
}

// readServerLevel reads users, roles and databases.
func (s *server) readServerLevel(ctx context.Context) (*schema.Reading, error) {
	r := &reader{s: s, words: map[string]string{}, reading: &schema.Reading{Engine: "mariadb", Version: s.info.Version, Database: engine.ServerLevel, User: s.info.User, Taken: time.Now().UTC()}}
	if err := r.serverLevel(ctx); err != nil {
		return nil, fmt.Errorf("reading users and databases of %s: %w", engine.WithoutPassword(s.url), err)
	}
	return r.reading, nil
}

func (r *reader) serverLevel(ctx context.Context) error {
	databases := map[string]*schema.Object{}
	err := r.query(ctx, allDatabasesQuery, func(row *engine.Row) {
		o := &schema.Object{Kind: schema.KindDatabase, Name: row.Text(0), Definition: "CREATE DATABASE " + quote(row.Text(0)) + " CHARACTER SET " + row.Text(1) + " COLLATE " + row.Text(2)}
		databases[o.Name] = o
		r.reading.Objects = append(r.reading.Objects, o)
	})
	if err != nil {
		return err
	}
	type rights struct {
		words    []string
		passable bool
	}
	onDatabase := map[[2]string]*rights{}
	if err := r.query(ctx, databaseRightsQuery, func(row *engine.Row) {
		key := [2]string{row.Text(1), row.Text(0)}
		if onDatabase[key] == nil {
			onDatabase[key] = &rights{}
		}
		onDatabase[key].words = append(onDatabase[key].words, row.Text(2))
		onDatabase[key].passable = onDatabase[key].passable || row.Text(3) == "YES"
	}); err != nil {
		return err
	}
	for key, x := range onDatabase {
		name := strings.NewReplacer(`\_`, "_", `\%`, "%").Replace(key[0])
		if o := databases[name]; o != nil {
			all := strings.Join(x.words, ",")
			if x.passable {
				all += ",GRANT"
			}
			r.addGrant(o, key[1], "", all)
		}
	}
	if !r.s.mysql {
		if err := r.query(ctx, strayQuery, func(row *engine.Row) {
			r.reading.Objects = append(r.reading.Objects, &schema.Object{Kind: schema.KindTable, Name: "mysql." + row.Text(0), Settings: []schema.Property{{Name: schema.System, Value: "stands in the engine's database"}}})
			r.remark("note", schema.ID{Kind: schema.KindTable, Name: "mysql." + row.Text(0)}.Qualified(), "a table of a user's in the engine's own database; a survey of the engine's own objects reads it in full")
		}); err != nil {
			return err
		}
	}
	if err := r.users(ctx); err != nil {
		if denied(err) {
			r.remark("hidden", "", fmt.Sprintf("users and roles: the user %s lacks the right SELECT on the tables of the database mysql", r.s.info.User))
			return nil
		}
		return err
	}
	return nil
}

// userOf returns a user or a role, whose name is written as name.
func userOf(row *engine.Row, name string) *schema.Object {
	o := &schema.Object{Kind: schema.KindRole, Name: row.Text(0)}
	if row.Text(2) == "Y" {
		o.Definition = "CREATE ROLE " + literal(row.Text(0))
	} else {
		o.Signature = row.Text(1)
		o.Definition = "CREATE USER " + name
		if plugin := row.Text(4); plugin != "" && plugin != "mysql_native_password" {
			o.Definition += " IDENTIFIED VIA " + plugin
		}
		switch row.Text(5) {
		case "ANY":
			o.Definition += " REQUIRE SSL"
		case "X509":
			o.Definition += " REQUIRE X509"
		}
		var limits []string
		for i, word := range []string{"MAX_QUERIES_PER_HOUR", "MAX_UPDATES_PER_HOUR", "MAX_CONNECTIONS_PER_HOUR", "MAX_USER_CONNECTIONS"} {
			if n := row.Int(6 + i); n > 0 {
				limits = append(limits, fmt.Sprintf("%s %d", word, n))
			}
		}
		if len(limits) > 0 {
			o.Definition += " WITH " + strings.Join(limits, " ")
		}
	}
	return o
}

func (r *reader) users(ctx context.Context) error {
	users := map[string]*schema.Object{}
	statements := map[string][]string{}
	if r.s.mysql {
		r.remark("unread", "", "users and roles of MySQL are not part of the catalogue yet")
		return nil
	}
	if err := r.query(ctx, usersQuery, func(row *engine.Row) {
		name := literal(row.Text(0)) + "@" + literal(row.Text(1))
		o := userOf(row, name)
		users[name] = o
		if role := row.Text(3); role != "" {
			statements[name] = append(statements[name], "SET DEFAULT ROLE "+literal(role)+" FOR "+account(name))
		}
	}); err != nil {
		return err
	}
	if err := r.query(ctx, rolesQuery, func(row *engine.Row) {
		text := "GRANT " + literal(row.Text(1)) + " TO " + account(row.Text(0))
		if row.Text(2) == "Y" {
			text += " WITH ADMIN OPTION"
		}
		name := row.Text(0)
		statements[name] = append([]string{text}, statements[name]...)
		if from, to := users[name], users[literal(row.Text(1))+"@''"]; from != nil && to != nil {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(from.ID()), To: schema.ObjectEnd(to.ID()), Evidence: schema.Recorded, Use: schema.UseMemberOf})
		}
	}); err != nil {
		return err
	}
	rights := map[string][]string{}
	passable := map[string]bool{}
	if err := r.query(ctx, userRightsQuery, func(row *engine.Row) {
		name := row.Text(0)
		if !strings.Contains(name, "@") {
			name += "@''"
		}
		if word := row.Text(1); word != "USAGE" {
			rights[name] = append(rights[name], word)
		}
		passable[name] = passable[name] || row.Text(2) == "YES"
	}); err != nil {
		return err
	}
	for name, o := range users {
		if words := rights[name]; len(words) > 0 || passable[name] {
			slices.Sort(words)
			if len(words) == 0 {
				words = []string{"USAGE"}
			}
			text := "GRANT " + strings.Join(words, ", ") + " ON *.* TO " + account(name)
			if passable[name] {
				text += " WITH GRANT OPTION"
			}
			o.Definition += ";\n" + text
		}
		for _, text := range statements[name] {
			o.Definition += ";\n" + text
		}
		r.reading.Objects = append(r.reading.Objects, o)
	}
	return nil
}
