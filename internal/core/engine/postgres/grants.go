package postgres

// Rights are read from access control lists, and compared with what a new object of the kind gives by itself.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// rights are the letters of access rights and their words (documentation, table "ACL Privilege
// Abbreviations").
var rights = []struct {
	letter byte
	word   string
}{
	{'r', "SELECT"}, {'a', "INSERT"}, {'w', "UPDATE"}, {'d', "DELETE"}, {'D', "TRUNCATE"}, {'x', "REFERENCES"}, {'t', "TRIGGER"}, {'m', "MAINTAIN"},
	{'X', "EXECUTE"}, {'U', "USAGE"}, {'C', "CREATE"}, {'c', "CONNECT"}, {'T', "TEMPORARY"}, {'s', "SET"}, {'A', "ALTER SYSTEM"},
}

// aclItem is an entry of an access list.
type aclItem struct {
	grantee           string // "" is everybody
	letters, passable string
}

// parseACL reads the text of an aclitem[]: {grantee=letters/grantor,…}, a star behind a letter that may be
// passed on.
func parseACL(text string) []aclItem {
	var items []aclItem
	text = strings.TrimSuffix(strings.TrimPrefix(text, "{"), "}")
	for len(text) > 0 {
		item := text
		if text[0] == '"' { // an array element in quotes
			var b strings.Builder
			i := 1
			for ; i < len(text) && text[i] != '"'; i++ {
				if text[i] == '\\' && i+1 < len(text) {
					i++
				}
				b.WriteByte(text[i])
			}
			item, text = b.String(), text[min(len(text), i+1):]
		} else {
			end := strings.IndexByte(text, ',')
			if end < 0 {
				end = len(text)
			}
			item, text = text[:end], text[end:]
		}
		text = strings.TrimPrefix(text, ",")
		grantee, rest := item, ""
		if strings.HasPrefix(item, `"`) {
			end := 1
			for end < len(item) && (item[end] != '"' || end+1 < len(item) && item[end+1] == '"') {
				if item[end] == '"' {
					end++
				}
				end++
			}
			grantee, rest = strings.ReplaceAll(item[1:end], `""`, `"`), item[min(len(item), end+1):]
		} else if i := strings.IndexByte(item, '='); i >= 0 {
			grantee, rest = item[:i], item[i:]
		}
		rest, _, _ = strings.Cut(strings.TrimPrefix(rest, "="), "/")
		x := aclItem{grantee: grantee}
		for i := range len(rest) {
			if rest[i] == '*' {
				x.passable += rest[i-1 : i]
			} else {
				x.letters += rest[i : i+1]
			}
		}
		items = append(items, x)
	}
	return items
}

// usual returns the rights that a new object of a kind gives to its owner and to everybody; the kinds
// are those of pg_class, and letters of our own.
func usual(kind byte, version int) (owner, everybody string) {
	switch kind {
	case 'r', 'v', 'm', 'p', 'f':
		owner = "arwdDxt"
		if version >= 170000 {
			owner += "m"
		}
	case 'S':
		owner = "rwU"
	case 'X':
		owner, everybody = "X", "X"
	case 'n':
		owner = "UC"
	case 'U', 'l':
		owner, everybody = "U", "U"
	case 'w', 's':
		owner = "U"
	case 'D':
		owner, everybody = "CTc", "Tc"
	case 'T':
		owner = "C"
	case 'L':
		owner = "rw"
	}
	return owner, everybody
}

func words(letters string) []string {
	var all []string
	for _, r := range rights {
		if strings.IndexByte(letters, r.letter) >= 0 {
			all = append(all, r.word)
		}
	}
	return all
}

