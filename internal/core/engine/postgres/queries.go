package postgres

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
)

// The catalogue queries. They return plain rows; nothing in them prints a definition that needs a lock,
// but for textQueries, which run afterwards in short transactions of their own.

// ours leaves out what belongs to the engine; relations of the engine's schemas that a user made have a
// number of their own range (FirstNormalObjectId).
const ours = `n.nspname NOT LIKE 'pg\_toast%' AND n.nspname NOT LIKE 'pg\_temp%'
  AND (n.nspname NOT IN ('pg_catalog', 'information_schema') OR ALIAS.oid >= 16384)`

func oursOf(alias string) string { return strings.ReplaceAll(ours, "ALIAS", alias) }

const rolesQuery = `SELECT oid, rolname FROM pg_roles`

const membersQuery = `SELECT classid, objid, refobjid FROM pg_depend WHERE deptype = 'e'`

const schemasQuery = `SELECT oid, nspname, nspowner FROM pg_namespace
WHERE nspname NOT LIKE 'pg\_%' AND nspname <> 'information_schema'`

const opclassesQuery = `SELECT o.oid, o.opcname, n.nspname, o.opcdefault FROM pg_opclass o JOIN pg_namespace n ON n.oid = o.opcnamespace`

const collationsQuery = `SELECT c.oid, c.collname, n.nspname FROM pg_collation c JOIN pg_namespace n ON n.oid = c.collnamespace`

const methodsQuery = `SELECT oid, amname FROM pg_am`

var classesQuery = `SELECT c.oid, n.nspname, c.relname, c.relkind, c.relowner, c.reltuples::bigint, c.relpages, c.relam,
  c.relpersistence, c.relispartition, array_to_string(c.reloptions, E'\n')
FROM pg_class c JOIN pg_namespace n ON n.oid = c.relnamespace
WHERE c.relkind IN ('r', 'p', 'f', 'v', 'm', 'S', 'i', 'I') AND ` + oursOf("c")

// storesQuery reads how large the stores of long values are, with their indexes, where there is anything in them.
const storesQuery = `SELECT c.oid, t.relpages + coalesce((SELECT sum(i.relpages) FROM pg_index x JOIN pg_class i ON i.oid = x.indexrelid WHERE x.indrelid = t.oid), 0)
FROM pg_class c JOIN pg_class t ON t.oid = c.reltoastrelid WHERE t.relpages > 0 AND c.oid >= 16384`

// attributesQuery joins as little as it can: it returns most of all rows.
const attributesQuery = `SELECT a.attrelid, a.attnum, a.attname, a.atttypid, a.atttypmod, a.attnotnull, a.attidentity, a.attgenerated, a.attcollation, a.attstorage
FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
WHERE a.attnum > 0 AND NOT a.attisdropped AND a.attrelid >= 16384 AND c.relkind IN ('r', 'p', 'f', 'v', 'm')`

// defaultsQuery prints each expression once, for all columns that have it. One that refers to columns, as
// those of generated columns do, cannot be printed without its relation: it is printed later.
const defaultsQuery = `SELECT g.columns, CASE WHEN d.adbin::text NOT LIKE '%{VAR %' THEN pg_get_expr(d.adbin, 0) END
FROM (SELECT min(oid) AS first, string_agg(oid || ' ' || adrelid || ' ' || adnum, ' ') AS columns FROM pg_attrdef GROUP BY adbin::text) g
  JOIN pg_attrdef d ON d.oid = g.first`

const typesQuery = `SELECT u.t, u.m, format_type(u.t::oid, u.m), t.typcollation, t.typstorage FROM unnest($1::bigint[], $2::int[]) u(t, m) JOIN pg_type t ON t.oid = u.t`

const constraintsQuery = `SELECT c.oid, c.conrelid, c.conname, c.contype, c.conkey, c.confrelid, c.confkey, c.confupdtype, c.confdeltype,
  c.confmatchtype, c.condeferrable, c.condeferred, c.convalidated, c.conindid, c.connoinherit, DELSETCOLS, c.conislocal, c.conparentid, CONPERIOD, CONENFORCED
FROM pg_constraint c WHERE c.conrelid >= 16384 AND c.contype IN ('p', 'u', 'f', 'c', 'x')`

