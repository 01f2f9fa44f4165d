package sqlserver

import (
	"context"
	"os"
	"path/filepath"
	"strings"
	"testing"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/change"
	"echo-atlas/internal/core/diff"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testcatalogue"
)

// golden compares a text with what somebody last read; ECHO_ATLAS_GOLDEN=write keeps it.
// What is set of a database is set back as it usually is, where the other says nothing of it.
func TestUsualOptions(t *testing.T) {
	for set, back := range map[string]string{
		"READ_ONLY": "READ_WRITE", "AUTO_CLOSE ON": "AUTO_CLOSE OFF", "AUTO_UPDATE_STATISTICS OFF": "AUTO_UPDATE_STATISTICS ON", "AUTO_CREATE_STATISTICS ON (INCREMENTAL = ON)": "AUTO_CREATE_STATISTICS ON", "PAGE_VERIFY NONE": "PAGE_VERIFY CHECKSUM",
		"QUERY_STORE = ON": "QUERY_STORE = OFF", "TARGET_RECOVERY_TIME = 0 SECONDS": "TARGET_RECOVERY_TIME = 60 SECONDS", "MEMORY_OPTIMIZED_ELEVATE_TO_SNAPSHOT = ON": "MEMORY_OPTIMIZED_ELEVATE_TO_SNAPSHOT = OFF", "RESTRICTED_USER": "MULTI_USER", "DISABLE_BROKER": "ENABLE_BROKER",
		"CHANGE_TRACKING = ON (CHANGE_RETENTION = 36 HOURS, AUTO_CLEANUP = OFF)": "CHANGE_TRACKING = OFF", "RECOVERY SIMPLE": "", "COMPATIBILITY_LEVEL = 130": "",
	} {
		if back != "" {
			back = "ALTER DATABASE [papers to SET down] SET " + back
		}
		if got := opposite("ALTER DATABASE [papers to SET down] SET " + set); got != back {
			t.Errorf("%s: %q, want %q", set, got, back)
		}
	}
	if got := opposite("ALTER AUTHORIZATION ON DATABASE::[papers] TO [mate]"); got != "" {
		t.Errorf("a database without an owner: %s", got)
	}
}

