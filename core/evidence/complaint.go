package evidence

import (
	"fmt"
	"slices"

	"glenmist/core/invalid"
)

// Sign is a circumstance of the complaint that changes prior shares, apart from the condition
// in which the misfire occurs.
type Sign string

// The signs.
const (
	AfterService   Sign = "after-service"
	AfterJolt      Sign = "after-jolt"
	LongSince      Sign = "long-since-service"
	SomebodyHere   Sign = "somebody-was-here"
	TouchedPlugs   Sign = "touched-plugs"
	TouchedCoils   Sign = "touched-coils"
	TouchedLeads   Sign = "touched-leads"
	TouchedIntake  Sign = "touched-intake"
	HardStart      Sign = "hard-start"
	LampOff        Sign = "lamp-off"
	LampSteady     Sign = "lamp-steady"
	LampFlashing   Sign = "lamp-flashing"
	AlwaysThere    Sign = "always-there"
	maxSigns            = 13
	LampCaution         = "The lamp flashes: misfires are hot enough to destroy the catalyst. No hard driving, short runs only."
	ServiceAdvice       = "What was touched last comes first: a dropped plug, a closed gap, a boot or connector not home, leads exchanged."
	SomebodyAdvice      = "Missing screws, odd fasteners or one part of another make: treat it as lately touched."
)

// Signs lists the signs in the order offered. At most one of a Group can apply.
var Signs = []struct {
	Sign  Sign
	Words string
	Group string
}{
	{LampOff, "lamp off, only felt", "lamp"},
	{LampSteady, "lamp on, steady", "lamp"},
	{LampFlashing, "lamp flashing", "lamp"},
	{AlwaysThere, "always, in every condition alike", ""},
	{AfterService, "just after a service, or days after", ""},
	{TouchedPlugs, "plugs were touched lately", ""},
	{TouchedCoils, "coils were touched lately", ""},
	{TouchedLeads, "leads were touched lately", ""},
	{TouchedIntake, "intake was off lately", ""},
	{SomebodyHere, "signs that somebody was here: missing screws, odd parts", ""},
	{AfterJolt, "after a jolt", ""},
	{LongSince, "long since a service", ""},
	{HardStart, "hard start, jerks, dull or thirsty", ""},
}

// Words returns the sign as it is written in a sentence.
func (s Sign) Words() string {
	for _, row := range Signs {
		if row.Sign == s {
			return row.Words
		}
	}
	return string(s)
}

// CheckSigns returns an error for unknown, repeated or contradictory signs.
func CheckSigns(signs []Sign) error {
	var bad invalid.Errors
	if len(signs) > maxSigns {
		bad.Add("", fmt.Sprintf("at most %d signs", maxSigns), fmt.Sprint(len(signs)))
		return bad
	}
	groups := map[string]bool{}
	for i, s := range signs {
		group, known := "", false
		for _, row := range Signs {
			if row.Sign == s {
				group, known = row.Group, true
			}
		}
		switch {
		case !known:
			bad.Add(fmt.Sprintf("[%d]", i), "one of the signs of a complaint, such as after-service", invalid.Quote(string(s)))
		case slices.Index(signs, s) < i || group != "" && groups[group]:
			bad.Add(fmt.Sprintf("[%d]", i), "each sign once, and the lamp in one state", string(s))
		}
		groups[group] = true
	}
	return bad.Err()
}
