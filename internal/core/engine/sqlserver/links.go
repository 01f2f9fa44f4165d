package sqlserver

// Where linked servers lead (documentation: "sp_addlinkedserver").

import (
	"cmp"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

const usualPort = "1433"

// Links implements engine.Linker. The data source of SQL Server's own providers is host, host\instance or host,port, perhaps
// behind tcp:; where there is none, and the product is SQL Server, the name of the link is that of the server. A named instance
// has a port that only its browser service knows.
func (Engine) Links(linked *schema.Object) (engine.Reach, bool) {
	given := map[string]string{}
	tokens := sqltext.Tokens(linked.Definition, rules())
	text := func(i int) string { return linked.Definition[tokens[i].Start:tokens[i].End] }
	for i := 0; i+2 < len(tokens); i++ {
		if tokens[i].Kind == sqltext.Placeholder && text(i+1) == "=" && tokens[i+2].Kind == sqltext.String {
			value := strings.TrimPrefix(text(i+2), "N")
			given[strings.ToLower(text(i))] = strings.ReplaceAll(value[1:len(value)-1], "''", "'")
		}
	}
	provider, source := strings.ToUpper(given["@provider"]), given["@datasrc"]
	own := strings.HasPrefix(provider, "MSOLEDBSQL") || strings.HasPrefix(provider, "SQLNCLI") || provider == "SQLOLEDB" || strings.EqualFold(given["@srvproduct"], "SQL Server")
	if !own {
		return engine.Reach{}, false
	}
	source = cmp.Or(source, linked.Name)
	if len(source) > 4 && strings.EqualFold(source[:4], "tcp:") {
		source = source[4:]
	}
	host, port, _ := strings.Cut(source, ",")
	host, instance, named := strings.Cut(strings.TrimSpace(host), `\`)
	port = strings.TrimSpace(port)
	if port == "" && named && !strings.EqualFold(instance, "MSSQLSERVER") {
		return engine.Reach{}, false
	}
	if host == "." || strings.EqualFold(host, "(local)") {
		host = "localhost"
	}
	return engine.Reach{Host: host, Port: cmp.Or(port, usualPort), Database: given["@catalog"], Usual: usualPort}, true
}
