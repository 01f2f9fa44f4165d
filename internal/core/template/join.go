package template

// Tables are joined along the shortest chain of foreign keys, found breadth first.

import (
	"context"
	"fmt"
	"slices"
	"strings"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

// Join is one way to join tables.
type Join struct {
	Text    string
	Guessed bool // some link is none that the server knows
}

// link joins two tables, by their places among the entries.
type link struct {
	from, to int // from holds the foreign key
	name     string
	guessed  [2]string // the columns of a link that is none of the server's
}

// step is a link as it is walked.
type step struct {
	link
	table int // that it leads to
}

// most is how many ways are shown where several are equally short.
const most = 5

// Joins returns the shortest chains of foreign keys that join the tables in their order, each found from
// those before it. Where no chain is declared, a likely link by name and type is taken, and said.
func Joins(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, tables []*catalogue.Entry) ([]Join, error) {
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	at := map[schema.ID]int{}
	for i := range t.All() {
		at[t.At(i).ID] = i
	}
	adjacent := map[int][]step{}
	seen := map[link]bool{}
	for i := range g.Edges {
		edge := &g.Edges[i]
		if edge.Use != schema.UseForeignKey {
			continue
		}
		l := link{from: g.Ends[edge.From].Entry, to: g.Ends[edge.To].Entry, name: g.Constraint(edge)}
		if l.from != l.to && !seen[l] {
			seen[l] = true
			adjacent[l.from] = append(adjacent[l.from], step{l, l.to})
			adjacent[l.to] = append(adjacent[l.to], step{l, l.from})
		}
	}
	ways := [][]step{nil}
	joined := [][]int{{at[tables[0].ID]}}
	for _, table := range tables[1:] {
		goal := at[table.ID]
		var nextWays [][]step
		var nextJoined [][]int
		for i, way := range ways {
			if slices.Contains(joined[i], goal) {
				nextWays, nextJoined = append(nextWays, way), append(nextJoined, joined[i])
				continue
			}
			for _, more := range shortest(adjacent, joined[i], goal) {
				tables := slices.Clone(joined[i])
				for _, s := range more {
					tables = append(tables, s.table)
				}
				nextWays, nextJoined = append(nextWays, append(slices.Clone(way), more...)), append(nextJoined, tables)
			}
		}
		if len(nextWays) == 0 { // guess a link between the two
			l, err := guess(ctx, c, t, joined[0], goal)
			if err != nil {
				return nil, err
			}
			if l == nil {
				return nil, fmt.Errorf("no chain of foreign keys joins %s with %s, and no column of one is called like the key of the other", table.ID.Qualified(), tables[0].ID.Qualified())
			}
			nextWays, nextJoined = [][]step{append(slices.Clone(ways[0]), *l)}, [][]int{append(slices.Clone(joined[0]), goal)}
		}
		ways, joined = nextWays[:min(most, len(nextWays))], nextJoined[:min(most, len(nextWays))]
	}
	var all []Join
	for i, way := range ways {
		j, err := write(ctx, c, e, t, joined[i], way)
		if err != nil {
			return nil, err
		}
		if !slices.Contains(all, j) {
			all = append(all, j)
		}
	}
	return all, nil
}

// shortest returns the shortest ways from any of the tables to a goal, breadth first.
func shortest(adjacent map[int][]step, from []int, goal int) [][]step {
	type path struct {
		steps []step
		last  int
	}
	var front []path
	distance := map[int]int{}
	for _, f := range from {
		front = append(front, path{nil, f})
		distance[f] = 0
	}
	for depth := 1; len(front) > 0; depth++ {
		var found [][]step
		var next []path
		for _, p := range front {
			for _, s := range adjacent[p.last] {
				if d, known := distance[s.table]; known && d < depth {
					continue
				}
				distance[s.table] = depth
				steps := append(slices.Clone(p.steps), s)
				if s.table == goal {
					found = append(found, steps)
				} else if len(next) < 10_000 {
					next = append(next, path{steps, s.table})
				}
			}
		}
		if len(found) > 0 {
			return found[:min(most, len(found))]
		}
		front = next
	}
	return nil
}

// guess looks for a column that is called like the key of the other table, and is of its type.
func guess(ctx context.Context, c *catalogue.Catalogue, t *catalogue.Contents, joined []int, goal int) (*step, error) {
	objects := map[int]*schema.Object{}
	for _, i := range append(slices.Clone(joined), goal) {
		o, err := c.Object(ctx, t.At(i))
		if err != nil {
			return nil, err
		}
		objects[i] = o
	}
	try := func(holder, keyed int) *step {
		names := key(objects[keyed].Relation)
		if len(names) != 1 {
			return nil
		}
		k := objects[keyed].Relation.Column(names[0])
		table := strings.ToLower(objects[keyed].Name)
		for _, c := range objects[holder].Relation.Columns {
			switch name := strings.ToLower(c.Name); {
			case c.Type != k.Type:
			case name == strings.ToLower(k.Name) && name != "id", name == table+"_"+strings.ToLower(k.Name), name == table+strings.ToLower(k.Name), name == table+"_no", name == table:
				return &step{link{from: holder, to: keyed, guessed: [2]string{c.Name, k.Name}}, goal}
			}
		}
		return nil
	}
	for _, i := range joined {
		if objects[i].Relation == nil || objects[goal].Relation == nil {
			continue
		}
		if s := try(i, goal); s != nil {
			return s, nil
		}
		if s := try(goal, i); s != nil {
			return s, nil
		}
	}
	return nil, nil
}

// write makes the statement of a way.
func write(ctx context.Context, c *catalogue.Catalogue, e engine.Engine, t *catalogue.Contents, tables []int, way []step) (Join, error) {
	alias := map[int]string{}
	taken := map[string]bool{}
	for _, i := range tables {
		letter := "t"
		for _, r := range strings.ToLower(t.At(i).ID.Name) {
			if 'a' <= r && r <= 'z' {
				letter = string(r)
				break
			}
		}
		name := letter
		for n := 2; taken[name]; n++ {
			name = fmt.Sprintf("%s%d", letter, n)
		}
		taken[name], alias[i] = true, name
	}
	name := func(i int) string {
		id := t.At(i).ID
		return qualified(e, id.Schema, id.Name) + " " + alias[i]
	}
	var j Join
	var b strings.Builder
	b.WriteString("SELECT *\nFROM " + name(tables[0]))
	for n, s := range way {
		var pairs []string
		if s.guessed[0] != "" {
			j.Guessed = true
			pairs = append(pairs, alias[s.from]+"."+e.Quote(s.guessed[0])+" = "+alias[s.to]+"."+e.Quote(s.guessed[1])+" /* guessed by name and type */")
		} else {
			o, err := c.Object(ctx, t.At(s.from))
			if err != nil {
				return Join{}, err
			}
			to := t.At(s.to).ID
			for _, f := range o.Relation.ForeignKeys {
				if f.RefTable == to.Name && f.RefSchema == to.Schema && (s.name == "" || f.Name == s.name) && len(f.RefColumns) == len(f.Columns) {
					for k := range f.Columns {
						pairs = append(pairs, alias[s.from]+"."+e.Quote(f.Columns[k])+" = "+alias[s.to]+"."+e.Quote(f.RefColumns[k]))
					}
					break
				}
			}
			if len(pairs) == 0 {
				return Join{}, fmt.Errorf("the columns of the foreign key of %s to %s are not known", o.ID().Qualified(), to.Qualified())
			}
		}
		b.WriteString("\nJOIN " + name(tables[n+1]) + " ON " + strings.Join(pairs, " AND "))
	}
	j.Text = b.String()
	return j, nil
}
