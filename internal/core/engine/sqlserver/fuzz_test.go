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
			"property":          testrows.Each(r.property),
			"permission":        testrows.Each(r.permission),
			"need":              testrows.Each(r.need),
			"principal":         testrows.Each(r.principal),
			"member":            testrows.Each(r.member),
			"schema":            testrows.Each(r.schema),
			"dataType":          testrows.Each(r.dataType),
			"object":            testrows.Each(r.object),
			"tableType":         testrows.Each(r.tableType),
			"column":            testrows.Each(r.column),
			"identity":          testrows.Each(r.identity),
			"computed":          testrows.Each(r.computed),
			"mask":              testrows.Each(r.mask),
			"columnDefault":     testrows.Each(r.columnDefault),
			"index":             testrows.Each(r.index),
			"indexColumn":       testrows.Each(r.indexColumn),
			"hashIndex":         testrows.Each(r.hashIndex),
			"xmlIndex":          testrows.Each(r.xmlIndex),
			"spatialIndex":      testrows.Each(r.spatialIndex),
			"key":               testrows.Each(r.key),
			"check":             testrows.Each(r.check),
			"foreignKey":        testrows.Each(r.foreignKey),
			"foreignColumn":     testrows.Each(r.foreignColumn),
			"table":             testrows.Each(r.table),
			"period":            testrows.Each(r.period),
			"textCatalog":       testrows.Each(r.textCatalog),
			"fullText":          testrows.Each(r.fullText),
			"fullTextColumn":    testrows.Each(r.fullTextColumn),
			"view":              testrows.Each(r.view),
			"module":            testrows.Each(r.module),
			"trigger":           testrows.Each(r.trigger),
			"triggerEvent":      testrows.Each(r.triggerEvent),
			"sequence":          testrows.Each(r.sequence),
			"synonym":           testrows.Each(r.synonym),
			"partitionFunction": testrows.Each(r.partitionFunction),
			"partitionRange":    testrows.Each(r.partitionRange),
			"partitionScheme":   testrows.Each(r.partitionScheme),
			"destination":       testrows.Each(r.destination),
			"parameter":         testrows.Each(r.parameter),
			"size":              testrows.Each(r.size),
			"space":             testrows.Each(r.space),
			"compression":       testrows.Each(r.compression),
			"statistic":         testrows.Each(r.statistic),
			"policy":            testrows.Each(r.policy),
			"predicate":         testrows.Each(r.predicate),
			"encrypted":         testrows.Each(r.encrypted),
			"retention":         testrows.Each(r.retention),
			"collection":        testrows.Each(r.collection),
			"numbered":          testrows.Each(r.numbered),
			"fileGroup":         testrows.Each(r.fileGroup),
			"file":              testrows.Each(r.file),
			"tracked":           testrows.Each(r.tracked),
			"stoplist":          testrows.Each(r.stoplist),
			"stopword":          testrows.Each(r.stopword),
			"xmlPath":           testrows.Each(r.xmlPath),
			"xmlSpace":          testrows.Each(r.xmlSpace),
		}, Finish: func() *schema.Reading {
			r.assemble()
			return r.reading
		}}
	})
}
