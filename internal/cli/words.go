package cli

// Dependencies are typed; the sentences about them are made here.

import (
	"echo-atlas/internal/core/names"
	"echo-atlas/internal/core/schema"
)

// useWords are the sentences for the uses that read the same from every kind of object.
var useWords = map[schema.Use]string{
	schema.UseAny: "uses it", schema.UseReads: "reads it", schema.UseWrites: "writes it", schema.UseCalls: "calls it", schema.UseTypedBy: "is of that type", schema.UseForeignKey: "foreign key",
	schema.UseIndexOn: "index on it", schema.UseTriggerOn: "trigger on it", schema.UseStatisticsOn: "statistics on it", schema.UseOwnedBy: "owned by it", schema.UsePartitionOf: "partition of it",
	schema.UseInherits: "inherits from it", schema.UseMemberOf: "member of it", schema.UseNumbersFrom: "takes numbers from it", schema.UseDefaultFrom: "default takes from it",
	schema.UseBodyOf: "body of it", schema.UseSortsBy: "sorts by it", schema.UseLiesOn: "lies on it", schema.UsePartitionsBy: "partitions by it", schema.UseMadeOf: "made of it",
	schema.UseExtends: "uses the extension", schema.UsePublishes: "publishes it", schema.UseStandsFor: "stands for it", schema.UseRunsUnseen: "runs SQL that cannot be seen here", schema.UsePairsWith: "pairs with it",
}

// sentence says in a few words how one end of a dependency needs the other.
func sentence(d *schema.Dependency) string {
	kind := d.From.ID.Kind
	switch d.Use {
	case schema.UseForeignKey:
		if d.Constraint != "" {
			return "foreign key " + names.Quote(d.Constraint)
		}
	case schema.UseStandsOn:
		return string(kind) + " on it"
	case schema.UseCalls:
		switch {
		case d.From.PartKind == schema.KindCheck, kind == schema.KindDomain:
			return "check calls it"
		case kind == schema.KindIndex, kind == schema.KindTrigger, kind == schema.KindEventTrigger:
			return map[schema.Kind]string{schema.KindIndex: "index", schema.KindTrigger: "trigger", schema.KindEventTrigger: "trigger"}[kind] + " calls it"
		}
	case schema.UseTypedBy:
		if kind.IsRoutine() {
			return "takes or returns it"
		}
	}
	return useWords[d.Use]
}
