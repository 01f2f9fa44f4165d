package postgres

// Roles, databases and tablespaces belong to no database; they are read once a server.

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"time"

	"github.com/jackc/pgx/v5/pgconn"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// The queries for what belongs to no database. They return name, owner, definition, list of rights and
// comment; passwords are not read.
const (
	// A setting whose name says that its value is a secret is not kept; the place where it stood says so.
	secretSetting = `(split_part(c, '=', 1) ~* 'pass|secret|token|credential|private' AND split_part(c, '=', 1) <> 'password_encryption')`
	notKept       = `E'\n/* ' || split_part(c, '=', 1) || ' is set; its name says that it is a secret, and it is not kept */'`

	serverRolesQuery = `SELECT x.rolname, 0, 'CREATE ROLE ' || quote_ident(x.rolname) || concat_ws('', CASE WHEN x.rolcanlogin THEN ' LOGIN' END, CASE WHEN x.rolsuper THEN ' SUPERUSER' END,
  CASE WHEN NOT x.rolinherit THEN ' NOINHERIT' END, CASE WHEN x.rolcreaterole THEN ' CREATEROLE' END, CASE WHEN x.rolcreatedb THEN ' CREATEDB' END,
  CASE WHEN x.rolreplication THEN ' REPLICATION' END, CASE WHEN x.rolbypassrls THEN ' BYPASSRLS' END, CASE WHEN x.rolconnlimit <> -1 THEN ' CONNECTION LIMIT ' || x.rolconnlimit END,
  ' VALID UNTIL ' || quote_literal(x.rolvaliduntil))
  || coalesce((SELECT string_agg(E';\nGRANT ' || quote_ident(g.rolname) || ' TO ' || quote_ident(x.rolname) || coalesce(' WITH ' || nullif(concat_ws(', ', CASE WHEN m.admin_option THEN 'ADMIN OPTION' END, MEMBERSAYS), ''), ''), '' ORDER BY g.rolname)
     FROM (SELECT roleid, member, bool_or(admin_option) AS admin_option, MEMBEROPTIONS FROM pg_auth_members GROUP BY roleid, member) m JOIN pg_roles g ON g.oid = m.roleid WHERE m.member = x.oid), '')
  || PARAMETERRIGHTS
  || coalesce((SELECT string_agg(CASE WHEN ` + secretSetting + ` THEN ` + notKept + ` ELSE E';\nALTER ROLE ' || quote_ident(x.rolname) || coalesce(' IN DATABASE ' || quote_ident(d.datname), '') || ' SET ' || split_part(c, '=', 1) || ' = ' || CASE WHEN split_part(c, '=', 1) IN ('search_path', 'temp_tablespaces', 'local_preload_libraries', 'session_preload_libraries') THEN substr(c, strpos(c, '=') + 1) ELSE quote_literal(substr(c, strpos(c, '=') + 1)) END END, '' ORDER BY d.datname NULLS FIRST, c)
     FROM pg_db_role_setting s LEFT JOIN pg_database d ON d.oid = s.setdatabase, unnest(s.setconfig) c WHERE s.setrole = x.oid), ''), '', shobj_description(x.oid, 'pg_authid')
FROM pg_roles x WHERE x.rolname !~ '^pg_'`

	serverMembersQuery = `SELECT DISTINCT m.rolname, g.rolname FROM pg_auth_members a JOIN pg_roles m ON m.oid = a.member JOIN pg_roles g ON g.oid = a.roleid WHERE g.rolname !~ '^pg_' AND m.rolname !~ '^pg_'`

	serverDatabasesQuery = `SELECT x.datname, x.datdba, 'CREATE DATABASE ' || quote_ident(x.datname) || ' TEMPLATE template0 ENCODING ' || quote_literal(pg_encoding_to_char(x.encoding))
  || ' LC_COLLATE ' || quote_literal(x.datcollate) || ' LC_CTYPE ' || quote_literal(x.datctype) || DBLOCALE || CASE WHEN s.spcname <> 'pg_default' THEN ' TABLESPACE ' || quote_ident(s.spcname) ELSE '' END
  || CASE WHEN x.datconnlimit <> -1 THEN ' CONNECTION LIMIT ' || x.datconnlimit ELSE '' END || CASE WHEN NOT x.datallowconn THEN ' ALLOW_CONNECTIONS false' ELSE '' END || CASE WHEN x.datistemplate THEN ' IS_TEMPLATE true' ELSE '' END
  || coalesce((SELECT string_agg(CASE WHEN ` + secretSetting + ` THEN ` + notKept + ` ELSE E';\nALTER DATABASE ' || quote_ident(x.datname) || ' SET ' || split_part(c, '=', 1) || ' = ' || CASE WHEN split_part(c, '=', 1) IN ('search_path', 'temp_tablespaces', 'local_preload_libraries', 'session_preload_libraries') THEN substr(c, strpos(c, '=') + 1) ELSE quote_literal(substr(c, strpos(c, '=') + 1)) END END, '' ORDER BY c)
     FROM pg_db_role_setting t, unnest(t.setconfig) c WHERE t.setdatabase = x.oid AND t.setrole = 0), ''), coalesce(x.datacl::text, ''), shobj_description(x.oid, 'pg_database')
FROM pg_database x JOIN pg_tablespace s ON s.oid = x.dattablespace WHERE x.datname NOT IN ('template0', 'template1')`

	serverTablespacesQuery = `SELECT x.spcname, x.spcowner, 'CREATE TABLESPACE ' || quote_ident(x.spcname) || ' LOCATION ' || quote_literal(pg_tablespace_location(x.oid)) || coalesce(' WITH (' || array_to_string(x.spcoptions, ', ') || ')', ''),
  coalesce(x.spcacl::text, ''), shobj_description(x.oid, 'pg_tablespace') FROM pg_tablespace x WHERE x.spcname !~ '^pg_'`
)