// notNullsQuery reads those not-null constraints that a script has to say more of than NOT NULL, from 18 on.
const notNullsQuery = `SELECT c.conrelid, c.conkey[1], CASE WHEN c.conname <> t.relname || '_' || a.attname || '_not_null' THEN c.conname END, c.convalidated, c.connoinherit, d.description
FROM pg_constraint c JOIN pg_class t ON t.oid = c.conrelid JOIN pg_attribute a ON a.attrelid = c.conrelid AND a.attnum = c.conkey[1]
  LEFT JOIN pg_description d ON d.classoid = 'pg_constraint'::regclass AND d.objoid = c.oid
WHERE c.contype = 'n' AND c.conrelid >= 16384 AND (NOT c.convalidated OR c.connoinherit OR d.description IS NOT NULL OR c.conname <> t.relname || '_' || a.attname || '_not_null')`

const indexesQuery = `SELECT i.indexrelid, i.indrelid, i.indisunique, i.indkey, i.indoption, i.indclass, i.indcollation, i.indnkeyatts,
  i.indpred IS NOT NULL, i.indexprs IS NOT NULL, i.indisvalid, NULLSNOTDISTINCT, i.indisclustered
FROM pg_index i WHERE i.indexrelid >= 16384`

const sequencesQuery = `SELECT seqrelid, format_type(seqtypid, NULL), seqstart, seqincrement, seqmin, seqmax, seqcache, seqcycle FROM pg_sequence`

const sequenceOwnersQuery = `SELECT objid, refobjid, refobjsubid, deptype FROM pg_depend
WHERE classid = 'pg_class'::regclass AND refclassid = 'pg_class'::regclass AND refobjsubid > 0 AND deptype IN ('a', 'i')
  AND objid IN (SELECT seqrelid FROM pg_sequence)`

const commentsQuery = `SELECT classoid, objoid, objsubid, description FROM pg_description WHERE objoid >= 16384 OR objoid = 2200`

// relationExtrasQuery reads what few relations have, name=value pairs in a list that no value can break.
const relationExtrasQuery = `SELECT c.oid, array_to_json(array_remove(ARRAY[CASE WHEN c.reloftype <> 0 THEN 'of type=' || format_type(c.reloftype, NULL) END,
  CASE WHEN c.relrowsecurity THEN 'row security=yes' END, CASE WHEN c.relforcerowsecurity THEN 'force row security=yes' END,
  CASE WHEN c.relkind IN ('r', 'p') THEN CASE c.relreplident WHEN 'f' THEN 'replica identity=full' WHEN 'n' THEN 'replica identity=nothing'
    WHEN 'i' THEN 'replica identity index=' || (SELECT ic.relname FROM pg_index i JOIN pg_class ic ON ic.oid = i.indexrelid WHERE i.indrelid = c.oid AND i.indisreplident) END END,
  CASE WHEN NOT c.relispopulated THEN 'populated=no' END, 'tablespace=' || s.spcname, CASE WHEN c.relkind IN ('r', 'm', 't') AND m.amname <> 'heap' OR METHODOFPARTITIONED THEN 'access method=' || m.amname END,
  (SELECT 'clustered on=' || ic.relname FROM pg_index i JOIN pg_class ic ON ic.oid = i.indexrelid WHERE i.indrelid = c.oid AND i.indisclustered)], NULL)),
  array_to_json(ARRAY(SELECT 'toast.' || o FROM unnest(t.reloptions) o ORDER BY o))
FROM pg_class c LEFT JOIN pg_class t ON t.oid = c.reltoastrelid AND t.reloptions IS NOT NULL LEFT JOIN pg_tablespace s ON s.oid = c.reltablespace LEFT JOIN pg_am m ON m.oid = c.relam
WHERE c.oid >= 16384 AND c.relkind IN ('r', 'p', 'm', 'f', 'i', 'I') AND (c.reloftype <> 0 OR c.relrowsecurity OR c.relforcerowsecurity OR c.relkind = 'r' AND c.relreplident <> 'd'
  OR NOT c.relispopulated OR c.reltablespace <> 0 OR t.oid IS NOT NULL OR c.relkind IN ('r', 'm') AND m.amname <> 'heap' OR METHODOFPARTITIONED OR c.relkind IN ('r', 'm') AND c.oid IN (SELECT indrelid FROM pg_index WHERE indisclustered))`

const parentsQuery = `SELECT i.inhrelid, i.inhparent, CASE WHEN c.relispartition AND c.relkind IN ('r', 'p', 'f') THEN pg_get_expr(c.relpartbound, 0) END, c.relkind
FROM pg_inherits i JOIN pg_class c ON c.oid = i.inhrelid WHERE c.relkind IN ('r', 'p', 'f', 'i', 'I') ORDER BY i.inhrelid, i.inhseqno`

