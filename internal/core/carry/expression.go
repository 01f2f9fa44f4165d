package carry

// Expressions and queries go over token by token: names are quoted anew, strings written anew, functions called by the other
// engine's name, casts that only say what is known taken out. What is not known to mean the same is a problem, and named.

import (
	"strconv"
	"strings"

	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/sqltext"
)

// words are those that mean the same in all dialects, in expressions.
var words = set(`AND OR NOT IN IS NULL LIKE BETWEEN CASE WHEN THEN ELSE END TRUE FALSE ESCAPE CURRENT_TIMESTAMP CURRENT_DATE DISTINCT CAST AS EXISTS`)

// queryWords are those of simple queries.
var queryWords = set(`SELECT FROM WHERE JOIN LEFT RIGHT INNER OUTER CROSS ON GROUP BY HAVING ORDER ASC DESC UNION ALL INTERSECT EXCEPT OVER PARTITION WITH`)

func set(list string) map[string]bool {
	all := map[string]bool{}
	for _, w := range strings.Fields(list) {
		all[w] = true
	}
	return all
}

// symbols mean the same in all dialects.
var symbols = set(`= <> != < > <= >= + - * % ( ) , .`)

// token is a token of an expression, with symbols that stand together put together.
type token struct {
	kind sqltext.TokenKind
	text string
}

func (c *carrier) tokens(text string) []token {
	rules := c.from.Traits().Rules
	var all []token
	last := -1
	for _, t := range sqltext.Tokens(text, rules) {
		s := text[t.Start:t.End]
		if n := len(all); n > 0 && t.Kind == sqltext.Symbol && all[n-1].kind == sqltext.Symbol && last == t.Start && !strings.ContainsAny(s+all[n-1].text, "(),.[];") && s != "::" && all[n-1].text != "::" {
			all[n-1].text += s
			last = t.End
			continue
		}
		all = append(all, token{t.Kind, s})
		last = t.End
	}
	return all
}

