package cli

// The command change: the script that turns OLD into NEW, with what each statement costs.

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/urfave/cli/v3"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/address"
	"echo-atlas/internal/core/catalogue"
	changing "echo-atlas/internal/core/change"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/gaps"
	"echo-atlas/internal/core/prove"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/selection"
)

func (a *app) changeCommand() *cli.Command {
	return &cli.Command{
		Name:      "change",
		Usage:     "the script that turns OLD into NEW, with the risks of each statement",
		ArgsUsage: "OLD NEW [ADDRESS…]",
		Description: "OLD and NEW are databases, schemas or objects, as for diff; further addresses limit the script. Statements that lose data are\n" +
			"comments unless --with-lossy. The script first looks whether the database is still as OLD was read. Nothing is run:\n" +
			"that is for people to do.\n\nExamples:\n  echo-atlas change quay-live/berths quay-dev/berths --out release.sql\n" +
			"  echo-atlas change quay-live/berths quay-dev/berths 'mooring*' --prove\n  echo-atlas change quay-live/berths quay-dev/berths --reverse",
		Flags: append(append([]cli.Flag{freshFlag(), maxAgeFlag(), kindFlag(), withoutFlag(), bareFlag()}, compareFlags()...),
			&cli.BoolFlag{Name: "with-lossy", Usage: "write statements that lose data as statements, not as comments"},
			&cli.BoolFlag{Name: "reverse", Usage: "the way back, from NEW to OLD"},
			&cli.BoolFlag{Name: "no-look", Usage: "do not look first whether the database is as it was read"},
			&cli.BoolFlag{Name: "no-transaction", Usage: "statements one by one, also where the engine could take them together"},
			&cli.StringSliceFlag{Name: "fail-on", Usage: "exit with code 5 where a statement has this `RISK`: " + strings.Join(engine.RiskNames(), ", ") + "; several with commas"},
			&cli.GenericFlag{Name: "prove", Usage: "make OLD in a scratch database, run the script there and compare what comes of it with NEW; --prove=`NAME` chooses one of [scratch]", Value: &optional{}},
			&cli.StringFlag{Name: "out", Usage: "write to this `FILE` instead of stdout"},
		),
		Action: a.change,
	}
}

// failOn reads the risks that make the command fail.
func failOn(cmd *cli.Command) (map[engine.RiskKind]bool, error) {
	out := map[engine.RiskKind]bool{}
	for _, name := range values(cmd, "fail-on") {
		k, ok := engine.ParseRisk(name)
		if !ok {
			return nil, usagef("--fail-on: %q is no risk; there are %s", name, strings.Join(engine.RiskNames(), ", "))
		}
		out[k] = true
	}
	return out, nil
}

// planned is a script of changes with all that is said of it.
type planned struct {
	*changing.Plan
	old, now *catalogue.Snapshot
	result   *diff.Result
	brought  []schema.ID
	unseen   []gaps.Gap
}

// changeAsk is what a command line asks for.
type changeAsk struct {
	first, second string
	limits        []string
	fatal         map[engine.RiskKind]bool
	comparing     comparing
	options       changing.Options
	brought       []schema.ID
}

func (a *app) changeAsked(cmd *cli.Command) (ask changeAsk, err error) {
	if err := a.form("text", "json"); err != nil {
		return ask, err
	}
	if cmd.Args().Len() < 2 {
		return ask, usagef("change takes OLD and NEW; see: %s --help", cmd.FullName())
	}
	ask.first, ask.second, ask.limits = cmd.Args().Get(0), cmd.Args().Get(1), cmd.Args().Slice()[2:]
	if cmd.Bool("reverse") {
		ask.first, ask.second = ask.second, ask.first
	}
	if ask.fatal, err = failOn(cmd); err != nil {
		return ask, err
	}
	if ask.comparing, err = a.comparing(cmd); err != nil {
		return ask, err
	}
	if cmd.Bool("reverse") {
		for i := range ask.comparing.renames {
			r := &ask.comparing.renames[i]
			if at := strings.LastIndexByte(r.old, '.'); at >= 0 && !strings.Contains(r.now, ".") {
				r.now = r.old[:at+1] + r.now
			}
			r.old, r.now = r.now, r.old
		}
	}
	ask.options = changing.Options{Without: ask.comparing.options.Without, WithLossy: cmd.Bool("with-lossy"), NoGuard: cmd.Bool("no-look"), Together: !cmd.Bool("no-transaction")}
	return ask, nil
}