func golden(t *testing.T, name, text string) {
	t.Helper()
	path := filepath.Join("testdata", name)
	if os.Getenv("ECHO_ATLAS_GOLDEN") == "write" {
		if err := os.WriteFile(path, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	want, err := os.ReadFile(path)
	if err != nil {
		t.Fatal(err)
	}
	for _, l := range diff.Lines(strings.Split(string(want), "\n"), strings.Split(text, "\n")) {
		if l.Change != "" {
			t.Errorf("%s: %s %s", path, l.Change, l.Text)
		}
	}
}

func changeScript(t *testing.T, c *catalogue.Catalogue, old, now *catalogue.Contents, guard bool) string {
	t.Helper()
	ctx := context.Background()
	res, err := diff.Compare(ctx, c, old.Snapshot, now.Snapshot, diff.For(Engine{}))
	if err != nil {
		t.Fatal(err)
	}
	plan, err := change.Write(ctx, c, Engine{}, old, now, res, change.Options{NoGuard: !guard, WithLossy: true})
	if err != nil {
		t.Fatal(err)
	}
	text := plan.Text()
	for _, l := range plan.Left {
		text += "-- by hand: " + l.ID.Qualified() + ": " + l.Why.Error() + "\n"
	}
	return strings.ReplaceAll(text, "SET NOEXEC OFF\nGO\n", "")
}

// The scripts between the two variants are as they were when somebody last read them beside the documentation.
func TestChangeScript(t *testing.T) {
	s := start(t)
	c := testcatalogue.New(t)
	before, after := read(t, s, "beacons"), read(t, s, "beacons_dev")
	after.Database = before.Database
	old, now := testcatalogue.Save(t, c, catalogue.Origin{Server: "live"}, before), testcatalogue.Save(t, c, catalogue.Origin{Server: "dev"}, after)
	golden(t, "change-there.sql", changeScript(t, c, old, now, true))
	golden(t, "change-back.sql", changeScript(t, c, now, old, false))
}

// Single changes, there and back.
func TestChangesOfOneThing(t *testing.T) {
	s := start(t)
	c := testcatalogue.New(t)
	base := read(t, s, "beacons")
	old := testcatalogue.Save(t, c, catalogue.Origin{Server: "was"}, base)
	column := func(o *schema.Object, name string) *schema.Column { return o.Relation.Column(name) }
	var all strings.Builder
	for _, k := range []struct {
		name, object string
		change       func(*schema.Object)
	}{
		{"a column", "table:nav.lamp", func(o *schema.Object) {
			o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: "colour", Type: "nvarchar(20)", NotNull: true, Default: "(N'white')"})
		}},
		{"a column without a default", "table:nav.lamp", func(o *schema.Object) {
			o.Relation.Columns = append(o.Relation.Columns, schema.Column{Name: "colour", Type: "int", NotNull: true})
		}},
		{"a default whose name the server made up", "table:nav.lamp", func(o *schema.Object) { column(o, "code").Default = "('Z')" }},
		{"a wider text", "table:nav.beacon", func(o *schema.Object) { column(o, "name").Type = "nvarchar(200)" }},
		{"a narrower text", "table:nav.beacon", func(o *schema.Object) { column(o, "name").Type = "nvarchar(10)" }},
		{"an expression", "table:nav.beacon", func(o *schema.Object) { column(o, "height_ft").Generated.Expression = "([height_m]*(3.3))" }},
		{"a computed column becomes an ordinary one", "table:nav.beacon", func(o *schema.Object) {
			c := column(o, "height_ft")
			c.Generated, c.Type = nil, "float"
		}},
		{"an ordinary column becomes a computed one", "table:nav.beacon", func(o *schema.Object) {
			column(o, "remark").Generated = &schema.Generated{Expression: "([name]+N'!')"}
		}},
		{"a key of other columns", "table:nav.lamp", func(o *schema.Object) { o.Relation.Keys[0].Columns = o.Relation.Keys[0].Columns[:1] }},
		{"an identity, which cannot be altered", "table:nav.beacon", func(o *schema.Object) { column(o, "id").Identity = nil }},
		{"a foreign key that checks nothing", "table:nav.lamp", func(o *schema.Object) { o.Relation.ForeignKeys[0].NotValid = true }},
		{"no check", "table:nav.beacon", func(o *schema.Object) { o.Relation.Checks = nil }},
		{"a description of a column", "table:nav.beacon", func(o *schema.Object) { column(o, "name").Comment = "what it's called" }},
		{"a mask", "table:nav.beacon", func(o *schema.Object) {
			column(o, "remark").Settings = append(column(o, "remark").Settings, schema.Property{Name: "masked", Value: "default()"})
		}},
		{"an index of other columns", "index:nav.beacon.beacon_by_height", func(o *schema.Object) { o.Index.Columns[0].Descending = false }},
		{"a sequence that starts elsewhere", "sequence:nav.ticket", func(o *schema.Object) { o.Sequence.Start = "7" }},
		{"a sequence that does not begin again", "sequence:nav.ticket", func(o *schema.Object) { o.Sequence.Cycle = false }},
	} {
		now := *base
		now.Objects = nil
		found := false
		for _, o := range base.Objects {
			copied, err := schema.DecodeObject(schema.AppendObject(nil, o))
			if err != nil {
				t.Fatal(err)
			}
			copied.Kind, copied.Schema, copied.Name, copied.Within, copied.Signature = o.Kind, o.Schema, o.Name, o.Within, o.Signature
			if o.ID().Qualified() == k.object {
				k.change(copied)
				found = true
			}
			now.Objects = append(now.Objects, copied)
		}
		if !found {
			t.Fatalf("%s: there is no %s", k.name, k.object)
		}
		fresh := testcatalogue.Save(t, c, catalogue.Origin{Server: k.name}, &now)
		there, back := changeScript(t, c, old, fresh, false), changeScript(t, c, fresh, old, false)
		if there == "" || back == "" {
			t.Errorf("%s: nothing is changed\n%s\n%s", k.name, there, back)
		}
		all.WriteString("-- ==== " + k.name + "\n" + there + "-- ---- and back\n" + back + "\n")
	}
	golden(t, "changes.sql", all.String())
}