// readServerLevel reads roles, databases and tablespaces.
func (s *server) readServerLevel(ctx context.Context) (*schema.Reading, error) {
	r := newReader(s, engine.ServerLevel)
	r.reading.Taken = time.Now().UTC()
	conn := s.conn
	if err := exec(ctx, conn, `BEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY`); err != nil {
		return nil, fmt.Errorf("reading roles and databases of %s: %w", engine.WithoutPassword(s.target.URL), err)
	}
	err := r.serverRows(ctx, conn)
	if end := exec(context.WithoutCancel(ctx), conn, `ROLLBACK`); err == nil {
		err = end
	}
	if err != nil {
		return nil, fmt.Errorf("reading roles and databases of %s: %w", engine.WithoutPassword(s.target.URL), err)
	}
	return r.reading, nil
}

func (r *reader) serverRows(ctx context.Context, conn *pgconn.PgConn) error {
	if err := query(ctx, conn, rolesQuery, r.role); err != nil {
		return err
	}
	for _, k := range []struct {
		kind schema.Kind
		sql  string
		acl  byte
	}{{schema.KindRole, serverRolesQuery, 0}, {schema.KindDatabase, serverDatabasesQuery, 'D'}, {schema.KindTablespace, serverTablespacesQuery, 'T'}} {
		err := query(ctx, conn, r.versioned(k.sql), func(row *engine.Row) error {
			o := &schema.Object{Kind: k.kind, Name: row.Text(0), Owner: r.roles[row.Unsigned(1)], Definition: row.Text(2), Comment: row.Text(4)}
			if len(row.Bytes(3)) > 0 {
				ownerHas, everybodyHas := usual(k.acl, r.server.version)
				o.Grants = grantsOf(parseACL(row.Text(3)), []aclItem{{grantee: o.Owner, letters: ownerHas}, {letters: everybodyHas}}, o.Owner, "")
			}
			r.reading.Objects = append(r.reading.Objects, o)
			return nil
		})
		if err != nil {
			return err
		}
	}
	slices.SortFunc(r.reading.Objects, func(a, b *schema.Object) int { return strings.Compare(a.Name, b.Name) })
	return query(ctx, conn, serverMembersQuery, func(row *engine.Row) error {
		end := func(name []byte) schema.End {
			return schema.ObjectEnd(schema.ID{Kind: schema.KindRole, Name: string(name)})
		}
		r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: end(row.Bytes(0)), To: end(row.Bytes(1)), Evidence: schema.Recorded, Use: schema.UseMemberOf})
		return nil
	})
}
