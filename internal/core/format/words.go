package format

// The words that the layout knows, numbered once, so that it compares numbers.

import "strings"

// word is a word by its place in the table: none of what is no word, or a name behind a dot; other of all that mean nothing here.
type word uint8

// The words.
const (
	none word = iota
	other
	semicolon // stands for what it is called after, where the next word is asked for
	wADD
	wAFTER
	wALL
	wALTER
	wALWAYS
	wAND
	wAPPLY
	wAS
	wASC
	wBEGIN
	wBETWEEN
	wBREAK
	wBY
	wCALL
	wCASCADE
	wCASE
	wCAST
	wCATCH
	wCHECK
	wCLOSE
	wCOLUMN
	wCOMMENT
	wCOMMIT
	wCONFLICT
	wCONSTRAINT
	wCONTINUE
	wCREATE
	wCROSS
	wDEALLOCATE
	wDECLARE
	wDEFAULT
	wDEFERRED
	wDELETE
	wDESC
	wDISTINCT
	wDISTRIBUTED
	wDO
	wDOMAIN
	wDROP
	wDUPLICATE
	wEACH
	wELSE
	wELSEIF
	wELSIF
	wEND
	wEXCEPT
	wEXCEPTION
	wEXCLUDE
	wEXCLUSIVE
	wEXEC
	wEXECUTE
	wEXISTS
	wFETCH
	wFIRST
	wFOR
	wFOREACH
	wFOREIGN
	wFROM
	wFULL
	wFUNCTION
	wGENERATED
	wGOTO
	wGRANT
	wGROUP
	wHANDLER
	wHASH
	wHAVING
	wIDENTITY
	wIF
	wIMMEDIATE
	wIN
	wINDEX
	wINNER
	wINSERT
	wINTERSECT
	wINTO
	wIS
	wJOIN
	wKEY
	wLANGUAGE
	wLAST
	wLEFT
	wLIKE
	wLIMIT
	wLOOP
	wMATERIALIZED
	wMERGE
	wNATURAL
	wNEXT
	wNO
	wNOCOUNT
	wNOT
	wNOTHING
	wNULL
	wNULLS
	wOF
	wOFFSET
	wON
	wOPEN
	wOR
	wORDER
	wOUTER
	wOUTPUT
	wOVER
	wPARTITION
	wPERIOD
	wPLPGSQL
	wPOLICY
	wPRIMARY
	wPRINT
	wPROCEDURE
	wQUERY
	wRAISERROR
	wRECURSIVE
	wREFERENCES
	wREPEAT
	wREPLACE
	wRESTRICT
	wRETURN
	wRETURNING
	wRETURNS
	wREVOKE
	wRIGHT
	wROLLBACK
	wROW
	wRULE
	wSAVE
	wSCHEMA
	wSELECT
	wSEQUENCE
	wSET
	wSETOF
	wSQL
	wSTRAIGHTJOIN
	wTABLE
	wTEMP
	wTEMPORARY
	wTHEN
	wTHROW
	wTO
	wTOP
	wTRAN
	wTRANSACTION
	wTRIGGER
	wTRUNCATE
	wTRY
	wTYPE
	wUNION
	wUNIQUE
	wUNTIL
	wUPDATE
	wUSING
	wVALUES
	wVIEW
	wWAITFOR
	wWHEN
	wWHERE
	wWHILE
	wWINDOW
	wWITH
	wWITHIN
	wWORK
	words
)

const wordList = `ADD AFTER ALL ALTER ALWAYS AND APPLY AS ASC BEGIN BETWEEN BREAK BY CALL CASCADE CASE CAST CATCH CHECK CLOSE COLUMN COMMENT COMMIT CONFLICT CONSTRAINT CONTINUE CREATE CROSS DEALLOCATE DECLARE
DEFAULT DEFERRED DELETE DESC DISTINCT DISTRIBUTED DO DOMAIN DROP DUPLICATE EACH ELSE ELSEIF ELSIF END EXCEPT EXCEPTION EXCLUDE EXCLUSIVE EXEC EXECUTE EXISTS FETCH FIRST FOR FOREACH FOREIGN FROM FULL FUNCTION
GENERATED GOTO GRANT GROUP HANDLER HASH HAVING IDENTITY IF IMMEDIATE IN INDEX INNER INSERT INTERSECT INTO IS JOIN KEY LANGUAGE LAST LEFT LIKE LIMIT LOOP MATERIALIZED MERGE NATURAL NEXT NO NOCOUNT NOT NOTHING NULL
NULLS OF OFFSET ON OPEN OR ORDER OUTER OUTPUT OVER PARTITION PERIOD PLPGSQL POLICY PRIMARY PRINT PROCEDURE QUERY RAISERROR RECURSIVE REFERENCES REPEAT REPLACE RESTRICT RETURN RETURNING RETURNS REVOKE RIGHT ROLLBACK
ROW RULE SAVE SCHEMA SELECT SEQUENCE SET SETOF SQL STRAIGHT_JOIN TABLE TEMP TEMPORARY THEN THROW TO TOP TRAN TRANSACTION TRIGGER TRUNCATE TRY TYPE UNION UNIQUE UNTIL UPDATE USING VALUES VIEW WAITFOR WHEN WHERE WHILE
WINDOW WITH WITHIN WORK`

