package document

import (
	"errors"
	"strings"

	"github.com/yuin/goldmark/ast"
)

// ErrTangled says that a text is more entangled than any that people write: it is
// shown as it was typed, and its words aren't counted.
var ErrTangled = errors.New("document: too tangled to be rendered")

// How much of what makes rendering dear a text may have. CommonMark lets each of
// these ask for more than in proportion to its length.
const (
	mostDeep     = 20     // quotes and list items begun on one line
	mostIndent   = 80     // columns before the mark of a list item
	mostBrackets = 3_000  // in one paragraph, as all to mostAngles
	mostStars    = 6_000  // and underscores and tildes
	mostTicks    = 2_000  // grave accents
	mostAngles   = 1_500  // less-than signs, which may begin HTML
	mostColumns  = 100    // of a table
	mostCells    = 40_000 // of all tables
	mostLinks    = 5_000
	mostPlain    = 2 << 20 // bytes of all addresses of links
	mostHTML     = 16 << 20
)

// bounded looks a text over once, line by line, for what it would ask of the
// renderer.
func bounded(text string) error {
	if len(text) > MaxText {
		return ErrTangled
	}
	var brackets, stars, ticks, angles, columns, cells int
	for line := range strings.Lines(text) {
		if strings.TrimSpace(line) == "" {
			brackets, stars, ticks, angles, columns = 0, 0, 0, 0, 0
			continue
		}
		if tooDeep(line) {
			return ErrTangled
		}
		for i := range len(line) {
			switch line[i] {
			case '[', ']':
				brackets++
			case '*', '_', '~':
				stars++
			case '`':
				ticks++
			case '<':
				angles++
			}
		}
		if n := delimiters(line); n > columns {
			columns = n
		}
		cells += columns
		if brackets > mostBrackets || stars > mostStars || ticks > mostTicks || angles > mostAngles ||
			columns > mostColumns || cells > mostCells {
			return ErrTangled
		}
	}
	return nil
}

// tooDeep reports a line that begins more quotes and list items in one another
// than anybody reads.
func tooDeep(line string) bool {
	deep, column := 0, 0
	for i := 0; i < len(line); i++ {
		switch c := line[i]; {
		case c == ' ':
			column++
			continue
		case c == '\t':
			column += 4
			continue
		case c == '>':
		case (c == '-' || c == '+' || c == '*') && i+1 < len(line) && strings.IndexByte(" \t\r\n", line[i+1]) >= 0:
		case c >= '0' && c <= '9':
			for i+1 < len(line) && line[i+1] >= '0' && line[i+1] <= '9' {
				i++
			}
			if i+1 >= len(line) || line[i+1] != '.' && line[i+1] != ')' {
				return false
			}
			i++
		default:
			return false
		}
		if deep++; deep > mostDeep || column > mostIndent {
			return true
		}
		column++
	}
	return false
}

// delimiters counts the columns of a line that can be the one below a table's
// head; 0 for any other.
func delimiters(line string) int {
	line = strings.TrimLeft(line, "> \t")
	if strings.Trim(line, "|-: \t\r\n") != "" || !strings.Contains(line, "-") {
		return 0
	}
	return strings.Count(line, "|") + 1
}

// expanded looks a parsed text over for references that are written out too often.
func expanded(doc ast.Node) error {
	links, plain := 0, 0
	err := ast.Walk(doc, func(n ast.Node, in bool) (ast.WalkStatus, error) {
		if !in {
			return ast.WalkContinue, nil
		}
		switch n := n.(type) {
		case *ast.Link:
			links, plain = links+1, plain+len(n.Destination)+len(n.Title)
		case *ast.Image:
			links, plain = links+1, plain+len(n.Destination)+len(n.Title)
		case *ast.AutoLink:
			links++
		}
		if links > mostLinks || plain > mostPlain {
			return ast.WalkStop, ErrTangled
		}
		return ast.WalkContinue, nil
	})
	return err
}

// An upTo keeps what is written to it, up to a limit.
type upTo struct {
	strings.Builder
}

func (w *upTo) Write(p []byte) (int, error) {
	if w.Len()+len(p) > mostHTML {
		return 0, ErrTangled
	}
	return w.Builder.Write(p)
}
