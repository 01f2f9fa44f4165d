package cli

// The command ddl: a selection of one database in, a script out. A file is written beside and renamed, so that none is
// ever half.

import (
	"bufio"
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"runtime/debug"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

func (a *app) ddlCommand() *cli.Command {
	return &cli.Command{
		Name:      "ddl",
		Usage:     "a script that makes the selected objects, in an order that runs",
		ArgsUsage: "ADDRESS…",
		Description: "A table comes with its indexes, triggers, policies and rules (--bare: without).\n\nExamples:\n  echo-atlas ddl quay-live/berths\n  echo-atlas ddl 'quay-live/berths/m*' --with-needs --out moorings.sql\n" +
			"  echo-atlas ddl quay-live/berths --kind table,index",
		Flags: []cli.Flag{freshFlag(), maxAgeFlag(),
			kindFlag(), withoutFlag(), bareFlag(),
			&cli.StringSliceFlag{Name: "except", Usage: "leave out what this `ADDRESS` covers"},
			&cli.BoolFlag{Name: "with-needs", Usage: "add everything that the selected objects need"},
			&cli.BoolFlag{Name: "with-dependants", Usage: "add everything that depends on the selected objects"},
			&cli.StringSliceFlag{Name: "rename", Usage: "call a schema or another database, or with owner: an owner, by another name: `OLD=NEW`; several with commas"},
			&cli.BoolFlag{Name: "drop", Usage: "statements that drop the selection, what depends on others first"},
			&cli.StringFlag{Name: "out", Usage: "write to this `FILE` instead of stdout"},
		},
		Action: a.ddl,
	}
}

func (a *app) ddl(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	if cmd.Args().Len() == 0 {
		return usagef("ddl takes the ADDRESS of what to write; see: %s --help", cmd.FullName())
	}
	without, err := aspects(cmd)
	if err != nil {
		return err
	}
	var renames ddl.Renames
	for _, v := range values(cmd, "rename") {
		if err := renames.ParseRename(v); err != nil {
			return usagef("--rename: %v", err)
		}
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	contents, entries, named, err := a.select1(ctx, r, cmd)
	if err != nil {
		return err
	}
	e, err := a.Engines.Named(contents.Snapshot.Engine)
	if err != nil {
		return err
	}
	debug.SetGCPercent(70) // a large script makes much garbage
	script, err := ddl.Write(ctx, c, e, contents, entries, ddl.Options{
		WithNeeds: cmd.Bool("with-needs"), WithDependants: cmd.Bool("with-dependants"), Without: without, Rename: renames, Drop: cmd.Bool("drop"),
	})
	if err != nil {
		return scriptError(err)
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{contents.Snapshot}, Kinds: scriptKinds(entries, named), Objects: named})
	if err != nil {
		return err
	}
	if a.as == "json" {
		return a.ddlJSON(script, unseen)
	}
	heading := a.scriptHeading(script, cmd.Bool("drop"), unseen)
	if out := cmd.String("out"); out != "" {
		if err := writeScript(out, heading, script); err != nil {
			return err
		}
		fmt.Fprintf(a.Stderr, "wrote %s: %s in %s\n", render.Visible(out), render.Plural(script.Objects, "object", "objects"),
			render.Plural(len(script.Statements), "statement", "statements"))
		return nil
	}
	if isTerminal(a.Stdout) {
		var text strings.Builder
		refused, err := writeStatements(script, &text)
		a.printf("%s", render.VisibleLines(heading+text.String()))
		return cmp.Or(err, refused)
	}
	w := bufio.NewWriterSize(a.Stdout, 1<<16)
	if _, err := w.WriteString(heading); err != nil {
		return err
	}
	refused, err := writeStatements(script, w)
	return cmp.Or(err, w.Flush(), refused)
}

// select1 gathers the entries of a selection; they have to be of one database. named are the objects that it names
// one by one, nil where it covers more.
func (a *app) select1(ctx context.Context, r *address.Resolver, cmd *cli.Command) (_ *catalogue.Contents, _ []*catalogue.Entry, named []string, err error) {
	wanted, err := kinds(cmd)
	if err != nil {
		return nil, nil, nil, err
	}
	matches, err := resolveAll(ctx, r, cmd.Args().Slice())
	if err != nil {
		return nil, nil, nil, err
	}
	except, err := resolveAll(ctx, r, values(cmd, "except"))
	if err != nil {
		return nil, nil, nil, err
	}
	sets := selection.Gather(matches)
	first := sets[0]
	if len(sets) > 1 {
		return nil, nil, nil, usagef("a script is for one database, and the selection lies in %s and %s; put a server and database in front of each ADDRESS",
			first.Contents.Snapshot.Location(), sets[1].Contents.Snapshot.Location())
	}
	for i := range first.Parts {
		m := &first.Parts[i]
		return nil, nil, nil, usagef("%s is a part; name its object %s", m.Location(), first.Contents.Snapshot.Locate(m.Entry.ID, "", ""))
	}
	if !cmd.Bool("bare") {
		first.AddAttached()
	}
	out := selection.Gather(except)
	entries := slices.DeleteFunc(selection.Kinds(first.Entries(), wanted), func(e *catalogue.Entry) bool {
		return slices.ContainsFunc(out, func(s *selection.Set) bool { return s.Covers(e.ID) })
	})
	if len(entries) == 0 {
		return nil, nil, nil, usagef("nothing is left of the selection: --kind or --except leave all of it out")
	}
	return first.Contents, entries, namedObjects(sets), nil
}

// scriptError gives a wrong renaming the exit code of wrong usage.
func scriptError(err error) error {
	var rename *ddl.RenameError
	if errors.As(err, &rename) {
		return usagef("--rename: %v", err)
	}
	return err
}

// scriptKinds returns the kinds of which something may be missing in a script: of tables that are named, those that
// stand on them too.
func scriptKinds(entries []*catalogue.Entry, named []string) []schema.Kind {
	if named == nil {
		return nil
	}
	kinds := []schema.Kind{schema.KindTable}
	for _, e := range entries {
		if e.ID.Kind.IsRelation() {
			kinds = append(kinds, schema.KindIndex, schema.KindTrigger, schema.KindRule, schema.KindPolicy)
		}
		kinds = append(kinds, e.ID.Kind)
	}
	slices.Sort(kinds)
	return slices.Compact(kinds)
}

func (a *app) ddlJSON(s *ddl.Script, unseen []gaps.Gap) error {
	type statement struct {
		Address string      `json:"address"`
		Kind    schema.Kind `json:"kind"`
		Text    string      `json:"text"`
	}
	list := []statement{}
	for _, st := range s.Statements {
		id := st.Subject
		if id.Kind == schema.KindForeignKey { // stands apart from its table
			id.Kind, id.Signature = schema.KindTable, ""
		}
		list = append(list, statement{s.Snapshot.Locate(id, "", "").String(), st.Subject.Kind, st.Text()})
	}
	var assumed []schema.Location
	for _, id := range s.Assumed {
		assumed = append(assumed, s.Snapshot.Locate(id, "", ""))
	}
	return render.JSON(a.Stdout, map[string]any{"statements": list, "assumed": addresses(assumed), "unseen": a.unseenJSON(unseen), "sources": a.sources([]*catalogue.Snapshot{s.Snapshot})})
}

const scriptMark = "-- Echo Atlas: "

// scriptHeading says in comments what a script is made of. Names in it are made visible, so that none
// can end the comment.
func (a *app) scriptHeading(s *ddl.Script, drop bool, unseen []gaps.Gap) string {
	var b strings.Builder
	fmt.Fprintf(&b, "%s%s of %s\n-- %s, read %s UTC\n", scriptMark, render.Plural(s.Objects, "object", "objects"),
		render.Visible(s.Snapshot.Location().String()), render.Visible(strings.Trim(s.Snapshot.Version+", "+s.Snapshot.Environment, ", ")),
		s.Snapshot.Taken.Format("2006-01-02 15:04"))
	list := func(what string, ids []schema.ID) {
		const most = 20
		if len(ids) == 0 {
			return
		}
		fmt.Fprintf(&b, "-- %s:\n", what)
		for i, id := range ids {
			if i == most {
				fmt.Fprintf(&b, "--   and %d more\n", len(ids)-most)
				break
			}
			fmt.Fprintf(&b, "--   %s\n", render.Visible(string(id.Kind)+" "+id.String()))
		}
	}
	var added []schema.ID
	for _, e := range s.Added {
		added = append(added, e.ID)
	}
	list("added to the selection", added)
	if len(unseen) > 0 {
		b.WriteString("-- not seen when it was read, and so not in the script:\n")
		for _, line := range a.gapLines(unseen) {
			fmt.Fprintf(&b, "--   %s\n", line)
		}
	}
	if drop {
		list("not part of the script, and in its way: these depend on what is dropped", s.Assumed)
		b.WriteString("\n")
		return b.String()
	}
	list("needed and not part of the script; the database has to hold them already", s.Assumed)
	b.WriteString("\n")
	return b.String()
}

// writeScript writes a script; a file that is there is replaced only if it is a script of ours.
func writeScript(path, heading string, script *ddl.Script) (err error) {
	var refused error
	err = writeTo(path, func(w io.Writer) error {
		buffered := bufio.NewWriterSize(w, 1<<16)
		if _, err := buffered.WriteString(heading); err != nil {
			return err
		}
		if refused, err = writeStatements(script, buffered); err != nil {
			return err
		}
		return buffered.Flush()
	}, func(first string) bool { return strings.HasPrefix(first, scriptMark) })
	return cmp.Or(err, refused)
}

// writeStatements writes a script, and returns apart what it had to leave out.
func writeStatements(script *ddl.Script, w ddl.StringWriter) (refused, err error) {
	err = script.WriteTo(w)
	var left *ddl.RefusedError
	if errors.As(err, &left) {
		return err, nil
	}
	return nil, err
}

// beginningOf returns the first bytes of a file, "" where it cannot be read.
func beginningOf(path string) string {
	f, err := os.Open(path)
	if err != nil {
		return ""
	}
	defer f.Close()
	beginning := make([]byte, 512)
	n, _ := io.ReadFull(f, beginning)
	return string(beginning[:n])
}

// writeWhole is writeTo for a text.
func writeWhole(path string, text []byte, ours func(first string) bool) error {
	return writeTo(path, func(w io.Writer) error {
		_, err := w.Write(text)
		return err
	}, ours)
}

// writeTo writes a file as a whole or not at all. A file that is there is replaced only if its
// beginning says that it is ours.
func writeTo(path string, write func(io.Writer) error, ours func(first string) bool) (err error) {
	if st, err := os.Stat(path); err == nil {
		switch {
		case st.IsDir():
			return usagef("%s is a folder; name a file", path)
		case !st.Mode().IsRegular(): // /dev/stdout, a pipe
			f, err := os.OpenFile(path, os.O_WRONLY, 0)
			if err != nil {
				return fmt.Errorf("writing %s: %w", path, err)
			}
			return errors.Join(write(f), f.Close())
		case st.Size() > 0 && !ours(beginningOf(path)):
			return usagef("%s exists and was not written by echo-atlas; move it away or choose another name", path)
		}
	} else if !errors.Is(err, fs.ErrNotExist) {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	tmp, err := os.CreateTemp(filepath.Dir(path), ".echo-atlas-*")
	if err != nil {
		return fmt.Errorf("writing %s: %w", path, err)
	}
	defer func() {
		if err != nil {
			os.Remove(tmp.Name())
			err = fmt.Errorf("writing %s: %w", path, err)
		}
	}()
	if err = write(tmp); err != nil {
		tmp.Close()
		return err
	}
	if err = errors.Join(tmp.Chmod(0o644), tmp.Close()); err != nil {
		return err
	}
	return os.Rename(tmp.Name(), path)
}
