package postgres

// Kinds of the long tail are put together as statements by the server's own functions, a query each.

import (
	"strings"

	"echo-atlas/internal/core/schema"

	"echo-atlas/internal/core/engine"
)

// tail is a kind of object that is kept as the statement that makes it. Its query returns number,
// schema, number of the relation that it stands on, name, signature, number of the owner, definition
// and settings (name=value, one a line); the definition is empty where a text query prints it, because
// that takes locks.
type tail struct {
	kind  schema.Kind
	class uint32 // catalogue
	sql   string
	text  string // prints definitions, $1 being numbers
	// typed reads the last column, JSON, into the body of an object that is no statement.
	typed func(text []byte, o *schema.Object) error
}

// Pieces of the queries below.
const (
	// notMember leaves out what belongs to an extension, and what belongs to the engine.
	notMember = `x.oid >= 16384 AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'CATALOGUE'::regclass AND e.objid = x.oid AND e.deptype = 'e')`
	// shownOptions writes an array of options without those that hold secrets.
	shownOptions = `(SELECT ' OPTIONS (' || string_agg(quote_ident(o.option_name) || ' ' || quote_literal(o.option_value), ', ') || ')' FROM pg_options_to_table(OPTIONS) o
    WHERE o.option_name !~* 'pass|secret|token|credential|private')`
	hiddenOptions = `(SELECT 'left out=' || string_agg(o.option_name, ', ') FROM pg_options_to_table(OPTIONS) o WHERE o.option_name ~* 'pass|secret|token|credential|private')`
	collate       = `coalesce((SELECT ' COLLATE ' || quote_ident(cn.nspname) || '.' || quote_ident(co.collname) FROM pg_collation co JOIN pg_namespace cn ON cn.oid = co.collnamespace WHERE co.oid = GIVEN AND GIVEN <> USUAL), '')`
	commentOf     = `coalesce((SELECT E';\nCOMMENT ON WHAT IS ' || quote_literal(d.description) FROM pg_description d WHERE d.classoid = 'CLASS'::regclass AND d.objoid = OBJECT AND d.objsubid = PART), '')`
)

func shown(options string) string  { return strings.ReplaceAll(shownOptions, "OPTIONS)", options+")") }
func hidden(options string) string { return strings.ReplaceAll(hiddenOptions, "OPTIONS)", options+")") }

func fill(text string, pairs ...string) string { return strings.NewReplacer(pairs...).Replace(text) }

// member fills in the catalogue of notMember.
func member(catalogue string) string { return fill(notMember, "CATALOGUE", catalogue) }

const qualifiedName = `quote_ident(n.nspname) || '.' || quote_ident(x.NAME)`

// procedures are function numbers as they are written in a clause, 0 leaving it out.
func clause(word, column string) string {
	return `CASE WHEN ` + column + `::oid <> 0 THEN ', ` + word + ` = ' || ` + column + `::regproc::text ELSE '' END`
}

