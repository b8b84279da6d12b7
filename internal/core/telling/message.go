package telling

import "time"

// States of a message.
const (
	Waiting      = "waiting"   // for its turn, or to be tried again
	Gathering    = "gathering" // for its digest
	WentInDigest = "gathered"  // in a digest, which says what happened to it
	Sent         = "sent"
	Failed       = "failed"
)

// A Message is what somebody is told by post. Its About names what it tells of and to
// whom: there is one of each.
type Message struct {
	ID        string    `db:"id" json:"id"`
	N         int64     `db:"n" json:"-"`
	ClassID   string    `db:"class_id" json:"class_id"` // empty: the school's
	HandoutID string    `db:"handout_id" json:"handout_id"`
	Row       string    `db:"row_id" json:"row_id"`
	Account   string    `db:"account" json:"account"`
	Kind      Kind      `db:"kind" json:"kind"`
	About     string    `db:"about" json:"about"`
	SentBy    string    `db:"sent_by" json:"sent_by"`
	ReplyTo   string    `db:"reply_to" json:"reply_to"`
	FromName  string    `db:"from_name" json:"from_name"`
	ToName    string    `db:"to_name" json:"to_name"`
	ToAddress string    `db:"to_address" json:"to_address"`
	Outside   bool      `db:"outside" json:"outside"` // an address that a column has, not the student's own
	Subject   string    `db:"subject" json:"subject"`
	Body      string    `db:"body" json:"body"`
	State     string    `db:"state" json:"state"`
	Reason    string    `db:"reason" json:"-"`
	Tries     int       `db:"tries" json:"-"`
	NotBefore time.Time `db:"not_before" json:"not_before"`
	MadeAt    time.Time `db:"made_at" json:"made_at"`
	EndedAt   time.Time `db:"-" json:"-"`
	InDigest  bool      `db:"in_digest" json:"-"`
}

// Wished is how somebody wants to be told; At is the time of day of the digest, "15:30".
type Wished struct {
	Account string `db:"account"`
	Wish    Wish   `db:"wish"`
	At      string `db:"at"`
}
