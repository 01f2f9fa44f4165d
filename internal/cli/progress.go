package cli

// Progress of a survey is one line that is rewritten on a terminal, and silence elsewhere.

import (
	"fmt"
	"io"
	"strings"

	"echo-atlas/internal/cli/render"
	"echo-atlas/internal/core/schema"
	"echo-atlas/internal/core/survey"
)

// progress tells on stderr how a survey gets on: on a terminal in one line that is written over, else
// in a line for each thing that ends.
type progress struct {
	w        io.Writer
	terminal bool
	running  map[string]string
	order    []string
	done     int
	written  bool
}

func newProgress(w io.Writer) *progress {
	return &progress{w: w, terminal: isTerminal(w), running: map[string]string{}}
}

func (p *progress) event(e survey.Event) {
	where := render.Visible(schema.Location{Server: e.Server, Database: e.Database}.String())
	switch e.Stage {
	case "note":
		if p.terminal && p.written {
			fmt.Fprint(p.w, "\r\x1b[K")
		}
		fmt.Fprintf(p.w, "%s: %s\n", where, render.Visible(e.Note))
	case "done", "failed":
		delete(p.running, where)
		p.done++
		if !p.terminal {
			if e.Stage == "done" {
				fmt.Fprintf(p.w, "read %s: %s in %s\n", where, render.Plural(e.Objects, "object", "objects"), render.Took(e.Took))
			} else {
				fmt.Fprintf(p.w, "failed %s\n", where)
			}
		}
	default:
		if e.Database != "" {
			delete(p.running, render.Visible(schema.Location{Server: e.Server}.String()))
		}
		if _, known := p.running[where]; !known {
			p.order = append(p.order, where)
		}
		p.running[where] = e.Stage
	}
	if p.terminal {
		p.draw()
	}
}

func (p *progress) draw() {
	var parts []string
	for _, where := range p.order {
		if stage, ok := p.running[where]; ok {
			parts = append(parts, stage+" "+where)
		}
	}
	width := terminalWidth(p.w)
	if width == 0 {
		width = 80
	}
	line := fmt.Sprintf("%d done", p.done)
	if len(parts) > 0 {
		line += "; " + strings.Join(parts, ", ")
	}
	fmt.Fprintf(p.w, "\r\x1b[K%s", render.Fit(line, width-1))
	p.written = true
}

// close wipes the line.
func (p *progress) close() {
	if p.written {
		fmt.Fprint(p.w, "\r\x1b[K")
	}
}