// tails returns the kinds that a server of a version has.
func tails(version int, superuser, system bool) []tail {
	connection := "''"
	if superuser { // nobody else may read it; a password never leaves the server
		connection = `regexp_replace(regexp_replace(x.subconninfo, 'password\s*=\s*(''([^''\\]|\\.)*''|\S+)\s*', '', 'gi'), '(://[^:/@]*):[^@]*@', '\1@')`
	}
	all := []tail{
		{kind: schema.KindExtension, class: pgExtension, sql: `SELECT x.oid, '', 0, x.extname, '', 0,
  'CREATE EXTENSION ' || quote_ident(x.extname) || CASE WHEN n.nspname = 'pg_catalog' THEN '' ELSE ' WITH SCHEMA ' || quote_ident(n.nspname) END,
  'schema=' || n.nspname || E'\nversion=' || x.extversion
FROM pg_extension x JOIN pg_namespace n ON n.oid = x.extnamespace WHERE x.oid >= 16384`},
		{kind: schema.KindLanguage, class: pgLanguage, sql: `SELECT x.oid, '', 0, x.lanname, '', x.lanowner,
  'CREATE ' || CASE WHEN x.lanpltrusted THEN 'TRUSTED ' ELSE '' END || 'LANGUAGE ' || quote_ident(x.lanname) || ' HANDLER ' || x.lanplcallfoid::regproc::text
  || CASE WHEN x.laninline <> 0 THEN ' INLINE ' || x.laninline::regproc::text ELSE '' END || CASE WHEN x.lanvalidator <> 0 THEN ' VALIDATOR ' || x.lanvalidator::regproc::text ELSE '' END, ''
FROM pg_language x WHERE x.lanispl AND ` + member("pg_language")},
		{kind: schema.KindCollation, class: pgCollation, sql: `SELECT x.oid, n.nspname, 0, x.collname, '', x.collowner,
  'CREATE COLLATION ' || ` + fill(qualifiedName, "NAME", "collname") + ` || CASE WHEN x.collprovider = 'c' AND x.collencoding = -1 THEN ' FROM pg_catalog.' || quote_ident(x.collcollate) ELSE ' (PROVIDER = ' || CASE x.collprovider WHEN 'i' THEN 'icu' WHEN 'b' THEN 'builtin' ELSE 'libc' END
  || CASE WHEN x.collprovider = 'c' AND x.collcollate <> x.collctype THEN ', LC_COLLATE = ' || quote_literal(x.collcollate) || ', LC_CTYPE = ' || quote_literal(x.collctype)
     ELSE ', LOCALE = ' || quote_literal(coalesce(ICULOCALE, x.collcollate)) END
  || CASE WHEN x.collisdeterministic THEN '' ELSE ', DETERMINISTIC = false' END || coalesce(', RULES = ' || quote_literal(ICURULES), '') || ')' END, ''
FROM pg_collation x JOIN pg_namespace n ON n.oid = x.collnamespace WHERE ` + member("pg_collation")},
		{kind: schema.KindEnum, class: pgType, typed: enumBody, sql: `SELECT x.oid, n.nspname, 0, x.typname, '', x.typowner, '', '',
  (SELECT json_agg(e.enumlabel ORDER BY e.enumsortorder) FROM pg_enum e WHERE e.enumtypid = x.oid)
FROM pg_type x JOIN pg_namespace n ON n.oid = x.typnamespace WHERE x.typtype = 'e' AND ` + member("pg_type")},
		{kind: schema.KindDomain, class: pgType, typed: domainBody, sql: `SELECT x.oid, n.nspname, 0, x.typname, '', x.typowner, '', '',
  json_build_object('type', format_type(x.typbasetype, x.typtypmod), 'collation', ` + fill(collate, "GIVEN", "x.typcollation", "USUAL", "b.typcollation") + `, 'default', x.typdefault, 'not_null', x.typnotnull, 'not_null_name', DOMAINNOTNULL, 'not_null_comment', DOMAINNULLCOMMENT,
  'checks', (SELECT json_agg(json_build_object('name', k.conname, 'text', pg_get_constraintdef(k.oid), 'comment', obj_description(k.oid, 'pg_constraint')) ORDER BY k.conname) FROM pg_constraint k WHERE k.contypid = x.oid AND k.contype = 'c'))
FROM pg_type x JOIN pg_namespace n ON n.oid = x.typnamespace JOIN pg_type b ON b.oid = x.typbasetype WHERE x.typtype = 'd' AND ` + member("pg_type")},
		{kind: schema.KindComposite, class: pgType, typed: compositeBody, sql: `SELECT x.oid, n.nspname, x.typrelid, x.typname, '', x.typowner, '', '',
  (SELECT json_agg(json_build_object('name', a.attname, 'type', format_type(a.atttypid, a.atttypmod), 'collation', ` + fill(collate, "GIVEN", "a.attcollation", "USUAL", "(SELECT u.typcollation FROM pg_type u WHERE u.oid = a.atttypid)") + `,
    'comment', col_description(x.typrelid, a.attnum)) ORDER BY a.attnum) FROM pg_attribute a WHERE a.attrelid = x.typrelid AND a.attnum > 0 AND NOT a.attisdropped)
FROM pg_type x JOIN pg_namespace n ON n.oid = x.typnamespace JOIN pg_class c ON c.oid = x.typrelid AND c.relkind = 'c' WHERE x.typtype = 'c' AND ` + member("pg_type")},
		{kind: schema.KindRange, class: pgType, sql: `SELECT x.oid, n.nspname, 0, x.typname, '', x.typowner,
  'CREATE TYPE ' || ` + fill(qualifiedName, "NAME", "typname") + ` || ' AS RANGE (SUBTYPE = ' || format_type(r.rngsubtype, NULL)
  || (SELECT CASE WHEN oc.opcdefault THEN '' ELSE ', SUBTYPE_OPCLASS = ' || quote_ident(on1.nspname) || '.' || quote_ident(oc.opcname) END FROM pg_opclass oc JOIN pg_namespace on1 ON on1.oid = oc.opcnamespace WHERE oc.oid = r.rngsubopc)
  || coalesce((SELECT ', COLLATION = ' || quote_ident(cn.nspname) || '.' || quote_ident(co.collname) FROM pg_collation co JOIN pg_namespace cn ON cn.oid = co.collnamespace JOIN pg_type st ON st.oid = r.rngsubtype WHERE co.oid = r.rngcollation AND co.oid <> st.typcollation), '')
  || ` + clause("CANONICAL", "r.rngcanonical") + ` || ` + clause("SUBTYPE_DIFF", "r.rngsubdiff") + ` || MULTIRANGENAME || ')', CASE WHEN r.rngcanonical <> 0 THEN 'shell=yes' ELSE '' END
FROM pg_type x JOIN pg_namespace n ON n.oid = x.typnamespace JOIN pg_range r ON r.rngtypid = x.oid WHERE x.typtype = 'r' AND ` + member("pg_type")},
		{kind: schema.KindBaseType, class: pgType, sql: `SELECT x.oid, n.nspname, 0, x.typname, '', x.typowner,
  'CREATE TYPE ' || ` + fill(qualifiedName, "NAME", "typname") + ` || CASE WHEN NOT x.typisdefined THEN '' ELSE ' (INPUT = ' || x.typinput::regproc::text || ', OUTPUT = ' || x.typoutput::regproc::text
  || ` + clause("RECEIVE", "x.typreceive") + ` || ` + clause("SEND", "x.typsend") + ` || ` + clause("TYPMOD_IN", "x.typmodin") + ` || ` + clause("TYPMOD_OUT", "x.typmodout") + `
  || CASE WHEN x.typanalyze::oid <> 0 THEN ', ANALYZE = ' || x.typanalyze::regproc::text ELSE '' END
  || ', INTERNALLENGTH = ' || CASE WHEN x.typlen = -1 THEN 'VARIABLE' ELSE x.typlen::text END || CASE WHEN x.typbyval THEN ', PASSEDBYVALUE' ELSE '' END
  || ', ALIGNMENT = ' || CASE x.typalign WHEN 'c' THEN 'char' WHEN 's' THEN 'int2' WHEN 'd' THEN 'double' ELSE 'int4' END
  || ', STORAGE = ' || CASE x.typstorage WHEN 'e' THEN 'external' WHEN 'm' THEN 'main' WHEN 'x' THEN 'extended' ELSE 'plain' END
  || ', CATEGORY = ' || quote_literal(x.typcategory::text) || CASE WHEN x.typispreferred THEN ', PREFERRED = true' ELSE '' END || coalesce(', DEFAULT = ' || quote_literal(x.typdefault), '')
  || CASE WHEN x.typelem <> 0 THEN ', ELEMENT = ' || format_type(x.typelem, NULL) ELSE '' END || ', DELIMITER = ' || quote_literal(x.typdelim::text)
  || CASE WHEN x.typcollation <> 0 THEN ', COLLATABLE = true' ELSE '' END || SUBSCRIPTED || ')' END, CASE WHEN x.typisdefined THEN 'shell=yes' ELSE '' END
FROM pg_type x JOIN pg_namespace n ON n.oid = x.typnamespace WHERE (x.typtype = 'b' AND NOT (x.typelem <> 0 AND x.typlen = -1 AND EXISTS (SELECT 1 FROM pg_type e WHERE e.typarray = x.oid)) OR x.typtype = 'p') AND ` + member("pg_type")},
		{kind: schema.KindWrapper, class: pgWrapper, sql: `SELECT x.oid, '', 0, x.fdwname, '', x.fdwowner,
  'CREATE FOREIGN DATA WRAPPER ' || quote_ident(x.fdwname) || CASE WHEN x.fdwhandler <> 0 THEN ' HANDLER ' || x.fdwhandler::regproc::text ELSE '' END
  || CASE WHEN x.fdwvalidator <> 0 THEN ' VALIDATOR ' || x.fdwvalidator::regproc::text ELSE '' END || coalesce(` + shown("x.fdwoptions") + `, ''), coalesce(` + hidden("x.fdwoptions") + `, '')
FROM pg_foreign_data_wrapper x WHERE ` + member("pg_foreign_data_wrapper")},
		{kind: schema.KindServer, class: pgServer, sql: `SELECT x.oid, '', 0, x.srvname, '', x.srvowner,
  'CREATE SERVER ' || quote_ident(x.srvname) || coalesce(' TYPE ' || quote_literal(x.srvtype), '') || coalesce(' VERSION ' || quote_literal(x.srvversion), '')
  || ' FOREIGN DATA WRAPPER ' || quote_ident(w.fdwname) || coalesce(` + shown("x.srvoptions") + `, ''), coalesce(` + hidden("x.srvoptions") + `, '')
FROM pg_foreign_server x JOIN pg_foreign_data_wrapper w ON w.oid = x.srvfdw WHERE ` + member("pg_foreign_server")},
		{kind: schema.KindUserMapping, class: pgUserMapping, sql: `SELECT x.umid, '', 0, x.srvname, CASE WHEN x.umuser = 0 THEN 'public' ELSE x.usename END, 0,
  'CREATE USER MAPPING FOR ' || CASE WHEN x.umuser = 0 THEN 'PUBLIC' ELSE quote_ident(x.usename) END || ' SERVER ' || quote_ident(x.srvname) || coalesce(` + shown("x.umoptions") + `, ''), coalesce(` + hidden("x.umoptions") + `, '')
FROM pg_user_mappings x`},
		{kind: schema.KindAggregate, class: pgProc, typed: aggregateBody, sql: `SELECT x.oid, n.nspname, 0, x.proname, pg_get_function_identity_arguments(x.oid), x.proowner, '', '',
  json_build_object('arguments', CASE WHEN x.pronargs = 0 THEN '*' ELSE pg_get_function_arguments(x.oid) END, 'clauses', array_remove(ARRAY['SFUNC=' || a.aggtransfn::text, 'STYPE=' || format_type(a.aggtranstype, NULL),
    CASE WHEN a.aggtransspace <> 0 THEN 'SSPACE=' || a.aggtransspace END,
    CASE WHEN a.aggfinalfn::oid <> 0 THEN 'FINALFUNC=' || a.aggfinalfn::text END, CASE WHEN a.aggfinalfn::oid <> 0 AND a.aggfinalextra THEN 'FINALFUNC_EXTRA' END,
    CASE WHEN a.aggfinalfn::oid <> 0 AND a.aggfinalmodify <> (CASE WHEN a.aggkind = 'n' THEN 'r' ELSE 'w' END)::"char" THEN 'FINALFUNC_MODIFY=' || CASE a.aggfinalmodify WHEN 'r' THEN 'READ_ONLY' WHEN 's' THEN 'SHAREABLE' ELSE 'READ_WRITE' END END,
    CASE WHEN a.aggcombinefn::oid <> 0 THEN 'COMBINEFUNC=' || a.aggcombinefn::text END, CASE WHEN a.aggserialfn::oid <> 0 THEN 'SERIALFUNC=' || a.aggserialfn::text END,
    CASE WHEN a.aggdeserialfn::oid <> 0 THEN 'DESERIALFUNC=' || a.aggdeserialfn::text END, 'INITCOND=' || quote_literal(a.agginitval),
    CASE WHEN a.aggmtransfn::oid <> 0 THEN 'MSFUNC=' || a.aggmtransfn::text END, CASE WHEN a.aggmtransfn::oid <> 0 THEN 'MINVFUNC=' || a.aggminvtransfn::text END,
    CASE WHEN a.aggmtransfn::oid <> 0 THEN 'MSTYPE=' || format_type(a.aggmtranstype, NULL) END, CASE WHEN a.aggmtransspace <> 0 THEN 'MSSPACE=' || a.aggmtransspace END,
    CASE WHEN a.aggmfinalfn::oid <> 0 THEN 'MFINALFUNC=' || a.aggmfinalfn::text END, CASE WHEN a.aggmfinalfn::oid <> 0 AND a.aggmfinalextra THEN 'MFINALFUNC_EXTRA' END,
    CASE WHEN a.aggmfinalfn::oid <> 0 AND a.aggmfinalmodify <> (CASE WHEN a.aggkind = 'n' THEN 'r' ELSE 'w' END)::"char" THEN 'MFINALFUNC_MODIFY=' || CASE a.aggmfinalmodify WHEN 'r' THEN 'READ_ONLY' WHEN 's' THEN 'SHAREABLE' ELSE 'READ_WRITE' END END,
    'MINITCOND=' || quote_literal(a.aggminitval),
    CASE WHEN a.aggsortop::oid <> 0 THEN 'SORTOP=OPERATOR(' || (SELECT quote_ident(sn.nspname) || '.' || so.oprname FROM pg_operator so JOIN pg_namespace sn ON sn.oid = so.oprnamespace WHERE so.oid = a.aggsortop) || ')' END,
    CASE x.proparallel WHEN 's' THEN 'PARALLEL=SAFE' WHEN 'r' THEN 'PARALLEL=RESTRICTED' END, CASE WHEN a.aggkind = 'h' THEN 'HYPOTHETICAL' END], NULL))
FROM pg_proc x JOIN pg_namespace n ON n.oid = x.pronamespace JOIN pg_aggregate a ON a.aggfnoid = x.oid WHERE x.prokind = 'a' AND ` + member("pg_proc")},
		{kind: schema.KindOperator, class: pgOperator, sql: `SELECT x.oid, n.nspname, 0, x.oprname, CASE WHEN x.oprleft = 0 THEN 'NONE' ELSE format_type(x.oprleft, NULL) END || ', ' || CASE WHEN x.oprright = 0 THEN 'NONE' ELSE format_type(x.oprright, NULL) END, x.oprowner,
  'CREATE OPERATOR ' || quote_ident(n.nspname) || '.' || x.oprname || ' (FUNCTION = ' || x.oprcode::text || CASE WHEN x.oprleft <> 0 THEN ', LEFTARG = ' || format_type(x.oprleft, NULL) ELSE '' END
  || CASE WHEN x.oprright <> 0 THEN ', RIGHTARG = ' || format_type(x.oprright, NULL) ELSE '' END
  || coalesce((SELECT ', COMMUTATOR = OPERATOR(' || quote_ident(sn.nspname) || '.' || so.oprname || ')' FROM pg_operator so JOIN pg_namespace sn ON sn.oid = so.oprnamespace WHERE so.oid = x.oprcom), '')
  || coalesce((SELECT ', NEGATOR = OPERATOR(' || quote_ident(sn.nspname) || '.' || so.oprname || ')' FROM pg_operator so JOIN pg_namespace sn ON sn.oid = so.oprnamespace WHERE so.oid = x.oprnegate), '')
  || ` + clause("RESTRICT", "x.oprrest") + ` || ` + clause("JOIN", "x.oprjoin") + ` || CASE WHEN x.oprcanhash THEN ', HASHES' ELSE '' END || CASE WHEN x.oprcanmerge THEN ', MERGES' ELSE '' END || ')', ''
FROM pg_operator x JOIN pg_namespace n ON n.oid = x.oprnamespace WHERE x.oprcode::oid <> 0 AND ` + member("pg_operator")},
		{kind: schema.KindOperatorFamily, class: pgOpfamily, sql: `SELECT x.oid, n.nspname, 0, x.opfname, m.amname, x.opfowner,
  'CREATE OPERATOR FAMILY ' || ` + fill(qualifiedName, "NAME", "opfname") + ` || ' USING ' || quote_ident(m.amname)
  || coalesce((SELECT E';\nALTER OPERATOR FAMILY ' || ` + fill(qualifiedName, "NAME", "opfname") + ` || ' USING ' || quote_ident(m.amname) || ' ADD' || string_agg(l.t, ',' ORDER BY l.t) FROM (` + members("= x.oid", "NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'CATALOGUE'::regclass AND e.objid = p.oid AND e.refclassid = 'pg_opclass'::regclass)") + `) l), ''), ''
FROM pg_opfamily x JOIN pg_namespace n ON n.oid = x.opfnamespace JOIN pg_am m ON m.oid = x.opfmethod WHERE ` + member("pg_opfamily")},
		{kind: schema.KindOperatorClass, class: pgOpclass, sql: `SELECT x.oid, n.nspname, 0, x.opcname, m.amname, x.opcowner,
  'CREATE OPERATOR CLASS ' || ` + fill(qualifiedName, "NAME", "opcname") + ` || CASE WHEN x.opcdefault THEN ' DEFAULT' ELSE '' END || ' FOR TYPE ' || format_type(x.opcintype, NULL) || ' USING ' || quote_ident(m.amname)
  || ' FAMILY ' || quote_ident(fn.nspname) || '.' || quote_ident(f.opfname) || ' AS' || concat_ws(',', CASE WHEN x.opckeytype <> 0 THEN E'\n    STORAGE ' || format_type(x.opckeytype, NULL) END,
     (SELECT string_agg(l.t, ',' ORDER BY l.t) FROM (` + members("= x.opcfamily", "EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'CATALOGUE'::regclass AND e.objid = p.oid AND e.refclassid = 'pg_opclass'::regclass AND e.refobjid = x.oid)") + `) l),
     CASE WHEN x.opckeytype = 0 AND NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.refclassid = 'pg_opclass'::regclass AND e.refobjid = x.oid AND e.classid IN ('pg_amop'::regclass, 'pg_amproc'::regclass)) THEN E'\n    STORAGE ' || format_type(x.opcintype, NULL) END), ''
FROM pg_opclass x JOIN pg_namespace n ON n.oid = x.opcnamespace JOIN pg_am m ON m.oid = x.opcmethod JOIN pg_opfamily f ON f.oid = x.opcfamily JOIN pg_namespace fn ON fn.oid = f.opfnamespace WHERE ` + member("pg_opclass")},
		{kind: schema.KindCast, class: pgCast, sql: `SELECT x.oid, '', 0, '(' || format_type(x.castsource, NULL) || ' AS ' || format_type(x.casttarget, NULL) || ')', '', 0,
  'CREATE CAST (' || format_type(x.castsource, NULL) || ' AS ' || format_type(x.casttarget, NULL) || ')' || CASE x.castmethod WHEN 'b' THEN ' WITHOUT FUNCTION' WHEN 'i' THEN ' WITH INOUT' ELSE ' WITH FUNCTION ' || x.castfunc::regprocedure::text END
  || CASE x.castcontext WHEN 'a' THEN ' AS ASSIGNMENT' WHEN 'i' THEN ' AS IMPLICIT' ELSE '' END, ''
FROM pg_cast x WHERE NOT EXISTS (SELECT 1 FROM pg_depend e WHERE e.classid = 'pg_cast'::regclass AND e.objid = x.oid AND e.deptype = 'i') AND ` + member("pg_cast")},
		{kind: schema.KindConversion, class: pgConversion, sql: `SELECT x.oid, n.nspname, 0, x.conname, '', x.conowner,
  'CREATE ' || CASE WHEN x.condefault THEN 'DEFAULT ' ELSE '' END || 'CONVERSION ' || ` + fill(qualifiedName, "NAME", "conname") + ` || ' FOR ' || quote_literal(pg_encoding_to_char(x.conforencoding)) || ' TO ' || quote_literal(pg_encoding_to_char(x.contoencoding)) || ' FROM ' || x.conproc::text, ''
FROM pg_conversion x JOIN pg_namespace n ON n.oid = x.connamespace WHERE ` + member("pg_conversion")},
		{kind: schema.KindTransform, class: pgTransform, sql: `SELECT x.oid, '', 0, format_type(x.trftype, NULL), l.lanname, 0,
  'CREATE TRANSFORM FOR ' || format_type(x.trftype, NULL) || ' LANGUAGE ' || quote_ident(l.lanname) || ' (' || concat_ws(', ', CASE WHEN x.trffromsql <> 0 THEN 'FROM SQL WITH FUNCTION ' || x.trffromsql::regprocedure::text END,
    CASE WHEN x.trftosql <> 0 THEN 'TO SQL WITH FUNCTION ' || x.trftosql::regprocedure::text END) || ')', ''
FROM pg_transform x JOIN pg_language l ON l.oid = x.trflang WHERE ` + member("pg_transform")},
		{kind: schema.KindAccessMethod, class: pgAccess, sql: `SELECT x.oid, '', 0, x.amname, '', 0,
  'CREATE ACCESS METHOD ' || quote_ident(x.amname) || ' TYPE ' || CASE x.amtype WHEN 'i' THEN 'INDEX' ELSE 'TABLE' END || ' HANDLER ' || x.amhandler::text, ''
FROM pg_am x WHERE ` + member("pg_am")},
		{kind: schema.KindTextParser, class: pgTextParser, sql: `SELECT x.oid, n.nspname, 0, x.prsname, '', 0,
  'CREATE TEXT SEARCH PARSER ' || ` + fill(qualifiedName, "NAME", "prsname") + ` || ' (START = ' || x.prsstart::text || ', GETTOKEN = ' || x.prstoken::text || ', END = ' || x.prsend::text || ', LEXTYPES = ' || x.prslextype::text || ` + clause("HEADLINE", "x.prsheadline") + ` || ')', ''
FROM pg_ts_parser x JOIN pg_namespace n ON n.oid = x.prsnamespace WHERE ` + member("pg_ts_parser")},
		{kind: schema.KindTextTemplate, class: pgTextTemplate, sql: `SELECT x.oid, n.nspname, 0, x.tmplname, '', 0,
  'CREATE TEXT SEARCH TEMPLATE ' || ` + fill(qualifiedName, "NAME", "tmplname") + ` || ' (LEXIZE = ' || x.tmpllexize::text || ` + clause("INIT", "x.tmplinit") + ` || ')', ''
FROM pg_ts_template x JOIN pg_namespace n ON n.oid = x.tmplnamespace WHERE ` + member("pg_ts_template")},
		{kind: schema.KindTextDictionary, class: pgTextDictionary, sql: `SELECT x.oid, n.nspname, 0, x.dictname, '', x.dictowner,
  'CREATE TEXT SEARCH DICTIONARY ' || ` + fill(qualifiedName, "NAME", "dictname") + ` || ' (TEMPLATE = ' || quote_ident(tn.nspname) || '.' || quote_ident(t.tmplname) || coalesce(', ' || x.dictinitoption, '') || ')', ''
FROM pg_ts_dict x JOIN pg_namespace n ON n.oid = x.dictnamespace JOIN pg_ts_template t ON t.oid = x.dicttemplate JOIN pg_namespace tn ON tn.oid = t.tmplnamespace WHERE ` + member("pg_ts_dict")},
		{kind: schema.KindTextConfig, class: pgTextConfig, sql: `SELECT x.oid, n.nspname, 0, x.cfgname, '', x.cfgowner,
  'CREATE TEXT SEARCH CONFIGURATION ' || ` + fill(qualifiedName, "NAME", "cfgname") + ` || ' (PARSER = ' || quote_ident(pn.nspname) || '.' || quote_ident(p.prsname) || ')'
  || coalesce((SELECT string_agg(E';\nALTER TEXT SEARCH CONFIGURATION ' || ` + fill(qualifiedName, "NAME", "cfgname") + ` || ' ADD MAPPING FOR ' || k.alias || ' WITH ' || k.dicts, '' ORDER BY k.tokid) FROM
    (SELECT m.maptokentype AS tokid, (SELECT quote_ident(tt.alias) FROM ts_token_type(x.cfgparser) tt WHERE tt.tokid = m.maptokentype) AS alias,
       string_agg(quote_ident(dn.nspname) || '.' || quote_ident(d.dictname), ', ' ORDER BY m.mapseqno) AS dicts
     FROM pg_ts_config_map m JOIN pg_ts_dict d ON d.oid = m.mapdict JOIN pg_namespace dn ON dn.oid = d.dictnamespace WHERE m.mapcfg = x.oid GROUP BY m.maptokentype) k), ''), ''
FROM pg_ts_config x JOIN pg_namespace n ON n.oid = x.cfgnamespace JOIN pg_ts_parser p ON p.oid = x.cfgparser JOIN pg_namespace pn ON pn.oid = p.prsnamespace WHERE ` + member("pg_ts_config")},
		{kind: schema.KindEventTrigger, class: pgEventTrigger, sql: `SELECT x.oid, '', 0, x.evtname, '', x.evtowner,
  'CREATE EVENT TRIGGER ' || quote_ident(x.evtname) || ' ON ' || x.evtevent || coalesce(' WHEN TAG IN (' || (SELECT string_agg(quote_literal(t), ', ') FROM unnest(x.evttags) t) || ')', '') || ' EXECUTE FUNCTION ' || x.evtfoid::regproc::text || '()',
  CASE x.evtenabled WHEN 'D' THEN 'fires=disable' WHEN 'R' THEN 'fires=enable replica' WHEN 'A' THEN 'fires=enable always' ELSE '' END
FROM pg_event_trigger x WHERE ` + member("pg_event_trigger")},
		{kind: schema.KindSubscription, class: pgSubscription, sql: `SELECT x.oid, '', 0, x.subname, '', x.subowner,
  'CREATE SUBSCRIPTION ' || quote_ident(x.subname) || ' CONNECTION ' || quote_literal(` + connection + `) || ' PUBLICATION ' || (SELECT string_agg(quote_ident(p), ', ') FROM unnest(x.subpublications) p)
  || ' WITH (connect = false, slot_name = ' || coalesce(quote_literal(x.subslotname), 'NONE') || ', synchronous_commit = ' || quote_literal(x.subsynccommit) || SUBOPTIONS || ')', CASE WHEN x.subenabled THEN 'enabled=yes' ELSE '' END
FROM pg_subscription x WHERE x.subdbid = (SELECT oid FROM pg_database WHERE datname = current_database())`},
		{kind: schema.KindRule, class: pgRewrite, sql: `SELECT x.oid, n.nspname, x.ev_class, x.rulename, '', 0, '',
  CASE x.ev_enabled WHEN 'D' THEN 'fires=disable' WHEN 'R' THEN 'fires=enable replica' WHEN 'A' THEN 'fires=enable always' ELSE '' END
FROM pg_rewrite x JOIN pg_class c ON c.oid = x.ev_class JOIN pg_namespace n ON n.oid = c.relnamespace WHERE x.rulename <> '_RETURN' AND ` + member("pg_rewrite"),
			text: `SELECT x.oid, pg_get_ruledef(x.oid) FROM pg_rewrite x WHERE x.oid = ANY ($1::oid[])`},
		{kind: schema.KindPolicy, class: pgPolicy, sql: `SELECT x.oid, n.nspname, x.polrelid, x.polname, '', 0, '', ''
FROM pg_policy x JOIN pg_class c ON c.oid = x.polrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE ` + member("pg_policy"),
			text: `SELECT x.oid, json_build_object('restrictive', NOT x.polpermissive, 'command', CASE x.polcmd WHEN 'r' THEN 'select' WHEN 'a' THEN 'insert' WHEN 'w' THEN 'update' WHEN 'd' THEN 'delete' END,
  'roles', CASE WHEN x.polroles <> '{0}' THEN (SELECT json_agg(CASE WHEN r <> 0 THEN pg_get_userbyid(r) ELSE 'public' END ORDER BY pg_get_userbyid(r)) FROM unnest(x.polroles) r) END,
  'using', pg_get_expr(x.polqual, x.polrelid), 'check', pg_get_expr(x.polwithcheck, x.polrelid))
FROM pg_policy x JOIN pg_class c ON c.oid = x.polrelid JOIN pg_namespace n ON n.oid = c.relnamespace WHERE x.oid = ANY ($1::oid[])`},
		{kind: schema.KindStatistics, class: pgStatistic, sql: `SELECT x.oid, n.nspname, 0, x.stxname, '', x.stxowner, '', STATISTICSTARGET
FROM pg_statistic_ext x JOIN pg_namespace n ON n.oid = x.stxnamespace WHERE ` + member("pg_statistic_ext"),
			text: `SELECT x.oid, pg_get_statisticsobjdef(x.oid) FROM pg_statistic_ext x WHERE x.oid = ANY ($1::oid[])`},
		{kind: schema.KindPublication, class: pgPublication, sql: `SELECT x.oid, '', 0, x.pubname, '', x.pubowner, '', '' FROM pg_publication x WHERE ` + member("pg_publication"),
			text: `SELECT x.oid, 'CREATE PUBLICATION ' || quote_ident(x.pubname) || CASE WHEN x.puballtables THEN ' FOR ALL TABLES' ELSE coalesce(' FOR ' || nullif(concat_ws(', ',
    (SELECT PUBFIRST || string_agg(PUBEACH || CASE WHEN rc.relkind = 'r' THEN 'ONLY ' ELSE '' END || quote_ident(rn.nspname) || '.' || quote_ident(rc.relname) || concat(PUBCONDITIONS), ', ' ORDER BY rn.nspname, rc.relname)
     FROM pg_publication_rel pr JOIN pg_class rc ON rc.oid = pr.prrelid JOIN pg_namespace rn ON rn.oid = rc.relnamespace WHERE pr.prpubid = x.oid),
    PUBSCHEMAS), ''), '') END
  || ' WITH (publish = ''' || concat_ws(', ', CASE WHEN x.pubinsert THEN 'insert' END, CASE WHEN x.pubupdate THEN 'update' END, CASE WHEN x.pubdelete THEN 'delete' END, CASE WHEN x.pubtruncate THEN 'truncate' END) || ''''
  || VIAROOT || PUBGENERATED || ')' FROM pg_publication x WHERE x.oid = ANY ($1::oid[])`},
	}
	for i := range all {
		all[i].sql, all[i].text = forVersion(all[i].sql, version), forVersion(all[i].text, version)
	}
	if system { // members of extensions, too
		for i := range all {
			all[i].sql = memberCondition().ReplaceAllString(all[i].sql, "x.oid >= 16384")
		}
	}
	return all
}