// literal writes a string for the target.
func (c *carrier) literal(value string) string {
	if c.to.Traits().Rules.BackslashEscapes {
		value = strings.ReplaceAll(value, `\`, `\\`)
	}
	return "'" + strings.ReplaceAll(value, "'", "''") + "'"
}

// value returns what a string literal of the source holds; ok is false for one that holds bytes or escapes that are not read.
func (c *carrier) value(s string) (value string, ok bool) {
	switch {
	case strings.HasPrefix(s, "N'") || strings.HasPrefix(s, "n'"):
		s = s[1:]
	case strings.HasPrefix(s, "$"), !strings.HasPrefix(s, "'") && !strings.HasPrefix(s, `"`), len(s) < 2:
		return "", false
	}
	quote := s[:1]
	value = strings.ReplaceAll(s[1:len(s)-1], quote+quote, quote)
	if strings.Contains(value, `\`) && c.from.Traits().Rules.BackslashEscapes {
		plain := strings.NewReplacer(`\\`, "\x00", `\'`, "'", `\"`, `"`, `\n`, "\n", `\t`, "\t", `\r`, "\r").Replace(value)
		if strings.Contains(plain, `\`) {
			return "", false
		}
		value = strings.ReplaceAll(plain, "\x00", `\`)
	}
	return value, true
}

// expression carries an expression, or a query; problem says what is not known to mean the same.
func (c *carrier) expression(text string, query bool) (out, problem string) {
	w := writing{carrier: c, list: c.tokens(text), query: query}
	for ; w.i < len(w.list) && problem == ""; w.i++ {
		problem = w.token(w.list[w.i])
	}
	if problem != "" {
		return "", problem
	}
	return sqltext.Unwrap(strings.TrimSpace(w.b.String()), c.to.Traits().Rules), ""
}

// writing is the work on one expression.
type writing struct {
	*carrier
	list  []token
	i     int // the token that is carried now
	b     strings.Builder
	query bool
}

// put writes a token, behind a blank where one belongs.
func (w *writing) put(s string) {
	if n := w.b.Len(); n > 0 {
		last := w.b.String()[n-1]
		if last != '(' && last != '.' && last != ' ' && s != ")" && s != "," && s != "." && !(s == "(" && isNamePart(last)) {
			w.b.WriteByte(' ')
		}
	}
	w.b.WriteString(s)
}

// at returns the text of the token n tokens on.
func (w *writing) at(n int) string {
	if i := w.i + n; i >= 0 && i < len(w.list) {
		return w.list[i].text
	}
	return ""
}

// token carries a token, and returns what is not known to mean the same.
func (w *writing) token(t token) (problem string) {
	upper := strings.ToUpper(t.text)
	switch {
	case t.kind == sqltext.String:
		value, ok := w.value(t.text)
		if !ok {
			return "the string " + t.text
		}
		w.put(w.literal(value))
	case t.kind == sqltext.Number:
		return w.number(t.text)
	case t.kind == sqltext.Symbol:
		return w.symbol(t.text)
	case t.kind == sqltext.Placeholder:
		return "the variable " + t.text
	case t.kind == sqltext.Word && strings.HasPrefix(t.text, "_") && w.i+1 < len(w.list) && w.list[w.i+1].kind == sqltext.String && w.from.Traits().Delimiter != "":
		if !strings.HasPrefix(upper, "_UTF8") { // which the script is written in
			return "the characters of " + t.text + w.at(1)
		}
	case t.kind == sqltext.QuotedName && w.at(1) == "(" && !strings.EqualFold(w.at(-1), "as") && !strings.EqualFold(w.at(-1), "with") && w.at(-1) != ",":
		return "the function " + t.text
	case t.kind == sqltext.Word && w.at(1) == "(" && !words[upper] && !(w.query && queryWords[upper]):
		return w.function(t.text)
	case t.kind == sqltext.Word && w.at(-1) != "." && (words[upper] || w.query && queryWords[upper]):
		return w.word(upper)
	case t.kind == sqltext.Word || t.kind == sqltext.QuotedName:
		return w.name(t, upper)
	default:
		return t.text
	}
	return ""
}

func (w *writing) number(text string) string {
	switch {
	case strings.HasPrefix(strings.ToLower(text), "0x"):
		n, err := strconv.ParseUint(text[2:], 16, 63)
		if err != nil {
			return "the number " + text
		}
		text = strconv.FormatUint(n, 10)
	case w.truth(w.list, w.i) != "":
		text = w.truth(w.list, w.i)
	}
	w.put(text)
	return ""
}

func (w *writing) symbol(text string) string {
	switch {
	case text == "::":
		next, name := skipType(w.list, w.i+1)
		if cast := w.read.ReadType(name); cast.Base == "decimal" || cast.Base == "double" || cast.Base == "real" || cast.Base == "integer" {
			if w.b.Len() > 0 && (w.i < 1 || w.list[w.i-1].kind != sqltext.Number && w.list[w.i-1].kind != sqltext.String && w.at(-1) != ")") {
				w.lose(false, "a cast to "+name+" is left to the engine")
			}
		}
		w.i = next - 1
	case (text == "=" || text == "<>") && (strings.EqualFold(w.at(1), "any") || strings.EqualFold(w.at(1), "all")):
		end, items, ok := w.arrayOf(w.list, w.i+2)
		if !ok || (text == "=") != strings.EqualFold(w.at(1), "any") {
			return "ANY or ALL of an array"
		}
		if text == "<>" {
			w.put("NOT")
		}
		w.put("IN")
		w.b.WriteString(" (" + items + ")")
		w.i = end
	case text == "~~":
		w.put("LIKE")
	case text == "!~~":
		w.put("NOT")
		w.put("LIKE")
	case text == "||" && w.write.Carries("||"):
		w.put(text)
	case text == "||" && w.to.Traits().Batch != "":
		w.put("+")
	case text == "/":
		if w.from.Traits().Delimiter != w.to.Traits().Delimiter {
			w.lose(false, "a division of whole numbers has another result")
		}
		w.put(text)
	case symbols[text]:
		w.put(text)
	default:
		return "the operator " + text
	}
	return ""
}

func (w *writing) function(text string) string {
	common, ok := w.functions[strings.ToLower(text)]
	own := w.own[common]
	switch {
	case !ok || own == "" || w.at(-1) == ".":
		return "the function " + text
	case common == "cast":
		return "a cast"
	case common == "now" || common == "current_date": // as a word, which all have
		if w.at(2) != ")" {
			return "the precision of " + text
		}
		w.put(map[string]string{"now": "CURRENT_TIMESTAMP", "current_date": "CURRENT_DATE"}[common])
		w.i += 2
	default:
		w.put(own)
	}
	return ""
}

func (w *writing) word(upper string) string {
	switch upper {
	case "CAST":
		return "a cast"
	case "INNER": // as JOIN is
		if strings.EqualFold(w.at(1), "join") {
			return ""
		}
	case "JOIN":
		if side := strings.ToUpper(w.at(-1)); side != "LEFT" && side != "RIGHT" && side != "OUTER" && side != "CROSS" && !w.joinedOn() {
			w.put("CROSS")
		}
	}
	if (upper == "TRUE" || upper == "FALSE") && !w.write.Carries("booleans") {
		upper = map[string]string{"TRUE": "1", "FALSE": "0"}[upper]
	}
	w.put(upper)
	if strings.HasPrefix(upper, "CURRENT_") && w.at(1) == "(" { // the digits of a second are those of the column
		for w.i++; w.i < len(w.list) && w.list[w.i].text != ")"; w.i++ {
		}
		return ""
	}
	if w.at(1) == "(" {
		w.b.WriteByte(' ')
	}
	return ""
}

// joinedOn reports whether a condition belongs to the join that stands there: some engines take a join without one for a product.
func (w *writing) joinedOn() bool {
	waiting, depth := 1, 0
	for n := 1; w.i+n < len(w.list); n++ {
		switch word := strings.ToUpper(w.at(n)); {
		case word == "(":
			depth++
		case word == ")":
			if depth--; depth < 0 {
				return false
			}
		case depth > 0:
		case word == "ON":
			if waiting--; waiting == 0 {
				return true
			}
		case word == "JOIN":
			if !strings.EqualFold(w.at(n-1), "cross") {
				waiting++
			}
		case word == "," || word == ";" || joinEnds[word]:
			return false
		}
	}
	return false
}

// joinEnds are the words that stand behind all joins.
var joinEnds = set(`WHERE GROUP HAVING ORDER UNION INTERSECT EXCEPT SELECT`)

func (w *writing) name(t token, upper string) string {
	if w.values || t.kind == sqltext.Word && (w.at(-1) != "." && w.at(1) != "." && notNames[upper] || systemColumns[upper]) {
		return "the word " + t.text
	}
	name := sqltext.Unquote(t.text, sqltext.Token{Kind: t.kind, Start: 0, End: len(t.text)}, w.from.Traits().Rules)
	if folded, next := names.Fold(name), w.at(1); next != "." {
		compared := next == "=" || next == "<>" || next == "!=" || strings.EqualFold(next, "is") || w.query
		switch {
		case w.write.Carries("strict types") && w.untyped[folded]:
			return "the column " + name + ", which has no type"
		case w.write.Carries("strict types") && w.booleans[folded] && (strings.EqualFold(next, "in") || strings.EqualFold(next, "between")):
			return "numbers that stand for true and false"
		case !w.write.Carries("booleans") && w.booleans[folded] && !compared:
			return "the boolean " + name + " as a condition"
		}
	}
	if w.at(1) == "." && w.schemas[name] {
		if !w.write.Carries("schemas") {
			w.i++
			return ""
		}
		if name == w.read.Home() {
			name = w.write.Home()
		}
	}
	w.put(w.to.Quote(name))
	return ""
}

// truth returns the word for a number that is compared with a boolean, where the target does not take it for one; else "".
func (c *carrier) truth(list []token, i int) string {
	if !c.write.Carries("strict types") || i < 2 || list[i].text != "0" && list[i].text != "1" {
		return ""
	}
	name, operator := list[i-2], list[i-1].text
	if name.kind != sqltext.Word && name.kind != sqltext.QuotedName || operator != "=" && operator != "<>" && operator != "!=" {
		return ""
	}
	plain := sqltext.Unquote(name.text, sqltext.Token{Kind: name.kind, Start: 0, End: len(name.text)}, c.from.Traits().Rules)
	if !c.booleans[names.Fold(plain)] {
		return ""
	}
	return map[string]string{"0": "FALSE", "1": "TRUE"}[list[i].text]
}

// notNames are words that begin what is not carried.
var notNames = set(`LIMIT OFFSET FETCH LATERAL WINDOW INTERVAL ARRAY ROW SIMILAR ILIKE REGEXP RLIKE GLOB MATCH COLLATE FILTER WITHIN AT DIV MOD XOR TOP USING NATURAL FULL RECURSIVE FOR STRAIGHT_JOIN VALUE NEXT SOME ANY
INTO PIVOT UNPIVOT APPLY EXTRACT CONVERT ROWS RANGE GROUPS PRECEDING FOLLOWING NULLS INDEXED BINARY ISNULL NOTNULL ROLLUP CUBE GROUPING`)

// systemColumns are columns that tables have without saying so.
var systemColumns = set(`TABLEOID CTID XMIN XMAX CMIN CMAX OID ROWID _ROWID_`)

func isNamePart(c byte) bool {
	return c == '_' || c == '"' || c == '`' || c == ']' || '0' <= c && c <= '9' || 'a' <= c|0x20 && c|0x20 <= 'z'
}

// skipType returns the place behind a type that begins at a token, and the type.
func skipType(list []token, i int) (next int, name string) {
	var parts []string
	for ; i < len(list) && (list[i].kind == sqltext.Word || list[i].kind == sqltext.QuotedName || list[i].text == "."); i++ {
		if len(parts) > 0 && words[strings.ToUpper(list[i].text)] {
			break
		}
		parts = append(parts, list[i].text)
	}
	if i < len(list) && list[i].text == "(" {
		for i < len(list) && list[i].text != ")" {
			i++
		}
		i++
	}
	for i+1 < len(list) && list[i].text == "[" && list[i+1].text == "]" {
		i += 2
	}
	return i, strings.Join(parts, " ")
}

// arrayOf reads (ARRAY[…]), perhaps with a cast, and returns its items as they are written in the target.
func (c *carrier) arrayOf(list []token, i int) (end int, items string, ok bool) {
	depth := 0
	for i < len(list) && list[i].text == "(" {
		depth++
		i++
	}
	if i+1 >= len(list) || !strings.EqualFold(list[i].text, "array") || list[i+1].text != "[" {
		return 0, "", false
	}
	start := i + 2
	for i = start; i < len(list) && list[i].text != "]"; i++ {
		if list[i].text == "[" {
			return 0, "", false
		}
		if list[i].text == "::" { // of an item
			next, _ := skipType(list, i+1)
			i = next - 1
		}
	}
	if i >= len(list) {
		return 0, "", false
	}
	var texts []string
	for _, t := range list[start:i] {
		texts = append(texts, t.text)
	}
	inner, problem := c.expression(strings.Join(texts, " "), false)
	if problem != "" {
		return 0, "", false
	}
	for i++; depth > 0 && i < len(list); i++ {
		switch list[i].text {
		case ")":
			depth--
		case "::":
			next, _ := skipType(list, i+1)
			i = next - 1
		default:
			return 0, "", false
		}
	}
	return i - 1, inner, depth == 0
}
