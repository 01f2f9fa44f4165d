package sqltext

// Keywords are numbered once, so that the parser compares numbers. Which of them can be names depends on where they stand.

// keyword is the number of a word that the grammar knows, 0 for all others.
type keyword uint8

// The keywords of all dialects.
const (
	kNone keyword = iota
	kAll
	kAnd
	kAny
	kApply
	kArray
	kAs
	kAsc
	kAt
	kBegin
	kBetween
	kBinary
	kBoth
	kBy
	kCall
	kCase
	kCast
	kCatch
	kClose
	kCollate
	kConflict
	kConstant
	kContinue
	kConvert
	kCreate
	kCross
	kCursor
	kDeclare
	kDefault
	kDelete
	kDesc
	kDistinct
	kDiv
	kDo
	kDrop
	kDuplicate
	kEach
	kElse
	kElseif
	kElsif
	kEnd
	kEscape
	kException
	kExcept
	kExec
	kExecute
	kExists
	kExit
	kExtract
	kFetch
	kFilter
	kFor
	kForce
	kForeach
	kFrom
	kFull
	kFunction
	kGlob
	kGoto
	kGroup
	kHandler
	kHaving
	kIf
	kIgnore
	kIlike
	kImmediate
	kIn
	kInner
	kInsert
	kIntersect
	kInterval
	kInto
	kIs
	kIsnull
	kJoin
	kLateral
	kLeading
	kLeave
	kLeft
	kLike
	kLimit
	kLock
	kLoop
	kMatch
	kMatched
	kMaterialized
	kMerge
	kMinus
	kMod
	kNatural
	kNext
	kNot
	kNotnull
	kNull
	kOf
	kOffset
	kOn
	kOnly
	kOpen
	kOperator
	kOption
	kOr
	kOrder
	kOuter
	kOutput
	kOver
	kOverlaps
	kPackage
	kPartition
	kPerform
	kPivot
	kPrepare
	kPrint
	kPrior
	kProc
	kProcedure
	kQuery
	kRaise
	kRecursive
	kRegexp
	kRepeat
	kReplace
	kReturn
	kReturning
	kReturns
	kReverse
	kRight
	kRlike
	kRow
	kSelect
	kSeparator
	kSet
	kSimilar
	kSome
	kStraight
	kStrict
	kTable
	kTablesample
	kTemp
	kTemporary
	kThen
	kThrow
	kTop
	kTrailing
	kTran
	kTransaction
	kTrigger
	kTruncate
	kTry
	kType
	kRowtype
	kUnion
	kUnique
	kUnpivot
	kUntil
	kUpdate
	kUse
	kUsing
	kValue
	kValues
	kVariadic
	kView
	kWhen
	kWhere
	kWhile
	kWindow
	kWith
	kWithin
	kXor
	keywords
)

