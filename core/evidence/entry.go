// Package evidence is the ledger of a job: what was observed or done, on what,
// in which condition, by whom. An entry is added or withdrawn with a reason,
// and never edited.
package evidence

import (
	"fmt"
	"slices"
	"strings"
	"time"

	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/trouble"
)

// Bounds of one entry and of one ledger.
const (
	MaxEntries = 500
	MaxCodes   = 64
	MaxText    = 2000
	MaxName    = 80
	MaxUnits   = 200 // in each list of a verdict: twelve cylinders have some 160
	MaxMoved   = 60  // parts in one move
)

// Kind says what an entry is.
type Kind string

// The kinds of entry.
const (
	KindCodes    Kind = "codes"
	KindCounters Kind = "counters"
	KindWatch    Kind = "watch"
	KindMove     Kind = "move"
	KindLook     Kind = "look"
	KindVerdict  Kind = "verdict"
	KindWithdraw Kind = "withdraw"
	KindTrims    Kind = "trims"
	KindCheck    Kind = "check"
	KindCovers   Kind = "covers"
	KindFit      Kind = "fit"
	KindReadings Kind = "readings"
	KindSparks   Kind = "sparks"
	KindBeside   Kind = "beside"
)

// Condition is how the engine was running when something was observed.
type Condition string

// The conditions; AnyCondition is "not said".
const (
	AnyCondition Condition = ""
	Idle         Condition = "idle"
	Load         Condition = "load"
	Hot          Condition = "hot"
	Cold         Condition = "cold"
	Wet          Condition = "wet"
	Snap         Condition = "snap"
)

// Conditions lists the conditions with their words, in the order offered.
var Conditions = []struct {
	Condition Condition
	Words     string
}{
	{AnyCondition, "not said"},
	{Idle, "at idle"},
	{Load, "under load"},
	{Hot, "hot"},
	{Cold, "cold"},
	{Wet, "wet"},
	{Snap, "on snap throttle"},
}

// Known says that the condition is one of [Conditions].
func (c Condition) Known() bool {
	for _, row := range Conditions {
		if row.Condition == c {
			return true
		}
	}
	return false
}

// Words is the condition as said in a sentence.
func (c Condition) Words() string {
	for _, row := range Conditions {
		if row.Condition == c {
			return row.Words
		}
	}
	return string(c)
}

// Codes is one read of a control unit. No reading at all means that the unit
// held no code.
type Codes struct {
	Read []trouble.Reading `json:"read"`
	// Frame is the freeze frame, if one was read.
	Frame *trouble.Frame `json:"frame,omitzero"`
}

// Trims is the fuel trims of each bank in live data, engine warm and in closed loop.
type Trims struct {
	Banks []trouble.Trim `json:"banks"`
}

// Check is a test that answers one question about the whole engine, a bank or a
// cylinder, as [Tests] lists them.
type Check struct {
	Test TestID `json:"test"`
	// Place is where the result was found; the whole engine where it was not.
	Place  engine.Place `json:"place"`
	Result ResultID     `json:"result"`
}

// Covers is what came off the engine and what went back on.
type Covers struct {
	Off []string `json:"off,omitzero"`
	On  []string `json:"on,omitzero"`
}

// Counters is the misfires counted on each cylinder over one run.
type Counters struct {
	// Revolutions of the crankshaft that were watched; each cylinder was due to
	// fire half as often.
	Revolutions int `json:"revolutions"`
	// Counts holds one count a cylinder, in numerical order.
	Counts []int `json:"counts"`
	// Fresh says that the counters stood at zero when the run began.
	Fresh bool `json:"fresh"`
}

// Most is the cylinder with the most counts, and how many.
func (c Counters) Most() (engine.Cylinder, int) {
	most := slices.Max(c.Counts)
	return engine.Cylinder(slices.Index(c.Counts, most) + 1), most
}

// Watch is a run in which the misfire was followed without numbers: live data,
// a feel of the hand, an ear.
type Watch struct {
	// Cylinders where it was seen; none means that it ran clean.
	Cylinders []engine.Cylinder `json:"cylinders"`
}

// Move is parts that changed places, all at once.
type Move struct {
	Parts []part.Relocation `json:"parts"`
	// Cleared says that codes were cleared and counters zeroed after the move,
	// before the engine ran again.
	Cleared bool `json:"cleared"`
}

// Look is what the eye found on one or more items.
type Look struct {
	Items []Seen `json:"items"`
	// Moving says that it was seen on the way, as things came off for the move that
	// follows: the hands on it are that move's.
	Moving bool `json:"moving,omitzero"`
	// Ran is how the engine was run and stopped before plugs were pulled.
	Ran Ran `json:"ran,omitzero"`
	// Gap is the maker's range of the plugs' gap in millimetres, as it was known.
	Gap *plug.Range `json:"gap,omitzero"`
}

// Seen is one item looked at: a tagged part, or the connector at a place.
type Seen struct {
	Tag     part.Tag     `json:"tag,omitzero"`
	Place   engine.Place `json:"place,omitzero"`
	Finding Finding      `json:"finding"`
	// Plug is what was read on a plug in full; the finding is then the gravest thing in it.
	Plug plug.Look `json:"plug,omitzero"`
}

// Kind is the kind of what was looked at.
func (s Seen) Kind() engine.Kind {
	if s.Tag == "" {
		return engine.Connector
	}
	return s.Tag.Kind()
}

// Name says which one it is: "boot B2", "connector of cylinder 2".
func (s Seen) Name() string {
	if s.Tag == "" {
		return fmt.Sprintf("connector of %s", s.Place)
	}
	return s.Tag.Words()
}

