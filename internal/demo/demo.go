// Package demo builds the estate of the Skerry Line, a made-up operator of harbours and island ferries,
// and knows the tour through it.
package demo

import (
	"bufio"
	"context"
	"database/sql"
	"embed"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path"
	"path/filepath"
	"slices"
	"strings"

	_ "modernc.org/sqlite" // the driver that builds the files

	"echo-atlas/internal/core/config"
	"echo-atlas/internal/standin"
)

//go:embed estate/*.sql estate/*.json estate/*.toml
var estate embed.FS

// mark is the first line of the configuration that the demo writes; a folder without it is not touched.
const mark = "# The Skerry Line: the demo estate of echo-atlas."

// Environments of the family "quay".
var environments = []string{"dev", "stage", "live"}

// Build builds the estate in a folder: database files, a configuration, and an empty catalogue. A
// folder that holds anything else is refused.
func Build(ctx context.Context, dir string) error {
	if err := clear(dir); err != nil {
		return err
	}
	var b strings.Builder
	b.WriteString(mark + "\nhome = \"catalogue\"\n")
	for _, env := range environments {
		folder := filepath.Join(dir, "quay-"+env)
		if err := os.MkdirAll(folder, 0o755); err != nil {
			return fmt.Errorf("building the demo: %w", err)
		}
		for _, name := range []string{"berths", "tides"} {
			text, err := estate.ReadFile("estate/" + name + ".sql")
			if err != nil {
				return fmt.Errorf("building the demo: %w", err)
			}
			if err := build(ctx, filepath.Join(folder, name+".db"), Script(string(text), env)); err != nil {
				return fmt.Errorf("building the demo's %s of %s: %w", name, env, err)
			}
		}
		fmt.Fprintf(&b, "\n[servers.quay-%s]\nfiles = \"quay-%s/*.db\"\nenvironment = %q\nfamily = \"quay\"\n", env, env, env)
	}
	b.WriteString("\n[selections]\ntariffs = [\"quay-live/berths/tariff\", \"quay-live/berths/invoice\"]\n\n[format]\ndialect = \"sqlite\"\nwidth = 80\n\n[notes]\nfiles = [\"notes.toml\"]\n\n[reports]\nfiles = [\"reports/*.sql\"]\n\n" +
		"[hosts] # under which servers know each other\n\"office.skerry.example\" = \"office-live\"\n\"pier.skerry.example:5432\" = \"pier-live\"\n")
	if err := os.WriteFile(filepath.Join(dir, config.FileName), []byte(b.String()), 0o644); err != nil {
		return fmt.Errorf("building the demo: %w", err)
	}
	if err := os.MkdirAll(filepath.Join(dir, "reports"), 0o755); err != nil {
		return fmt.Errorf("building the demo: %w", err)
	}
	for _, name := range append([]string{"notes.toml", "reports/crowded.sql", "reports/columns_of.sql"}, Exported...) {
		text, err := estate.ReadFile("estate/" + path.Base(name))
		if err == nil {
			err = os.WriteFile(filepath.Join(dir, filepath.FromSlash(name)), text, 0o644)
		}
		if err != nil {
			return fmt.Errorf("building the demo: %w", err)
		}
	}
	return nil
}

// Written are what the tour writes into the demo's folder.
var Written = []string{"berths.svg", "handbook"}

// Exported are the files of the demo that hold snapshots: of the office's PostgreSQL database, of the gauges of a station that is
// off the network, a month each, and of two databases that look into others.
var Exported = []string{"tariffs.json", "gauges-september.json", "gauges-october.json", "gauges-november.json", "tickets.json", "ledger.json"}

// Lights are the stand-ins of SQL Server with the beacons, by the names of their servers.
type Lights map[string]*standin.Server

// StartLights starts the stand-ins on this machine alone.
func StartLights() (Lights, error) {
	all := Lights{}
	script := ""
	for _, env := range []string{"live", "dev"} { // dev changes what is live
		text, err := standin.Fixture("beacons_" + env)
		if err != nil {
			all.Close()
			return nil, fmt.Errorf("starting the demo's lights: %w", err)
		}
		script += text
		s, err := standin.Start("surveyor", "", map[string]string{"beacons": script, "master": ""})
		if err != nil {
			all.Close()
			return nil, fmt.Errorf("starting the demo's lights: %w", err)
		}
		all["light-"+env] = s
	}
	return all, nil
}

