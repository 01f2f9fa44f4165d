package postgres

// What a version of the server brought, in one table: it fills in what queries ask for.

import "strings"

// feature is a property that versions before do not have. Queries name it by a mark, which becomes one expression or the other.
type feature struct {
	property string
	since    int // as server_version_num has it
	mark     string
	has, not string // what is asked of servers that have it, and of those that do not
}

// features is never altered. Marks that begin like others stand before them.
var features = [...]feature{
	{"triggers of partitions that come from the table's", 130000, "PARENTLESS", "t.tgparentid = 0", "true"},
	{"target of extended statistics", 130000, "STATISTICSTARGET", "CASE WHEN coalesce(x.stxstattarget, -1) >= 0 THEN 'target=' || x.stxstattarget ELSE '' END", "''"},
	{"publishing by the root of partitions", 130000, "VIAROOT", "CASE WHEN x.pubviaroot THEN ', publish_via_partition_root = true' ELSE '' END", "''"},
	{"compression of columns", 140000, "COMPRESSED", "a.attcompression <> ''", "false"},
	{"compression of columns", 140000, "COMPRESSION", "CASE a.attcompression WHEN 'p' THEN 'compression=pglz' WHEN 'l' THEN 'compression=lz4' END", "NULL"},
	{"multiranges", 140000, "MULTIRANGEOF", "g.rngmultitypid = b.oid", "false"},
	{"multiranges", 140000, "MULTIRANGENAME", "', MULTIRANGE_TYPE_NAME = ' || (SELECT quote_ident(mn.nspname) || '.' || quote_ident(mt.typname) FROM pg_type mt JOIN pg_namespace mn ON mn.oid = mt.typnamespace WHERE mt.oid = r.rngmultitypid)", "''"},
	{"functions that take parts of base types", 140000, "SUBSCRIPTED", "CASE WHEN x.typsubscript::oid <> 0 AND NOT (x.typelem <> 0 AND x.typsubscript::text IN ('array_subscript_handler', 'raw_array_subscript_handler')) THEN ', SUBSCRIPT = ' || x.typsubscript::regproc::text ELSE '' END", "''"},
	{"options of subscriptions", 180000, "SUBOPTIONS", subscriptionOf("binary", "streaming", "two_phase", "disable_on_error", "password_required", "run_as_owner", "origin", "failover"), "SUBOPTIONS17"},
	{"options of subscriptions", 170000, "SUBOPTIONS17", subscriptionOf("binary", "streaming of 16", "two_phase", "disable_on_error", "password_required", "run_as_owner", "origin", "failover"), "SUBOPTIONS16"},
	{"options of subscriptions", 160000, "SUBOPTIONS16", subscriptionOf("binary", "streaming of 16", "two_phase", "disable_on_error", "password_required", "run_as_owner", "origin"), "SUBOPTIONS15"},
	{"options of subscriptions", 150000, "SUBOPTIONS15", subscriptionOf("binary", "streaming of 15", "two_phase", "disable_on_error"), "SUBOPTIONS14"},
	{"options of subscriptions", 140000, "SUBOPTIONS14", subscriptionOf("binary", "streaming of 15"), "''"},
	{"columns of ON DELETE SET NULL", 150000, "DELSETCOLS", "c.confdelsetcols", "NULL"},
	{"unique indexes that tell no null from another", 150000, "NULLSNOTDISTINCT", "i.indnullsnotdistinct", "false"},
	{"columns and rows of publications", 150000, "PUBCONDITIONS", `CASE WHEN pr.prattrs IS NULL THEN '' ELSE ' (' || (SELECT string_agg(quote_ident(a.attname), ', ' ORDER BY a.attnum) FROM pg_attribute a
      WHERE a.attrelid = pr.prrelid AND a.attnum = ANY (pr.prattrs::int2[])) || ')' END, coalesce(' WHERE (' || pg_get_expr(pr.prqual, pr.prrelid) || ')', '')`, "'', ''"},
	{"tables of publications each with a word of its own", 150000, "PUBFIRST", "''", "'TABLE '"},
	{"tables of publications each with a word of its own", 150000, "PUBEACH", "'TABLE '", "''"},
	{"publications of schemas", 150000, "PUBSCHEMAS", `(SELECT string_agg('TABLES IN SCHEMA ' || quote_ident(sn.nspname), ', ' ORDER BY sn.nspname) FROM pg_publication_namespace pn JOIN pg_namespace sn ON sn.oid = pn.pnnspid WHERE pn.pnpubid = x.oid)`, "NULL"},
	{"locales of ICU", 170000, "ICULOCALE", "x.colllocale", "ICUOLDLOCALE"},
	{"locales of ICU", 150000, "ICUOLDLOCALE", "x.colliculocale", "NULL"},
	{"rules of ICU", 160000, "ICURULES", "x.collicurules", "NULL"},
	{"options of memberships", 160000, "MEMBEROPTIONS", "bool_or(inherit_option) AS inherit_option, bool_or(set_option) AS set_option", "true AS inherit_option, true AS set_option"},
	{"options of memberships", 160000, "MEMBERSAYS", "CASE WHEN m.inherit_option <> x.rolinherit THEN 'INHERIT ' || upper(m.inherit_option::text) END, CASE WHEN NOT m.set_option THEN 'SET FALSE' END", "NULL"},
	{"rights on parameters", 150000, "PARAMETERRIGHTS", `coalesce((SELECT string_agg(E';\nGRANT ' || a.privilege_type || ' ON PARAMETER ' || p.parname || ' TO ' || quote_ident(x.rolname) || CASE WHEN a.is_grantable THEN ' WITH GRANT OPTION' ELSE '' END, '' ORDER BY p.parname, a.privilege_type)
    FROM pg_parameter_acl p, aclexplode(p.paracl) a WHERE a.grantee = x.oid AND a.grantee <> 10), '')`, "''"},
	{"locales of databases", 170000, "DBLOCALE", `CASE x.datlocprovider WHEN 'i' THEN ' LOCALE_PROVIDER icu ICU_LOCALE ' || quote_literal(x.datlocale) || coalesce(' ICU_RULES ' || quote_literal(x.daticurules), '') WHEN 'b' THEN ' LOCALE_PROVIDER builtin BUILTIN_LOCALE ' || quote_literal(x.datlocale) ELSE '' END`, "DBOLDLOCALE16"},
	{"locales of databases", 160000, "DBOLDLOCALE16", `CASE x.datlocprovider WHEN 'i' THEN ' LOCALE_PROVIDER icu ICU_LOCALE ' || quote_literal(x.daticulocale) || coalesce(' ICU_RULES ' || quote_literal(x.daticurules), '') ELSE '' END`, "DBOLDLOCALE15"},
	{"locales of databases", 150000, "DBOLDLOCALE15", `CASE x.datlocprovider WHEN 'i' THEN ' LOCALE_PROVIDER icu ICU_LOCALE ' || quote_literal(x.daticulocale) ELSE '' END`, "''"},
	{"not null of domains as a constraint of its own", 170000, "DOMAINNOTNULL", "(SELECT k.conname FROM pg_constraint k WHERE k.contypid = x.oid AND k.contype = 'n' AND k.conname <> x.typname || '_not_null')", "NULL"},
	{"not null of domains as a constraint of its own", 170000, "DOMAINNULLCOMMENT", "(SELECT obj_description(k.oid, 'pg_constraint') FROM pg_constraint k WHERE k.contypid = x.oid AND k.contype = 'n')", "NULL"},
	{"access methods of partitioned tables", 170000, "METHODOFPARTITIONED", "c.relkind = 'p' AND c.relam <> 0", "false"},
	{"publishing generated columns", 180000, "PUBGENERATED", "CASE x.pubgencols WHEN 's' THEN ', publish_generated_columns = stored' ELSE '' END", "''"},
	{"keys and references without overlaps", 180000, "CONPERIOD", "c.conperiod", "false"},
	{"constraints that are not enforced", 180000, "CONENFORCED", "c.conenforced", "true"},
}

