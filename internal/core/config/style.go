package config

// The house's style of SQL, and named ones beside it: [format] and [format.NAME].

import (
	"fmt"
	"maps"
	"slices"
	"strings"

	"github.com/pelletier/go-toml/v2"
)

// Format is a style as the configuration says it; what is not said is left to the usual one.
type Format struct {
	Keywords string `toml:"keywords"` // upper, lower, keep
	Indent   *int   `toml:"indent"`
	Width    *int   `toml:"width"`
	Commas   string `toml:"commas"`  // before, after
	Columns  string `toml:"columns"` // lines, fill
	Align    *bool  `toml:"align"`
	Quotes   string `toml:"quotes"`  // keep, needed
	Dialect  string `toml:"dialect"` // of files that format is given
}

// over returns a style with what another says in the place of what this one says.
func (f Format) over(o Format) Format {
	if o.Keywords != "" {
		f.Keywords = o.Keywords
	}
	if o.Indent != nil {
		f.Indent = o.Indent
	}
	if o.Width != nil {
		f.Width = o.Width
	}
	if o.Commas != "" {
		f.Commas = o.Commas
	}
	if o.Columns != "" {
		f.Columns = o.Columns
	}
	if o.Align != nil {
		f.Align = o.Align
	}
	if o.Quotes != "" {
		f.Quotes = o.Quotes
	}
	if o.Dialect != "" {
		f.Dialect = o.Dialect
	}
	return f
}

func (f Format) check() error {
	for _, x := range []struct {
		name, value string
		takes       []string
	}{{"keywords", f.Keywords, []string{"upper", "lower", "keep"}}, {"commas", f.Commas, []string{"before", "after"}}, {"columns", f.Columns, []string{"lines", "fill"}}, {"quotes", f.Quotes, []string{"keep", "needed"}}} {
		if x.value != "" && !slices.Contains(x.takes, x.value) {
			return fmt.Errorf("%s takes %s, not %q", x.name, strings.Join(x.takes, ", "), x.value)
		}
	}
	if f.Indent != nil && (*f.Indent < 0 || *f.Indent > 16) {
		return fmt.Errorf("indent takes 0 to 16 blanks, not %d", *f.Indent)
	}
	if f.Width != nil && (*f.Width < 20 || *f.Width > 1000) {
		return fmt.Errorf("width takes 20 to 1000 columns, not %d", *f.Width)
	}
	return nil
}

// Style returns the style of a name, on top of the house's own; "" is that. The error names those that there are.
func (c *Config) Style(name string) (Format, error) {
	if name == "" {
		return c.Formats[""], nil
	}
	f, ok := c.Formats[name]
	if !ok {
		known := slices.DeleteFunc(slices.Sorted(maps.Keys(c.Formats)), func(s string) bool { return s == "" })
		if len(known) == 0 {
			return Format{}, fmt.Errorf("the configuration has no style %q; named ones stand in [format.NAME]", name)
		}
		return Format{}, fmt.Errorf("the configuration has no style %q; it has %s", name, strings.Join(known, ", "))
	}
	return c.Formats[""].over(f), nil
}

// formats reads [format]: its own settings, and a table for each named style.
func formats(raw map[string]any) (map[string]Format, error) {
	own := map[string]any{}
	out := map[string]Format{}
	take := func(name string, table map[string]any) error {
		text, err := toml.Marshal(table)
		if err != nil {
			return err
		}
		var f Format
		d := toml.NewDecoder(strings.NewReader(string(text))).DisallowUnknownFields()
		where := "format"
		if name != "" {
			where += "." + name
		}
		if err := d.Decode(&f); err != nil {
			return fmt.Errorf("[%s]: %s", where, explain(err))
		}
		if err := f.check(); err != nil {
			return fmt.Errorf("[%s]: %w", where, err)
		}
		out[name] = f
		return nil
	}
	for _, key := range slices.Sorted(maps.Keys(raw)) {
		if table, ok := raw[key].(map[string]any); ok {
			if err := take(key, table); err != nil {
				return nil, err
			}
			continue
		}
		own[key] = raw[key]
	}
	return out, take("", own)
}