// Verdict is a signed judgement: which unit was at fault and how sure it was.
type Verdict struct {
	// Unit is the repair unit, such as "coil C2" or "connector cyl-2".
	Unit string `json:"unit"`
	// P is the probability at the moment of signing, 0 to 1.
	P float64 `json:"p"`
	// With lists what goes with it, Cleared what was ruled out.
	With    []string `json:"with,omitzero"`
	Cleared []string `json:"cleared,omitzero"`
	// Also lists what is put right with it, each with its reason, and Cause what lies behind it,
	// where something that was found says so.
	Also  []string `json:"also,omitzero"`
	Cause string   `json:"cause,omitzero"`
	// Evidence lists the entries that it rests on, as they counted when it was signed.
	Evidence []int `json:"evidence,omitzero"`
	// Revises is the verdict that it comes after; 0 for a first one.
	Revises int `json:"revises,omitzero"`
}

// UnitWords says a repair unit's key as one reads it: "connector of cylinder 2"
// for "connector cyl-2"; tags stay as they are.
func UnitWords(key string) string {
	at := strings.LastIndexByte(key, ' ')
	if at < 0 {
		return key
	}
	unit, place := key[:at], engine.Place(key[at+1:])
	_, cylinder := place.Cylinder()
	_, bank := place.Bank()
	_, coil := place.Coil()
	switch {
	case cylinder, bank, coil:
		return fmt.Sprintf("%s of %s", unit, place)
	case place == engine.Whole:
		return unit
	}
	return key
}

// UnitKey is the key of a repair unit at a place: "connector cyl-2".
func UnitKey(unit engine.Kind, at engine.Place) string { return string(unit) + " " + string(at) }

// Fit is a repair at a place: what is wrong there was renewed or put right. A part
// that is renewed is a move: the new one in, the old one out.
type Fit struct {
	// Unit is the repair unit, such as "connector cyl-2".
	Unit string `json:"unit"`
	// Cleared says that codes were cleared and counters zeroed afterwards.
	Cleared bool `json:"cleared"`
}

// Certainty is how sure a witness was of what was seen.
type Certainty string

// The certainties.
const (
	Sure    Certainty = ""
	ThinkSo Certainty = "think-so"
	Heard   Certainty = "heard"
)

// Certainties lists them with their words and the chance that what was said tells nothing at all (C;
// judgement). That a look misses or mistakes something is in what is believed of looks: what is left for one
// who is sure is a slip in writing it down, one to three in a thousand (Swain and Guttmann 1983, table
// 20-10, from memory).
var Certainties = []struct {
	Certainty Certainty
	Words     string
	Empty     float64
}{{Sure, "seen, sure", 0.002}, {ThinkSo, "think so", 0.15}, {Heard, "heard from others", 0.40}}

// Empty is the chance that what was said tells nothing.
func (c Certainty) Empty() float64 {
	for _, row := range Certainties {
		if row.Certainty == c {
			return row.Empty
		}
	}
	return 1
}

// Words is the certainty in words.
func (c Certainty) Words() string {
	for _, row := range Certainties {
		if row.Certainty == c {
			return row.Words
		}
	}
	return string(c)
}

// Known says that the certainty is one of [Certainties].
func (c Certainty) Known() bool { return c.Empty() < 1 }

// Withdraw takes back an earlier entry. Both stay in the ledger.
type Withdraw struct {
	Entry  int    `json:"entry"`
	Reason string `json:"reason"`
}

// Entry is one line of the ledger. Exactly one of the pointers is set.
type Entry struct {
	// Seq numbers the entries of a job from 1, in the order they were written.
	Seq int `json:"seq"`
	// Done is when it was observed or done, which can be before it was written.
	Done      time.Time `json:"done"`
	By        string    `json:"by"`
	Condition Condition `json:"condition,omitzero"`
	Note      string    `json:"note,omitzero"`
	// Certainty is how sure whoever saw it was.
	Certainty Certainty `json:"certainty,omitzero"`

	Codes    *Codes    `json:"codes,omitzero"`
	Counters *Counters `json:"counters,omitzero"`
	Watch    *Watch    `json:"watch,omitzero"`
	Move     *Move     `json:"move,omitzero"`
	Look     *Look     `json:"look,omitzero"`
	Verdict  *Verdict  `json:"verdict,omitzero"`
	Withdraw *Withdraw `json:"withdraw,omitzero"`
	Trims    *Trims    `json:"trims,omitzero"`
	Check    *Check    `json:"check,omitzero"`
	Covers   *Covers   `json:"covers,omitzero"`
	Fit      *Fit      `json:"fit,omitzero"`
	Readings *Readings `json:"readings,omitzero"`
	Sparks   *Sparks   `json:"sparks,omitzero"`
	Beside   *Beside   `json:"beside,omitzero"`
}

// Kind says which of the bodies is set, or "" when it is not exactly one.
func (e Entry) Kind() Kind {
	var kind Kind
	set := 0
	for _, b := range []struct {
		kind Kind
		set  bool
	}{
		{KindCodes, e.Codes != nil}, {KindCounters, e.Counters != nil}, {KindWatch, e.Watch != nil},
		{KindMove, e.Move != nil}, {KindLook, e.Look != nil}, {KindVerdict, e.Verdict != nil},
		{KindWithdraw, e.Withdraw != nil}, {KindTrims, e.Trims != nil}, {KindCheck, e.Check != nil}, {KindCovers, e.Covers != nil},
		{KindFit, e.Fit != nil}, {KindReadings, e.Readings != nil}, {KindSparks, e.Sparks != nil},
		{KindBeside, e.Beside != nil},
	} {
		if b.set {
			kind = b.kind
			set++
		}
	}
	if set != 1 {
		return ""
	}
	return kind
}