// columnExtrasQuery reads what few columns have. The option pg_attver is a mark that later minor versions of
// the server keep for themselves.
const columnExtrasQuery = `SELECT a.attrelid, a.attnum, array_to_json(array_remove(ARRAY[COMPRESSION, CASE WHEN coalesce(a.attstattarget, -1) >= 0 THEN 'statistics=' || a.attstattarget END], NULL)), a.attname, a.attacl::text,
  array_to_json(ARRAY(SELECT o FROM unnest(a.attoptions) o WHERE o NOT LIKE 'pg\_attver=%' ORDER BY o)), NOT a.attislocal,
  array_to_json(ARRAY(SELECT o.option_name || '=' || o.option_value FROM pg_options_to_table(a.attfdwoptions) o WHERE o.option_name !~* 'pass|secret|token|credential|private' ORDER BY o.option_name))
FROM pg_attribute a JOIN pg_class c ON c.oid = a.attrelid
WHERE a.attrelid >= 16384 AND a.attnum > 0 AND NOT a.attisdropped AND c.relkind IN ('r', 'p', 'f', 'v', 'm', 'i', 'I')
  AND (NOT a.attislocal OR COMPRESSED OR coalesce(a.attstattarget, -1) >= 0 OR a.attacl IS NOT NULL OR array_length(a.attoptions, 1) > 1 OR a.attoptions[1] NOT LIKE 'pg\_attver=%' OR a.attfdwoptions IS NOT NULL)`

var foreignTablesQuery = `SELECT f.ftrelid, s.srvname, array_to_json(ARRAY(SELECT o.option_name || '=' || o.option_value FROM pg_options_to_table(f.ftoptions) o
  WHERE o.option_name !~* 'pass|secret|token|credential|private' ORDER BY o.option_name)) FROM pg_foreign_table f JOIN pg_foreign_server s ON s.oid = f.ftserver`

// grantsQuery reads the rights that were ever changed.
const grantsQuery = `SELECT 1259, oid, '', relkind, relowner, relacl::text, '' FROM pg_class WHERE relacl IS NOT NULL AND oid >= 16384
UNION ALL SELECT 1255, oid, '', 'X', proowner, proacl::text, '' FROM pg_proc WHERE proacl IS NOT NULL AND oid >= 16384
UNION ALL SELECT 2615, n.oid, '', 'n', n.nspowner, coalesce(n.nspacl, acldefault('n', n.nspowner))::text, coalesce((SELECT i.initprivs::text FROM pg_init_privs i WHERE i.classoid = 'pg_namespace'::regclass AND i.objoid = n.oid AND i.privtype = 'i'),
  CASE WHEN n.nspname <> 'public' THEN '' WHEN current_setting('server_version_num')::integer < 150000 THEN '{owner=UC/owner,=UC/owner}' ELSE '{owner=UC/owner,=U/owner}' END) FROM pg_namespace n WHERE n.nspacl IS NOT NULL AND n.oid >= 16384 OR n.nspname = 'public'
UNION ALL SELECT 1247, oid, '', 'U', typowner, typacl::text, '' FROM pg_type WHERE typacl IS NOT NULL AND oid >= 16384
UNION ALL SELECT 2612, oid, '', 'l', lanowner, lanacl::text, '' FROM pg_language WHERE lanacl IS NOT NULL AND oid >= 16384
UNION ALL SELECT 2328, oid, '', 'w', fdwowner, fdwacl::text, '' FROM pg_foreign_data_wrapper WHERE fdwacl IS NOT NULL
UNION ALL SELECT 1417, oid, '', 's', srvowner, srvacl::text, '' FROM pg_foreign_server WHERE srvacl IS NOT NULL`

// memberRightsQuery reads rights on what belongs to an extension, where they are not those that the extension gave.
const memberRightsQuery = `SELECT x.refobjid, x.says, x.kind, pg_get_userbyid(x.owner), x.acl, coalesce(i.initprivs::text, '') FROM (
  SELECT d.refobjid, d.classid, d.objid, CASE WHEN c.relkind = 'S' THEN 'SEQUENCE ' ELSE 'TABLE ' END || quote_ident(n.nspname) || '.' || quote_ident(c.relname) AS says, c.relkind AS kind, c.relowner AS owner, c.relacl::text AS acl
    FROM pg_depend d JOIN pg_class c ON c.oid = d.objid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE d.classid = 'pg_class'::regclass AND d.deptype = 'e' AND c.relacl IS NOT NULL
  UNION ALL SELECT d.refobjid, d.classid, d.objid, CASE WHEN p.prokind = 'p' THEN 'PROCEDURE ' ELSE 'FUNCTION ' END || quote_ident(n.nspname) || '.' || quote_ident(p.proname) || '(' || pg_get_function_identity_arguments(p.oid) || ')', 'X', p.proowner, p.proacl::text
    FROM pg_depend d JOIN pg_proc p ON p.oid = d.objid JOIN pg_namespace n ON n.oid = p.pronamespace WHERE d.classid = 'pg_proc'::regclass AND d.deptype = 'e' AND p.proacl IS NOT NULL) x
  LEFT JOIN pg_init_privs i ON i.classoid = x.classid AND i.objoid = x.objid AND i.objsubid = 0
WHERE x.acl IS DISTINCT FROM i.initprivs::text ORDER BY x.says`

