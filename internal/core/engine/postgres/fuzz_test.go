package postgres

import (
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testrows"
)

// Whatever a server sends, a row is decoded or refused, and nothing ends in a panic or in memory that does not end.
func FuzzRows(f *testing.F) {
	testrows.Fuzz(f, Engine{}, func() testrows.Decoder {
		r := newReader(&server{version: 150000}, "berths")
		var kinds []tail
		typed, next := map[schema.Kind]func(*engine.Row) error{}, 0
		for _, k := range tails(150000, true, false) {
			if k.typed != nil {
				typed[k.kind] = r.tailRows(k)
			} else {
				kinds = append(kinds, k)
			}
		}
		return testrows.Decoder{Take: map[string]func(*engine.Row) error{
			"role":          r.role,
			"member":        r.member,
			"namespace":     r.namespace,
			"opclass":       r.opclass,
			"collation":     r.collation,
			"method":        r.method,
			"class":         r.class,
			"attribute":     r.attribute,
			"typeName":      r.typeName,
			"columnDefault": r.columnDefault,
			"constraint":    r.constraint,
			"index":         r.index,
			"sequence":      r.sequence,
			"sequenceOwner": r.sequenceOwner,
			"comment":       r.comment,
			"need":          r.need,
			"typeOf":        r.typeOf,
			"relationExtra": r.relationExtra,
			"columnExtra":   r.columnExtra,
			"foreignTable":  r.foreignTable,
			"store":         r.store,
			"parent":        r.parent,
			"routine":       r.routine,
			"trigger":       r.trigger,
			"text":          r.text,
			"indexText":     r.indexText,
			"notNull":       r.notNull,
			"partTrigger":   r.partTrigger,
			"memberRight":   r.memberRight,
			"enumType":      typed[schema.KindEnum], "domain": typed[schema.KindDomain], "compositeType": typed[schema.KindComposite], "aggregate": typed[schema.KindAggregate],
			"tailRows": func(row *engine.Row) error {
				next++
				return r.tailRows(kinds[next%len(kinds)])(row)
			},
			"grant":        r.grant,
			"defaultRight": r.defaultRight,
		}, Finish: func() *schema.Reading {
			r.assemble()
			return r.reading
		}}
	})
}
