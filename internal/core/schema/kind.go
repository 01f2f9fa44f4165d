package schema

// Kinds: what objects and parts are called, in reading order, and the name spaces that they share.

import (
	"slices"
	"strings"
)

// Kind is what an object or a part is called, in the trade's words and in the singular.
type Kind string

// The kinds of objects.
const (
	KindSchema           Kind = "schema"
	KindExtension        Kind = "extension"
	KindCollation        Kind = "collation"
	KindEnum             Kind = "enum type"
	KindDomain           Kind = "domain"
	KindComposite        Kind = "composite type"
	KindRange            Kind = "range type"
	KindBaseType         Kind = "base type"
	KindSequence         Kind = "sequence"
	KindTable            Kind = "table"
	KindPartitionedTable Kind = "partitioned table"
	KindPartition        Kind = "partition"
	KindForeignTable     Kind = "foreign table"
	KindIndex            Kind = "index"
	KindView             Kind = "view"
	KindMaterialisedView Kind = "materialised view"
	KindFunction         Kind = "function"
	KindProcedure        Kind = "procedure"
	KindTrigger          Kind = "trigger"
	KindAggregate        Kind = "aggregate"
	KindPackage          Kind = "package"
	KindPackageBody      Kind = "package body"
	KindEvent            Kind = "event"
	KindRule             Kind = "rule"
	KindPolicy           Kind = "policy"
	KindStatistics       Kind = "statistics object"
	KindEventTrigger     Kind = "event trigger"
	KindWrapper          Kind = "foreign-data wrapper"
	KindServer           Kind = "foreign server"
	KindUserMapping      Kind = "user mapping"
	KindPublication      Kind = "publication"
	KindSubscription     Kind = "subscription"
	KindConversion       Kind = "conversion"
	KindCast             Kind = "cast"
	KindOperator         Kind = "operator"
	KindOperatorClass    Kind = "operator class"
	KindOperatorFamily   Kind = "operator family"
	KindTextParser       Kind = "text search parser"
	KindTextTemplate     Kind = "text search template"
	KindTextDictionary   Kind = "text search dictionary"
	KindTextConfig       Kind = "text search configuration"
	KindLanguage         Kind = "language"
	KindAccessMethod     Kind = "access method"
	KindTransform        Kind = "transform"
	KindDefaultRights    Kind = "default privileges"
	KindRole             Kind = "role"
	KindDatabase         Kind = "database"
	KindTablespace       Kind = "tablespace"

	KindSynonym           Kind = "synonym"
	KindAlias             Kind = "user-defined type"
	KindTableType         Kind = "table type"
	KindPartitionFunction Kind = "partition function"
	KindPartitionScheme   Kind = "partition scheme"
	KindDatabaseTrigger   Kind = "database trigger"
	KindLinkedServer      Kind = "linked server"
	KindTextCatalog       Kind = "full-text catalog"
	KindStoplist          Kind = "full-text stoplist"
	KindFileGroup         Kind = "file group"
	KindDefault           Kind = "default"
	KindXMLSchemas        Kind = "xml schema collection"
	KindSecurityPolicy    Kind = "security policy"
	KindLibrary           Kind = "library"
	KindResourceGroup     Kind = "resource group"
)

// The kinds of parts.
const (
	KindColumn     Kind = "column"
	KindPrimaryKey Kind = "primary key"
	KindUnique     Kind = "unique constraint"
	KindForeignKey Kind = "foreign key"
	KindCheck      Kind = "check constraint"
	KindExclusion  Kind = "exclusion constraint"
)

// objectKinds is the order in which people read kinds. It orders lists and, among statements that are
// ready to run, scripts; it never decides whether a script is correct.
var objectKinds = [...]Kind{
	KindRole, KindResourceGroup, KindTablespace, KindDatabase, KindLinkedServer, KindSchema, KindExtension, KindLanguage, KindCollation, KindEnum, KindDomain, KindComposite, KindRange, KindBaseType, KindAlias, KindXMLSchemas, KindTableType,
	KindDefault, KindFileGroup, KindPartitionFunction, KindPartitionScheme, KindTextCatalog, KindStoplist, KindWrapper, KindServer, KindUserMapping, KindSequence, KindTable, KindPartitionedTable, KindPartition, KindForeignTable,
	KindIndex, KindStatistics, KindLibrary, KindFunction, KindProcedure, KindAggregate, KindPackage, KindPackageBody,
	KindOperator, KindOperatorFamily, KindOperatorClass, KindCast, KindConversion, KindTransform, KindAccessMethod,
	KindTextParser, KindTextTemplate, KindTextDictionary, KindTextConfig,
	KindView, KindMaterialisedView, KindSynonym, KindRule, KindTrigger, KindDatabaseTrigger, KindPolicy, KindSecurityPolicy, KindEvent, KindPublication, KindSubscription, KindDefaultRights, KindEventTrigger,
}

