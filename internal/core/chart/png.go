package chart

// PNG, for where no SVG is shown: the light colours, twice the size.

import (
	"fmt"
	"image/color"
	"io"

	"git.sr.ht/~sbinet/gg"
	"golang.org/x/image/font"
	"golang.org/x/image/font/gofont/gobold"
	"golang.org/x/image/font/gofont/goregular"
	"golang.org/x/image/font/opentype"
)

const (
	pngScale = 2
	// largestPNG is how many pixels a picture may have; a larger one is drawn smaller.
	largestPNG = 120_000_000
)

// strokes tells colour, width and dashes of looks.
var strokes = map[string]struct {
	colour string
	width  float64
	dashes []float64
}{
	"box": {"#5b6672", 1, nil}, "other": {"#5b6672", 1, []float64{5, 3}}, "added": {"#1d6b32", 2.5, nil}, "removed": {"#a3262a", 2.5, []float64{7, 4}}, "changed": {"#8a5a00", 2.5, nil}, "renamed": {"#8a5a00", 2.5, nil},
	"link": {"#5b6672", 1.2, nil}, "use": {"#5b6672", 1.2, []float64{5, 3}}, "swatch": {"#5b6672", 1, nil},
}

var inks = map[string]string{"ink": "#17202a", "faint": "#5b6672", "key": "#7a4b00", "root": "#0b4f8a", "added-text": "#1d6b32", "removed-text": "#a3262a", "changed-text": "#8a5a00", "renamed-text": "#8a5a00"}

type raster struct {
	*gg.Context
	scale float64
	faces map[lettering]font.Face
}

// PNG writes the picture as pixels.
func (p *Picture) PNG(w io.Writer) error {
	scale := float64(pngScale)
	for scale > 0.25 && float64(p.Width)*float64(p.Height)*scale*scale > largestPNG {
		scale /= 2
	}
	r := &raster{gg.NewContext(int(float64(p.Width)*scale), int(float64(p.Height)*scale)), scale, map[lettering]font.Face{}}
	r.Scale(scale, scale)
	r.SetColor(color.White)
	r.Clear()
	p.paint(r)
	if err := r.EncodePNG(w); err != nil {
		return fmt.Errorf("writing the picture: %w", err)
	}
	return nil
}

func (r *raster) open(string, string) {}
func (r *raster) close()              {}

func (r *raster) stroke(look string) {
	s := strokes[look]
	r.SetHexColor(s.colour)
	r.SetLineWidth(s.width * r.scale)
	dashes := make([]float64, len(s.dashes))
	for i, d := range s.dashes {
		dashes[i] = d * r.scale
	}
	r.SetDash(dashes...)
	r.Stroke()
}

func groupColour(group int) string {
	if group < 0 {
		return "#e6eaee"
	}
	return colours[group%len(colours)][0]
}

func (r *raster) rect(at Rect, round int, look string, group int) {
	r.DrawRoundedRectangle(float64(at.X), float64(at.Y), float64(at.W), float64(at.H), float64(round))
	r.SetColor(color.White)
	if look == "swatch" {
		r.SetHexColor(groupColour(group))
	}
	r.FillPreserve()
	r.stroke(look)
}

func (r *raster) head(at Rect, _ string, group int) {
	r.SetHexColor(groupColour(group))
	r.DrawRoundedRectangle(float64(at.X+1), float64(at.Y+1), float64(at.W-2), float64(at.H-1), 3)
	r.Fill()
	r.DrawRectangle(float64(at.X+1), float64(at.Y+8), float64(at.W-2), float64(at.H-8))
	r.Fill()
}

func (r *raster) line(points [][2]int, look string) {
	for i, q := range points {
		switch {
		case i == 0:
			r.MoveTo(float64(q[0]), float64(q[1]))
		case i == len(points)-1:
			r.LineTo(float64(q[0]), float64(q[1]))
		default:
			in, out := toward(q, points[i-1], corner), toward(q, points[i+1], corner)
			r.LineTo(float64(in[0]), float64(in[1]))
			r.QuadraticTo(float64(q[0]), float64(q[1]), float64(out[0]), float64(out[1]))
		}
	}
	r.stroke(look)
}

// face returns a font in the size of the pixels.
func (r *raster) face(l lettering) font.Face {
	if f, ok := r.faces[l]; ok {
		return f
	}
	data := goregular.TTF
	if l.bold {
		data = gobold.TTF
	}
	var face font.Face
	if f, err := opentype.Parse(data); err == nil {
		face, _ = opentype.NewFace(f, &opentype.FaceOptions{Size: float64(l.size) * r.scale, DPI: 72, Hinting: font.HintingFull})
	}
	r.faces[l] = face
	return face
}

func (r *raster) text(x, y int, s string, l lettering, look string, end bool) {
	face := r.face(l)
	if face == nil {
		return
	}
	r.Push()
	r.Identity()
	r.SetFontFace(face)
	r.SetHexColor(inks[look])
	at := float64(x) * r.scale
	if end {
		w, _ := r.MeasureString(s)
		at -= w
	}
	r.DrawString(s, at, float64(y)*r.scale)
	r.Pop()
}