// changePair returns the two databases, and what differs between them.
func (a *app) changePair(ctx context.Context, cmd *cli.Command, c *catalogue.Catalogue, r *address.Resolver, ask *changeAsk) (pair selection.Pair, res *diff.Result, err error) {
	pairs, _, err := a.pairs(ctx, r, ask.first, ask.second, ask.comparing.databases())
	if err != nil {
		return pair, nil, err
	}
	pair = pairs[0]
	if len(pairs) > 1 {
		return pair, nil, usagef("a script is for one database, and %s has %d; name one, like %s", ask.first, len(pairs), pair.Old.Contents.Snapshot.Location())
	}
	if x, y := pair.Old.Part(), pair.New.Part(); x != nil || y != nil {
		return pair, nil, usagef("%s is a part; name its object", cmp.Or(x, y).Location())
	}
	if old, now := pair.Old.Contents.Snapshot.Engine, pair.New.Contents.Snapshot.Engine; old != now {
		return pair, nil, usagef("OLD is %s and NEW %s; a script is for one engine (ddl --for writes NEW for another)", old, now)
	}
	d := differ{a: a, r: r, limits: ask.limits, bare: cmd.Bool("bare"), asked: ask.comparing, script: true}
	d.hit = make([]bool, len(d.limits))
	if res, err = d.compare(ctx, c, pair); err != nil {
		return pair, nil, err
	}
	ask.brought = d.brought
	return pair, res, d.unused()
}

func (a *app) change(ctx context.Context, cmd *cli.Command) error {
	ask, err := a.changeAsked(cmd)
	if err != nil {
		return err
	}
	c, r, err := a.resolver(ctx, cmd)
	if err != nil {
		return err
	}
	defer c.Close()
	pair, res, err := a.changePair(ctx, cmd, c, r, &ask)
	if err != nil {
		return err
	}
	old, now := pair.Old.Contents, pair.New.Contents
	e, err := a.Engines.Named(old.Snapshot.Engine)
	if err != nil {
		return err
	}
	plan, err := changing.Write(ctx, c, e, old, now, res, ask.options)
	switch {
	case errors.Is(err, changing.ErrServerLevel), errors.Is(err, changing.ErrNoChanger):
		return usagef("%v", err)
	case err != nil:
		return err
	}
	p := planned{Plan: plan, old: old.Snapshot, now: now.Snapshot, result: res, brought: ask.brought}
	if p.unseen, err = a.gaps(ctx, c, gaps.Concern{Snapshots: catalogue.Sources(old.Snapshot, now.Snapshot), Kinds: ask.comparing.options.Kinds, Objects: namedObjects([]*selection.Set{pair.Old, pair.New})}); err != nil {
		return err
	}
	var differs error
	var proof *prove.Proof
	if name, asked := proving(cmd); asked {
		if proof, differs = a.proveChange(ctx, c, e, old, now, res, ask.options, name); differs != nil && !isDiffer(differs) {
			return differs
		}
	}
	if err := a.writeChange(cmd, &p, proof); err != nil {
		return err
	}
	if differs != nil {
		return differs
	}
	return p.fatal(ask.fatal)
}

// fatal returns an error where a statement has one of the risks.
func (p *planned) fatal(risks map[engine.RiskKind]bool) error {
	for _, kind := range slices.Sorted(maps.Keys(risks)) { // the gravest first
		for _, st := range p.Statements {
			if i := slices.IndexFunc(st.Risks, func(r engine.Risk) bool { return r.Kind == kind }); i >= 0 {
				risk := st.Risks[i]
				return &exitError{exitRisk, fmt.Errorf("--fail-on %s: %s: %s", risk.Kind.Name(), render.Visible(st.Subject.Qualified()), render.Visible(risk.Text))}
			}
		}
	}
	return nil
}

// exitRisk is the exit code where a statement has a risk that --fail-on names.
const exitRisk = 5