// subscriptionOf writes those options of a subscription that are not the usual ones.
func subscriptionOf(options ...string) string {
	written := map[string]string{
		"binary": "CASE WHEN x.subbinary THEN ', binary = true' ELSE '' END", "streaming of 15": "CASE WHEN x.substream THEN ', streaming = true' ELSE '' END",
		"streaming of 16": "CASE x.substream WHEN 't' THEN ', streaming = on' WHEN 'p' THEN ', streaming = parallel' ELSE '' END",
		"streaming":       "CASE x.substream WHEN 't' THEN ', streaming = on' WHEN 'f' THEN ', streaming = off' ELSE '' END", "two_phase": "CASE WHEN x.subtwophasestate <> 'd' THEN ', two_phase = true' ELSE '' END",
		"disable_on_error": "CASE WHEN x.subdisableonerr THEN ', disable_on_error = true' ELSE '' END", "password_required": "CASE WHEN x.subpasswordrequired THEN '' ELSE ', password_required = false' END",
		"run_as_owner": "CASE WHEN x.subrunasowner THEN ', run_as_owner = true' ELSE '' END", "origin": "CASE WHEN x.suborigin <> 'any' THEN ', origin = ' || x.suborigin ELSE '' END", "failover": "CASE WHEN x.subfailover THEN ', failover = true' ELSE '' END",
	}
	var all []string
	for _, o := range options {
		all = append(all, written[o])
	}
	return strings.Join(all, " || ")
}

// versioned fills in what only later versions of the server have.
func (r *reader) versioned(sql string) string { return forVersion(sql, r.server.version) }

func forVersion(sql string, version int) string {
	for _, f := range features {
		expression := f.not
		if version >= f.since {
			expression = f.has
		}
		sql = strings.ReplaceAll(sql, f.mark, expression)
	}
	return sql
}