// texts are the words in capital and in small letters.
var texts = func() (all [words]struct{ upper, lower string }) {
	for i, s := range strings.Fields(wordList) {
		all[int(wADD)+i].upper, all[int(wADD)+i].lower = s, strings.ToLower(s)
	}
	return all
}()

const slots = 1024

// table finds a word by its hash; places that are taken are passed by.
var table = func() (all [slots]word) {
	for w := wADD; w < words; w++ {
		at := hash(texts[w].upper)
		for all[at] != none {
			at = (at + 1) % slots
		}
		all[at] = w
	}
	return all
}()

func hash(s string) uint32 {
	n := len(s)
	return (uint32(s[0]&^0x20)*131 + uint32(s[n-1]&^0x20)*31 + uint32(s[n/2]&^0x20)*17 + uint32(n)*257) % slots
}

// longest is the length of the longest word of the table, "STRAIGHT_JOIN".
const longest = 13

// wordOf returns which word a text is, in any case.
func wordOf(s string) word {
	if len(s) < 2 || len(s) > longest {
		return other
	}
	for at := hash(s); table[at] != none; at = (at + 1) % slots {
		if w := table[at]; len(texts[w].upper) == len(s) && sameLetters(texts[w].upper, s) {
			return w
		}
	}
	return other
}

// sameLetters compares a word in capital letters with one in any case, of the same length.
func sameLetters(upper, s string) bool {
	for i := range len(upper) {
		c := s[i]
		if 'a' <= c && c <= 'z' {
			c -= 'a' - 'A'
		}
		if c != upper[i] {
			return false
		}
	}
	return true
}

// set is a set of words.
type set [words]bool

func (s *set) has(w word) bool { return s[w] }

// setOf returns a set of words in capital letters.
func setOf(list string) *set {
	s := new(set)
	for _, w := range strings.Fields(list) {
		s[wordOf(w)] = true
	}
	return s
}

// keywords are reserved enough to be written in another case.
var keywords = setOf(`SELECT FROM WHERE GROUP ORDER HAVING JOIN INNER LEFT RIGHT FULL OUTER CROSS NATURAL ON USING UNION INTERSECT EXCEPT ALL DISTINCT AS AND OR NOT IN IS NULL LIKE BETWEEN EXISTS
CASE WHEN THEN ELSE END INSERT INTO VALUES UPDATE SET DELETE CREATE TABLE VIEW PRIMARY FOREIGN REFERENCES UNIQUE CHECK CONSTRAINT DEFAULT ALTER DROP WITH LIMIT OFFSET ASC DESC CAST RETURNING TRIGGER
FUNCTION PROCEDURE BEGIN DECLARE IF ELSIF ELSEIF LOOP WHILE RETURN RETURNS FOR BY GRANT REVOKE TO MERGE OVER PARTITION WINDOW FETCH EXEC EXECUTE CALL`)

// soft tells by the second of two words which first ones make it a keyword.
var soft = func() (all [words]*set) {
	for _, pair := range strings.Split("PRIMARY KEY,FOREIGN KEY,ON CONFLICT,ON DUPLICATE,DUPLICATE KEY,WITH RECURSIVE,DELETE CASCADE,UPDATE CASCADE,DELETE RESTRICT,UPDATE RESTRICT,GENERATED ALWAYS,AS IDENTITY,DO NOTHING,"+
		"OR REPLACE,IF EXISTS,CREATE INDEX,UNIQUE INDEX,CREATE SEQUENCE,CREATE TYPE,CREATE DOMAIN,CREATE SCHEMA,CREATE MATERIALIZED,CREATE TEMPORARY,CREATE TEMP,CREATE UNIQUE,DROP INDEX,DROP SEQUENCE,DROP TYPE,DROP SCHEMA,ALTER COLUMN,"+
		"ADD COLUMN,DROP COLUMN,TABLE ADD,RETURN QUERY,RETURN NEXT,EACH ROW,FOR EACH,RETURNS SETOF,INNER APPLY,CROSS APPLY,OUTER APPLY,NULLS FIRST,NULLS LAST,BEGIN TRY,END TRY,BEGIN CATCH,END CATCH,SET NOCOUNT,SELECT TOP,BEGIN TRANSACTION,BEGIN TRAN,COMMIT TRANSACTION,ROLLBACK TRANSACTION", ",") {
		first, second, _ := strings.Cut(pair, " ")
		w := wordOf(second)
		if all[w] == nil {
			all[w] = new(set)
		}
		all[w][wordOf(first)] = true
	}
	return all
}()

// recased reports whether a word may be written in another case.
func recased(s string) bool {
	w := wordOf(s)
	return keywords.has(w) || soft[w] != nil
}
