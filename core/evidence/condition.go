package evidence

// Condition is how the engine was running when something was observed.
type Condition string

// The conditions; AnyCondition is "not stated".
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
	{AnyCondition, "not stated"},
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