// Close stops the stand-ins.
func (l Lights) Close() {
	for _, s := range l {
		s.Close()
	}
}

// URL returns the URL of a stand-in's beacons.
func (l Lights) URL(name string) string {
	return "sqlserver://surveyor@" + l[name].Addr() + "?database=beacons&encrypt=disable"
}

// clear makes the folder, or empties one that the demo built before.
func clear(dir string) error {
	entries, err := os.ReadDir(dir)
	if errors.Is(err, fs.ErrNotExist) {
		if err := os.MkdirAll(dir, 0o755); err != nil {
			return fmt.Errorf("building the demo: %w", err)
		}
		return nil
	}
	if err != nil {
		return fmt.Errorf("building the demo: %w", err)
	}
	if len(entries) == 0 {
		return nil
	}
	if f, err := os.Open(filepath.Join(dir, config.FileName)); err == nil {
		line, _ := bufio.NewReader(f).ReadString('\n')
		f.Close()
		if strings.TrimSpace(line) == mark {
			for _, name := range slices.Concat([]string{"catalogue", "quay-dev", "quay-stage", "quay-live", "moorings.sql", "notes.toml", "reports"}, Exported, Written) {
				if err := os.RemoveAll(filepath.Join(dir, name)); err != nil {
					return fmt.Errorf("building the demo again: %w", err)
				}
			}
			return nil
		}
	}
	return fmt.Errorf("building the demo: the folder %s is not empty; name another: echo-atlas demo DIR", dir)
}

// Script returns the lines of a script that belong to an environment.
func Script(text, environment string) string {
	var out []string
	for _, line := range strings.Split(text, "\n") {
		body, tags, marked := strings.Cut(line, " --@")
		if marked && !slices.Contains(strings.Split(tags, ","), environment) {
			continue
		}
		out = append(out, body)
	}
	return strings.Join(out, "\n")
}

func build(ctx context.Context, file, script string) error {
	db, err := sql.Open("sqlite", file)
	if err != nil {
		return err
	}
	defer db.Close()
	if _, err := db.ExecContext(ctx, "PRAGMA synchronous = off; BEGIN; "+script+"; COMMIT;"); err != nil {
		return err
	}
	return db.Close()
}

// Step is one stop of the tour: what it shows, and the arguments of the command.
type Step struct {
	Why  string
	Args []string
}

