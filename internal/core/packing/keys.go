package packing

import (
	"fmt"
	"strconv"
	"strings"
)

// A Purpose says what a thing is for.
type Purpose string

// The purposes of things.
const (
	ClassFolder   Purpose = "class"
	Shelf         Purpose = "shelf"
	Table         Purpose = "table"
	Drawer        Purpose = "drawer"
	Cloakroom     Purpose = "cloakroom"
	Satchel       Purpose = "satchel"
	Level         Purpose = "level"    // ID: what it says; between Cloakroom and satchels
	Pocket        Purpose = "pocket"   // ID: the pocket
	Place         Purpose = "place"    // ID: the place; one that a plan has beside the usual ones
	Handouts      Purpose = "handouts" // the folder that holds the handouts' folders
	HandoutFolder Purpose = "handout"  // ID: the handout
	Copy          Purpose = "copy"     // ID: the handout, Slot: which of its templates
	Added         Purpose = "added"    // ID: a thing in the cupboard that people put there themselves
	Account       Purpose = "account"  // nothing in the cupboard: which account a row is linked to
)

// What is the purpose of a thing with the ids that tell it from others of its
// kind. Slots count from 1; 0 is for purposes that have none.
type What struct {
	Purpose Purpose
	ID      string
	Slot    int
}

// Whom says for whom a thing is: a row of the class's roster or a team, by id;
// the zero value is the class.
type Whom struct{ Row, Team string }

// A Key names what is wanted for ever: class, purpose and for whom. It holds no
// name, address, date, order or generation, so it stays the same whatever those
// become. Keys can be compared; the zero value is no key.
type Key struct {
	Class string
	What  What
	Whom  Whom
}

// Handout is the id of the handout that a thing is of: a copy, or the folder of its things;
// empty of everything else.
func (k Key) Handout() string {
	if k.What.Purpose == Copy || k.What.Purpose == HandoutFolder {
		return k.What.ID
	}
	return ""
}

// String writes the key so that ParseKey reads it again. It is how keys are
// kept and sent; nothing else takes one apart.
func (k Key) String() string {
	what := string(k.What.Purpose)
	if k.What.ID != "" {
		what += "." + k.What.ID
	}
	if k.What.Slot > 0 {
		what += "." + strconv.Itoa(k.What.Slot)
	}
	whom := "class"
	switch {
	case k.Whom.Row != "":
		whom = "row." + k.Whom.Row
	case k.Whom.Team != "":
		whom = "team." + k.Whom.Team
	}
	return k.Class + "/" + what + "/" + whom
}

// ParseKey reads what String wrote.
func ParseKey(s string) (Key, error) {
	parts := strings.Split(s, "/")
	if len(parts) != 3 || parts[0] == "" || parts[1] == "" {
		return Key{}, fmt.Errorf("no key: %q", s)
	}
	k := Key{Class: parts[0]}
	what := strings.Split(parts[1], ".")
	k.What.Purpose = Purpose(what[0])
	if len(what) > 1 {
		k.What.ID = what[1]
	}
	if len(what) > 2 {
		var err error
		if k.What.Slot, err = strconv.Atoi(what[2]); err != nil || len(what) > 3 {
			return Key{}, fmt.Errorf("no slot in key %q", s)
		}
	}
	whom, id, _ := strings.Cut(parts[2], ".")
	switch whom {
	case "class":
	case "row":
		k.Whom.Row = id
	case "team":
		k.Whom.Team = id
	default:
		return Key{}, fmt.Errorf("for nobody in key %q", s)
	}
	if k.String() != s {
		return Key{}, fmt.Errorf("no key: %q", s)
	}
	return k, nil
}

// MarshalText implements encoding.TextMarshaler; no key is no text.
func (k Key) MarshalText() ([]byte, error) {
	if k == (Key{}) {
		return nil, nil
	}
	return []byte(k.String()), nil
}

// UnmarshalText implements encoding.TextUnmarshaler.
func (k *Key) UnmarshalText(b []byte) (err error) {
	*k = Key{}
	if len(b) > 0 {
		*k, err = ParseKey(string(b))
	}
	return err
}

// An Act is what packing a line does.
type Act string

// The acts. Share gives access to a thing already made; Point adds pointers.
// Rename, Move, Take and Lower change a thing already made; Restore takes it out
// of the bin and Discard puts it there; HandOver makes a student its owner; Bring
// fetches a satchel from the student's former class; Renew gives a copy the present state
// of its document; Relink changes which account a
// row is linked to. Those that come of a door check put one thing right: SetLevel gives somebody
// exactly a level by the thing's own rule, ShutLink takes from everybody of the school what they have
// by its link, SetAlone says whether the rules above count, Close puts a mark on it and Reopen takes it away,
// and TakeBack passes it from whoever has it to whom it belongs.
const (
	None    Act = ""
	Make    Act = "make"
	Share   Act = "share"
	Point   Act = "point"
	Rename  Act = "rename"
	Move    Act = "move"
	Take    Act = "take"
	Lower   Act = "lower"
	Restore Act = "restore"
	Discard Act = "discard"

	HandOver Act = "hand-over"
	Bring    Act = "bring"
	Renew    Act = "renew"

	Relink Act = "relink"

	SetLevel Act = "set-level"
	ShutLink Act = "shut-link"
	SetAlone Act = "set-alone"
	Close    Act = "close"
	Reopen   Act = "reopen"
	TakeBack Act = "take-back"
)

// A StepKey names one act on what is wanted, for ever: the cupboard can tell a
// step done from a step to do. Generations count from 1; only Make again raises
// one. Account says whose access a Take, Lower or SetLevel is about.
type StepKey struct {
	Key        Key    `json:"key"`
	Act        Act    `json:"act"`
	Account    string `json:"account,omitempty"`
	Generation int    `json:"generation"`
}

// String is the step's name at the cupboard and on the screen.
func (k StepKey) String() string {
	s := k.Key.String() + "/" + string(k.Act)
	if k.Account != "" {
		s += "." + k.Account
	}
	return s + "/" + strconv.Itoa(k.Generation)
}