var keywordTexts = [keywords]string{
	kAll: "all", kAnd: "and", kAny: "any", kApply: "apply", kArray: "array", kAs: "as", kAsc: "asc", kAt: "at", kBegin: "begin", kBetween: "between", kBinary: "binary", kBoth: "both", kBy: "by",
	kCall: "call", kCase: "case", kCast: "cast", kCatch: "catch", kClose: "close", kCollate: "collate", kConflict: "conflict", kConstant: "constant", kContinue: "continue", kConvert: "convert",
	kCreate: "create", kCross: "cross", kCursor: "cursor", kDeclare: "declare", kDefault: "default", kDelete: "delete", kDesc: "desc", kDistinct: "distinct", kDiv: "div", kDo: "do", kDrop: "drop",
	kDuplicate: "duplicate", kEach: "each", kElse: "else", kElseif: "elseif", kElsif: "elsif", kEnd: "end", kEscape: "escape", kException: "exception", kExcept: "except", kExec: "exec", kExecute: "execute",
	kExists: "exists", kExit: "exit", kExtract: "extract", kFetch: "fetch", kFilter: "filter", kFor: "for", kForce: "force", kForeach: "foreach", kFrom: "from", kFull: "full", kFunction: "function",
	kGlob: "glob", kGoto: "goto", kGroup: "group", kHandler: "handler", kHaving: "having", kIf: "if", kIgnore: "ignore", kIlike: "ilike", kImmediate: "immediate", kIn: "in", kInner: "inner", kInsert: "insert",
	kIntersect: "intersect", kInterval: "interval", kInto: "into", kIs: "is", kIsnull: "isnull", kJoin: "join", kLateral: "lateral", kLeading: "leading", kLeave: "leave", kLeft: "left", kLike: "like",
	kLimit: "limit", kLock: "lock", kLoop: "loop", kMatch: "match", kMatched: "matched", kMaterialized: "materialized", kMerge: "merge", kMinus: "minus", kMod: "mod", kNatural: "natural", kNext: "next",
	kNot: "not", kNotnull: "notnull", kNull: "null", kOf: "of", kOffset: "offset", kOn: "on", kOnly: "only", kOpen: "open", kOperator: "operator", kOption: "option", kOr: "or", kOrder: "order",
	kOuter: "outer", kOutput: "output", kOver: "over", kOverlaps: "overlaps", kPackage: "package", kPartition: "partition", kPerform: "perform", kPivot: "pivot", kPrepare: "prepare", kPrint: "print",
	kPrior: "prior", kProc: "proc", kProcedure: "procedure", kQuery: "query", kRaise: "raise", kRecursive: "recursive", kRegexp: "regexp", kRepeat: "repeat", kReplace: "replace", kReturn: "return",
	kReturning: "returning", kReturns: "returns", kReverse: "reverse", kRight: "right", kRlike: "rlike", kRow: "row", kSelect: "select", kSeparator: "separator", kSet: "set", kSimilar: "similar", kSome: "some",
	kStraight: "straight_join", kStrict: "strict", kTable: "table", kTablesample: "tablesample", kTemp: "temp", kTemporary: "temporary", kThen: "then", kThrow: "throw", kTop: "top", kTrailing: "trailing",
	kTran: "tran", kTransaction: "transaction", kTrigger: "trigger", kTruncate: "truncate", kTry: "try", kType: "type", kRowtype: "rowtype", kUnion: "union", kUnique: "unique", kUnpivot: "unpivot",
	kUntil: "until", kUpdate: "update", kUse: "use", kUsing: "using", kValue: "value", kValues: "values", kVariadic: "variadic", kView: "view", kWhen: "when", kWhere: "where", kWhile: "while",
	kWindow: "window", kWith: "with", kWithin: "within", kXor: "xor",
}

const keywordSlots = 1024

// keywordTable finds a keyword by a hash of its length and three of its letters; places that are taken are passed by.
var keywordTable = func() (table [keywordSlots]keyword) {
	for k := kNone + 1; k < keywords; k++ {
		at := keywordHash(keywordTexts[k])
		for table[at] != kNone {
			at = (at + 1) % keywordSlots
		}
		table[at] = k
	}
	return table
}()

// keywordLengths tells by the first letter, in any case, which lengths keywords have: most names are told by that.
var keywordLengths = func() (table [256]uint16) {
	for k := kNone + 1; k < keywords; k++ {
		text := keywordTexts[k]
		table[text[0]] |= 1 << len(text)
		table[text[0]-'a'+'A'] |= 1 << len(text)
	}
	return table
}()

func keywordHash(s string) uint32 {
	n := len(s)
	return (uint32(s[0]|0x20)*131 + uint32(s[n-1]|0x20)*31 + uint32(s[n/2]|0x20)*17 + uint32(n)*257) % keywordSlots
}

// keywordOf returns the keyword that a word is, in any case.
func keywordOf(s string) keyword {
	if len(s) > 13 || s == "" || keywordLengths[s[0]]>>len(s)&1 == 0 {
		return kNone
	}
	for at := keywordHash(s); keywordTable[at] != kNone; at = (at + 1) % keywordSlots {
		if text := keywordTexts[keywordTable[at]]; len(text) == len(s) && equalFold(text, s) {
			return keywordTable[at]
		}
	}
	return kNone
}

// equalFold compares a word of small letters with one in any case, of the same length.
func equalFold(small, s string) bool {
	for i := range len(small) {
		c := s[i]
		if 'A' <= c && c <= 'Z' {
			c += 'a' - 'A'
		}
		if c != small[i] {
			return false
		}
	}
	return true
}

// IsKeyword reports whether a word is one of the grammar, in any case; some of these can be names.
func IsKeyword(word string) bool { return keywordOf(word) != kNone }
