package postgres

// Which names mean the same without quotes, wherever they stand.

import (
	"slices"
	"strings"
)

// unreserved are the other keywords, which a server takes for something else in some places, such as behind a column without AS.
var unreserved = strings.Fields(`abort absent absolute access action add admin after aggregate also alter always asensitive assertion assignment at atomic attach attribute
authorization backward before begin between bigint binary bit boolean breadth by cache call called cascade cascaded catalog chain char character
characteristics checkpoint class close cluster coalesce collation columns comment comments commit committed compression concurrently conditional
configuration conflict connection constraints content continue conversion copy cost cross csv cube current current_schema cursor cycle data database
day deallocate dec decimal declare defaults deferred definer delete delimiter delimiters depends depth detach dictionary disable discard document
domain double drop each empty enable encoding encrypted enforced enum error escape event exclude excluding exclusive execute exists explain expression
extension external extract family filter finalize first float following force forward freeze full function functions generated global granted greatest
grouping groups handler header hold hour identity if ilike immediate immutable implicit import include including increment indent index indexes
inherit inherits inline inner inout input insensitive insert instead int integer interval invoker is isnull isolation join keep key keys label
language large last leakproof least left level like listen load local location lock locked logged lsn mapping match matched materialized maxvalue
merge merge_action method minute minvalue mode month move name names national natural nchar nested new next nfc nfd nfkc nfkd no none normalize
normalized nothing notify notnull nowait nullif nulls numeric object objects of off oids old omit operator option options ordinality others out outer
over overlaps overlay overriding owned owner parallel parameter parser partial partition passing password path period plan plans policy position
preceding precision prepare prepared preserve prior privileges procedural procedure procedures program publication quote quotes range read real
reassign recheck recursive ref referencing refresh reindex relative release rename repeatable replace replica reset restart restrict return returns
revoke right role rollback rollup routine routines row rows rule savepoint scalar schema schemas scroll search second security sequence sequences
serializable server session set setof sets share show similar simple skip smallint snapshot source sql stable standalone start statement statistics
stdin stdout storage stored strict string strip subscription substring support sysid system tables tablesample tablespace target temp template
temporary text ties time timestamp transaction transform treat trigger trim truncate trusted type types uescape unbounded uncommitted unconditional
unencrypted unknown unlisten unlogged until update vacuum valid validate validator value values varchar varying verbose version view views virtual
volatile wait whitespace within without work wrapper write xml xmlattributes xmlconcat xmlelement xmlexists xmlforest xmlnamespaces xmlparse xmlpi
xmlroot xmlserialize xmltable year yes zone`)

// Bare implements engine.Barer.
func (Engine) Bare(name string) bool {
	if quote(name) != name {
		return false
	}
	_, known := slices.BinarySearch(unreserved, name)
	return !known
}
