// Package words holds the words for every code the program gives: findings about
// lists, reasons, notes, remarks and problems. The interface reads the same file,
// so that a command, an answer of the server and a page say the same.
package words

import (
	"cmp"
	_ "embed" // the catalogue
	"encoding/json"
	"strconv"
	"strings"
	"time"

	"jollysatchel/internal/core/change"
)

//go:embed en.json
var catalogue []byte

// A Text is what is said of a finding: a heading, what is wrong, what to do.
type Text struct {
	Title  string `json:"title"`
	Text   string `json:"text"`
	Remedy string `json:"remedy"`
}

// English is the catalogue by code. Texts name arguments in braces, and words a
// school may replace as @:{'word.name'}; a note has a text for one and one for
// many, with | between.
var English = func() (c struct {
	Word    map[string]string `json:"word"`
	State   map[string]string `json:"state"`
	Finding map[string]Text   `json:"finding"`
	Reason  map[string]string `json:"reason"`
	Note    map[string]string `json:"note"`
	Remark  map[string]string `json:"remark"`
	Naming  map[string]string `json:"naming"`
	Problem map[string]string `json:"problem"`
	Mail    map[string]string `json:"mail"`
	Act     map[string]string `json:"act"`
	Part    map[string]string `json:"part"`  // what of a thing was changed
	Value   map[string]string `json:"value"` // what it is, by part and code
	Level   map[string]string `json:"level"` // of access
	Door    map[string]string `json:"door"`  // kinds of differences
	Way     map[string]string `json:"way"`   // how somebody reaches something
}) {
	if err := json.Unmarshal(catalogue, &c); err != nil {
		panic(err) // the file ships with the program
	}
	return c
}()

// Finding returns what is said of a finding; pairs are argument names and values
// in turn.
func Finding(code string, pairs ...string) Text {
	t := English.Finding[code]
	return Text{Fill(t.Title, pairs...), Fill(t.Text, pairs...), Fill(t.Remedy, pairs...)}
}

// Reason returns what is said of a reason.
func Reason(code string, args map[string]string) string {
	return Fill(English.Reason[code], named(args)...)
}

func named(args map[string]string) (pairs []string) {
	for name, value := range args {
		pairs = append(pairs, name, value)
	}
	return pairs
}

// Problem returns what is said of a problem. Somebody else's change of which both
// values are known has a text of its own.
func Problem(code string, args map[string]string) string {
	if code == "changed" && args["yours"] == "" && args["theirs"] == "" {
		code = "changed-list"
	}
	return Fill(English.Problem[code], named(args)...)
}

// Act returns what an act of the log is called: about what, its name and how many,
// as far as it is about any. Of a run without a title, that is the room. An act with
// | between has a text for one and one for many.
func Act(code, title, name string, count int) string {
	text, known := English.Act[code]
	if !known {
		return code
	}
	if one, many, both := strings.Cut(text, " | "); both {
		if text = many; count == 1 {
			text = one
		}
	}
	if title == "" {
		title = English.Reason["the-room"]
	}
	// What came without a name isn't announced.
	return strings.TrimRight(Fill(text, "title", title, "name", name, "count", strconv.Itoa(count)), ": ")
}

// Changes returns what a change changed, things in all: of each, what and from what to what.
func Changes(told []change.Told, things int) string {
	var b strings.Builder
	for i, t := range told {
		if i > 0 {
			b.WriteString("; ")
		}
		if t.Whose != "" {
			b.WriteString(t.Whose + ": ")
		}
		if t.What == "out" { // whether a student gets it: what they were is the other
			b.WriteString(value(t.What, t.To))
			continue
		}
		part := cmp.Or(English.Part[t.What], t.What)
		one, many, both := strings.Cut(English.Part[t.What], " | ")
		if both && t.To == "1" {
			part = one
		} else if both {
			part = many
		}
		if both || strings.Contains(English.Part[t.What], "{to}") { // it says itself to what
			b.WriteString(Fill(part, "to", value(t.What, t.To)))
			continue
		}
		b.WriteString(part)
		if t.From != "" || t.To != "" {
			b.WriteString(" " + value(t.What, t.From) + " → " + value(t.What, t.To))
		}
	}
	if more := things - len(told); more > 0 && len(told) > 0 {
		b.WriteString(Fill(English.Part["more"], "count", strconv.Itoa(more)))
	}
	return b.String()
}

// value is a value of a part as it is read: a code by its words, a time as people say it.
func value(part, v string) string {
	if text, known := English.Value[part+"-"+v]; known {
		return Fill(text)
	}
	if at, err := time.Parse("2006-01-02T15:04", v); err == nil {
		return at.Format("Mon 2 Jan 15:04")
	}
	return cmp.Or(v, English.Value["none"])
}

// Mail returns a text of messages; pairs are argument names and values in turn.
func Mail(code string, pairs ...string) string { return Fill(English.Mail[code], pairs...) }

// Fill puts values in place of their names in braces, in one pass: a value that
// holds braces stays as it is. pairs are names and values in turn; a name without
// a value is left out.
func Fill(text string, pairs ...string) string {
	open := strings.IndexByte(text, '{')
	if open < 0 {
		return text
	}
	var b strings.Builder
	b.Grow(len(text) + 48)
	for open >= 0 {
		end := open + strings.IndexByte(text[open:], '}')
		name := text[open+1 : end]
		word, isWord := strings.CutPrefix(strings.Trim(name, "'"), "word.")
		b.WriteString(strings.TrimSuffix(text[:open], "@:"))
		if isWord {
			b.WriteString(English.Word[word])
		}
		for i := 0; i+1 < len(pairs) && !isWord; i += 2 {
			if pairs[i] == name {
				b.WriteString(pairs[i+1])
				break
			}
		}
		text = text[end+1:]
		open = strings.IndexByte(text, '{')
	}
	b.WriteString(text)
	return b.String()
}
