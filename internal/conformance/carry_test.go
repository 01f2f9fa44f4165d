package conformance

import (
	"context"
	"fmt"
	"slices"
	"strings"
	"testing"

	"echo-atlas/internal/core/carry"
	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/ddl"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/demo"
	"echo-atlas/internal/testcatalogue"
	"echo-atlas/internal/testservers"
)

// What is carried over to another engine runs there, and makes the tables, columns, keys and references that were to come along.
func TestCarried(t *testing.T) {
	servers := testservers.All(t)
	tables := 0
	check := func(t *testing.T, s testservers.Server, script string) {
		c := testcatalogue.New(t)
		url := s.Database(t, script)
		before := read(t, c, s, "before", url)
		s.Drop(t, url)
		objects, err := c.Objects(context.Background(), all(before))
		if err != nil {
			t.Fatal(err)
		}
		for _, target := range servers {
			if target.Name() == s.Name() {
				continue
			}
			t.Run("to "+target.Name(), func(t *testing.T) {
				written, err := ddl.Write(context.Background(), c, s.Engine(), before, all(before), ddl.Options{For: target.Engine(), Without: []schema.Aspect{schema.Owners, schema.Grants}})
				if err != nil {
					t.Fatal(err)
				}
				defer func() {
					if t.Failed() {
						t.Log(written.Text())
					}
				}()
				copied := target.Database(t, written.Text())
				after := read(t, c, target, "after "+target.Name(), copied)
				target.Drop(t, copied)
				tables += arrived(t, c, objects, after, written.Losses)
			})
		}
	}
	eachSchema(t, check)
	t.Run("the Skerry Line", func(t *testing.T) {
		for _, name := range []string{"berths", "tides"} {
			text, err := demo.Estate(name)
			if err != nil {
				t.Fatal(err)
			}
			check(t, testservers.SQLite{}, demo.Script(text, "live"))
		}
	})
	t.Logf("%d tables", tables)
	if tables < 100 {
		t.Errorf("only %d tables were carried over", tables)
	}
}

// arrived compares tables by their parts, and returns how many there are.
func arrived(t *testing.T, c *catalogue.Catalogue, before []*schema.Object, after *catalogue.Contents, losses []carry.Loss) int {
	t.Helper()
	made, err := c.Objects(context.Background(), all(after))
	if err != nil {
		t.Fatal(err)
	}
	lost := map[string]bool{}
	for _, l := range losses {
		lost[l.Object.Name+"."+l.Part] = true
		if l.Part == "" && l.Left {
			lost[l.Object.Name] = true
		}
	}
	tables := 0
	for _, o := range before {
		if o.Kind != schema.KindTable && o.Kind != schema.KindPartitionedTable || o.Setting(schema.System) != "" || o.Setting("virtual") != "" {
			continue
		}
		tables++
		i := slices.IndexFunc(made, func(x *schema.Object) bool {
			return x.Kind == schema.KindTable && x.Name == o.Name && x.Relation != nil
		})
		if i < 0 {
			if !lost[o.Name] {
				t.Errorf("the table %s did not arrive", o.Name)
			}
			continue
		}
		now := made[i]
		if schemas := namesakes(before, o.Name); schemas > 1 { // several of one name
			continue
		}
		if a, b := columnsOf(o), columnsOf(now); a != b {
			t.Errorf("the columns of %s: %s, and now %s", o.Name, a, b)
		}
		for _, k := range o.Relation.Keys {
			if lost[o.Name+"."+k.PartKey()] || slices.ContainsFunc(k.Columns, func(p schema.KeyPart) bool { return p.Expression != "" }) {
				continue
			}
			if !slices.ContainsFunc(now.Relation.Keys, func(x schema.Key) bool { return slices.Equal(x.ColumnNames(), k.ColumnNames()) }) && !numberedBy(now, k.ColumnNames()) {
				t.Errorf("the key of %s over %v did not arrive", o.Name, k.ColumnNames())
			}
		}
		for _, f := range o.Relation.ForeignKeys {
			if !lost[o.Name+"."+f.PartKey()] && !slices.ContainsFunc(now.Relation.ForeignKeys, func(x schema.ForeignKey) bool {
				return slices.Equal(x.Columns, f.Columns) && strings.EqualFold(x.RefTable, f.RefTable)
			}) {
				t.Errorf("the foreign key of %s to %s did not arrive", o.Name, f.RefTable)
			}
		}
	}
	return tables
}

func namesakes(all []*schema.Object, name string) int {
	n := 0
	for _, o := range all {
		if o.Name == name && o.Kind.IsRelation() {
			n++
		}
	}
	return n
}

func numberedBy(o *schema.Object, columns []string) bool {
	return len(columns) == 1 && o.Relation.Column(columns[0]) != nil && o.Relation.Column(columns[0]).Identity != nil
}

// columnsOf tells the columns of a table in order, and which of them take nulls; those of keys never do.
func columnsOf(o *schema.Object) string {
	var texts []string
	for _, c := range o.Relation.Columns {
		texts = append(texts, fmt.Sprint(c.Name))
	}
	return strings.Join(texts, ", ")
}
