package evidence

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Circumstance is what an intermittent misfire is counted by where firing events are not: starts, hills,
// drives.
type Circumstance string

// The circumstances.
const (
	ColdStart Circumstance = "cold-start"
	WetStart  Circumstance = "wet-start"
	Misted    Circumstance = "mist"
	Hill      Circumstance = "hill"
	HotDrive  Circumstance = "hot-drive"
	IdleSpell Circumstance = "idle-spell"
	SnapOpen  Circumstance = "snap"
	Drive     Circumstance = "drive"
	AnyRun    Circumstance = "run" // a run that was watched and not counted
)

// Circumstances lists the circumstances in the order offered. Condition is the running condition of each.
// Minutes is how long one takes in the workshop; 0 means that it takes the owner's use. PerDay is how many
// that brings in a day (C; judgement).
var Circumstances = []struct {
	Circumstance    Circumstance
	One, Many       string
	Condition       Condition
	Minutes, PerDay float64
}{
	{ColdStart, "cold start", "cold starts", Cold, 0, 1},
	{WetStart, "start in the wet", "starts in the wet", Wet, 0, 0.5},
	{Misted, "spell of mist on one place", "spells of mist on one place", Wet, 3, 0},
	{Hill, "hill under load", "hills under load", Load, 5, 10},
	{HotDrive, "drive with the engine hot", "drives with the engine hot", Hot, 30, 2},
	{IdleSpell, "five minutes at idle", "spells of five minutes at idle", Idle, 5, 0},
	{SnapOpen, "snap of the throttle", "snaps of the throttle", Snap, 0.5, 0},
	{Drive, "drive", "drives", AnyCondition, 20, 2},
	{AnyRun, "run", "runs", AnyCondition, 5, 0},
}

// Words returns n circumstances in words: "1 hill", "6 starts in the wet".
func (c Circumstance) Words(n int) string {
	for _, row := range Circumstances {
		if row.Circumstance == c && n == 1 {
			return "1 " + row.One
		} else if row.Circumstance == c {
			return fmt.Sprintf("%d %s", n, row.Many)
		}
	}
	return fmt.Sprintf("%d %s", n, c)
}

// Many returns the circumstance in the plural.
func (c Circumstance) Many() string {
	for _, row := range Circumstances {
		if row.Circumstance == c {
			return row.Many
		}
	}
	return string(c)
}

// In returns the running condition of the circumstance; ok is false if it does not exist.
func (c Circumstance) In() (when Condition, ok bool) {
	for _, row := range Circumstances {
		if row.Circumstance == c {
			return row.Condition, true
		}
	}
	return AnyCondition, false
}

// Takes returns how long n circumstances take: minutes in the workshop, or days of the owner's use. One of
// the two is 0.
func (c Circumstance) Takes(n int) (minutes float64, days int) {
	for _, row := range Circumstances {
		if row.Circumstance != c {
			continue
		}
		if minutes = float64(n) * row.Minutes; row.PerDay == 0 || row.Minutes > 0 && minutes <= 120 {
			return minutes, 0
		}
		return 0, int(math.Ceil(float64(n) / row.PerDay))
	}
	return 0, 0
}

// UsualCircumstance returns what exposures to a running condition are counted by.
func UsualCircumstance(when Condition) Circumstance {
	for _, row := range Circumstances {
		if row.Condition == when {
			return row.Circumstance
		}
	}
	return Drive
}

// Exposure is how often the vehicle met a circumstance in one run, and how often it misfired then.
type Exposure struct {
	Of     Circumstance `json:"of"`
	Times  int          `json:"times"`
	Failed int          `json:"failed"`
	// Place is where water was sprayed, for Misted.
	Place engine.Place `json:"place,omitzero"`
}

// MaxExposures bounds the exposures of one run.
const MaxExposures = 1000

func (x Exposure) check(eng engine.Engine, misfired bool) error {
	var bad invalid.Errors
	if _, ok := x.Of.In(); !ok {
		bad.Add("of", "one of the circumstances, such as wet-start", invalid.Quote(string(x.Of)))
	}
	if x.Times < 1 || x.Times > MaxExposures {
		bad.Add("times", fmt.Sprintf("1 to %d", MaxExposures), fmt.Sprint(x.Times))
	}
	if x.Failed < 0 || x.Failed > x.Times {
		bad.Add("failed", "0 to as often as it was tried", fmt.Sprint(x.Failed))
	} else if misfired != (x.Failed > 0) {
		bad.Add("failed", "0 without a misfire, at least 1 with one", fmt.Sprint(x.Failed))
	}
	onEngine := slices.ContainsFunc(eng.Items(), func(i engine.Item) bool { return i.Place == x.Place })
	if (x.Of == Misted) != (x.Place != "") || x.Place != "" && !onEngine {
		bad.Add("place", "the place that was sprayed, for mist and for nothing else", invalid.Quote(string(x.Place)))
	}
	return bad.Err()
}

// Sentence returns the exposures in words: "misfired in 2 of 6 starts in the wet".
func (x Exposure) Sentence() string {
	s := fmt.Sprintf("misfired in %d of %s", x.Failed, x.Of.Words(x.Times))
	if x.Failed == 0 {
		s = "clean in " + x.Of.Words(x.Times)
	}
	if x.Place != "" {
		s += ", " + x.Place.String()
	}
	return s
}
