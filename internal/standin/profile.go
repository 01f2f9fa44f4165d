package standin

// Profiles: who asks, and which product answers.

import (
	"cmp"
	"fmt"
	"strconv"
	"strings"
)

// usualVersion is that of 2019.
const usualVersion = "15.0.4198.2"

// Profile is what the stand-in plays. The zero value is a server of 2019 and a user with VIEW DEFINITION who cannot write.
type Profile struct {
	Edition int    // as SERVERPROPERTY('EngineEdition') has it: 3 a server, 5 Azure SQL Database, 8 a Managed Instance
	Version string // as SERVERPROPERTY('ProductVersion') has it
	// Rights are answers of HAS_PERMS_BY_NAME by permission: 1, 0, or "NULL".
	Rights map[string]string
	// Refused are views that answer with an error of the server's, by the number.
	Refused map[string]int
	// Once are views that do so the first time that they are asked.
	Once    map[string]int
	NoTexts bool // definitions are NULL
}

func (p *Profile) right(name string) string {
	if v, ok := p.Rights[strings.ToUpper(name)]; ok {
		return v
	}
	switch strings.ToUpper(name) {
	case "VIEW DEFINITION", "VIEW ANY DEFINITION":
		return "1"
	}
	return "0"
}

// refusal is an error with a number of the server's.
type refusal struct {
	number int
	text   string
}

func (r *refusal) Error() string { return r.text }

// later are columns that came after 2016, with the version that brought them (documentation of their views).
var later = map[string]int{"history_retention_period": 14, "is_node = 1": 14, "optimize_for_sequential_key": 15, "ledger_type": 16}

// refuses returns the error of a batch that asks a view which is refused.
func (p *Profile) refuses(text string) error {
	if major, _, _ := strings.Cut(cmp.Or(p.Version, usualVersion), "."); p.Edition != 5 && p.Edition != 8 {
		version, _ := strconv.Atoi(major)
		for name, since := range later {
			if version < since && strings.Contains(text, name) {
				return &refusal{207, "Invalid column name '" + name + "'."}
			}
		}
	}
	for view, number := range p.Once {
		if strings.Contains(text, view) {
			delete(p.Once, view)
			return said(view, number)
		}
	}
	for view, number := range p.Refused {
		if !strings.Contains(text, view) {
			continue
		}
		return said(view, number)
	}
	return nil
}

// said is an error as the server words it.
func said(view string, number int) error {
	text := map[int]string{229: "The SELECT permission was denied on the object '%s', database 'mssqlsystemresource', schema 'sys'.", 262: "VIEW DATABASE STATE permission denied in database '%s'.", 297: "The user does not have permission to perform this action.",
		300: "VIEW SERVER STATE permission was denied on object 'server', database 'master'.", 208: "Invalid object name '%s'.", 1222: "Lock request time out period exceeded.", 2020: "The dependencies reported for entity \"%s\" might not include references to all columns."}[number]
	if strings.Contains(text, "%s") {
		text = fmt.Sprintf(text, view)
	}
	return &refusal{number, text}
}
