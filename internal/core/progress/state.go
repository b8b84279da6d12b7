package progress

// A State is what the Register shows of one student and one thing.
type State string

// The states, in words the interface has a tag for.
const (
	Stuck     State = "stuck"
	Out       State = "out"
	NotMade   State = "not-made"
	Waits     State = "waits" // made, for somebody who has no account yet
	NotShared State = "not-shared"
	Working   State = "working"
	Opened    State = "opened"
	Shared    State = "shared"
)

// Facts are what is known of one student and one thing. Made and shared are
// two different facts.
type Facts struct {
	Stuck, Out, Made, Waits, Shared, Begun, Opened bool
}

// Further reports whether one thing of a student's has come further than another.
func (s State) Further(than State) bool { return rank[s] > rank[than] }

var rank = map[State]int{NotMade: 1, Out: 2, Waits: 3, NotShared: 4, Shared: 5, Opened: 6, Working: 7, Stuck: 8}

// StateOf returns the first state that applies: stuck, sits out, not made, waits, not
// shared, working, opened, shared.
func StateOf(f Facts) State {
	switch {
	case f.Stuck:
		return Stuck
	case f.Out && !f.Made:
		return Out
	case !f.Made:
		return NotMade
	case f.Waits:
		return Waits
	case !f.Shared:
		return NotShared
	case f.Begun:
		return Working
	case f.Opened:
		return Opened
	}
	return Shared
}

// Fill returns how full a tag is drawn, in percent: half full is the median of
// those who began, full at twice that.
func Fill(words, median int) int {
	if words <= 0 || median <= 0 {
		return 0
	}
	return min(100, words*50/median)
}
