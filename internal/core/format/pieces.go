package format

// A large text is laid out in pieces, several at a time. Where one ends it is guessed that a statement does, by how the next line begins; whether
// it was so the piece tells, and if not, all is laid out as one.

import (
	"runtime"
	"strings"

	"golang.org/x/sync/errgroup"

	"echo-atlas/internal/core/sqltext"
	"echo-atlas/internal/core/stored"
)

// pieceSize is about how many bytes a piece has.
const pieceSize = 128 << 10

// piece is a stretch of a part, with whole statements in it.
type piece struct {
	part
	goes  bool // it goes on with the part of the piece before, behind an empty line
	ended bool // the last statement was whole, and no block is open
	out   string
	ok    bool
}

// apiece is Text in pieces. ok is false where the text cannot be laid out so.
func apiece(text string, rules sqltext.Rules, s Style) (out string, ok bool) {
	all := pieces(parts(text, rules))
	var group errgroup.Group
	group.SetLimit(runtime.GOMAXPROCS(0))
	for run := range runs(all) {
		group.Go(func() error {
			w := newWork()
			for i := range run {
				run[i].lay(w, rules, s)
			}
			return nil
		})
	}
	_ = group.Wait() // never fails
	b := make([]byte, 0, len(text)+len(text)/4)
	for i := range all {
		p := &all[i]
		if !p.ok || p.goes && !all[i-1].ended {
			return "", false
		}
		if len(b) > 0 && !p.goes && !p.verbatim && p.out != "" && p.apart() {
			b = append(b, '\n')
		}
		if p.goes {
			b = b[:len(b)-1] // it begins with the line break that the one before ends with
		}
		b = append(b, p.out...)
	}
	return stored.View(b), true
}

// pieces cuts parts where a statement may end.
func pieces(parts []part) (all []piece) {
	for _, p := range parts {
		goes := false
		for p.end == "" && !p.verbatim && len(p.text) >= 2*pieceSize {
			at := seam(p.text, pieceSize)
			if at < 0 {
				break
			}
			all = append(all, piece{part: part{text: p.text[:at]}, goes: goes})
			p.text, goes = p.text[at:], true
		}
		all = append(all, piece{part: p, goes: goes})
	}
	return all
}

// seam returns the place behind a semicolon, from a place on, that an empty line follows and a line which begins like a statement; -1 for none.
func seam(text string, from int) int {
	for {
		i := strings.Index(text[from:], ";\n\n")
		if i < 0 {
			return -1
		}
		from += i + 1
		line, _, _ := strings.Cut(strings.TrimLeft(text[from:min(len(text), from+200)], "\n"), "\n")
		word, _, _ := strings.Cut(line, " ")
		switch wordOf(strings.TrimSuffix(word, ";")) {
		case wCREATE, wALTER, wDROP, wCOMMENT, wINSERT, wGRANT, wREVOKE, wSELECT, wUPDATE, wDELETE, wSET, wDO, wMERGE, wWITH, wTRUNCATE:
			return from
		}
	}
}

// runs yields stretches of pieces that are large enough to be laid out by themselves.
func runs(all []piece) func(yield func([]piece) bool) {
	return func(yield func([]piece) bool) {
		start, size := 0, 0
		for i := range all {
			if size += len(all[i].text); size >= pieceSize || i == len(all)-1 {
				if !yield(all[start : i+1]) {
					return
				}
				start, size = i+1, 0
			}
		}
	}
}

// lay lays a piece out.
func (x *piece) lay(w *work, rules sqltext.Rules, s Style) {
	if x.verbatim {
		x.out, x.ok, x.ended = x.command(), true, true
		return
	}
	first := true
	x.out, x.ok = w.settle(x.text, rules, s, func(text string, rules sqltext.Rules, s Style) string {
		p := program{printer: printer{Style: s, rules: rules, end: x.end, work: w}, behindOther: x.goes}
		b := p.format(nil, text)
		if first {
			x.ended, first = p.ended, false
		}
		return stored.View(b)
	})
}