var memberCondition = engine.Lazily(`x\.oid >= 16384 AND NOT EXISTS \(SELECT 1 FROM pg_depend e WHERE e\.classid = '\w+'::regclass AND e\.objid = x\.oid AND e\.deptype = 'e'\)`)

// members writes the operators and functions of an operator family that fit a condition on p.
func members(family, condition string) string {
	return `SELECT E'\n    OPERATOR ' || lpad(p.amopstrategy::text, 2) || ' ' || quote_ident(pn.nspname) || '.' || o.oprname || ' (' || format_type(p.amoplefttype, NULL) || ', ' || format_type(p.amoprighttype, NULL) || ')'
       || CASE WHEN p.amopsortfamily <> 0 THEN ' FOR ORDER BY ' || (SELECT quote_ident(sn.nspname) || '.' || quote_ident(sf.opfname) FROM pg_opfamily sf JOIN pg_namespace sn ON sn.oid = sf.opfnamespace WHERE sf.oid = p.amopsortfamily) ELSE '' END AS t
     FROM pg_amop p JOIN pg_operator o ON o.oid = p.amopopr JOIN pg_namespace pn ON pn.oid = o.oprnamespace WHERE p.amopfamily ` + family + ` AND ` + fill(condition, "CATALOGUE", "pg_amop") + `
     UNION ALL SELECT E'\n    FUNCTION ' || lpad(p.amprocnum::text, 2) || ' (' || format_type(p.amproclefttype, NULL) || ', ' || format_type(p.amprocrighttype, NULL) || ') ' || p.amproc::regprocedure::text
     FROM pg_amproc p WHERE p.amprocfamily ` + family + ` AND ` + fill(condition, "CATALOGUE", "pg_amproc")
}
