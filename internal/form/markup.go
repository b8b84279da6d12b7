package form

import (
	"bytes"
	"cmp"
	"encoding/xml"
	"errors"
	"io"
	"slices"
	"strings"

	"jollysatchel/internal/core/filling"
)

// A markup says, by names without their prefixes, which elements of an XML text are
// what. What is in brackets may be spread over several texts of one paragraph, each
// with a formatting of its own.
type markup struct {
	paragraph []string // what begins and ends with the words of one line
	text      []string // holds words; none: whatever is in a paragraph does
	space     []string // stands for a space
	aside     []string // what is in it isn't part of the paragraph
	blanks    bool     // a text must say that blanks at its ends are meant
}

var (
	// openText is that of ISO/IEC 26300 (OpenDocument), part 1, chapters 5 and 6.
	openText = markup{paragraph: []string{"p", "h"}, space: []string{"s"}}
	// officeText is that of ECMA-376, part 1, 17.3; officeSheet that of 18.4.
	officeText  = markup{paragraph: []string{"p"}, text: []string{"t"}, blanks: true}
	officeSheet = markup{paragraph: []string{"si", "is"}, text: []string{"t"}, aside: []string{"rPh"}, blanks: true}
)

// mostDeep is how deep elements may be in one another.
const mostDeep = 500

// A run is a text of a paragraph: which bytes of the entry it takes, and what they say.
type run struct {
	from, to int
	says     string
	fixed    bool // it stands for a space
	tag      int  // where its element's first tag ends, if that must say that blanks are meant
}

// marked reads an entry of an archive. Its pieces are kept if it asks for columns.
func (r *reading) marked(entry string, text []byte, m markup) error {
	w := &walk{markup: m, text: text, reading: r}
	if err := w.all(); err != nil {
		return err
	}
	if len(w.edits) > 0 {
		r.form.texts[entry] = w.joined()
	}
	return nil
}

// A walk goes over an XML text and collects what is to be put in the place of which
// bytes.
type walk struct {
	markup
	text    []byte
	reading *reading
	open    []string // elements
	lines   [][]run  // of the paragraphs that are open, and of what isn't part of them
	edits   []edit
}

// An edit puts pieces in the place of some bytes.
type edit struct {
	from, to int
	pieces   []piece
}

func (w *walk) all() error {
	d := xml.NewDecoder(bytes.NewReader(w.text))
	tag := 0
	for {
		if err := w.reading.goesOn(); err != nil {
			return err
		}
		from := int(d.InputOffset())
		token, err := d.RawToken()
		to := int(d.InputOffset())
		if errors.Is(err, io.EOF) && len(w.open) == 0 {
			return nil
		}
		if err != nil {
			return ErrUnreadable
		}
		switch t := token.(type) {
		case xml.StartElement:
			name := t.Name.Local
			if w.open = append(w.open, name); len(w.open) > mostDeep {
				return ErrUnreadable
			}
			tag = 0
			switch {
			case slices.Contains(w.paragraph, name), slices.Contains(w.aside, name):
				w.lines = append(w.lines, nil)
			case len(w.lines) == 0:
			case slices.Contains(w.space, name):
				w.add(run{from: from, to: to, says: " ", fixed: true})
			case w.blanks && slices.Contains(w.markup.text, name):
				if !slices.ContainsFunc(t.Attr, func(a xml.Attr) bool { return a.Name.Local == "space" }) && w.text[to-2] != '/' {
					tag = to - 1
				}
			case breaks(name):
				w.add(run{says: "\n", fixed: true})
			}
		case xml.EndElement:
			if len(w.open) == 0 || w.open[len(w.open)-1] != t.Name.Local {
				return ErrUnreadable
			}
			w.open = w.open[:len(w.open)-1]
			if n := len(w.lines); n > 0 && (slices.Contains(w.paragraph, t.Name.Local) || slices.Contains(w.aside, t.Name.Local)) {
				w.line(w.lines[n-1])
				w.lines = w.lines[:n-1]
			}
		case xml.CharData:
			if len(w.lines) > 0 && len(w.open) > 0 && (len(w.markup.text) == 0 || slices.Contains(w.markup.text, w.open[len(w.open)-1])) {
				w.add(run{from: from, to: to, says: string(t), tag: tag})
			}
		}
	}
}

// breaks are what words don't go on over.
func breaks(name string) bool {
	return slices.Contains([]string{"tab", "br", "cr", "line-break", "note", "annotation", "frame", "drawing"}, name)
}

func (w *walk) add(r run) { w.lines[len(w.lines)-1] = append(w.lines[len(w.lines)-1], r) }

// line finds what a paragraph asks for. A column goes where its first bracket stands;
// the rest of what asked for it is taken out of the runs it was spread over.
func (w *walk) line(runs []run) {
	var whole strings.Builder
	for _, r := range runs {
		whole.WriteString(r.says)
	}
	if !strings.Contains(whole.String(), "[") {
		return
	}
	parts := w.reading.find(whole.String())
	at := 0 // where in the paragraph the run begins
	for _, r := range runs {
		end := at + len(r.says)
		for len(parts) > 0 && parts[0].To <= at { // over: parts come in their order
			parts = parts[1:]
		}
		n := 0 // that are asked for in the run
		for n < len(parts) && parts[n].From < end {
			n++
		}
		switch {
		case n == 0:
		case !r.fixed:
			w.edits = append(w.edits, edit{r.from, r.to, instead(r.says, at, parts[:n])})
			if r.tag > 0 {
				w.edits = append(w.edits, edit{r.tag, r.tag, []piece{{bytes: []byte(` xml:space="preserve"`)}}})
			}
		case r.to > r.from && w.text[r.to-2] == '/':
			w.edits = append(w.edits, edit{from: r.from, to: r.to})
		}
		at = end
	}
}

// instead is what comes in the place of a run that begins at a byte of its paragraph.
func instead(says string, begins int, parts []filling.Part) []piece {
	var out []piece
	at := 0
	for _, p := range parts {
		from, to := max(p.From-begins, 0), min(p.To-begins, len(says))
		if from >= to {
			continue
		}
		out = append(out, piece{bytes: escaped(says[at:from])})
		if p.From >= begins {
			out = append(out, piece{part: &p})
		}
		at = to
	}
	return append(out, piece{bytes: escaped(says[at:])})
}

// joined is the whole text with its edits.
func (w *walk) joined() []piece {
	slices.SortFunc(w.edits, func(a, b edit) int { return cmp.Or(cmp.Compare(a.from, b.from), cmp.Compare(a.to, b.to)) })
	var out []piece
	at := 0
	for _, e := range w.edits {
		out = append(append(out, piece{bytes: w.text[at:e.from]}), e.pieces...)
		at = e.to
	}
	return append(out, piece{bytes: w.text[at:]})
}

// escaped is a text as it is in XML.
func escaped(text string) []byte {
	var b bytes.Buffer
	_ = xml.EscapeText(&b, []byte(text)) // a Buffer takes all
	return b.Bytes()
}