// Tour returns the steps, in order. They are typed in the demo's folder.
func Tour(lights Lights) []Step {
	return []Step{
		{"Read every object of every database into the catalogue.", []string{"survey"}},
		{"The beacons are on SQL Server; here a stand-in plays it while the tour lasts.", []string{"survey", "--from", lights.URL("light-live"), "--name", "light-live", "--environment", "live", "--family", "light"}},
		{"And as the next release will have them.", []string{"survey", "--from", lights.URL("light-dev"), "--name", "light-dev", "--environment", "dev", "--family", "light"}},
		{"The office is on PostgreSQL and cannot be reached from here; it has sent a snapshot.", []string{"snapshots", "import", Exported[0], "--name", "office-live"}},
		{"The station on the outer mole is off the network; it sends its gauges every month.", []string{"snapshots", "import", Exported[1], Exported[2], Exported[3], "--name", "outer-mole"}},
		{"The ticket office on the pier looks into the office's database, and the mainland's books into that of the pier.", []string{"snapshots", "import", Exported[4], "--name", "pier-live"}},
		{"Both have sent what they have.", []string{"snapshots", "import", Exported[5], "--name", "mainland-live"}},
		{"Which servers are there, and how old is what is known of them?", []string{"servers"}},
		{"Who knows a draught? Names on all servers, tables and columns.", []string{"find", "draught"}},
		{"The wrong database is the most common mistake; a miss says where the name is.", []string{"find", "gauge", "--in", "quay-live/berths"}},
		{"Servers of three makes in one list.", []string{"list", "light-live", "office-live", "quay-live/tides", "--kind", "table,view", "--columns", "database,kind,name,columns,key,rows,comment"}},
		{"And in one search.", []string{"find", "tariff"}},
		{"Who speaks of it in a definition?", []string{"find", "paid_on", "--text", "--environment", "live"}},
		{"The tables of one database, the most used first.", []string{"list", "quay-live/berths", "--kind", "table", "--sort", "rows"}},
		{"The way from server to object.", []string{"tree", "quay-live/tides"}},
		{"All about one table.", []string{"show", "quay-live/berths/mooring"}},
		{"What depends on it, before anybody alters it?", []string{"trace", "quay-live/berths/mooring"}},
		{"Which lines touch one of its neighbours' columns?", []string{"trace", "quay-live/berths/berth.depth_m", "--why"}},
		{"What would happen were a column dropped, and what is to be edited first?", []string{"trace", "quay-live/berths/mooring.moored_from", "--if", "dropped"}},
		{"A lamp becomes a lantern: the script of the new name, with every text that has to follow.", []string{"trace", "light-live/beacons/nav.lamp", "--if", "renamed=lantern", "--out", "-"}},
		{"A price changes in the office: who feels it, three servers on?", []string{"trace", "office-live/tariffs/billing.tariff.price"}},
		{"What does nothing use?", []string{"report", "unused", "quay-live/berths"}},
		{"Where are the environments not the same?", []string{"report", "drift", "quay-live"}},
		{"A report of your own: a query in a file, with a parameter.", []string{"report", "crowded", "quay-live", "--set", "least=7"}},
		{"A table and its neighbours, in words.", []string{"chart", "--around", "quay-live/berths/mooring", "--columns", "keys"}},
		{"And as a picture of the whole database.", []string{"chart", "quay-live/berths", "--types", "--out", "berths.svg"}},
		{"All of it as pages that open with nothing installed.", []string{"handbook", "--into", "handbook", "--title", "The Skerry Line"}},
		{"What does a view rest on?", []string{"trace", "quay-live/berths/harbour_load", "--needs"}},
		{"How do moorings join to harbours?", []string{"template", "join", "quay-live/berths/mooring", "harbour"}},
		{"A script for one view and everything that it needs, in an order that runs.", []string{"ddl", "quay-live/berths/unpaid_invoice", "--with-needs"}},
		{"A colleague wants the tariffs and all that hangs together with them, laid out in the house's style, proved before it leaves the desk.", []string{"ddl", "selection:tariffs", "quay-live/berths/invoice_line", "--with-needs", "--prove", "--format"}},
		{"The gauges for a PostgreSQL server: what does not come along is said.", []string{"ddl", "quay-live/tides", "--for", "postgres"}},
		{"What would the next release change? From live to dev.", []string{"diff", "quay-live/berths", "quay-dev/berths"}},
		{"How far is dev ahead of stage? The overview alone.", []string{"diff", "quay-stage", "quay-dev", "--summary"}},
		{"The script of the release, with what each statement costs, tried on made-up rows.", []string{"change", "quay-live/berths", "quay-dev/berths", "mooring", "pilot_roster", "--prove"}},
		{"The same for the beacons.", []string{"diff", "light-live/beacons", "light-dev/beacons"}},
		{"What a team looks at in the morning: where do the environments drift apart?", []string{"drift", "quay"}},
		{"What became of the gauges out there, month by month?", []string{"history", "outer-mole/tides"}},
		{"And how did one of its tables change?", []string{"history", "outer-mole/tides/gauge"}},
		{"A routine that makes its SQL as it runs may use anything; that is said.", []string{"trace", "light-live/beacons/nav.lamp"}},
		{"A script in the dialect of its server.", []string{"ddl", "light-live/beacons/nav.lamp", "light-live/beacons/nav.lit_count"}},
		{"Keep a reading under a name.", []string{"snapshots", "label", "quay-live/berths", "before release 5"}},
		{"The readings that are kept.", []string{"snapshots"}},
	}
}

// Estate returns the script of one of the estate's SQLite databases, with the lines of all environments.
func Estate(name string) (string, error) {
	text, err := estate.ReadFile("estate/" + name + ".sql")
	if err != nil {
		return "", fmt.Errorf("the estate has no database %s: %w", name, err)
	}
	return string(text), nil
}