// grantsOf returns in what an access list differs from the usual one.
func grantsOf(acl, initial []aclItem, owner, column string) []schema.Grant {
	type entry struct{ has, passable, usual string }
	entries := map[string]*entry{}
	of := func(name string) *entry {
		if entries[name] == nil {
			entries[name] = &entry{}
		}
		return entries[name]
	}
	for _, x := range initial {
		of(x.grantee).usual += x.letters
	}
	for _, x := range acl { // several where several have granted
		e := of(x.grantee)
		e.has += x.letters
		if x.grantee != owner { // who may pass on everything anyway
			e.passable += x.passable
		}
	}
	var all []schema.Grant
	for name, e := range entries {
		without := func(letters, what string) string {
			return strings.Map(func(r rune) rune {
				if strings.ContainsRune(what, r) {
					return -1
				}
				return r
			}, letters)
		}
		g := schema.Grant{Grantee: name, Column: column, Granted: words(without(without(e.has, e.usual), e.passable)), Grantable: words(e.passable), Revoked: words(without(e.usual, e.has))}
		if len(g.Granted)+len(g.Grantable)+len(g.Revoked) > 0 {
			all = append(all, g)
		}
	}
	slices.SortFunc(all, func(a, b schema.Grant) int { return strings.Compare(a.PartKey(), b.PartKey()) })
	return all
}

func (r *reader) grant(row *engine.Row) error {
	owner := r.roles[row.Unsigned(4)]
	ownerHas, everybodyHas := usual(row.Letter(3), r.server.version)
	initial := []aclItem{{grantee: owner, letters: ownerHas}, {letters: everybodyHas}}
	if len(row.Bytes(6)) > 0 {
		initial = parseACL(row.Text(6))
		for i := range initial { // another owner takes over what the first one had
			if initial[i].letters == ownerHas && initial[i].grantee != "" {
				initial[i].grantee = owner
			}
		}
	}
	at := [2]uint32{row.Unsigned(0), row.Unsigned(1)}
	r.grants[at] = append(r.grants[at], grantsOf(parseACL(row.Text(5)), initial, owner, row.Text(2))...)
	return nil
}

// memberRight keeps rights on a member of an extension with the extension.
func (r *reader) memberRight(row *engine.Row) error {
	owner := row.Text(3)
	ownerHas, everybodyHas := usual(row.Letter(2), r.server.version)
	initial := []aclItem{{grantee: owner, letters: ownerHas}, {letters: everybodyHas}}
	if row.Text(5) != "" {
		initial = parseACL(row.Text(5))
	}
	r.memberRights[row.Unsigned(0)] = append(r.memberRights[row.Unsigned(0)], grantStatements(grantsOf(parseACL(row.Text(4)), initial, owner, ""), "", row.Text(1))...)
	return nil
}

func (r *reader) defaultRight(row *engine.Row) error {
	d := defaultRights{oid: row.Unsigned(0), role: row.Text(1), schema: row.Text(2), kind: row.Letter(3)}
	var initial []aclItem
	if d.schema == "" { // within a schema the list only adds
		kind := map[byte]byte{'r': 'r', 'S': 'S', 'f': 'X', 'T': 'U', 'n': 'n', 'L': 'L'}[d.kind]
		ownerHas, everybodyHas := usual(kind, r.server.version)
		initial = []aclItem{{grantee: d.role, letters: ownerHas}, {letters: everybodyHas}}
	}
	d.rights = grantsOf(parseACL(row.Text(4)), initial, d.role, "")
	r.defaultRights = append(r.defaultRights, d)
	return nil
}

// grantStatements writes GRANT and REVOKE; on is what stands between ON and the grantee.
func grantStatements(grants []schema.Grant, prefix, on string) []string {
	var all []string
	for _, g := range grants {
		grantee := "PUBLIC"
		if g.Grantee != "" {
			grantee = quote(g.Grantee)
		}
		list := func(words []string) string {
			if g.Column != "" {
				words = slices.Clone(words)
				for i := range words {
					words[i] += " (" + quote(g.Column) + ")"
				}
			}
			return strings.Join(words, ", ")
		}
		if len(g.Revoked) > 0 {
			all = append(all, prefix+"REVOKE "+list(g.Revoked)+" ON "+on+" FROM "+grantee)
		}
		if len(g.Granted) > 0 {
			all = append(all, prefix+"GRANT "+list(g.Granted)+" ON "+on+" TO "+grantee)
		}
		if len(g.Grantable) > 0 {
			all = append(all, prefix+"GRANT "+list(g.Grantable)+" ON "+on+" TO "+grantee+" WITH GRANT OPTION")
		}
	}
	return all
}
