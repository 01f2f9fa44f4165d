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
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/prove"
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
			&cli.BoolFlag{Name: "recreate", Usage: "drop what is there of the selection, then make it"},
			&cli.BoolFlag{Name: "if-not-exists", Usage: "make only what is not there"},
			&cli.BoolFlag{Name: "create-database", Usage: "make the database first and enter it; --rename calls it otherwise"},
			&cli.BoolFlag{Name: "no-transaction", Usage: "statements one by one, also where the engine could take them together"},
			&cli.StringFlag{Name: "for", Usage: "carry tables, keys, checks, indexes, sequences, comments and simple views over to another `ENGINE`: " + strings.Join(a.dialects(), ", ")},
			proveFlag(),
			&cli.GenericFlag{Name: "format", Usage: "lay out the statements in the house's style; --format=`all` the texts of views and routines, too, --format=NAME in a style of that name, --format=NAME,all both", Value: &optional{}},
			&cli.StringFlag{Name: "from-list", Usage: "take addresses from this `FILE`, - for stdin: one a line, or the JSON that list, find, trace and diff print"},
			&cli.StringFlag{Name: "out", Usage: "write to this `FILE` instead of stdout"},
			&cli.StringFlag{Name: "into", Usage: "write a file an object into this `FOLDER`, by schema and kind, and main.sql that runs them; several databases each into their own"},
		},
		Action: a.ddl,
	}
}

// scriptOptions reads what the script is to be.
func scriptOptions(cmd *cli.Command) (ddl.Options, error) {
	var o ddl.Options
	without, err := aspects(cmd)
	if err != nil {
		return o, err
	}
	for _, v := range values(cmd, "rename") {
		if err := o.Rename.ParseRename(v); err != nil {
			return o, usagef("--rename: %v", err)
		}
	}
	o.Without, o.WithNeeds, o.WithDependants = without, cmd.Bool("with-needs"), cmd.Bool("with-dependants")
	o.Drop, o.Recreate, o.IfAbsent, o.Together = cmd.Bool("drop"), cmd.Bool("recreate"), cmd.Bool("if-not-exists"), !cmd.Bool("no-transaction")
	o.Database = cmd.Bool("create-database")
	given := 0
	for _, name := range []string{"drop", "recreate", "if-not-exists"} {
		if cmd.Bool(name) {
			given++
		}
	}
	switch {
	case o.Database && o.Drop:
		return o, usagef("--create-database makes a database, and --drop takes things away")
	case given > 1:
		return o, usagef("choose one of --drop, --recreate and --if-not-exists")
	case cmd.String("out") != "" && cmd.String("into") != "":
		return o, usagef("--out writes one file and --into many; choose one")
	}
	return o, nil
}

