package gate

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// TestPlace returns the best place for a test now, or "" if it is not possible.
func TestPlace(a *diagnose.Assessment, t evidence.Test, worst engine.Cylinder) engine.Place {
	if t.Of != evidence.OfItem {
		return engine.Whole
	}
	if t.ID == evidence.CoilResistance && a.Engine.Wires > 2 && a.Engine.Ignition == engine.CoilOnPlug {
		return "" // igniter inside: no measurement is possible
	}
	for _, item := range a.Engine.Items() {
		if item.Kind == t.On && item.Feeds.Has(worst) {
			return item.Place
		}
	}
	return ""
}

// Tested reports whether a test was made at a place with the parts that are fitted there now.
func Tested(a *diagnose.Assessment, t evidence.Test, place engine.Place) bool {
	return TestedTimes(a, t, place) > 0
}

// TestedTimes returns how often such a test was made.
func TestedTimes(a *diagnose.Assessment, t evidence.Test, place engine.Place) int {
	n := 0
	for _, c := range a.Checks {
		if c.Check.Test == t.ID && (t.Of != evidence.OfItem || c.Check.Place == place && a.Through(t, place, c.At) == a.Through(t, place, a.Now)) {
			n++
		}
	}
	return n
}

// Sparkless reports whether a coil gives no spark although feed, ground and trigger are
// proven.
func Sparkless(a *diagnose.Assessment, coil part.Tag) bool {
	place := a.Now.Where(coil)
	pulse, _ := Newest(a, evidence.TriggerPulse, place, "feed", "ground")
	if pulse != "there" {
		return false
	}
	for _, c := range a.Now.Feeds(coil) {
		if r, _ := Newest(a, evidence.Spark, engine.At(c)); r == "none" {
			return true
		}
	}
	return false
}

// Newest returns the newest result of a test at a place with the current parts, except the
// given results, and its entry.
func Newest(a *diagnose.Assessment, id evidence.TestID, place engine.Place, but ...evidence.ResultID) (r evidence.ResultID, known string) {
	t, _ := evidence.FindTest(id)
	for _, c := range slices.Backward(a.Checks) {
		if c.Check.Test != id || c.Check.Place != place || slices.Contains(but, c.Check.Result) {
			continue
		}
		if a.Through(t, place, c.At) != a.Through(t, place, a.Now) {
			continue
		}
		words := string(c.Check.Result)
		if result, ok := t.Result(c.Check.Result); ok {
			words = result.Words
		}
		return c.Check.Result, fmt.Sprintf("entry %d: %s", a.Moments[c.Moment].Entry.Seq, words)
	}
	return "", ""
}

// Needs lists the requirements of the gates that are not met.
func Needs(gates []Gate) []string {
	var words []string
	for _, g := range gates {
		if !g.Met {
			words = append(words, g.Needs)
		}
	}
	return words
}
