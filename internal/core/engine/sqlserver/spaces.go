package sqlserver

// Where things lie, and what is searched as text: file groups with their files, stoplists, the options of full-text indexes, change tracking.

import (
	"errors"
	"strings"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
)

var errHiddenNumbered = errors.New("one of its numbered procedures is encrypted, or the survey's user lacks VIEW DEFINITION")

// primary is the file group that every database has.
const primary = "PRIMARY"

// fileGroup keeps a file group. The size and the place of its files are of a machine, and no property.
func (r *reader) fileGroup(row *engine.Row) {
	name := row.Text(1)
	if name == primary {
		return
	}
	text := "ALTER DATABASE CURRENT ADD FILEGROUP " + quote(name)
	switch strings.TrimSpace(row.Text(2)) {
	case "FD":
		text += " CONTAINS FILESTREAM"
	case "FX":
		text += " CONTAINS MEMORY_OPTIMIZED_DATA"
	}
	o := &schema.Object{Kind: schema.KindFileGroup, Name: name, Definition: text}
	r.groups[int(row.Int(0))] = o
	r.reading.Objects = append(r.reading.Objects, o)
	for i, words := range []string{"DEFAULT", "READ_ONLY", "AUTOGROW_ALL_FILES"} {
		if row.Truth(3 + i) {
			o.Settings = append(o.Settings, schema.Property{Name: "state " + strings.ToLower(words), Value: "yes"})
		}
	}
}

func (r *reader) file(row *engine.Row) {
	if o := r.groups[int(row.Int(0))]; o != nil {
		o.Settings = append(o.Settings, schema.Property{Name: fileNamed + row.Text(1), Value: map[bool]string{true: "folder", false: "file"}[int(row.Int(2)) == 2]})
	}
}

// fileNamed stands in front of the name of a file.
const fileNamed = "file "

// fileGroup writes a file group with its files, which lie where the server keeps the files of its databases.
func (w *writer) fileGroup() {
	o := w.Object
	w.Main(engine.Statement{Head: o.Definition, Undo: "ALTER DATABASE CURRENT REMOVE FILEGROUP " + quote(o.Name)})
	for _, p := range o.Settings {
		name, ok := strings.CutPrefix(p.Name, fileNamed)
		if !ok {
			continue
		}
		suffix := ".ndf"
		if p.Value == "folder" {
			suffix = ""
		}
		w.After("DECLARE @file nvarchar(max) = N'''' + REPLACE(CAST(SERVERPROPERTY('InstanceDefaultDataPath') AS nvarchar(260)) + DB_NAME() + " + literal("_"+name+suffix) + ", N'''', N'''''') + N'''';\nSET @file = " +
			literal("ALTER DATABASE CURRENT ADD FILE (NAME = "+quote(name)+", FILENAME = ") + " + @file + " + literal(") TO FILEGROUP "+quote(o.Name)) + ";\nEXEC (@file)")
		w.Statements[len(w.Statements)-1].Undo = "ALTER DATABASE CURRENT REMOVE FILE " + quote(name)
	}
	for _, p := range o.Settings {
		if words, ok := strings.CutPrefix(p.Name, "state "); ok {
			w.After("ALTER DATABASE CURRENT MODIFY FILEGROUP " + quote(o.Name) + " " + strings.ToUpper(words))
			w.Statements[len(w.Statements)-1].Late = words == "read_only" // nothing can be made in it afterwards
		}
	}
}

// lies notes that something lies in a file group.
func (r *reader) lies(o *schema.Object, group string) {
	for _, g := range r.groups {
		if g.Name == group {
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(o.ID()), To: schema.ObjectEnd(g.ID()), Evidence: schema.Recorded, Use: schema.UseLiesOn})
		}
	}
}

func (r *reader) stoplist(row *engine.Row) {
	if id := int(row.Int(0)); id > 0 { // the server's own has the number 0
		o := &schema.Object{Kind: schema.KindStoplist, Name: row.Text(1), Definition: "CREATE FULLTEXT STOPLIST " + quote(row.Text(1))}
		r.stoplists[id] = o
		r.reading.Objects = append(r.reading.Objects, o)
	}
}

func (r *reader) stopword(row *engine.Row) {
	if o := r.stoplists[int(row.Int(0))]; o != nil {
		o.Definition += ";\nALTER FULLTEXT STOPLIST " + quote(o.Name) + " ADD " + literal(row.Text(1)) + " LANGUAGE " + row.Text(2)
	}
}

// fullTextOptions keeps how a full-text index follows changes, and which words it leaves out: none, or other than the server's own list says.
func (r *reader) fullTextOptions(id int, row *engine.Row) {
	if tracking := row.Text(4); tracking != "AUTO" {
		r.option(id, "full text tracking", tracking)
	}
	switch {
	case row.Null(5):
		r.option(id, "full text stoplist", "off")
	case int(row.Int(5)) > 0:
		on, list := r.made[id], r.stoplists[int(row.Int(5))]
		switch {
		case list == nil:
			r.hides(id, "the stoplist of its full-text index")
		case on != nil:
			r.option(id, "full text stoplist", quote(list.Name))
			r.reading.Dependencies = append(r.reading.Dependencies, schema.Dependency{From: schema.ObjectEnd(on.ID()), To: schema.ObjectEnd(list.ID()), Evidence: schema.Recorded, Use: schema.UseLiesOn})
		}
	}
}

// fullTextOptions writes them.
func (w *writer) fullTextOptions() string {
	var options []string
	if tracking := w.Object.Setting("full text tracking"); tracking != "" {
		options = append(options, "CHANGE_TRACKING = "+tracking)
	}
	if list := w.Object.Setting("full text stoplist"); list != "" {
		if list == "off" {
			list = "OFF"
		}
		options = append(options, "STOPLIST = "+list)
	}
	if len(options) == 0 {
		return ""
	}
	return " WITH (" + strings.Join(options, ", ") + ")"
}

// changeTracking is the setting of a table whose changes are tracked: "yes", or "columns" where the columns that an update changes are, too.
const changeTracking = "change tracking"

func (r *reader) tracked(row *engine.Row) {
	if id := int(row.Int(0)); r.made[id] != nil {
		r.option(id, changeTracking, map[bool]string{true: "columns", false: "yes"}[row.Truth(1)])
	}
}

// tracking writes that changes are tracked; the database has to do so first.
func (w *writer) tracking() {
	how := w.Object.Setting(changeTracking)
	if how == "" {
		return
	}
	w.After("IF NOT EXISTS (SELECT 1 FROM sys.change_tracking_databases WHERE database_id = DB_ID())\n    ALTER DATABASE CURRENT SET CHANGE_TRACKING = ON")
	text := "ALTER TABLE " + w.Name + " ENABLE CHANGE_TRACKING"
	if how == "columns" {
		text += " WITH (TRACK_COLUMNS_UPDATED = ON)"
	}
	w.After(text)
}
