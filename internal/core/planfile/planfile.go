// Package planfile writes room plans and handouts' sentences as small JSON files
// and reads them again, in another class or school. docs/room-plan.schema.json and
// docs/handout.schema.json say what is in them.
package planfile

import (
	"bytes"
	"encoding/json"
	"errors"
	"slices"
	"strconv"
	"strings"
	"unicode/utf8"

	"jollysatchel/internal/core/naming"
	"jollysatchel/internal/core/record"
	"jollysatchel/internal/core/room"
)

// Kinds of files.
const (
	RoomKind    = "jolly-satchel/room-plan"
	HandoutKind = "jolly-satchel/handout"
)

const version = 1

// MostBytes is the largest file that is read: a plan with all there may be in it
// is a tenth of that.
const MostBytes = 1 << 20

// An Error says why a file can't be read: a code and its arguments.
type Error struct {
	Code string
	Args map[string]string
}

func (e *Error) Error() string { return e.Code + " " + e.Args["what"] + e.Args["text"] }

// A Place of a room file. Under is the id of another place of the same file.
type Place struct {
	ID     string `json:"id"`
	Name   string `json:"name,omitempty"`
	For    string `json:"for"`
	Level  string `json:"level,omitempty"`
	HandIn bool   `json:"handIn,omitempty"`
	Teams  string `json:"teams,omitempty"` // heading of the column the teams come of
	Under  string `json:"under,omitempty"`
}

// A Room is a room plan as a file has it: patterns as they are written, with
// columns in square brackets.
type Room struct {
	Kind    string   `json:"kind"`
	Version int      `json:"version"`
	Satchel string   `json:"satchel"`
	Within  []string `json:"within,omitempty"`
	Pockets []string `json:"pockets"`
	Sorted  bool     `json:"pocketsByName,omitempty"`
	Places  []Place  `json:"places"`
	Name    string   `json:"name,omitempty"`
	Path    []string `json:"path,omitempty"`
	Term    string   `json:"term,omitempty"`
}

// WriteRoom writes a plan as a file. The folder it is in is left out: it is of
// this cupboard.
func WriteRoom(p room.Plan) []byte {
	f := Room{Kind: RoomKind, Version: version, Satchel: p.Satchel.String(), Within: written(p.Within),
		Pockets: []string{}, Sorted: p.Sorted, Places: []Place{}, Name: p.Name, Path: written(p.Path), Term: p.Term}
	for _, pocket := range p.Pockets {
		f.Pockets = append(f.Pockets, pocket.Name)
	}
	for _, x := range p.AllPlaces() {
		teams := ""
		if x.Set != "" {
			teams = x.Set.Label()
		}
		f.Places = append(f.Places, Place{x.ID, x.Name, string(x.For), x.Level, x.HandIn, teams, x.Under})
	}
	return encode(f)
}

func encode(f any) []byte {
	var b bytes.Buffer
	enc := json.NewEncoder(&b)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	if err := enc.Encode(f); err != nil {
		panic(err) // plain values always encode
	}
	return b.Bytes()
}

func written(path []naming.Pattern) []string {
	var out []string
	for _, p := range path {
		out = append(out, p.String())
	}
	return out
}

// A Reader reads files for a class. Known are its columns; nil takes every
// column. Columns says what stands for one it hasn't: another of its columns, or,
// where it says so with no column, nothing.
type Reader struct {
	Known   record.Vocabulary
	Columns map[string]record.Field
	// Unknown are the columns that nothing stands for yet, once something was read.
	Unknown []string
}

// ReadRoom reads a room file. Its places keep the file's own ids and its pockets
// have their place in the list as ids: Adopt makes them a class's. Where Unknown
// isn't empty then, the plan lacks what those columns are for. What is read still
// has to be checked.
func (r *Reader) ReadRoom(b []byte) (room.Plan, error) {
	var f Room
	if err := decode(b, &f, RoomKind, "file-not-plan"); err != nil {
		return room.Plan{}, err
	}
	p := room.Plan{Pockets: []room.Pocket{}, Sorted: f.Sorted, Name: f.Name, Term: f.Term}
	var err error
	if p.Satchel, err = r.pattern(f.Satchel); err != nil {
		return p, err
	}
	if p.Within, err = r.path(f.Within); err != nil {
		return p, err
	}
	if p.Path, err = r.path(f.Path); err != nil {
		return p, err
	}
	for i, name := range f.Pockets {
		p.Pockets = append(p.Pockets, room.Pocket{ID: strconv.Itoa(i), Name: name})
	}
	if f.Places != nil {
		p.Places = []room.Place{}
	}
	for _, x := range f.Places {
		place := room.Place{ID: x.ID, Name: x.Name, For: room.For(x.For), Level: x.Level, HandIn: x.HandIn, Under: x.Under}
		if x.Teams != "" {
			place.Set, _ = r.column(x.Teams)
		}
		p.Places = append(p.Places, place)
	}
	return p, nil
}

