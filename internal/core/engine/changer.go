package engine

// What turns one version of an object into another, in place where the engine can, and what that costs.

import (
	"slices"
	"strings"

	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/sqltext"
)

// RiskKind is what a risk is about.
type RiskKind uint8

// The kinds of risks.
const (
	Loses    RiskKind = iota // data is lost
	MayFail                  // rows that are there may not allow it
	Rewrites                 // the table is written anew
	HoldsUp                  // others have to wait for it
	ByHand                   // somebody has to do it
	Differs                  // the outcome is not quite what was asked for
	Guessed                  // that something is to be done rests on a guess
)

var riskWords = [...]string{"loses data", "may fail on rows that are there", "rewrites the table", "holds up others", "has to be done by hand", "not quite the same", "a guess"}

// String returns the kind in words.
func (k RiskKind) String() string { return riskWords[k] }

// riskNames are what options and other programs call the kinds.
var riskNames = [...]string{"lossy", "fail", "rewrite", "lock", "manual", "differs", "guess"}

// Name returns what options and other programs call the kind.
func (k RiskKind) Name() string { return riskNames[k] }

// ParseRisk returns the kind of that name.
func ParseRisk(name string) (RiskKind, bool) {
	for i, n := range riskNames {
		if n == name {
			return RiskKind(i), true
		}
	}
	return 0, false
}

// RiskNames returns the names of all kinds.
func RiskNames() []string { return riskNames[:] }

// Risk is one thing that may go wrong with a statement, or that it costs.
type Risk struct {
	Kind RiskKind
	Text string
	// Query finds the rows that are in the way, or tells what is lost; "" for none.
	Query string
}

// Alteration is how an object becomes another version of itself.
type Alteration struct {
	// Anew says that it has to be dropped and made again: nothing else here means anything then.
	Anew bool
	// Release are statements that let go of something, and come first; then come Build, and at last Links, which refer to other
	// relations.
	Release, Build, Links []Statement
	// Spare are statements in the place of Build that lose no data, where Build does, and Lost what loses it behind them.
	Spare, Lost []Statement
	// Aside is what the old version of a type is called in the types of columns while both are there; the columns are then given the
	// new one.
	Aside string
	// Disturbs are the columns on which no definition may rest meanwhile, "" for the whole object.
	Disturbs []string
	// Indexed says that no index may rest on those columns either.
	Indexed bool
	// Keys are those, by their columns, on which no foreign key may rest meanwhile.
	Keys [][]string
}

// Changer is implemented by engines that alter what is there.
type Changer interface {
	// Change returns how an object becomes another version of itself, which has the same name; version is what the server calls
	// itself.
	Change(was, now *schema.Object, version string) (Alteration, error)
	// Unmoved returns statements that fail where objects are not as they were read, or something stands where nothing was; none
	// where the engine has no such statement.
	Unmoved(there []*schema.Object, absent []schema.ID) []Statement
}

// Followers compares the statements behind those that make two versions of an object: opposite returns what takes one back that
// the new version does not have, "" for nothing. Those that are in both are left out.
func Followers(was, now []Statement, opposite func(text string) string) []Statement {
	texts := func(list []Statement) map[string]bool {
		all := map[string]bool{}
		for i := range list {
			if list[i].Action != Make {
				all[list[i].Text()] = true
			}
		}
		return all
	}
	old, fresh := texts(was), texts(now)
	var out []Statement
	seen := map[string]bool{}
	for i := range was {
		s := &was[i]
		if s.Action == Make || fresh[s.Text()] {
			continue
		}
		if text := opposite(s.Text()); text != "" && !seen[text] {
			seen[text] = true
			out = append(out, Statement{Subject: s.Subject, Head: text, Settings: s.Settings})
		}
	}
	for i := range now {
		if s := now[i]; s.Action != Make && !old[s.Text()] {
			s.Provides, s.Wishes, s.Requires = nil, slices.Clone(s.Requires), nil
			out = append(out, s)
		}
	}
	return out
}

// SameMain reports whether the statements that make two versions are the same but for what follows them.
func SameMain(was, now []Statement) bool {
	main := func(list []Statement) string {
		var texts []string
		for i := range list {
			if list[i].Action == Make {
				texts = append(texts, list[i].Text())
			}
		}
		return strings.Join(texts, ";")
	}
	return main(was) == main(now)
}

// Pricer is implemented by engines where it costs something to make an object on a relation that is there.
type Pricer interface {
	// Price returns what may go wrong with that, and whom it holds up.
	Price(o *schema.Object) []Risk
}

// Relabeller is implemented by engines that give the names that they made up anew where a relation has another name.
type Relabeller interface {
	// Relabel gives an object the names of parts that the server makes of its name, where they were made of what it was called.
	Relabel(o *schema.Object, was string)
}

// Wrapper is implemented by engines whose scripts of changes need something around them.
type Wrapper interface {
	// Wrap returns what comes before and behind the statements, and what the engine's own client is told first.
	Wrap(all []*Statement) (first, last []*Statement, prelude string)
}

// Retitled returns a statement that makes a table with another name in the place of its own: the first name behind TABLE.
func Retitled(text, name string, quote func(string) string, rules sqltext.Rules) string {
	tokens := sqltext.Tokens(text, rules)
	for i := 1; i+1 < len(tokens); i++ {
		if !strings.EqualFold(text[tokens[i-1].Start:tokens[i-1].End], "table") {
			continue
		}
		at := i
		for at+1 < len(tokens) { // IF NOT EXISTS, and what stands in front of a dot
			word := strings.ToLower(text[tokens[at].Start:tokens[at].End])
			if tokens[at].Kind == sqltext.Word && (word == "if" || word == "not" || word == "exists") && tokens[at+1].Kind != sqltext.Symbol {
				at++
				continue
			}
			if text[tokens[at+1].Start:tokens[at+1].End] == "." {
				at += 2
				continue
			}
			break
		}
		return text[:tokens[at].Start] + quote(name) + text[tokens[at].End:]
	}
	return text
}
