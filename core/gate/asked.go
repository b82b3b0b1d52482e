package gate

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// TestPlace is where a test is best made now, or "" where it cannot be.
func TestPlace(a *diagnose.Assessment, t evidence.Test, worst engine.Cylinder) engine.Place {
	if t.Of != evidence.OfItem {
		return engine.Whole
	}
	if t.ID == evidence.CoilResistance && a.Engine.Wires > 2 && a.Engine.Ignition == engine.CoilOnPlug {
		return "" // an igniter inside: nothing can be measured
	}
	for _, item := range a.Engine.Items() {
		if item.Kind == t.On && item.Feeds.Has(worst) {
			return item.Place
		}
	}
	return ""
}

// Tested says whether a test has been made at a place, with what sits there now.
func Tested(a *diagnose.Assessment, t evidence.Test, place engine.Place) bool {
	return TestedTimes(a, t, place) > 0
}

// TestedTimes is how often.
func TestedTimes(a *diagnose.Assessment, t evidence.Test, place engine.Place) int {
	n := 0
	for _, c := range a.Checks {
		if c.Check.Test == t.ID && (t.Of != evidence.OfItem || c.Check.Place == place && a.Through(t, place, c.At) == a.Through(t, place, a.Now)) {
			n++
		}
	}
	return n
}

// Sparkless says that a coil gives no spark though all that leads to it is proven: feed,
// ground and trigger.
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

// Newest is the newest answer of a test at a place with what sits there now, but for some,
// and the entry that gave it.
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

// Needs lists what the gates that are not met ask for.
func Needs(gates []Gate) []string {
	var words []string
	for _, g := range gates {
		if !g.Met {
			words = append(words, g.Needs)
		}
	}
	return words
}
