package catalogue

import (
	"strings"

	"echo-atlas/internal/core/schema"
)

// Readings and exports of before said in a sentence how one thing needs another, and gave the line. That is the only prose
// that is read, here, and nothing writes it any more.

var useOfSentence = map[string]schema.Use{
	"uses the extension": schema.UseExtends, "calls it": schema.UseCalls, "reads it": schema.UseReads, "writes it": schema.UseWrites,
	"check calls it": schema.UseCalls, "index calls it": schema.UseCalls, "trigger calls it": schema.UseCalls, "takes or returns it": schema.UseTypedBy, "is of that type": schema.UseTypedBy,
	"default takes from it": schema.UseDefaultFrom, "takes numbers from it": schema.UseNumbersFrom, "publishes it": schema.UsePublishes, "statistics on it": schema.UseStatisticsOn,
	"trigger on it": schema.UseTriggerOn, "index on it": schema.UseIndexOn, "rule on it": schema.UseStandsOn, "policy on it": schema.UseStandsOn, "sorts by it": schema.UseSortsBy, "lies on it": schema.UseLiesOn,
	"member of it": schema.UseMemberOf, "body of it": schema.UseBodyOf, "made of it": schema.UseMadeOf, "partitions by it": schema.UsePartitionsBy,
	"partition of it": schema.UsePartitionOf, "inherits from it": schema.UseInherits, "owned by it": schema.UseOwnedBy,
}

// UseOfSentence returns the use that a sentence of before tells, and the constraint that it names.
func UseOfSentence(s string) (schema.Use, string) {
	if name, ok := strings.CutPrefix(s, "foreign key"); ok {
		name = strings.TrimPrefix(name, " ")
		if len(name) > 1 && name[0] == '"' {
			name = strings.ReplaceAll(name[1:len(name)-1], `""`, `"`)
		}
		return schema.UseForeignKey, name
	}
	return useOfSentence[s], ""
}

// PartKindOf is the kind that a part was taken for when kinds were not kept.
func PartKindOf(part string) schema.Kind {
	if part == "" {
		return ""
	}
	return schema.KindColumn
}

// sentences reads the form of before needsForm.
func (r *needsReader) sentences(entries int) {
	g := r.g
	g.Ends = make([]End, r.count())
	for i := range g.Ends {
		entry, part := r.below(uint64(entries)), r.Text()
		g.Ends[i] = End{entry, part, PartKindOf(part)}
	}
	words := make([]string, r.count())
	for i := range words {
		words[i] = r.Text()
	}
	uses, constraints := make([]schema.Use, len(words)), make([]int32, len(words))
	g.texts = []string{""}
	for i, s := range words {
		var constraint string
		if uses[i], constraint = UseOfSentence(s); constraint != "" {
			constraints[i], g.texts = int32(len(g.texts)), append(g.texts, constraint)
		}
	}
	g.Edges = make([]Edge, r.count())
	for i := range g.Edges {
		e := &g.Edges[i]
		e.From, e.To, e.evidence = int32(r.below(uint64(len(g.Ends)))), int32(r.below(uint64(len(g.Ends)))), int8(r.below(uint64(len(evidences))))
		sentence, line, column := r.below(uint64(len(words))), r.below(1<<31), r.below(1<<31)
		if r.below(uint64(len(words))); r.Failed { // the text of the line
			return
		}
		e.Use, e.constraint = uses[sentence], constraints[sentence]
		if line > 0 {
			e.Field, e.Start, e.Stop = schema.FieldLine, int32(line), int32(column)
		}
	}
}
