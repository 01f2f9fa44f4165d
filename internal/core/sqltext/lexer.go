package sqltext

// One lexer for all dialects, driven by their rules; it never fails, and every byte belongs to a token or to the blanks
// between.

import (
	"strings"
	"unicode/utf8"
)

// TokenKind tells what a token is.
type TokenKind uint8

// The kinds of tokens.
const (
	End         TokenKind = iota // the end of the text
	Word                         // a keyword or a name without quotes
	QuotedName                   // a name in the dialect's quotes
	String                       // a string literal
	Number                       // a numeric literal
	Symbol                       // an operator or punctuation character
	Placeholder                  // ?, $1, :name, @name
	Comment                      // a comment; only from a Lexer that keeps them
	Broken                       // a string, name or comment that is not closed
)

// Token is a token and its place, in bytes, in the text.
type Token struct {
	Kind       TokenKind
	Start, End int
}

// Lexer cuts a text into tokens. The zero value with Text and Rules set is ready.
type Lexer struct {
	Text         string
	Rules        Rules
	KeepComments bool
	pos          int
}

// Tokens returns all tokens of a text but comments, without the one that marks the end.
func Tokens(text string, rules Rules) []Token {
	l := Lexer{Text: text, Rules: rules}
	tokens := make([]Token, 0, len(text)/6+4)
	for {
		t := l.Next()
		if t.Kind == End {
			return tokens
		}
		tokens = append(tokens, t)
	}
}

// Next returns the next token.
func (l *Lexer) Next() Token {
	for {
		t := l.scan()
		if t.Kind != Comment || l.KeepComments {
			return t
		}
	}
}

func (l *Lexer) scan() Token {
	s := l.Text
	start := l.pos
	for start < len(s) && classes[s[start]]&blank != 0 {
		start++
	}
	l.pos = start
	if start >= len(s) {
		return Token{End, start, start}
	}
	r := &l.Rules
	c := s[start]
	next := byte(0)
	if start+1 < len(s) {
		next = s[start+1]
	}
	class := classes[c]
	switch {
	case class&plain != 0 && next != '\'': // most words
		end := start + 1
		for end < len(s) && classes[s[end]]&wordPart != 0 {
			end++
		}
		return l.token(Word, end)
	case class&alone != 0, c == '.' && !isDigit(next):
		return l.token(Symbol, start+1)
	case c == '\'':
		return l.quoted(String, '\'', 0, r.BackslashEscapes)
	case c == '"' && r.DoubleQuoteStrings:
		return l.quoted(String, '"', 0, r.BackslashEscapes)
	case c == '"':
		return l.quoted(QuotedName, '"', 0, false)
	case c == '`' && r.Backticks:
		return l.quoted(QuotedName, '`', 0, false)
	case c == '[' && r.Brackets:
		return l.quoted(QuotedName, ']', 0, false)
	case c == '-' && next == '-' && (!r.DashNeedsBlank || start+2 >= len(s) || s[start+2] <= ' '),
		c == '#' && r.HashComments:
		end := strings.IndexByte(s[start:], '\n')
		if end < 0 {
			return l.token(Comment, len(s))
		}
		return l.token(Comment, start+end)
	case c == '/' && next == '*':
		return l.blockComment()
	case isDigit(c), c == '.':
		return l.number()
	case c == '$' && r.DollarQuotes && !isDigit(next):
		if t, ok := l.dollarQuoted(); ok {
			return t
		}
	case c == '?', (c == '$' || c == ':' || c == '@') && (isWordStart(next) || isDigit(next)):
		end := start + 1
		for end < len(s) && isWordPart(s[end]) {
			end++
		}
		return l.token(Placeholder, end)
	case isWordStart(c), c == '#' && r.HashNames && (isWordStart(next) || next == '#'):
		if r.EscapeStrings && (c == 'e' || c == 'E') && next == '\'' {
			return l.quoted(String, '\'', 1, true)
		}
		if next == '\'' && strings.IndexByte("xXbBnN", c) >= 0 {
			return l.quoted(String, '\'', 1, false)
		}
		end := start + 1
		for end < len(s) && (isWordPart(s[end]) || s[end] == '#' && c == '#') {
			end++
		}
		return l.token(Word, end)
	}
	if c == ':' && next == ':' {
		return l.token(Symbol, start+2)
	}
	_, size := utf8.DecodeRuneInString(s[start:])
	return l.token(Symbol, start+size)
}

// token ends the token that began at the first byte after white space at end.
func (l *Lexer) token(kind TokenKind, end int) Token {
	t := Token{kind, l.pos, end}
	l.pos = end
	return t
}

// quoted reads from the opening quote, which may have one letter in front, to the closing one; a
// doubled quote stands for itself.
func (l *Lexer) quoted(kind TokenKind, quote byte, prefix int, backslash bool) Token {
	start := l.pos
	s := l.Text
	i := start + prefix + 1
	if end := strings.IndexByte(s[i:], quote); end >= 0 && (!backslash || strings.IndexByte(s[i:i+end], '\\') < 0) {
		i += end // nothing before it has a meaning
	}
	for ; i < len(s); i++ {
		switch {
		case s[i] == '\\' && backslash:
			i++
		case s[i] == quote && i+1 < len(s) && s[i+1] == quote && (quote != ']' || l.Rules.BracketEscapes):
			i++
		case s[i] == quote:
			l.pos = i + 1
			return Token{kind, start, i + 1}
		}
	}
	l.pos = len(s)
	return Token{Broken, start, len(s)}
}