const defaultRightsQuery = `SELECT d.oid, pg_get_userbyid(d.defaclrole), coalesce(n.nspname, ''), d.defaclobjtype, d.defaclacl::text, d.defaclrole FROM pg_default_acl d LEFT JOIN pg_namespace n ON n.oid = d.defaclnamespace`

// needsQuery reads what the server records between objects that a user made: which object needs which,
// down to columns. What follows from the rows of an object itself (an index on its table, a foreign key,
// inheritance) is left out.
const needsQuery = `SELECT DISTINCT d.classid, CASE WHEN r.rulename = '_RETURN' THEN r.ev_class ELSE d.objid END, r.rulename = '_RETURN', d.objsubid, d.refclassid, d.refobjid, d.refobjsubid
FROM (SELECT * FROM pg_depend WHERE refclassid = 'pg_class'::regclass AND refobjid >= 16384 AND objid >= 16384 AND (
      classid IN ('pg_rewrite'::regclass, 'pg_proc'::regclass, 'pg_policy'::regclass, 'pg_statistic_ext'::regclass, 'pg_publication_rel'::regclass)
      OR classid = 'pg_trigger'::regclass AND deptype = 'n' OR classid = 'pg_attrdef'::regclass AND deptype = 'n' AND refobjsubid = 0)
    UNION ALL SELECT * FROM pg_depend WHERE refclassid = 'pg_type'::regclass AND refobjid >= 16384 AND (deptype = 'n' OR classid = 'pg_constraint'::regclass)
    UNION ALL SELECT * FROM pg_depend WHERE refobjid >= 16384 AND refclassid IN ('pg_proc'::regclass, 'pg_collation'::regclass, 'pg_operator'::regclass, 'pg_opclass'::regclass, 'pg_opfamily'::regclass,
      'pg_am'::regclass, 'pg_language'::regclass, 'pg_foreign_server'::regclass, 'pg_foreign_data_wrapper'::regclass, 'pg_ts_parser'::regclass, 'pg_ts_template'::regclass, 'pg_ts_dict'::regclass,
      'pg_ts_config'::regclass, 'pg_publication'::regclass, 'pg_conversion'::regclass, 'pg_cast'::regclass)) d
  LEFT JOIN pg_rewrite r ON d.classid = 'pg_rewrite'::regclass AND r.oid = d.objid
WHERE d.deptype IN ('n', 'a', 'i') AND NOT (d.refclassid = 'pg_class'::regclass AND coalesce(r.rulename, '') = '_RETURN' AND (d.refobjid = r.ev_class OR d.deptype <> 'n'))`

// typesOfQuery tells to what the numbers of types belong that are no object of their own: arrays, the
// rows of relations, multiranges.
const typesOfQuery = `SELECT t.oid, CASE WHEN b.typrelid <> 0 AND c.relkind <> 'c' THEN 1259 ELSE 1247 END, CASE WHEN b.typrelid <> 0 AND c.relkind <> 'c' THEN b.typrelid ELSE coalesce(g.rngtypid, b.oid) END
FROM (SELECT DISTINCT refobjid FROM pg_depend WHERE refclassid = 'pg_type'::regclass AND refobjid >= 16384 AND deptype = 'n') d
  JOIN pg_type t ON t.oid = d.refobjid LEFT JOIN pg_type e ON e.oid = t.typelem AND e.typarray = t.oid JOIN pg_type b ON b.oid = coalesce(e.oid, t.oid)
  LEFT JOIN pg_class c ON c.oid = b.typrelid LEFT JOIN pg_range g ON MULTIRANGEOF`

const routinesQuery = `SELECT p.oid, n.nspname, p.proname, p.prokind, p.proowner, l.lanname, pg_get_function_identity_arguments(p.oid), pg_get_function_result(p.oid)
FROM pg_proc p JOIN pg_namespace n ON n.oid = p.pronamespace JOIN pg_language l ON l.oid = p.prolang
WHERE p.oid >= 16384 AND p.prokind IN ('f', 'p', 'w') AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'pg_proc'::regclass AND e.objid = p.oid AND e.deptype = 'i')`