func (a *app) writeChange(cmd *cli.Command, p *planned, proof *prove.Proof) error {
	if a.as == "json" {
		return a.changeJSON(p, proof)
	}
	heading := a.changeHeading(p, cmd)
	if n := p.Lossy; n > 0 {
		fmt.Fprintf(a.Stderr, "%s data and %s; --with-lossy writes %s\n", render.Plural(n, "statement loses", "statements lose"), map[bool]string{true: "is a comment", false: "are comments"}[n == 1], map[bool]string{true: "it", false: "them"}[n == 1])
	}
	if n := len(p.brought); n > 0 {
		fmt.Fprintf(a.Stderr, "what was asked for brings %s along, listed at the top of the script\n", render.Plural(n, "object", "objects"))
	}
	for _, l := range p.Left {
		fmt.Fprintf(a.Stderr, "not in the script: %s: %v\n", render.Visible(l.ID.Qualified()), l.Why)
	}
	if out := cmd.String("out"); out != "" {
		if err := writeScript(out, heading, p.Script); err != nil {
			return err
		}
		fmt.Fprintf(a.Stderr, "wrote %s: %s\n", render.Visible(out), render.Plural(len(p.Statements), "statement", "statements"))
		return nil
	}
	return a.printScript(heading, p.Script)
}

// changeHeading says what a script is for, and what is to be known of it.
func (a *app) changeHeading(p *planned, cmd *cli.Command) string {
	var b strings.Builder
	where := func(s *catalogue.Snapshot) string {
		return render.Visible(s.Location().String()) + ", " + render.Visible(strings.Trim(s.Version+", "+s.Environment, ", ")) + ", read " + s.Taken.Format("2006-01-02 15:04") + " UTC"
	}
	s := p.result.Summary
	fmt.Fprintf(&b, "%schange of one database into another\n-- from: %s\n-- to:   %s\n", scriptMark, where(p.old), where(p.now))
	fmt.Fprintf(&b, "-- %d added, %d removed, %d changed, %d renamed: %s\n", s.Added, s.Removed, s.Changed, s.Renamed, render.Plural(len(p.Statements), "statement", "statements"))
	if len(p.Statements)+len(p.Left) == 0 && !s.Differs() {
		b.WriteString("-- nothing is to be done: what was compared is the same\n")
	}
	if args := cmd.Args().Slice(); len(args) > 2 {
		fmt.Fprintf(&b, "-- asked for: %s\n", render.Visible(strings.Join(args[2:], " ")))
	}
	if cmd.Bool("reverse") {
		b.WriteString("-- the way back: rows that the way there took away stay away\n")
	}
	if p.Lossy > 0 {
		fmt.Fprintf(&b, "-- %s data, and is a comment here: look for \"loses data\"\n", render.Plural(p.Lossy, "statement loses", "statements lose"))
	}
	list := func(what string, ids []schema.ID) {
		if len(ids) > 0 {
			fmt.Fprintf(&b, "-- %s:\n", what)
		}
		for i, id := range ids {
			if i == 20 {
				fmt.Fprintf(&b, "--   and %d more\n", len(ids)-i)
				break
			}
			fmt.Fprintf(&b, "--   %s\n", render.Visible(string(id.Kind)+" "+id.String()))
		}
	}
	list("brought along, because what was asked for needs it or cannot stay without it", p.brought)
	list("the same in both; in the way of a change, so dropped and made again", p.Disturbed)
	if len(p.Left) > 0 {
		b.WriteString("-- not in the script, and to be done by hand:\n")
		for _, l := range p.Left {
			fmt.Fprintf(&b, "--   %s\n", render.Visible(l.ID.Qualified()+": "+l.Why.Error()))
		}
	}
	if len(p.result.Questions) > 0 {
		b.WriteString("-- may be renamed, and is dropped and made here; if it is so, this keeps the rows:\n")
		for _, q := range p.result.Questions {
			what, option := renameOption(q)
			fmt.Fprintf(&b, "--   %s: %s\n", what, option)
		}
	}
	if len(p.unseen) > 0 {
		b.WriteString("-- not seen when it was read, and so not in the script:\n")
		for _, line := range a.gapLines(p.unseen) {
			fmt.Fprintf(&b, "--   %s\n", line)
		}
	}
	if p.Together && slices.ContainsFunc(p.Statements, func(s *engine.Statement) bool { return s.Alone && s.Subject != (schema.ID{}) }) {
		b.WriteString("-- not all in one transaction: some statements cannot be in one\n")
	}
	b.WriteString("\n")
	return b.String()
}

