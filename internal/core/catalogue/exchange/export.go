// Package exchange writes snapshots as files of canonical JSON that leave the catalogue, and reads them.
package exchange

import (
	"bytes"
	"cmp"
	"context"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"echo-atlas/internal/core/catalogue"
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// header is what an exported snapshot says of itself.
type header struct {
	Format      string          `json:"format"`
	Model       int             `json:"model"`
	Server      string          `json:"server"`
	Database    string          `json:"database"`
	Engine      string          `json:"engine"`
	Version     string          `json:"version"`
	Environment string          `json:"environment,omitempty"`
	Family      string          `json:"family,omitempty"`
	Taken       time.Time       `json:"taken"` // of the first reading with this content
	Count       int             `json:"count"`
	Checksum    string          `json:"checksum,omitempty"` // of all objects
	Remarks     []schema.Remark `json:"remarks,omitempty"`
}

const (
	exportFormat    = "echo-atlas snapshot 3"
	exportFormatTwo = "echo-atlas snapshot 2" // with sentences for uses
	exportFormatOne = "echo-atlas snapshot 1" // with a hash for each object, and texts in one string
)

// exported is an object and what it needs.
type exported struct {
	Hash   string         `json:"hash,omitempty"` // of the object, in the first format
	Object *schema.Object `json:"object"`
	Needs  []exportedNeed `json:"needs,omitempty"`
}

type exportedNeed struct {
	Part       string          `json:"part,omitempty"` // of the object
	PartKind   schema.Kind     `json:"part_kind,omitempty"`
	Server     string          `json:"server,omitempty"`   // of what lies outside, as far as it is given
	Database   string          `json:"database,omitempty"` // likewise
	Outside    bool            `json:"outside,omitempty"`
	Kind       schema.Kind     `json:"kind,omitempty"`
	Schema     string          `json:"schema,omitempty"`
	Table      string          `json:"table,omitempty"`
	Name       string          `json:"name"`
	Sig        string          `json:"signature,omitempty"`
	ToPart     string          `json:"to_part,omitempty"`
	ToPartKind schema.Kind     `json:"to_part_kind,omitempty"`
	Use        string          `json:"use,omitempty"`
	Constraint string          `json:"constraint,omitempty"`
	Evidence   schema.Evidence `json:"evidence"`
	Field      string          `json:"field,omitempty"`
	Start      int             `json:"start,omitempty"` // in bytes
	Stop       int             `json:"stop,omitempty"`

	// In the formats before the third:
	Reason string `json:"reason,omitempty"`
	Line   int    `json:"line,omitempty"`
	Column int    `json:"column,omitempty"`
	Text   string `json:"text,omitempty"`
}

func exportNeed(d *schema.Dependency, outside bool) exportedNeed {
	to := d.To.ID
	return exportedNeed{Part: d.From.Part, PartKind: d.From.PartKind, Server: d.To.Outside.Server, Database: d.To.Outside.Database, Outside: outside, Kind: to.Kind, Schema: to.Schema, Table: to.Table, Name: to.Name,
		Sig: to.Signature, ToPart: d.To.Part, ToPartKind: d.To.PartKind, Use: d.Use.String(), Constraint: d.Constraint, Evidence: d.Evidence, Field: d.Field.String(), Start: d.Start, Stop: d.Stop}
}

// dependency returns what was exported of an object; ok is false where it is none that is known.
func (n *exportedNeed) dependency(of schema.ID, format string) (d schema.Dependency, ok bool) {
	d = schema.Dependency{
		From: schema.End{ID: of, Part: n.Part, PartKind: n.PartKind}, Constraint: n.Constraint, Evidence: n.Evidence,
		To: schema.End{ID: schema.ID{Kind: n.Kind, Schema: n.Schema, Table: n.Table, Name: n.Name, Signature: n.Sig}, Part: n.ToPart, PartKind: n.ToPartKind, Outside: schema.Outside{Server: n.Server, Database: n.Database}},
	}
	known := (n.Kind.Known() || n.Outside && n.Kind == "") && n.Evidence.Known()
	if format != exportFormat {
		d.Use, d.Constraint = catalogue.UseOfSentence(n.Reason)
		d.From.PartKind, d.To.PartKind = catalogue.PartKindOf(n.Part), catalogue.PartKindOf(n.ToPart)
		if n.Line > 0 {
			d.Field, d.Start, d.Stop = schema.FieldLine, n.Line, n.Column
		}
		return d, known && n.Line >= 0 && n.Column >= 0 && max(n.Line, n.Column) <= math.MaxInt32
	}
	var useKnown, fieldKnown bool
	d.Use, useKnown = schema.ParseUse(n.Use)
	d.Field, fieldKnown = schema.ParseField(n.Field)
	d.Start, d.Stop = n.Start, n.Stop
	part := func(name string, kind schema.Kind) bool { return kind == "" && name == "" || kind.IsPart() }
	return d, known && useKnown && fieldKnown && n.Start >= 0 && n.Stop >= 0 && max(n.Start, n.Stop) <= math.MaxInt32 && part(n.Part, n.PartKind) && part(n.ToPart, n.ToPartKind)
}

// document is an exported snapshot in one file.
type document struct {
	header
	Objects []exported `json:"objects"`
}

// ExportError says what is wrong with an exported snapshot, and where.
type ExportError struct{ Path, Reason string }

func (e *ExportError) Error() string {
	return fmt.Sprintf("%s is no exported snapshot that can be trusted: %s", e.Path, e.Reason)
}

// gather returns what is exported of a snapshot: the objects that are wanted, all if wanted is nil.
func gather(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot, wanted func(schema.ID) bool) (*document, error) {
	t, err := c.Contents(ctx, s)
	if err != nil {
		return nil, err
	}
	g, err := c.Needs(ctx, t)
	if err != nil {
		return nil, err
	}
	var entries []*catalogue.Entry
	at := make([]int, t.Len()) // by entry of the snapshot: its place among those that are exported, -1 for none
	for i := range t.All() {
		at[i] = -1
		if wanted == nil || wanted(t.At(i).ID) {
			at[i] = len(entries)
			entries = append(entries, t.At(i))
		}
	}
	objects, err := c.Objects(ctx, entries)
	if err != nil {
		return nil, err
	}
	taken, err := c.FirstTaken(ctx, s)
	if err != nil {
		return nil, err
	}
	d := &document{header: header{exportFormat, s.Model, s.Server, s.Database, s.Engine, s.Version, s.Environment, s.Family, taken, len(objects), checksumOf(objects), s.Remarks}, Objects: []exported{}}
	if len(objects) < t.Len() {
		d.Remarks = append(slices.Clone(d.Remarks), schema.Remark{State: "unread", Reason: fmt.Sprintf("only a part of the database was exported: %d of %d objects", len(objects), t.Len())})
	}
	for _, o := range objects {
		d.Objects = append(d.Objects, exported{Object: o})
	}
	structural := map[schema.Dependency]bool{}
	for _, dep := range schema.Structural(objects) {
		structural[dep] = true
	}
	add := func(from int32, dep schema.Dependency, outside bool) {
		if end := g.Ends[from]; at[end.Entry] >= 0 && !structural[dep] { // what follows from the objects is not said twice
			x := &d.Objects[at[end.Entry]]
			x.Needs = append(x.Needs, exportNeed(&dep, outside))
		}
	}
	for i := range g.Edges {
		add(g.Edges[i].From, g.Dependency(t, &g.Edges[i]), false)
	}
	for i := range g.Outside {
		x := &g.Outside[i]
		dep := g.Dependency(t, &x.Edge)
		dep.To = x.End
		add(x.From, dep, true)
	}
	return d, nil
}

// checksumOf returns a hash over objects, in the order of their identifiers.
func checksumOf(objects []*schema.Object) string {
	sorted := slices.Clone(objects)
	slices.SortFunc(sorted, func(a, b *schema.Object) int { return a.ID().Compare(b.ID()) })
	var all []byte
	for _, o := range sorted {
		h := schema.HashOf(schema.AppendObject(nil, o))
		all = append(all, h[:]...)
	}
	return schema.HashOf(all).String()
}

func canonical[T any](v T) ([]byte, error) {
	var b bytes.Buffer
	err := names.EncodeJSON(&b, v)
	return splitLines(b.Bytes()), err
}

// Export returns a snapshot as one file of canonical JSON: the same content has the same bytes. Of its objects those
// are exported that are wanted, all if wanted is nil.
func Export(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot, wanted func(schema.ID) bool) ([]byte, error) {
	d, err := gather(ctx, c, s, wanted)
	if err != nil {
		return nil, err
	}
	return canonical(d)
}

// headerFile is the file of a folder that holds the header.
const headerFile = "snapshot.json"

// ExportFiles returns a snapshot as files of a folder, by their paths within it: a header, and a file for
// each object. Names are safe on every file system.
func ExportFiles(ctx context.Context, c *catalogue.Catalogue, s *catalogue.Snapshot, wanted func(schema.ID) bool) (map[string][]byte, error) {
	d, err := gather(ctx, c, s, wanted)
	if err != nil {
		return nil, err
	}
	files := map[string][]byte{}
	if files[headerFile], err = canonical(d.header); err != nil {
		return nil, err
	}
	for _, x := range d.Objects {
		if files[fileName(x.Object.ID())], err = canonical(x); err != nil {
			return nil, err
		}
	}
	return files, nil
}

// IsExportName reports whether a path within a folder may be that of a file of an export: the header, or a file of an
// object in the folder of its kind.
func IsExportName(path string) bool {
	if path == headerFile {
		return true
	}
	folder, name, ok := strings.Cut(path, "/")
	_, kind := schema.ParseKind(folder)
	return ok && kind && !strings.Contains(name, "/") && strings.HasSuffix(name, ".json")
}

// SafeName returns a name as the name of a file or folder on every file system.
func SafeName(name string) string {
	return strings.TrimSuffix(strings.TrimPrefix(fileName(schema.ID{Kind: schema.KindDatabase, Name: name}), "database/"), ".json")
}

// fileName returns the path of an object within the folder: kind/schema.name.json. A name that is not
// plain in lower case carries a part of its hash, so that no two meet where case does not count.
func fileName(id schema.ID) string {
	safe := func(s string) (string, bool) {
		plain := s != "" && len(s) <= 80 && s[0] != '.'
		var b strings.Builder
		for i := 0; i < len(s) && b.Len() < 80; i++ {
			switch ch := s[i]; {
			case 'a' <= ch && ch <= 'z', '0' <= ch && ch <= '9', ch == '_', ch == '-':
				b.WriteByte(ch)
			case 'A' <= ch && ch <= 'Z':
				plain = false
				b.WriteByte(ch)
			default:
				plain = false
				fmt.Fprintf(&b, "%%%02x", ch)
			}
		}
		return b.String(), plain
	}
	var parts []string
	allPlain := id.Signature == ""
	for _, s := range []string{id.Schema, id.Table, id.Name} {
		if s != "" {
			text, plain := safe(s)
			parts, allPlain = append(parts, text), allPlain && plain
		}
	}
	name := strings.Join(parts, ".")
	if !allPlain {
		h := schema.HashOf([]byte(strings.Join([]string{id.Schema, id.Table, id.Name, id.Signature}, "\x00")))
		name += "~" + hex.EncodeToString(h[:8])
	}
	return strings.ReplaceAll(string(id.Kind), " ", "-") + "/" + name + ".json"
}

// Import reads an exported snapshot, a file or a folder. What was damaged or altered by hand is refused
// with the place.
func Import(path string) (*schema.Reading, catalogue.Origin, error) {
	st, err := os.Stat(path)
	if err != nil {
		return nil, catalogue.Origin{}, fmt.Errorf("reading an exported snapshot: %w", err)
	}
	d := &document{}
	var places []string
	if st.IsDir() {
		if places, err = readFolder(path, d); err != nil {
			return nil, catalogue.Origin{}, err
		}
	} else if err := decodeStrict(path, d); err != nil {
		return nil, catalogue.Origin{}, err
	}
	refuse := func(format string, args ...any) (*schema.Reading, catalogue.Origin, error) {
		return nil, catalogue.Origin{}, &ExportError{path, fmt.Sprintf(format, args...)}
	}
	switch {
	case d.Format != exportFormat && d.Format != exportFormatTwo && d.Format != exportFormatOne:
		return refuse("its format is %q, not %q", d.Format, exportFormat)
	case d.Model > schema.ModelVersion:
		return refuse("it was written by a later version of this program")
	case d.Count != len(d.Objects):
		return refuse("it should hold %d objects and holds %d", d.Count, len(d.Objects))
	}
	r := &schema.Reading{Model: d.Model, Engine: d.Engine, Version: d.Version, Database: d.Database, Taken: d.Taken, Remarks: d.Remarks}
	for i, x := range d.Objects {
		place := fmt.Sprintf("object %d", i+1)
		if len(places) > 0 {
			place = places[i]
		}
		if x.Object == nil {
			return refuse("%s holds no object", place)
		}
		if hash := schema.HashOf(schema.AppendObject(nil, x.Object)).String(); d.Format == exportFormatOne && hash != x.Hash {
			return refuse("%s, %s, is not what was exported (its content does not match its hash)", place, x.Object.ID().Qualified())
		}
		if err := x.Object.Validate(); err != nil {
			return refuse("%s: %v", place, err)
		}
		r.Objects = append(r.Objects, x.Object)
		for _, n := range x.Needs {
			dep, ok := n.dependency(x.Object.ID(), d.Format)
			if !ok {
				return refuse("%s: a need of kind %q, in the way %q, with the evidence %q is none that is known", place, n.Kind, cmp.Or(n.Use, n.Reason), n.Evidence)
			}
			r.Dependencies = append(r.Dependencies, dep)
		}
	}
	if d.Format != exportFormatOne && checksumOf(r.Objects) != d.Checksum {
		return refuse("it is not what was exported: its objects do not match its checksum; export it anew")
	}
	return r, catalogue.Origin{Server: d.Server, Environment: d.Environment, Family: d.Family}, nil
}

// readFolder reads an exported snapshot that is a folder, and returns where each object stands.
func readFolder(path string, d *document) (places []string, err error) {
	if err := decodeStrict(filepath.Join(path, headerFile), &d.header); err != nil {
		return nil, err
	}
	err = filepath.WalkDir(path, func(file string, e fs.DirEntry, err error) error {
		if err != nil || e.IsDir() && strings.HasPrefix(e.Name(), ".") && file != path {
			if err == nil {
				err = filepath.SkipDir
			}
			return err
		}
		if !e.IsDir() && !e.Type().IsRegular() { // a link may lead anywhere
			return nil
		}
		name, relErr := filepath.Rel(path, file)
		if name = filepath.ToSlash(name); relErr != nil || e.IsDir() || name == headerFile || !IsExportName(name) {
			return relErr
		}
		var x exported
		if err := decodeStrict(file, &x); err != nil {
			return err
		}
		if x.Object != nil && fileName(x.Object.ID()) != name {
			return &ExportError{file, "the object in it belongs into " + fileName(x.Object.ID())}
		}
		d.Objects, places = append(d.Objects, x), append(places, file)
		return nil
	})
	return places, err
}

// decodeStrict reads a JSON file; errors tell the line.
func decodeStrict[T any](path string, into *T) error {
	text, err := readRegular(path)
	if err != nil {
		return fmt.Errorf("reading an exported snapshot: %w", err)
	}
	text = joinLines(text)
	d := json.NewDecoder(bytes.NewReader(text))
	d.DisallowUnknownFields()
	err = d.Decode(into)
	names.DecodedJSON(text, into)
	if err == nil && d.More() {
		err = errors.New("something stands behind its end")
	}
	if err == nil {
		return nil
	}
	offset := d.InputOffset()
	var syntax *json.SyntaxError
	var typed *json.UnmarshalTypeError
	switch {
	case errors.As(err, &syntax):
		offset = syntax.Offset
	case errors.As(err, &typed):
		offset = typed.Offset
	case errors.Is(err, io.EOF), errors.Is(err, io.ErrUnexpectedEOF):
		offset, err = int64(len(text)), errors.New("the file ends too early")
	}
	line := 1 + bytes.Count(text[:min(int(offset), len(text))], []byte("\n"))
	return &ExportError{path, fmt.Sprintf("line %d: %v", line, err)}
}

// largestExport is how long a file of an export may be, in bytes.
const largestExport = 512 << 20

// readRegular reads a file that is one: no pipe, no device, and none that would take all memory.
func readRegular(path string) ([]byte, error) {
	st, err := os.Stat(path)
	if err != nil {
		return nil, err
	}
	if !st.Mode().IsRegular() {
		return nil, fmt.Errorf("%s is no regular file", path)
	}
	if st.Size() > largestExport {
		return nil, fmt.Errorf("%s is longer than %d MB", path, largestExport>>20)
	}
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	text, err := io.ReadAll(io.LimitReader(f, largestExport+1))
	if err == nil && len(text) > largestExport {
		err = fmt.Errorf("%s is longer than %d MB", path, largestExport>>20)
	}
	return text, err
}

// IsExport reports whether the beginning of a file is that of an export.
func IsExport(beginning string) bool {
	return strings.HasPrefix(strings.TrimLeft(strings.TrimPrefix(strings.TrimLeft(beginning, " \r\n\t"), "{"), " \r\n\t"), `"format": "echo-atlas snapshot `)
}

// OwnFile reports whether a file within a folder is one that an export wrote there: the header, or the file of an
// object that bears the name which it would get.
func OwnFile(folder, name string) bool {
	text, err := readRegular(filepath.Join(folder, filepath.FromSlash(name)))
	if err != nil {
		return false
	}
	if name == headerFile {
		return IsExport(string(text[:min(len(text), 200)]))
	}
	var x exported
	return json.Unmarshal(joinLines(text), &x) == nil && x.Object != nil && x.Object.Kind.Known() && fileName(x.Object.ID()) == name
}

// FromPath reads an exported snapshot by its path. The rest of the path, behind the file or folder, is an
// address within it. It is read once, however many addresses name it, and stays a guest of the catalogue.
func FromPath(ctx context.Context, c *catalogue.Catalogue, path string) (s *catalogue.Snapshot, rest string, err error) {
	file := path
	if after, ok := strings.CutPrefix(path, "~/"); ok {
		home, err := os.UserHomeDir()
		if err != nil {
			return nil, "", fmt.Errorf("finding the home folder: %w", err)
		}
		file = filepath.Join(home, after)
	}
	written := path
	for {
		if st, err := os.Stat(file); err == nil {
			if _, err := os.Stat(filepath.Join(file, headerFile)); st.IsDir() && err != nil {
				if file == path || written == path {
					return nil, "", fmt.Errorf("reading an exported snapshot: the folder %s holds none (no %s)", path, headerFile)
				}
				return nil, "", fmt.Errorf("reading an exported snapshot: there is no file or folder %s", path)
			}
			break
		}
		i := strings.LastIndexByte(file, '/')
		if i <= 0 {
			return nil, "", fmt.Errorf("reading an exported snapshot: there is no file or folder %s", path)
		}
		cutOff := len(file) - i
		file, written = file[:i], written[:len(written)-cutOff]
	}
	rest = strings.TrimPrefix(path[len(written):], "/")
	if s = c.Guest(written); s != nil {
		return s, rest, nil
	}
	reading, from, err := Import(file)
	if err != nil {
		return nil, "", err
	}
	from.Path = written
	s, err = c.SaveGuest(ctx, from, reading)
	return s, rest, err
}
