package chart

// How wide texts are: by the Go fonts, in which PNG is drawn. In SVG the viewer's font is told to be as wide.

import (
	"strings"
	"sync"

	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
)

// The sizes of letters, in pixels.
const (
	nameLetters = 13
	textLetters = 12
	markLetters = 10
	titleSize   = 32 // room above, for the title
	lineSize    = 18
)

// lettering is a size and a weight.
type lettering struct {
	size int
	bold bool
}

// faces holds the fonts; reading them takes some milliseconds, and only a picture needs them.
var faces = sync.OnceValue(func() map[lettering]font.Face {
	all := map[lettering]font.Face{}
	for bold, data := range map[bool][]byte{false: goregular.TTF, true: gobold.TTF} {
		f, err := opentype.Parse(data)
		if err != nil {
			continue
		}
		for _, size := range []int{nameLetters, textLetters, markLetters, 16} {
			if face, err := opentype.NewFace(f, &opentype.FaceOptions{Size: float64(size), DPI: 72, Hinting: font.HintingNone}); err == nil {
				all[lettering{size, bold}] = face
			}
		}
	}
	return all
})

// textWidth returns how wide a text is.
func textWidth(s string, l lettering) int {
	face := faces()[l]
	if face == nil {
		return len(s) * l.size * 2 / 3
	}
	width := 0
	for _, r := range s {
		w, ok := face.GlyphAdvance(r)
		if !ok { // a letter that the font has not: wide ones are as wide as high
			w, _ = face.GlyphAdvance('M')
			if r >= 0x1100 {
				w = w * 5 / 4
			}
		}
		width += int(w)
	}
	return (width + 63) / 64
}

// longest is how many letters of a name, a type or a note are drawn.
const longest = 48

// cut shortens a text, and shows nothing that a line cannot hold.
func cut(s string, most int) string {
	s = strings.Map(func(r rune) rune {
		if r < ' ' || r == 0x7f || r >= 0x80 && r < 0xa0 || r >= 0x202a && r <= 0x202e || r >= 0x2066 && r <= 0x2069 {
			return '·'
		}
		return r
	}, strings.ToValidUTF8(s, "\ufffd"))
	if runes := []rune(s); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return s
}

const (
	padX     = 10
	markSize = 24 // room for PK and FK
	between  = 14 // a name and its type
)

// head returns what stands in the head of a box, besides its name: on the right.
func (p *Picture) head(b *Box) string {
	var words []string
	if b.State != "" {
		words = append(words, b.State)
	}
	if b.Kind != "" {
		words = append(words, b.Kind)
	}
	if p.letters && b.Group >= 0 {
		words = append(words, groupLetter(b.Group))
	}
	return strings.Join(words, " · ")
}

// groupLetter returns the letter by which a group is told where its colour is not seen.
func groupLetter(i int) string {
	if i < 26 {
		return string(rune('A' + i))
	}
	return string(rune('A'+i/26-1)) + string(rune('A'+i%26))
}

// boxWidth returns how wide a box has to be.
func (p *Picture) boxWidth(b *Box) int {
	w := padX + textWidth(cut(b.Name, longest), lettering{nameLetters, true}) + padX
	if h := p.head(b); h != "" {
		w += between + textWidth(h, lettering{markLetters, false})
	}
	for i := range b.Rows {
		w = max(w, rowWidth(&b.Rows[i]))
	}
	return max(96, (w+1)/2*2)
}

func rowWidth(r *Row) int {
	w := markSize + padX + textWidth(cut(r.Name, longest), lettering{textLetters, false}) + padX
	if t := typeText(r); t != "" {
		w += between + textWidth(t, lettering{textLetters, false})
	}
	return w
}

// typeText returns what stands on the right of a row.
func typeText(r *Row) string {
	t := cut(r.Type, longest)
	if r.Null && t != "" {
		t += " null"
	}
	if r.State != "" {
		t = strings.TrimLeft(t+" · "+r.State, " ·")
	}
	return t
}

// above returns the height of what stands above the picture.
func (p *Picture) above() int {
	if p.Title == "" {
		return 0
	}
	return titleSize
}

// below returns the height of what stands below the picture: the groups, and notes.
func (p *Picture) below() int {
	n := len(p.Notes)
	if p.letters {
		n += len(p.Groups)
	}
	if n == 0 {
		return 0
	}
	return 16 + n*lineSize
}

// least returns how wide title, groups and notes are.
func (p *Picture) least() int {
	w := textWidth(p.Title, lettering{16, true})
	for _, n := range p.Notes {
		w = max(w, textWidth(n, lettering{textLetters, false}))
	}
	return w + 2*margin
}
