package evidence

// Condition is the running condition of the engine during an observation.
type Condition string

// The conditions. AnyCondition means "not stated".
const (
	AnyCondition Condition = ""
	Idle         Condition = "idle"
	Load         Condition = "load"
	Hot          Condition = "hot"
	Cold         Condition = "cold"
	Wet          Condition = "wet"
	Snap         Condition = "snap"
)

// Conditions lists the conditions in the order offered.
var Conditions = []struct {
	Condition Condition
	Words     string
}{
	{AnyCondition, "not stated"},
	{Idle, "at idle"},
	{Load, "under load"},
	{Hot, "hot"},
	{Cold, "cold"},
	{Wet, "wet"},
	{Snap, "on snap throttle"},
}

// Known reports whether the condition is one of [Conditions].
func (c Condition) Known() bool {
	for _, row := range Conditions {
		if row.Condition == c {
			return true
		}
	}
	return false
}

// Words returns the condition as it is written in a sentence.
func (c Condition) Words() string {
	for _, row := range Conditions {
		if row.Condition == c {
			return row.Words
		}
	}
	return string(c)
}

// Certainty states how certain the observer was.
type Certainty string

// The certainties.
const (
	Sure    Certainty = ""
	ThinkSo Certainty = "think-so"
	Heard   Certainty = "heard"
)

// Certainties lists the certainties with the probability that the observation carries no
// information (C; judgement). The errors of a look are part of the tables of looks. A certain
// observer still makes a slip in writing in one to three of a thousand entries (Swain and
// Guttmann 1983, table 20-10, from memory).
var Certainties = []struct {
	Certainty Certainty
	Words     string
	Empty     float64
}{{Sure, "seen, sure", 0.002}, {ThinkSo, "think so", 0.15}, {Heard, "heard from others", 0.40}}

// Empty returns the probability that the observation carries no information.
func (c Certainty) Empty() float64 {
	for _, row := range Certainties {
		if row.Certainty == c {
			return row.Empty
		}
	}
	return 1
}

// Words returns the certainty in words.
func (c Certainty) Words() string {
	for _, row := range Certainties {
		if row.Certainty == c {
			return row.Words
		}
	}
	return string(c)
}

// Known reports whether the certainty is one of [Certainties].
func (c Certainty) Known() bool { return c.Empty() < 1 }