const exclusionTextQuery = `SELECT c.oid, pg_get_constraintdef(c.oid) FROM pg_constraint c WHERE c.oid = ANY ($1::oid[])`

const triggersQuery = `SELECT t.oid, t.tgrelid, t.tgname, t.tgtype, t.tgenabled, t.tgattr FROM pg_trigger t WHERE NOT t.tgisinternal AND PARENTLESS`

// partTriggersQuery reads the triggers of partitions that come from the whole's and fire otherwise (since 13).
const partTriggersQuery = `SELECT t.tgrelid, t.tgname, t.tgenabled FROM pg_trigger t JOIN pg_trigger p ON p.oid = t.tgparentid WHERE NOT t.tgisinternal AND t.tgenabled <> p.tgenabled`

// textQueries print definitions. They take locks on what they print, so they come last.
const (
	viewTextQuery      = `SELECT u.o, pg_get_viewdef(u.o::oid) FROM unnest($1::bigint[]) u(o)`
	checkTextQuery     = `SELECT c.oid, pg_get_expr(c.conbin, c.conrelid) FROM pg_constraint c WHERE c.oid = ANY ($1::oid[])`
	generatedTextQuery = `SELECT d.oid, pg_get_expr(d.adbin, d.adrelid) FROM pg_attrdef d WHERE d.oid = ANY ($1::oid[])`
	routineTextQuery   = `SELECT p.oid, pg_get_functiondef(p.oid) FROM pg_proc p WHERE p.oid = ANY ($1::oid[])`
	triggerTextQuery   = `SELECT t.oid, pg_get_triggerdef(t.oid) FROM pg_trigger t WHERE t.oid = ANY ($1::oid[])`
	partKeyTextQuery   = `SELECT c.oid, pg_get_partkeydef(c.oid) FROM pg_class c WHERE c.oid = ANY ($1::oid[])`
	indexTextQuery     = `SELECT i.indexrelid, pg_get_expr(i.indpred, i.indrelid),
  (SELECT array_to_json(array_agg(pg_get_indexdef(i.indexrelid, k, false) ORDER BY k)) FROM generate_series(1, i.indnkeyatts) k),
  CASE WHEN i.indexprs IS NOT NULL THEN pg_get_indexdef(i.indexrelid) END
FROM pg_index i WHERE i.indexrelid = ANY ($1::oid[])`
)

// Queries returns what a survey sends, for a server of the latest known version.
func (Engine) Queries() []string {
	latest := &reader{server: &server{version: 1 << 30}}
	all := []string{"-- " + sessionWords(), "-- for each database, on two connections that share a snapshot:\nBEGIN ISOLATION LEVEL REPEATABLE READ READ ONLY"}
	all = append(all, attributesQuery, rolesQuery, storesQuery, defaultsQuery, membersQuery, schemasQuery, opclassesQuery, collationsQuery, methodsQuery, classesQuery,
		latest.versioned(constraintsQuery), notNullsQuery, latest.versioned(indexesQuery), sequencesQuery, sequenceOwnersQuery, commentsQuery, needsQuery, latest.versioned(typesOfQuery), routinesQuery,
		latest.versioned(triggersQuery), partTriggersQuery, latest.versioned(relationExtrasQuery), parentsQuery, latest.versioned(columnExtrasQuery), foreignTablesQuery, grantsQuery, memberRightsQuery, defaultRightsQuery)
	for _, t := range tails(1<<30, false, false) {
		all = append(all, t.sql)
	}
	all = append(all, typesQuery, "COMMIT",
		"-- definitions, $1 being up to a hundred object numbers, each in a transaction of its own:\n"+viewTextQuery)
	for _, t := range tails(1<<30, false, false) {
		if t.text != "" {
			all = append(all, t.text)
		}
	}
	all = append(all, "-- what belongs to no database:\n"+latest.versioned(serverRolesQuery), serverMembersQuery, latest.versioned(serverDatabasesQuery), serverTablespacesQuery)
	return append(all, partKeyTextQuery, checkTextQuery, exclusionTextQuery, generatedTextQuery, routineTextQuery, triggerTextQuery, indexTextQuery)
}

// sessionWords describes the settings of every session.
func sessionWords() string {
	var words []string
	for name, value := range settings(engine.Patience) {
		words = append(words, name+" = '"+value+"'")
	}
	slices.Sort(words)
	return "every session starts with: " + strings.Join(words, ", ")
}
