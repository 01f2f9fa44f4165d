package mariadb

// Users, roles and resource groups of MySQL: a role is a user that is locked, has no password, and whose password has expired
// (documentation: "CREATE ROLE", "CREATE USER", "Using Roles", "Privilege Restriction Using Partial Revokes", "CREATE RESOURCE GROUP").

import (
	"context"
	"encoding/json"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// The queries for the users of MySQL. Of what proves who they are only whether there is anything is asked.
const (
	mysqlUsersQuery = `SELECT User, Host, plugin, ssl_type, max_questions, max_updates, max_connections, max_user_connections, CAST(ssl_cipher AS CHAR), CAST(x509_issuer AS CHAR), CAST(x509_subject AS CHAR), account_locked,
  password_lifetime, password_expired, Password_reuse_history, Password_reuse_time, Password_require_current, JSON_EXTRACT(User_attributes, '$.metadata'), User_attributes->>'$.Password_locking.failed_login_attempts',
  User_attributes->>'$.Password_locking.password_lock_time_days', JSON_EXTRACT(User_attributes, '$.Restrictions'), coalesce(authentication_string, '') = '', JSON_LENGTH(User_attributes, '$.multi_factor_authentication')
FROM mysql.user WHERE User NOT IN ('mysql.infoschema', 'mysql.session', 'mysql.sys')`
	mysqlRolesQuery = `SELECT concat(quote(TO_USER), '@', quote(TO_HOST)), concat(quote(FROM_USER), '@', quote(FROM_HOST)), WITH_ADMIN_OPTION FROM mysql.role_edges`
	// The order is that in which a role is given by default.
	mysqlDefaultRolesQuery = `SELECT concat(quote(USER), '@', quote(HOST)), group_concat(concat(quote(DEFAULT_ROLE_USER), '@', quote(DEFAULT_ROLE_HOST)) ORDER BY DEFAULT_ROLE_USER, DEFAULT_ROLE_HOST SEPARATOR ', ') FROM mysql.default_roles GROUP BY USER, HOST`
	mysqlGroupsQuery       = `SELECT resource_group_name, resource_group_type, resource_group_enabled, CAST(vcpu_ids AS CHAR), thread_priority FROM information_schema.resource_groups WHERE resource_group_name NOT IN ('USR_default', 'SYS_default')`
)

// mysqlRestriction is what a user may not do in one database though their rights on all say so.
type mysqlRestriction struct {
	Database   string
	Privileges []string
}

// mysqlUser returns a user or a role, and what follows its definition.
func (r *reader) mysqlUser(row *engine.Row) (o *schema.Object, restrictions []mysqlRestriction) {
	o = &schema.Object{Kind: schema.KindRole, Name: row.Text(0), Signature: row.Text(1)}
	name := literal(row.Text(0)) + "@" + literal(row.Text(1))
	locked, expired := row.Text(11) == "Y", row.Text(13) == "Y"
	if !row.Null(20) {
		if err := json.Unmarshal([]byte(row.Text(20)), &restrictions); err != nil {
			r.remark("failed", o.ID().Qualified(), "what its rights leave out is not understood: "+err.Error())
		}
	}
	if locked && expired && row.Int(21) == 1 {
		o.Definition = "CREATE ROLE " + name
		return o, restrictions
	}
	var b strings.Builder
	b.WriteString("CREATE USER " + name + " IDENTIFIED WITH " + literal(row.Text(2)))
	if row.Int(21) == 0 && strings.HasSuffix(row.Text(2), "_password") { // none would let everybody in; the server says which it made up
		b.WriteString(" BY RANDOM PASSWORD")
	}
	b.WriteString(required(row, 3, 8))
	limits := ""
	for i, word := range []string{"MAX_QUERIES_PER_HOUR", "MAX_UPDATES_PER_HOUR", "MAX_CONNECTIONS_PER_HOUR", "MAX_USER_CONNECTIONS"} {
		if n := row.Int(4 + i); n > 0 {
			limits += fmt.Sprintf(" %s %d", word, n)
		}
	}
	if limits != "" {
		b.WriteString(" WITH" + limits)
	}
	switch {
	case expired:
		b.WriteString(" PASSWORD EXPIRE")
	case row.Null(12):
	case row.Int(12) == 0:
		b.WriteString(" PASSWORD EXPIRE NEVER")
	default:
		fmt.Fprintf(&b, " PASSWORD EXPIRE INTERVAL %d DAY", row.Int(12))
	}
	if !row.Null(14) {
		fmt.Fprintf(&b, " PASSWORD HISTORY %d", row.Int(14))
	}
	if !row.Null(15) {
		fmt.Fprintf(&b, " PASSWORD REUSE INTERVAL %d DAY", row.Int(15))
	}
	switch row.Text(16) {
	case "Y":
		b.WriteString(" PASSWORD REQUIRE CURRENT")
	case "N":
		b.WriteString(" PASSWORD REQUIRE CURRENT OPTIONAL")
	}
	if !row.Null(18) {
		b.WriteString(" FAILED_LOGIN_ATTEMPTS " + row.Text(18))
	}
	if days := row.Text(19); days == "-1" {
		b.WriteString(" PASSWORD_LOCK_TIME UNBOUNDED")
	} else if days != "" {
		b.WriteString(" PASSWORD_LOCK_TIME " + days)
	}
	if locked {
		b.WriteString(" ACCOUNT LOCK")
	}
	if !row.Null(17) {
		b.WriteString(" ATTRIBUTE " + literal(row.Text(17)))
	}
	if row.Int(22) > 0 {
		r.remark("unread", o.ID().Qualified(), "it logs in by further factors, which are not read")
	}
	o.Definition = b.String()
	return o, restrictions
}

// mysqlUsers reads users and roles, what they were given, and the groups that share the processors.
func (r *reader) mysqlUsers(ctx context.Context) error {
	users := map[string]*schema.Object{}
	restricted := map[string][]mysqlRestriction{}
	if err := r.query(ctx, mysqlUsersQuery, func(row *engine.Row) {
		o, restrictions := r.mysqlUser(row)
		name := literal(o.Name) + "@" + literal(o.Signature)
		users[name], restricted[name] = o, restrictions
	}); err != nil {
		return err
	}
	statements := map[string][]string{}
	add := func(name, text string) { statements[name] = append(statements[name], text) }
	type grant struct{ held, passable []string }
	rights := map[string]*grant{}
	if err := r.query(ctx, userRightsQuery, func(row *engine.Row) {
		g := rights[row.Text(0)]
		if g == nil {
			g = &grant{}
			rights[row.Text(0)] = g
		}
		word := strings.ToUpper(row.Text(1))
		switch {
		case row.Text(2) == "YES":
			g.passable = append(g.passable, word)
		case word != "USAGE":
			g.held = append(g.held, word)
		}
	}); err != nil {
		return err
	}
	for name, g := range rights {
		for _, of := range []struct {
			words []string
			tail  string
		}{{g.held, ""}, {g.passable, " WITH GRANT OPTION"}} {
			if slices.Sort(of.words); len(of.words) > 0 {
				add(name, "GRANT "+strings.Join(of.words, ", ")+" ON *.* TO "+name+of.tail)
			}
		}
	}
	for name, all := range restricted {
		for _, x := range all {
			slices.Sort(x.Privileges)
			add(name, "REVOKE "+strings.Join(x.Privileges, ", ")+" ON "+quote(x.Database)+".* FROM "+name)
		}
	}
	if err := r.mysqlMembers(ctx, users, add); err != nil {
		return err
	}
	if err := r.query(ctx, proxiesQuery, func(row *engine.Row) {
		text := "GRANT PROXY ON " + row.Text(1) + " TO " + row.Text(0)
		if row.Text(2) == "1" {
			text += " WITH GRANT OPTION"
		}
		add(row.Text(0), text)
	}); err != nil {
		return err
	}
	for name, o := range users {
		for _, text := range statements[name] {
			o.Definition += ";\n" + text
		}
		r.reading.Objects = append(r.reading.Objects, o)
	}
	if err := r.query(ctx, serversQuery, r.foreignServer); err != nil {
		return err
	}
	return r.query(ctx, mysqlGroupsQuery, r.resourceGroup)
}

// mysqlMembers reads who was given which role, and which are theirs by default.
func (r *reader) mysqlMembers(ctx context.Context, users map[string]*schema.Object, add func(name, text string)) error {
	if err := r.query(ctx, mysqlRolesQuery+" ORDER BY 1, 2", func(row *engine.Row) {
		text := "GRANT " + row.Text(1) + " TO " + row.Text(0)
		if row.Text(2) == "Y" {
			text += " WITH ADMIN OPTION"
		}
		add(row.Text(0), text)
		if from, to := users[row.Text(0)], users[row.Text(1)]; from != nil && to != nil {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(from.ID()), To: schema.ObjectEnd(to.ID()), Evidence: schema.Recorded, Use: schema.UseMemberOf})
		}
	}); err != nil {
		return err
	}
	return r.query(ctx, mysqlDefaultRolesQuery, func(row *engine.Row) { add(row.Text(0), "SET DEFAULT ROLE "+row.Text(1)+" TO "+row.Text(0)) })
}

// resourceGroup keeps a group of threads with the processors and the priority that it has.
func (r *reader) resourceGroup(row *engine.Row) {
	o := &schema.Object{Kind: schema.KindResourceGroup, Name: row.Text(0)}
	o.Definition = "CREATE RESOURCE GROUP " + quote(o.Name) + " TYPE = " + row.Text(1) + " VCPU = " + row.Text(3) + " THREAD_PRIORITY = " + row.Text(4)
	if row.Text(2) != "1" {
		o.Definition += " DISABLE"
	}
	r.reading.Objects = append(r.reading.Objects, o)
}
