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
	routineGrantsQuery = `SELECT concat(quote(User), '@', quote(Host)), Routine_name, Routine_type, Proc_priv FROM mysql.procs_priv WHERE Db = @DB`
	// Of what the server keeps of a user single values are asked for: the rest of it are passwords.
	usersQuery = `SELECT u.User, u.Host, u.is_role, u.default_role, u.plugin, u.ssl_type, u.max_questions, u.max_updates, u.max_connections, u.max_user_connections, u.max_statement_time,
  CAST(u.ssl_cipher AS CHAR), CAST(u.x509_issuer AS CHAR), CAST(u.x509_subject AS CHAR), JSON_VALUE(g.Priv, '$.account_locked'), JSON_VALUE(g.Priv, '$.password_lifetime'), JSON_VALUE(g.Priv, '$.password_last_changed'),
  JSON_LENGTH(JSON_EXTRACT(g.Priv, '$.auth_or')), JSON_VALUE(g.Priv, '$.auth_or[0].plugin'), JSON_VALUE(g.Priv, '$.auth_or[1].plugin'), JSON_VALUE(g.Priv, '$.auth_or[2].plugin'), JSON_VALUE(g.Priv, '$.plugin'), coalesce(JSON_VALUE(g.Priv, '$.authentication_string'), '') <> '' OR JSON_SEARCH(JSON_EXTRACT(g.Priv, '$.auth_or[*].authentication_string'), 'one', '_%') IS NOT NULL
FROM mysql.user u JOIN mysql.global_priv g ON g.User = u.User AND g.Host = u.Host WHERE u.User NOT IN ('mariadb.sys', 'mysql', 'PUBLIC')`
	proxiesQuery        = `SELECT concat(quote(User), '@', quote(Host)), concat(quote(Proxied_user), '@', quote(Proxied_host)), With_grant FROM mysql.proxies_priv WHERE User <> 'root'`
	serversQuery        = `SELECT Server_name, Wrapper, Host, Db, Username, Port, Socket, Owner FROM mysql.servers`
	userRightsQuery     = `SELECT grantee, privilege_type, is_grantable FROM information_schema.user_privileges`
	rolesQuery          = `SELECT concat(quote(User), '@', quote(Host)), Role, Admin_option FROM mysql.roles_mapping`
	databaseRightsQuery = `SELECT grantee, table_schema, privilege_type, is_grantable FROM information_schema.schema_privileges`
	// A role has there what it was given itself, and not what roles that it was given have.
	givenOnDatabasesQuery = `SELECT concat(quote(User), '@', quote(Host)), Db, concat_ws(',', if(Select_priv = 'Y', 'SELECT', NULL), if(Insert_priv = 'Y', 'INSERT', NULL), if(Update_priv = 'Y', 'UPDATE', NULL), if(Delete_priv = 'Y', 'DELETE', NULL),
  if(Create_priv = 'Y', 'CREATE', NULL), if(Drop_priv = 'Y', 'DROP', NULL), if(References_priv = 'Y', 'REFERENCES', NULL), if(Index_priv = 'Y', 'INDEX', NULL), if(Alter_priv = 'Y', 'ALTER', NULL), if(Create_tmp_table_priv = 'Y', 'CREATE TEMPORARY TABLES', NULL),
  if(Lock_tables_priv = 'Y', 'LOCK TABLES', NULL), if(Create_view_priv = 'Y', 'CREATE VIEW', NULL), if(Show_view_priv = 'Y', 'SHOW VIEW', NULL), if(Create_routine_priv = 'Y', 'CREATE ROUTINE', NULL), if(Alter_routine_priv = 'Y', 'ALTER ROUTINE', NULL),
  if(Execute_priv = 'Y', 'EXECUTE', NULL), if(Event_priv = 'Y', 'EVENT', NULL), if(Trigger_priv = 'Y', 'TRIGGER', NULL), if(Delete_history_priv = 'Y', 'DELETE HISTORY', NULL), SHOWROUTINE, if(Grant_priv = 'Y', 'GRANT', NULL)) FROM mysql.db`
	ownRightsQuery = `SELECT privilege_type FROM information_schema.user_privileges WHERE grantee IN (concat(quote(substring_index(current_user(), '@', 1)), '@', quote(substring_index(current_user(), '@', -1))), quote(coalesce(current_role(), '')), coalesce(current_role(), ''))
UNION SELECT privilege_type FROM information_schema.schema_privileges WHERE @DB LIKE table_schema AND grantee IN (concat(quote(substring_index(current_user(), '@', 1)), '@', quote(substring_index(current_user(), '@', -1))), quote(coalesce(current_role(), '')), coalesce(current_role(), ''))`
	// strayQuery finds tables in the engine's own database that the engine did not make.
	strayQuery = `SELECT table_name FROM information_schema.tables WHERE table_schema = 'mysql' AND table_name NOT IN ('columns_priv', 'column_stats', 'db', 'event', 'func', 'general_log', 'global_priv',
  'gtid_slave_pos', 'help_category', 'help_keyword', 'help_relation', 'help_topic', 'host', 'index_stats', 'innodb_index_stats', 'innodb_table_stats', 'ndb_binlog_index', 'plugin', 'proc', 'procs_priv', 'proxies_priv', 'roles_mapping',
  'servers', 'slow_log', 'tables_priv', 'table_stats', 'time_zone', 'time_zone_leap_second', 'time_zone_name', 'time_zone_transition', 'time_zone_transition_type', 'transaction_registry', 'user')`
	allDatabasesQuery = `SELECT schema_name, default_character_set_name, default_collation_name, DATABASECOMMENT, DATABASEENCRYPTION FROM information_schema.schemata
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
			words = append(words, rightWord(w))
		}
	}
	slices.Sort(words)
	return words, passable
}

// rightWord returns what GRANT calls a right, where the server's tables call it otherwise.
func rightWord(w string) string {
	if w == "DELETE VERSIONING ROWS" {
		return "DELETE HISTORY"
	}
	return w
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
	r := &reader{s: s, words: map[string]string{}, reading: &schema.Reading{Engine: s.engine().Name(), Version: s.info.Version, Database: engine.ServerLevel, User: s.info.User, Taken: time.Now().UTC()}}
	if err := r.serverLevel(ctx); err != nil {
		return nil, fmt.Errorf("reading users and databases of %s: %w", engine.WithoutPassword(s.url), err)
	}
	return r.reading, nil
}

func (r *reader) serverLevel(ctx context.Context) error {
	databases := map[string]*schema.Object{}
	err := r.query(ctx, allDatabasesQuery, func(row *engine.Row) {
		o := &schema.Object{Kind: schema.KindDatabase, Name: row.Text(0), Definition: "CREATE DATABASE " + quote(row.Text(0)) + " CHARACTER SET " + row.Text(1) + " COLLATE " + row.Text(2)}
		if comment := row.Text(3); comment != "" {
			o.Definition += " COMMENT " + literal(comment)
		}
		if row.Text(4) == "YES" {
			o.Definition += " ENCRYPTION 'Y'"
		}
		databases[o.Name] = o
		r.reading.Objects = append(r.reading.Objects, o)
	})
	if err != nil {
		return err
	}
	if err := r.rightsOnDatabases(ctx, databases); err != nil {
		return err
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

// rightsOnDatabases reads rights on whole databases.
func (r *reader) rightsOnDatabases(ctx context.Context, databases map[string]*schema.Object) error {
	add := func(database, grantee, rights string) {
		if o := databases[strings.NewReplacer(`\_`, "_", `\%`, "%").Replace(database)]; o != nil {
			r.addGrant(o, grantee, "", rights)
		}
	}
	if !r.s.mysql {
		err := r.query(ctx, givenOnDatabasesQuery, func(row *engine.Row) { add(row.Text(1), row.Text(0), row.Text(2)) })
		if err == nil || !denied(err) {
			return err
		}
	}
	given := map[[2]string][]string{}
	err := r.query(ctx, databaseRightsQuery, func(row *engine.Row) {
		key := [2]string{row.Text(1), row.Text(0)}
		if given[key] = append(given[key], row.Text(2)); row.Text(3) == "YES" && !slices.Contains(given[key], "GRANT") {
			given[key] = append(given[key], "GRANT")
		}
	})
	for key, words := range given {
		add(key[0], key[1], strings.Join(words, ","))
	}
	return err
}

const (
	nativePassword = "mysql_native_password"
	noPassword     = " USING 'invalid'" // as the server itself bars its users (documentation, "mariadb-install-db")
)

// identified writes by which plugins a user may log in; what they are told is a secret. In the place of a password stands a word that is
// none, which lets nobody in: without one everybody could.
func identified(row *engine.Row) string {
	var all []string
	own := row.Text(21)
	if own == "" {
		own = row.Text(4)
	}
	for i := range min(int(row.Int(17)), 3) {
		plugin := row.Text(18 + i)
		if plugin == "" { // that which is kept outside of the list
			plugin = own
		}
		all = append(all, plugin)
	}
	barred := row.Int(22) == 1
	if len(all) == 0 && own != "" && (own != nativePassword || barred) {
		all = []string{own}
	}
	for i := range all {
		if all[i] == nativePassword && barred {
			all[i] += noPassword
		}
	}
	if len(all) == 0 {
		return ""
	}
	return " IDENTIFIED VIA " + strings.Join(all, " OR ")
}

// required writes what a connection of a user has to be, from where its kind and its three parts stand in a row.
func required(row *engine.Row, kind, parts int) string {
	switch row.Text(kind) {
	case "ANY":
		return " REQUIRE SSL"
	case "X509":
		return " REQUIRE X509"
	}
	text := ""
	for i, word := range []string{"CIPHER", "ISSUER", "SUBJECT"} {
		if v := row.Text(parts + i); v != "" {
			text += " " + word + " " + literal(v)
		}
	}
	if text != "" {
		text = " REQUIRE" + text
	}
	return text
}

// userOf returns a user or a role, whose name is written as name.
func userOf(row *engine.Row, name string) *schema.Object {
	o := &schema.Object{Kind: schema.KindRole, Name: row.Text(0)}
	if row.Text(2) == "Y" {
		o.Definition = "CREATE ROLE " + literal(row.Text(0))
	} else {
		o.Signature = row.Text(1)
		o.Definition = "CREATE USER " + name
		o.Definition += identified(row) + required(row, 5, 11)
		var limits []string
		for i, word := range []string{"MAX_QUERIES_PER_HOUR", "MAX_UPDATES_PER_HOUR", "MAX_CONNECTIONS_PER_HOUR", "MAX_USER_CONNECTIONS"} {
			if n := row.Int(6 + i); n > 0 {
				limits = append(limits, fmt.Sprintf("%s %d", word, n))
			}
		}
		if seconds := row.Text(10); strings.Trim(seconds, "0.") != "" {
			limits = append(limits, "MAX_STATEMENT_TIME "+seconds)
		}
		if len(limits) > 0 {
			o.Definition += " WITH " + strings.Join(limits, " ")
		}
		if row.Text(14) == "1" || row.Text(14) == "true" {
			o.Definition += " ACCOUNT LOCK"
		}
		switch days := row.Text(15); {
		case row.Text(16) == "0":
			o.Definition += " PASSWORD EXPIRE"
		case days == "0":
			o.Definition += " PASSWORD EXPIRE NEVER"
		case days != "" && days != "-1":
			o.Definition += " PASSWORD EXPIRE INTERVAL " + days + " DAY"
		}
	}
	return o
}

func (r *reader) users(ctx context.Context) error {
	if r.s.mysql {
		return r.mysqlUsers(ctx)
	}
	users := map[string]*schema.Object{}
	statements := map[string][]string{}
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
	if err := r.query(ctx, proxiesQuery, func(row *engine.Row) {
		text := "GRANT PROXY ON " + account(row.Text(1)) + " TO " + account(row.Text(0))
		if row.Text(2) == "1" {
			text += " WITH GRANT OPTION"
		}
		statements[row.Text(0)] = append(statements[row.Text(0)], text)
	}); err != nil {
		return err
	}
	if err := r.query(ctx, serversQuery, r.foreignServer); err != nil {
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
			rights[name] = append(rights[name], rightWord(strings.ToUpper(word)))
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

// foreignServer keeps a server that FEDERATED tables are reached by; its password is left out.
func (r *reader) foreignServer(row *engine.Row) {
	o := &schema.Object{Kind: schema.KindServer, Name: row.Text(0)}
	var options []string
	for i, word := range []string{"HOST", "DATABASE", "USER"} {
		if v := row.Text(2 + i); v != "" {
			options = append(options, word+" "+literal(v))
		}
	}
	if port := row.Int(5); port > 0 {
		options = append(options, fmt.Sprintf("PORT %d", port))
	}
	for i, word := range []string{"SOCKET", "OWNER"} {
		if v := row.Text(6 + i); v != "" {
			options = append(options, word+" "+literal(v))
		}
	}
	o.Definition = "CREATE SERVER " + quote(o.Name) + " FOREIGN DATA WRAPPER " + row.Text(1) + " OPTIONS (" + strings.Join(options, ", ") + ")"
	r.reading.Objects = append(r.reading.Objects, o)
}
