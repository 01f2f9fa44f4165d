package sqlserver

// Which names mean the same without brackets, wherever they stand.

import (
	"strings"

	"echo-atlas/internal/core/engine"
)

// keywords are the reserved ones (documentation: "Reserved keywords") and those that begin or go on with something in some places.
var keywords = engine.LazyWords(`abs absolute add all alter and any apply as asc ascii at authorization auto avg backup begin between break browse bulk by cascade case cast catch char
check checkpoint choose close clustered coalesce collate column commit compute concat constraint contains containstable continue convert count create
cross current current_date current_time current_timestamp current_user cursor database date datetime day dbcc deallocate declare default delete
deleted dense_rank deny desc disk distinct distributed double drop dump elements else encryption end errlvl escape except exec execute exists exit
external fetch file fillfactor first for foreign format freetext freetexttable from full function go goto grant group hash having holdlock identity
identity_insert identitycol if iif in index inner insert inserted intersect into is isnull join json key kill lag last lead left len like lineno load
log loop lower matched max merge min month move name national nchar next nocheck nonclustered not null nullif of off offset offsets on only open
opendatasource openquery openrowset openxml option or order out outer output over parse partition path percent pivot plan precision primary print
prior proc procedure public raiserror rank raw read readonly readtext recompile reconfigure references relative remote replace replication restore
restrict return returns revert revoke right rollback root round row row_number rowcount rowguidcol rows rule save schema securityaudit select
semantickeyphrasetable semanticsimilaritydetailstable semanticsimilaritytable sequence session_user set setuser shutdown sign some space statistics
str stuff sum system_user table tablesample textsize then throw time to top tran transaction trigger trim truncate try try_cast try_convert try_parse
tsequal type union unique unpivot update updatetext upper use user using value values varying view waitfor when where while with within writetext xml
year zone`)

// Bare implements engine.Barer.
func (Engine) Bare(name string) bool {
	return engine.PlainName(name) && !keywords()[strings.ToLower(name)]
}