func (a *app) ddl(ctx context.Context, cmd *cli.Command) error {
	if err := a.form("text", "json"); err != nil {
		return err
	}
	if cmd.Args().Len() == 0 && cmd.String("from-list") == "" {
		return usagef("ddl takes the ADDRESS of what to write; see: %s --help", cmd.FullName())
	}
	options, err := scriptOptions(cmd)
	if err != nil {
		return err
	}
	if err := a.styled(cmd, &options); err != nil {
		return err
	}
	if name := cmd.String("for"); name != "" {
		if options.For, err = a.dialectNamed("--for", name); err != nil {
			return err
		}
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	r.Ahead, r.Sparse = true, true
	chosen, named, err := a.chosen(ctx, c, r, cmd)
	if err != nil {
		return err
	}
	if into := cmd.String("into"); into != "" {
		return a.ddlInto(ctx, c, cmd, chosen, named, options, into)
	}
	if len(chosen) > 1 {
		return usagef("a script is for one database, and the selection lies in %s and %s; put a server and database in front of each ADDRESS, or write a folder with --into",
			chosen[0].contents.Snapshot.Location(), chosen[1].contents.Snapshot.Location())
	}
	script, unseen, err := a.script(ctx, c, chosen[0], named, options)
	if err != nil {
		return err
	}
	heading := a.scriptHeading(script, cmd, unseen)
	a.needed(script, options)
	var differs error
	var proof *prove.Proof
	if name, wanted := proving(cmd); wanted {
		if proof, differs = a.prove(ctx, c, chosen[0], options, name, heading); differs != nil && !isDiffer(differs) {
			return differs
		}
	}
	if a.as == "json" {
		return cmp.Or(a.ddlJSON(script, unseen, proof), differs)
	}
	if out := cmd.String("out"); out != "" {
		if err := writeScript(out, heading, script); err != nil {
			return err
		}
		fmt.Fprintf(a.Stderr, "wrote %s: %s in %s\n", render.Visible(out), render.Plural(script.Objects, "object", "objects"),
			render.Plural(len(script.Statements), "statement", "statements"))
		return differs
	}
	return cmp.Or(a.printScript(heading, script), differs)
}

// isDiffer reports whether an error says that things differ, and no more.
func isDiffer(err error) bool {
	var e *exitError
	return errors.As(err, &e) && e.code == exitDiffer
}

// styled reads how the statements are to be laid out.
func (a *app) styled(cmd *cli.Command, o *ddl.Options) error {
	given, ok := cmd.Generic("format").(*optional)
	if !ok || !given.given {
		return nil
	}
	name := ""
	for _, word := range strings.Split(given.value, ",") {
		if word == "all" {
			o.StyleAll = true
		} else if word != "" {
			name = word
		}
	}
	f, err := a.cfg.Style(name)
	if err != nil {
		return usagef("--format: %v", err)
	}
	style := styleOf(f)
	o.Style = &style
	return nil
}

// choice is what is chosen of one database.
type choice struct {
	contents *catalogue.Contents
	entries  []*catalogue.Entry
}

// script writes the script of a choice, and returns what was not seen of it.
func (a *app) script(ctx context.Context, c *catalogue.Catalogue, of choice, named []string, o ddl.Options) (*ddl.Script, []gaps.Gap, error) {
	e, err := a.Engines.Named(of.contents.Snapshot.Engine)
	if err != nil {
		return nil, nil, err
	}
	debug.SetGCPercent(70) // a large script makes much garbage
	script, err := ddl.Write(ctx, c, e, of.contents, of.entries, o)
	if err != nil {
		return nil, nil, scriptError(err)
	}
	unseen, err := a.gaps(ctx, c, gaps.Concern{Snapshots: []*catalogue.Snapshot{of.contents.Snapshot}, Kinds: scriptKinds(of.entries, named), Objects: named})
	return script, unseen, err
}

// needed says on stderr what a script needs and lacks.
func (a *app) needed(s *ddl.Script, o ddl.Options) {
	if n := len(s.Losses); n > 0 {
		left := 0
		for _, l := range s.Losses {
			if l.Left {
				left++
			}
		}
		fmt.Fprintf(a.Stderr, "carried over: %d things left out, %d otherwise (listed at the top of the script)\n", left, n-left)
	}
	if n := len(s.Assumed); n > 0 && !o.Drop {
		fmt.Fprintf(a.Stderr, "the script needs %s (listed at its top); --with-needs brings all\n", render.Plural(n, "object that is not in it", "objects that are not in it"))
	}
}

// printScript writes a script to stdout; on a terminal nothing in it can control that.
func (a *app) printScript(heading string, script *ddl.Script) error {
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

// fromList returns the addresses of --from-list.
func fromList(cmd *cli.Command) ([]string, error) {
	path := cmd.String("from-list")
	if path == "" {
		return nil, nil
	}
	read := func() ([]byte, error) { return os.ReadFile(path) }
	if path == "-" {
		read = func() ([]byte, error) { return io.ReadAll(os.Stdin) }
	}
	text, err := read()
	if err != nil {
		return nil, fmt.Errorf("reading the list: %w", err)
	}
	all, err := selection.ReadList(string(text))
	if err != nil {
		return nil, usagef("--from-list %s: %v", path, err)
	}
	return all, nil
}

// chosen gathers the entries of a selection by database, the server's own things first. named are the objects that it names
// one by one, nil where it covers more.
func (a *app) chosen(ctx context.Context, c *catalogue.Catalogue, r *address.Resolver, cmd *cli.Command) (all []choice, named []string, err error) {
	wanted, err := kinds(cmd)
	if err != nil {
		return nil, nil, err
	}
	matches, err := a.resolveAll(ctx, r, cmd.Args().Slice())
	if err != nil {
		return nil, nil, err
	}
	list, err := fromList(cmd)
	if err != nil {
		return nil, nil, err
	}
	more, err := a.resolveAll(ctx, r, list)
	if err != nil {
		return nil, nil, err
	}
	for i := range more { // of a part that is listed its object is meant
		more[i].Part, more[i].PartKind = "", ""
	}
	except, err := a.resolveAll(ctx, r, values(cmd, "except"))
	if err != nil {
		return nil, nil, err
	}
	sets := selection.Gather(append(matches, more...))
	out := selection.Gather(except)
	for _, set := range sets {
		for i := range set.Parts {
			m := &set.Parts[i]
			return nil, nil, usagef("%s is a part; name its object %s", m.Location(), set.Contents.Snapshot.Locate(m.Entry.ID, "", ""))
		}
		if !cmd.Bool("bare") {
			if err := set.AddAttached(ctx, c); err != nil {
				return nil, nil, err
			}
		}
		entries := slices.DeleteFunc(selection.Kinds(set.Entries(), wanted), func(e *catalogue.Entry) bool {
			return slices.ContainsFunc(out, func(s *selection.Set) bool { return s.Covers(e.ID) })
		})
		if len(entries) > 0 {
			all = append(all, choice{set.Contents, entries})
		}
	}
	for _, set := range sets {
		if err := set.Contents.Err(); err != nil { // what could not be loaded was not left out
			return nil, nil, err
		}
	}
	if len(all) == 0 {
		return nil, nil, usagef("nothing is left of the selection: --kind or --except leave all of it out")
	}
	slices.SortStableFunc(all, func(x, y choice) int {
		first := func(one choice) int {
			if one.contents.Snapshot.Database == engine.ServerLevel {
				return 0
			}
			return 1
		}
		return first(x) - first(y)
	})
	return all, namedObjects(sets), nil
}

// scriptError gives a wrong renaming the exit code of wrong usage.
func scriptError(err error) error {
	var rename *ddl.RenameError
	if errors.As(err, &rename) {
		return usagef("--rename: %v", err)
	}
	if errors.Is(err, ddl.ErrNoDatabases) {
		return usagef("--create-database: %v", err)
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

func (a *app) ddlJSON(s *ddl.Script, unseen []gaps.Gap, proof *prove.Proof) error {
	type statement struct {
		Address string      `json:"address"`
		Kind    schema.Kind `json:"kind"`
		Text    string      `json:"text"`
	}
	list := []statement{}
	type missing struct {
		Address string `json:"address"`
		Reason  string `json:"reason"`
	}
	left := []missing{}
	for _, st := range s.Statements {
		id := st.Subject
		if st.Unknown != nil {
			left = append(left, missing{s.Snapshot.Locate(id, "", "").String(), st.Unknown.Error()})
			continue
		}
		if id.Kind == schema.KindForeignKey { // stands apart from its table
			id.Kind, id.Signature = schema.KindTable, ""
		}
		list = append(list, statement{s.Snapshot.Locate(id, "", "").String(), st.Subject.Kind, st.Text()})
	}
	var assumed []schema.Location
	for _, id := range s.Assumed {
		assumed = append(assumed, s.Snapshot.Locate(id, "", ""))
	}
	out := map[string]any{"left_out": left, "statements": list, "assumed": addresses(assumed), "unseen": a.unseenJSON(unseen), "sources": a.sources([]*catalogue.Snapshot{s.Snapshot})}
	if len(s.Losses) > 0 {
		type loss struct {
			Address string `json:"address"`
			Part    string `json:"part,omitempty"`
			Left    bool   `json:"left_out"`
			What    string `json:"what"`
		}
		losses := []loss{}
		for _, l := range s.Losses {
			losses = append(losses, loss{s.Snapshot.Locate(l.Object, "", "").String(), l.Part, l.Left, l.What})
		}
		out["losses"] = losses
	}
	if proof != nil {
		differing := []string{}
		for _, x := range proof.Result.Objects {
			differing = append(differing, string(x.Change)+" "+x.ID.Qualified())
		}
		out["proof"] = map[string]any{"exact": proof.Exact(), "statements": proof.Statements, "missing_roles": append([]string{}, proof.Missing...), "differences": differing}
	}
	return render.JSON(a.Stdout, out)
}

const scriptMark = "-- Echo Atlas: "

// scriptHeading says in comments what a script is made of. Names in it are made visible, so that none
// can end the comment.
func (a *app) scriptHeading(s *ddl.Script, cmd *cli.Command, unseen []gaps.Gap) string {
	var b strings.Builder
	drop := cmd.Bool("drop")
	fmt.Fprintf(&b, "%s%s of %s in %s\n-- %s, read %s UTC\n-- asked for: %s\n", scriptMark, render.Plural(s.Objects, "object", "objects"),
		render.Visible(s.Snapshot.Location().String()), render.Plural(len(s.Statements), "statement", "statements"), render.Visible(strings.Trim(s.Snapshot.Version+", "+s.Snapshot.Environment, ", ")),
		s.Snapshot.Taken.Format("2006-01-02 15:04"), render.Visible(askedFor(cmd)))
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
	list("their names could not all be replaced: these run strings as SQL that may hold old ones", s.Doubtful)
	if len(s.Losses) > 0 {
		b.WriteString("-- carried over to another engine; what does not come along, or means something else there:\n")
		for _, l := range s.Losses {
			verb := "otherwise"
			if l.Left {
				verb = "left out"
			}
			what := l.Object.String()
			if l.Part != "" {
				what += "." + l.Part
			}
			fmt.Fprintf(&b, "--   %s: %s %s: %s\n", verb, l.Object.Kind, render.Visible(what), render.Visible(l.What))
		}
	}
	list("needed and not part of the script; the database has to hold them already", s.Assumed)
	list("not part of the script, and in the way of what it drops first: these depend on that", s.Obstacles)
	b.WriteString("\n")
	return b.String()
}

// askedFor returns the arguments of a script that say what is in it.
func askedFor(cmd *cli.Command) string {
	words := cmd.Args().Slice()
	if len(words) > 6 {
		words = append(words[:6:6], fmt.Sprintf("and %d more", len(words)-6))
	}
	if from := cmd.String("from-list"); from != "" {
		words = append(words, "--from-list "+from)
	}
	for _, name := range []string{"kind", "except", "without", "rename"} {
		if v := values(cmd, name); len(v) > 0 {
			words = append(words, "--"+name+" "+strings.Join(v, ","))
		}
	}
	if engine := cmd.String("for"); engine != "" {
		words = append(words, "--for "+engine)
	}
	for _, name := range []string{"bare", "with-needs", "with-dependants", "drop", "recreate", "if-not-exists", "create-database", "no-transaction"} {
		if cmd.Bool(name) {
			words = append(words, "--"+name)
		}
	}
	return strings.Join(words, " ")
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