func (a *app) changeJSON(p *planned, proof *prove.Proof) error {
	type risk struct {
		Risk  string `json:"risk"`
		Text  string `json:"text"`
		Query string `json:"query,omitempty"`
	}
	type statement struct {
		Address string      `json:"address"`
		Kind    schema.Kind `json:"kind"`
		Text    string      `json:"text"`
		Comment bool        `json:"comment,omitempty"`
		Risks   []risk      `json:"risks"`
	}
	type left struct {
		Address string `json:"address"`
		Reason  string `json:"reason"`
	}
	statements, lefts := []statement{}, []left{}
	for _, st := range p.Statements {
		if st.Unknown != nil {
			lefts = append(lefts, left{p.old.Locate(st.Subject, "", "").String(), st.Unknown.Error()})
			continue
		}
		s := statement{Kind: st.Subject.Kind, Text: st.Text(), Comment: st.Off, Risks: []risk{}}
		if st.Subject != (schema.ID{}) {
			s.Address = p.old.Locate(st.Subject, "", "").String()
		}
		for _, r := range st.Risks {
			s.Risks = append(s.Risks, risk{r.Kind.Name(), r.Text, r.Query})
		}
		statements = append(statements, s)
	}
	for _, l := range p.Left {
		lefts = append(lefts, left{p.old.Locate(l.ID, "", "").String(), l.Why.Error()})
	}
	disturbed := located(p.old, p.Disturbed)
	out := map[string]any{"old": p.old.Location().String(), "new": p.now.Location().String(), "summary": p.result.Summary, "statements": statements, "left_out": lefts,
		"made_again": addresses(disturbed), "brought": addresses(located(p.old, p.brought)), "unseen": a.unseenJSON(p.unseen), "sources": a.sources([]*catalogue.Snapshot{p.old, p.now})}
	if proof != nil {
		p := map[string]any{"exact": proof.Exact(), "statements": proof.Statements, "rows": proof.Rows, "tables": proof.Tables}
		if proof.Unfilled != nil {
			p["without_rows"] = proof.Unfilled.Error()
		}
		out["proof"] = p
	}
	return render.JSON(a.Stdout, out)
}

// located returns where things are.
func located(s *catalogue.Snapshot, ids []schema.ID) (all []schema.Location) {
	for _, id := range ids {
		all = append(all, s.Locate(id, "", ""))
	}
	return all
}

// proveChange makes OLD in a scratch database, runs the script, and says on stderr what came of it.
func (a *app) proveChange(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, old, now *catalogue.Contents, res *diff.Result, o changing.Options, name string) (*prove.Proof, error) {
	target, err := a.scratch(e, name)
	if errors.Is(err, prove.ErrNoScratch) {
		return nil, &exitError{exitUnreadable, fmt.Errorf("not proved: %w (%s); of the script it is known that its statements stand in an order in which each finds what it needs, and nothing was run", err, e.Name())}
	}
	if err != nil {
		return nil, err
	}
	p, err := changing.Prove(ctx, changing.Job{Catalogue: c, Engine: e, Target: target, Old: old, New: now, Result: res, Options: o})
	var failed *prove.StatementError
	if errors.As(err, &failed) {
		first, _, _ := strings.Cut(failed.Text, "\n")
		return nil, &exitError{exitUnreadable, errors.New(render.VisibleLines(fmt.Sprintf("not proved: statement %d failed, about %s: %v\n  %s", failed.Number, failed.Subject.Qualified(), failed.Said, first)))}
	}
	if err != nil {
		return nil, fmt.Errorf("proving the script: %w", err)
	}
	if p.Unfilled != nil {
		first, _, _ := strings.Cut(p.Unfilled.Error(), "\n")
		fmt.Fprintf(a.Stderr, "with made-up rows the script stops, without any it runs: %s\n", render.Visible(first))
	}
	for _, l := range p.Lost {
		fmt.Fprintf(a.Stderr, "%s had %s, and has %s\n", render.Visible(l.ID.Qualified()), render.Plural(l.Had, "row", "rows"), render.Count(l.Has))
	}
	kept := ""
	if p.Rows > 0 && len(p.Lost) == 0 {
		kept = fmt.Sprintf("; the %s in %s are still there", render.Plural(p.Rows, "made-up row", "made-up rows"), render.Plural(p.Tables, "table", "tables"))
	}
	return p, a.proofSaid(p, "proved: OLD becomes NEW exactly"+kept+"; "+render.Plural(p.Statements, "statement", "statements")+" in "+p.Took.Round(10_000_000).String())
}
