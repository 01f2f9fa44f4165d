package sqlserver

import (
	"testing"

	"echo-atlas/internal/core/engine"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/testrows"
)

// Whatever a server sends, a row is decoded or refused, and nothing ends in a panic or in memory that does not end.
func FuzzRows(f *testing.F) {
	testrows.Fuzz(f, Engine{}, func() testrows.Decoder {
		r := newReader(&server{version: 15}, "beacons")
		return testrows.Decoder{Take: map[string]func(*engine.Row) error{
			"property":          plain(r.property),
			"permission":        plain(r.permission),
			"need":              plain(r.need),
			"principal":         plain(r.principal),
			"member":            plain(r.member),
			"schema":            plain(r.schema),
			"dataType":          plain(r.dataType),
			"object":            plain(r.object),
			"tableType":         plain(r.tableType),
			"column":            plain(r.column),
			"identity":          plain(r.identity),
			"computed":          plain(r.computed),
			"mask":              plain(r.mask),
			"columnDefault":     plain(r.columnDefault),
			"index":             plain(r.index),
			"indexColumn":       plain(r.indexColumn),
			"hashIndex":         plain(r.hashIndex),
			"xmlIndex":          plain(r.xmlIndex),
			"spatialIndex":      plain(r.spatialIndex),
			"key":               plain(r.key),
			"check":             plain(r.check),
			"foreignKey":        plain(r.foreignKey),
			"foreignColumn":     plain(r.foreignColumn),
			"table":             plain(r.table),
			"period":            plain(r.period),
			"textCatalog":       plain(r.textCatalog),
			"fullText":          plain(r.fullText),
			"fullTextColumn":    plain(r.fullTextColumn),
			"view":              plain(r.view),
			"module":            plain(r.module),
			"trigger":           plain(r.trigger),
			"triggerEvent":      plain(r.triggerEvent),
			"sequence":          plain(r.sequence),
			"synonym":           plain(r.synonym),
			"partitionFunction": plain(r.partitionFunction),
			"partitionRange":    plain(r.partitionRange),
			"partitionScheme":   plain(r.partitionScheme),
			"destination":       plain(r.destination),
			"parameter":         plain(r.parameter),
			"size":              plain(r.size),
		}, Finish: func() *schema.Reading {
			r.assemble()
			return r.reading
		}}
	})
}

func plain(each func(*engine.Row)) func(*engine.Row) error {
	return func(row *engine.Row) error { each(row); return nil }
}
