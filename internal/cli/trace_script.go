package cli

// trace --if renamed=NEW --out FILE writes the script of the renaming: the statement itself, every text that has to follow,
// and as comments what people have to look at.

import (
	"context"
	"fmt"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/rename"
)

// unsureWords say why people have to look at a place.
var unsureWords = map[rename.Reason]string{
	rename.InString: "stands in a string that is run as SQL, or may mean something else", rename.Joins: "joins by the name of the column",
	rename.Captured: "would mean something else with the new name", rename.Unclear: "may be it",
	rename.NotSeen: "runs SQL that cannot be seen here", rename.Elsewhere: "stands for it under another name", rename.NoStatement: "mentions it, and has to be made anew",
}

// renaming reads what --if gives something for a name, or for a schema.
func renaming(cmd *cli.Command, m *address.Match) engine.Renaming {
	name, value, _ := strings.Cut(cmd.String("if"), "=")
	r := engine.Renaming{Column: m.Part, Name: value}
	if name == string(engine.Moved) {
		r.Name, r.Schema = m.Entry.ID.Name, value
	}
	return r
}

// renameScript writes the script to the file that --out names, and says so.
func (a *app) renameScript(ctx context.Context, cmd *cli.Command, c *catalogue.Catalogue, m *address.Match, p *predicted) error {
	if p.taken != "" {
		return usagef("%s is there already; choose another name", p.taken)
	}
	p.scripted = true
	e, err := a.Engines.Named(m.Contents.Snapshot.Engine)
	if err != nil {
		return err
	}
	plan, err := rename.Write(ctx, c, e, m, renaming(cmd, m))
	if err != nil {
		return usagef("%s %s: %v", m.Location(), p.change, err)
	}
	heading := a.renameHeading(plan, p)
	out := cmd.String("out")
	if out == "-" {
		return a.printScript(heading, plan.Script)
	}
	if err := writeScript(out, heading, plan.Script); err != nil {
		return err
	}
	said := fmt.Sprintf("wrote %s: %s, %s edited", render.Visible(out), render.Plural(len(plan.Script.Statements), "statement", "statements"), render.Plural(len(plan.Edited), "text", "texts"))
	if n := len(plan.Unsure); n > 0 {
		said += fmt.Sprintf("; %s to look at by hand", render.Plural(n, "place", "places"))
	}
	fmt.Fprintln(a.Stderr, said)
	return nil
}

// renameHeading says in comments what a script does, and what it leaves to people.
func (a *app) renameHeading(plan *rename.Plan, p *predicted) string {
	var b strings.Builder
	s := p.Snapshot
	root := string(p.Root.PartKind)
	if root == "" {
		root = string(p.Root.ID.Kind)
	}
	fmt.Fprintf(&b, "%s%s %s, %s\n-- %s, read %s UTC\n", scriptMark, root, render.Visible(p.Root.String()), render.Visible(p.change),
		render.Visible(strings.Trim(s.Version+", "+s.Environment, ", ")), s.Taken.Format("2006-01-02 15:04"))
	if plan.Anew {
		fmt.Fprintf(&b, "-- The server has no statement that renames it: it is made anew, and the old one is dropped.\n")
	}
	if len(plan.Edited) > 0 {
		fmt.Fprintf(&b, "-- edited, because the server does not follow there:\n")
		for _, id := range plan.Edited {
			fmt.Fprintf(&b, "--   %s\n", render.Visible(string(id.Kind)+" "+id.String()))
		}
	}
	section := func(title string, left bool) {
		begun := false
		for _, u := range plan.Unsure {
			if u.Left != left {
				continue
			}
			if !begun {
				b.WriteString("-- " + title + ":\n")
				begun = true
			}
			where := ""
			if u.Line > 0 {
				where = fmt.Sprintf(", line %d", u.Line)
			}
			fmt.Fprintf(&b, "--   %s %s%s: %s\n", u.Object.Kind, render.Visible(u.Object.String()), where, unsureWords[u.Reason])
			if u.Text != "" {
				fmt.Fprintf(&b, "--     %s\n", render.Visible(u.Text))
			}
		}
	}
	section("not edited; edit these by hand", true)
	section("look at these lines, too", false)
	if len(p.foreign) > 0 {
		b.WriteString("-- in other databases, which this script does not touch:\n")
		for _, f := range p.foreign {
			fmt.Fprintf(&b, "--   %s %s\n", f.Dependency.From.ID.Kind, render.Visible(f.Snapshot.Locate(f.Dependency.From.ID, "", "").String()))
		}
	}
	b.WriteString("\n")
	return b.String()
}

// wantsScript reports whether a script is asked for, and whether that can be.
func wantsScript(cmd *cli.Command, what engine.Change) (bool, error) {
	if cmd.String("out") == "" {
		return false, nil
	}
	if what != engine.Renamed && what != engine.Moved {
		return false, usagef("--out writes the script of --if renamed=NEW or moved=SCHEMA; for what is dropped see: echo-atlas ddl ADDRESS --drop")
	}
	return true, nil
}