var tableRank, indexRank = slices.Index(objectKinds[:], KindTable), slices.Index(objectKinds[:], KindIndex)

var partKinds = [...]Kind{KindColumn, KindPrimaryKey, KindUnique, KindForeignKey, KindCheck, KindExclusion}

// ObjectKinds returns the kinds of objects in reading order.
func ObjectKinds() []Kind { return slices.Clone(objectKinds[:]) }

// PartKinds returns the kinds of parts in reading order.
func PartKinds() []Kind { return slices.Clone(partKinds[:]) }

// Rank returns the place of k in reading order; parts follow objects, unknown kinds come last.
func (k Kind) Rank() int {
	if k == KindTable || k == KindIndex { // most objects are
		if k == KindTable {
			return tableRank
		}
		return indexRank
	}
	if i := slices.Index(objectKinds[:], k); i >= 0 {
		return i
	}
	if i := slices.Index(partKinds[:], k); i >= 0 {
		return len(objectKinds) + i
	}
	return len(objectKinds) + len(partKinds)
}

// IsPart reports whether k is a kind of part.
func (k Kind) IsPart() bool { return slices.Contains(partKinds[:], k) }

// IsRelation reports whether objects of kind k have columns that can be queried.
func (k Kind) IsRelation() bool {
	switch k {
	case KindTable, KindPartitionedTable, KindPartition, KindForeignTable, KindView, KindMaterialisedView: // as in RelationKinds
		return true
	}
	return false
}

// RelationKinds returns the kinds of relations.
func RelationKinds() []Kind {
	return []Kind{KindTable, KindPartitionedTable, KindPartition, KindForeignTable, KindView, KindMaterialisedView}
}

// HasRows reports whether objects of the kind are relations that keep rows, here or elsewhere.
func (k Kind) HasRows() bool {
	return k == KindTable || k == KindPartitionedTable || k == KindPartition || k == KindForeignTable
}

// IsType reports whether objects of kind k are types that columns can have.
func (k Kind) IsType() bool {
	switch k {
	case KindEnum, KindDomain, KindComposite, KindRange, KindBaseType, KindAlias, KindTableType:
		return true
	}
	return false
}

// IsRoutine reports whether objects of kind k can be called.
func (k Kind) IsRoutine() bool { return k == KindFunction || k == KindProcedure || k == KindAggregate }

// The name spaces that several kinds share.
const (
	RelationNames = "relation"
	RoutineNames  = "routine"
	TypeNames     = "type"
)

// Name spaces of one kind that statements speak of; they are the kinds' own.
const (
	SchemaNames     = string(KindSchema)
	IndexNames      = string(KindIndex)
	ForeignKeyNames = string(KindForeignKey)
)

// NameSpace returns the name space in which the names of objects of kind k are unique.
func (k Kind) NameSpace() string {
	switch {
	case k.IsRelation():
		return RelationNames
	case k.IsRoutine():
		return RoutineNames
	case k.IsType():
		return TypeNames
	}
	return string(k)
}

// Plural returns the kind in the plural, for counts.
func (k Kind) Plural() string {
	s := string(k)
	switch {
	case s == "index":
		return "indexes"
	case strings.HasSuffix(s, "s") && !strings.HasSuffix(s, "class"):
		return s // default privileges
	case strings.HasSuffix(s, "ss"):
		return s + "es"
	case strings.HasSuffix(s, "body"):
		return strings.TrimSuffix(s, "y") + "ies"
	case strings.HasSuffix(s, "y") && !strings.HasSuffix(s, "key"):
		return strings.TrimSuffix(s, "y") + "ies"
	}
	return s + "s"
}

// ParseKind returns the kind that s names, in the singular or plural, with blanks, hyphens or
// underscores between words.
func ParseKind(s string) (Kind, bool) {
	apart := func(s string) string {
		return strings.Join(strings.FieldsFunc(strings.ToLower(s), func(r rune) bool { return r == ' ' || r == '-' || r == '_' }), " ")
	}
	s = apart(s)
	for _, all := range [][]Kind{objectKinds[:], partKinds[:]} {
		for _, k := range all {
			if s == string(k) || s == k.Plural() || s == apart(string(k)) || s == apart(k.Plural()) {
				return k, true
			}
		}
	}
	switch s {
	case "materialized view", "materialized views":
		return KindMaterialisedView, true
	}
	return "", false
}