func (l *Lexer) blockComment() Token {
	depth := 1
	// A star has a meaning before or behind a slash, each of which is one half of one sign alone.
	for from, i := l.pos+2, l.pos+2; ; i++ {
		star := strings.IndexByte(l.Text[i:], '*')
		if star < 0 {
			return l.token(Broken, len(l.Text))
		}
		i += star
		switch {
		case l.Rules.NestedComments && i > from && l.Text[i-1] == '/':
			from = i + 1
			depth++
		case i+1 < len(l.Text) && l.Text[i+1] == '/':
			i++
			from = i + 1
			if depth--; depth == 0 {
				return l.token(Comment, i+1)
			}
		}
	}
}

func (l *Lexer) number() Token {
	s, i := l.Text, l.pos
	for i < len(s) && (isWordPart(s[i]) && s[i] != '$' || s[i] == '.') {
		if (s[i] == 'e' || s[i] == 'E') && i+1 < len(s) && (s[i+1] == '+' || s[i+1] == '-') && !strings.HasPrefix(s[l.pos:], "0x") {
			i++
		}
		i++
	}
	return l.token(Number, i)
}

func (l *Lexer) dollarQuoted() (Token, bool) {
	s := l.Text[l.pos:]
	i := 1
	for i < len(s) && isWordPart(s[i]) && s[i] != '$' {
		i++
	}
	if i >= len(s) || s[i] != '$' {
		return Token{}, false
	}
	tag := s[:i+1]
	end := strings.Index(s[i+1:], tag)
	if end < 0 {
		return l.token(Broken, len(l.Text)), true
	}
	return l.token(String, l.pos+i+1+end+len(tag)), true
}

// The classes of bytes.
const (
	blank     uint8 = 1 << iota
	digit           // begins a number
	wordStart       // begins a word
	wordPart        // goes on with a word
	plain           // begins a word, whatever follows but a quote
	alone           // is a symbol in every dialect, whatever follows
	folds           // is written otherwise in small letters, or may be
)

var classes = func() (table [256]uint8) {
	for i := range table {
		switch c := byte(i); {
		case c == ' ' || '\t' <= c && c <= '\r':
			table[c] = blank
		case '0' <= c && c <= '9':
			table[c] = digit | wordPart
		case 'a' <= c && c <= 'z' || c == '_':
			table[c] = wordStart | wordPart | plain
		case 'A' <= c && c <= 'Z' || c >= utf8.RuneSelf:
			table[c] = wordStart | wordPart | plain | folds
		case c == '$':
			table[c] = wordPart
		case strings.IndexByte("(),;=<>+*%!", c) >= 0:
			table[c] = alone
		}
	}
	return table
}()

func isDigit(c byte) bool { return classes[c]&digit != 0 }

func isWordStart(c byte) bool { return classes[c]&wordStart != 0 }

func isWordPart(c byte) bool { return classes[c]&wordPart != 0 }

// Unquote returns the name that a Word or QuotedName token stands for, folded as the dialect folds.
func Unquote(text string, t Token, rules Rules) string {
	return unquote(text[t.Start:t.End], t.Kind, &rules)
}

func unquote(s string, kind TokenKind, rules *Rules) string {
	if kind == QuotedName || kind == String {
		open := s[0]
		s = s[1 : len(s)-1]
		switch open {
		case '[':
			if rules.BracketEscapes {
				return strings.ReplaceAll(s, "]]", "]")
			}
			return s
		default:
			return strings.ReplaceAll(s, string(open)+string(open), string(open))
		}
	}
	if rules.FoldLower {
		return strings.ToLower(s)
	}
	return s
}

// Place returns the line and the column (in characters), both from 1, of a byte offset, and the line's
// text.
func Place(text string, offset int) (line, column int, lineText string) {
	before := text[:offset]
	line = strings.Count(before, "\n") + 1
	start := strings.LastIndexByte(before, '\n') + 1
	column = utf8.RuneCountInString(text[start:offset]) + 1
	lineText = text[start:]
	if end := strings.IndexByte(lineText, '\n'); end >= 0 {
		lineText = lineText[:end]
	}
	return line, column, strings.TrimRight(lineText, "\r")
}

// Unwrap takes off brackets that enclose an expression as a whole.
func Unwrap(expression string, rules Rules) string {
	for {
		expression = strings.TrimSpace(expression)
		tokens := Tokens(expression, rules)
		depth := 0
		for i, t := range tokens {
			switch expression[t.Start:t.End] {
			case "(":
				depth++
			case ")":
				depth--
			}
			if depth == 0 && (i < len(tokens)-1 || i == 0) {
				return expression
			}
		}
		if len(tokens) == 0 || depth != 0 {
			return expression
		}
		expression = expression[1 : len(expression)-1]
	}
}

// RenameIn puts new names of columns into an expression that speaks of one table alone; quote writes a name. A word in front of a
// bracket is a function.
func RenameIn(expression string, rules Rules, names map[string]string, quote func(string) string) string {
	tokens := Tokens(expression, rules)
	var b strings.Builder
	done := 0
	for i, t := range tokens {
		if t.Kind != Word && t.Kind != QuotedName || i+1 < len(tokens) && expression[tokens[i+1].Start] == '(' {
			continue
		}
		is := Unquote(expression, t, rules)
		for old, now := range names {
			if is == old || !rules.FoldLower && strings.EqualFold(is, old) {
				b.WriteString(expression[done:t.Start] + quote(now))
				done = t.End
				break
			}
		}
	}
	return b.String() + expression[done:]
}