func decode(b []byte, into any, kind, not string) error {
	if len(b) > MostBytes {
		return &Error{"too-large", nil}
	}
	var head struct {
		Kind    string `json:"kind"`
		Version int    `json:"version"`
	}
	b = bytes.TrimPrefix(b, []byte("\ufeff"))
	if !utf8.Valid(b) {
		return &Error{"file-not-json", map[string]string{"what": "not UTF-8"}}
	}
	if err := json.Unmarshal(b, &head); err != nil {
		var wrong *json.UnmarshalTypeError
		if errors.As(err, &wrong) {
			return &Error{not, nil}
		}
		return &Error{"file-not-json", map[string]string{"what": err.Error()}}
	}
	switch {
	case head.Kind != kind:
		return &Error{not, nil}
	case head.Version != version:
		return &Error{"file-version", map[string]string{"version": strconv.Itoa(head.Version)}}
	}
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	if err := dec.Decode(into); err != nil {
		return &Error{"file-field", map[string]string{"what": strings.TrimPrefix(err.Error(), "json: ")}}
	}
	return nil
}

func (r *Reader) path(levels []string) ([]naming.Pattern, error) {
	var out []naming.Pattern
	for _, s := range levels {
		p, err := r.pattern(s)
		if err != nil {
			return nil, err
		}
		out = append(out, p)
	}
	return out, nil
}

// pattern reads a written pattern, with what stands for columns that aren't known.
func (r *Reader) pattern(s string) (naming.Pattern, error) {
	p, err := naming.Parse(s, nil)
	if err != nil {
		return nil, &Error{"pattern", map[string]string{"text": s}}
	}
	out := naming.Pattern{}
	for _, part := range p {
		if part.Column != "" {
			column, stays := r.column(part.Column.Label())
			if !stays {
				continue
			}
			part.Column = column
		}
		out = append(out, part)
	}
	return out, nil
}

// column returns what stands for a column; stays is false where nothing does.
func (r *Reader) column(label string) (f record.Field, stays bool) {
	if instead, said := r.Columns[label]; said {
		return instead, instead != ""
	}
	f = record.Named(label)
	if r.Known != nil && !r.Known.Has(f) {
		r.lacks(label)
	}
	return f, true
}

func (r *Reader) lacks(label string) {
	if !slices.Contains(r.Unknown, label) {
		r.Unknown = append(r.Unknown, label)
	}
}

// Adopt gives the places and pockets of a plan that was read the ids of those of
// the present plan that are called alike and are for the same, so that what was
// made for them stays theirs, and new ids to the others. What belongs to this
// class alone stays: the folder it is in and the day it was packed.
func Adopt(read, present room.Plan, id func() string) room.Plan {
	read.Base, read.Day = present.Base, present.Day
	for i, pocket := range read.Pockets {
		at := slices.IndexFunc(present.Pockets, func(p room.Pocket) bool { return naming.Fold(p.Name) == naming.Fold(pocket.Name) })
		if at >= 0 && !slices.ContainsFunc(read.Pockets[:i], func(p room.Pocket) bool { return p.ID == present.Pockets[at].ID }) {
			read.Pockets[i].ID = present.Pockets[at].ID
		} else {
			read.Pockets[i].ID = id()
		}
	}
	ids := map[string]string{}
	used := map[string]bool{}
	for _, x := range read.Places {
		switch there := slices.IndexFunc(present.AllPlaces(), func(p room.Place) bool {
			return !p.Usual() && p.For == x.For && p.Set == x.Set && naming.Fold(p.Name) == naming.Fold(x.Name) && !used[p.ID]
		}); {
		case x.Usual():
			ids[x.ID] = x.ID
		case there >= 0:
			ids[x.ID] = present.AllPlaces()[there].ID
		default:
			ids[x.ID] = id()
		}
		used[ids[x.ID]] = true
	}
	places := slices.Clone(read.Places)
	for i, x := range places {
		places[i].ID = ids[x.ID]
		if x.Under != "" && ids[x.Under] != "" {
			places[i].Under = ids[x.Under]
		}
	}
	read.Places = places
	return read
}
