package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
)

// LinkState is what is known of one link of the chain.
type LinkState string

// The states of a link.
const (
	LinkOpen   LinkState = "open" // not known yet
	LinkProven LinkState = "proven"
	LinkBad    LinkState = "bad"
	LinkWaits  LinkState = "waits" // asked only when what stands before it is known
)

// Link is one question on the way from the supply to the spark.
type Link struct {
	ID, Words string
	State     LinkState
	// Known is the evidence for its state.
	Known string
	// Test, or Measure of a test, answers it at Place; a card with parts is an exchange.
	Test    evidence.TestID
	Measure evidence.MeasureID
	Place   engine.Place
	Card    *Card
	// Caution is what can hurt where the hand is.
	Caution string
	// Needs states what the answer has to be read with: "under load, while cranking".
	Needs string
}

// Chain is the guided sequence for a cylinder that has no spark: it asks only what is not
// yet known, and ends in a suspect with its gates.
type Chain struct {
	Cylinder engine.Cylinder
	Links    []Link
	// Next is the link to ask, or -1 at the end.
	Next int
	// Ends states how it ends: whom it points at and why. Target is that unit's suspect, if
	// there is one, with its Gates.
	Ends   string
	Target *diagnose.Suspect
	Gates  []gate.Gate
}

// chainWords are the links in the order in which they are asked (C: job order of the trade).
var chainWords = map[string]struct{ words, needs string }{
	"spark":  {"Is there a spark at the plug’s end?", "with a tester, as wide as the engine needs"},
	"stop":   {"Does it spark with the stop wire off the coil?", "plug out, grounded tester on"},
	"airgap": {"Is the air gap right at both legs?", "by feeler, magnets at the coil"},
	"coil":   {"Does the coil spark in another place?", "moved there, or a known-good one here"},
	"feed":   {"Is the feed there?", "under load and while cranking: without a load a bad joint shows nothing"},
	"ground": {"Does the ground hold?", "as a voltage drop under load"},
	"pulse":  {"Does the trigger come?", "while cranking, with a scope or logic probe: no bare meter and no test lamp into a driver"},
	"crank":  {"Is the crank or pickup signal there?", "the trigger is missing on all: signal, immobiliser and feed relay come first"},
	"wire":   {"Is the trigger wire sound from end to end?", "both ends unplugged, bent along its run"},
}

// ChainOf is the chain for a cylinder, by what its job has recorded.
func ChainOf(a *diagnose.Assessment, c engine.Cylinder) Chain {
	ch := Chain{Cylinder: c, Next: -1}
	there := map[engine.Kind]engine.Item{}
	for _, item := range a.Engine.Series(c) {
		if _, have := there[item.Kind]; !have {
			there[item.Kind] = item
		}
	}
	has := func(k engine.Kind) bool { _, ok := there[k]; return ok }
	link := func(id string, test evidence.TestID, measure evidence.MeasureID, at engine.Place, state LinkState, known string) *Link {
		t, _ := evidence.FindTest(test)
		w := chainWords[id]
		ch.Links = append(ch.Links, Link{ID: id, Words: w.words, Needs: w.needs, State: state, Known: known, Test: test, Measure: measure, Place: at, Caution: t.Caution})
		return &ch.Links[len(ch.Links)-1]
	}

	// That a coil was moved and the misfire stayed does not bring the spark back.
	sparks, why := ever(a, evidence.Spark, engine.At(c))
	link("spark", evidence.Spark, "", engine.At(c), state(sparks, "strong"), why)
	if ch.Links[0].State == LinkProven {
		ch.Ends = fmt.Sprintf("There is a spark at cylinder %d, up to what its tester proves: the chain ends here. What fails under more load, or inside the chamber, is found by kilovolts, a move, or the plug.", c)
		return ch
	}
	if has(engine.StopWire) {
		r, why := gate.Newest(a, evidence.StopWireOff, engine.Whole)
		s := state(r, "still-none") // no better without it: it is not the wire
		link("stop", evidence.StopWireOff, "", engine.Whole, s, why)
	}
	if has(engine.AirGap) {
		r, why := gate.Newest(a, evidence.AirGapCheck, there[engine.AirGap].Place)
		if r == "" {
			r, why = gate.Newest(a, evidence.AirGapCheck, engine.Whole)
		}
		link("airgap", evidence.AirGapCheck, evidence.AirGapLegs, there[engine.AirGap].Place, state(r, "right"), why)
	}
	at := there[engine.Coil].Place
	if has(engine.Feed) {
		s, why := pulsePart(a, there[engine.Feed].Place, at, "feed", evidence.FeedDrop)
		link("feed", evidence.TriggerPulse, evidence.FeedDrop, there[engine.Feed].Place, s, why)
	}
	if has(engine.Ground) && a.Engine.Wires != 2 {
		s, why := pulsePart(a, there[engine.Ground].Place, at, "ground", evidence.GroundDrop)
		link("ground", evidence.TriggerPulse, evidence.GroundDrop, there[engine.Ground].Place, s, why)
	}
	if has(engine.Trigger) {
		place := there[engine.Trigger].Place
		r, why := gate.Newest(a, evidence.TriggerPulse, place, "feed", "ground")
		link("pulse", evidence.TriggerPulse, "", place, state(r, "there"), why)
		if ch.Links[len(ch.Links)-1].State == LinkBad {
			if has(engine.Pickup) {
				r, why := gate.Newest(a, evidence.CrankSignal, engine.Whole)
				link("crank", evidence.CrankSignal, "", engine.Whole, state(r, "strong"), why)
			}
			r, why := gate.Newest(a, evidence.WireTest, place)
			link("wire", evidence.WireTest, evidence.WireOhms, place, state(r, "sound"), why)
		}
	}
	coil := a.Now.Serving(engine.Coil, c)
	l := link("coil", "", "", at, LinkOpen, "")
	l.Caution = highVoltage + " " + openCoil
	l.State, l.Known = coilState(a, coil, c)
	if l.State == LinkOpen {
		if card := swap(a, coil); len(card.Parts) > 0 {
			l.Card = &card
		}
	}
	// The exchange is asked first where it is quick, and last where only a spare can tell.
	if last := len(ch.Links) - 1; !gate.Lone(a, engine.Coil) && last > 1 {
		moved := ch.Links[last]
		ch.Links = slices.Insert(ch.Links[:last], 1, moved)
	}
	ch.end(a, c, there)
	return ch
}

// end finds the link to ask next, or whom the chain points at.
func (ch *Chain) end(a *diagnose.Assessment, c engine.Cylinder, there map[engine.Kind]engine.Item) {
	bad := func(id string) bool {
		return slices.ContainsFunc(ch.Links, func(l Link) bool { return l.ID == id && l.State == LinkBad })
	}
	points := func(k engine.Kind, place engine.Place, why string) {
		key := evidence.UnitKey(k, place)
		if t := a.Now.Serving(k, c); t != "" {
			key = string(k) + " " + string(t)
		}
		for i := range a.Suspects {
			if a.Suspects[i].Key() == key {
				ch.Target = &a.Suspects[i]
				ch.Gates = gate.Of(a, *ch.Target)
			}
		}
		ch.Ends = why
	}
	for _, e := range []struct {
		link string
		k    engine.Kind
		why  string
	}{
		{"stop", engine.StopWire, "It sparks with the stop wire off: the wire or one of its switches shorts the coil, and the coil is not to be bought."},
		{"airgap", engine.AirGap, "The air gap is out: set it leg by leg, tighten, read it again, and test the spark before anything is bought."},
		{"feed", engine.Feed, "The feed is poor under load: fuse, relay or a joint on the way, before the coil."},
		{"ground", engine.Ground, "The ground drops too much under load: its joint, before the coil."},
		{"crank", engine.Pickup, "The crank or pickup signal is weak: nothing behind it can fire."},
		{"wire", engine.Trigger, "The trigger wire is broken or shorted between control unit and coil."},
		{"coil", engine.Coil, "The lack of spark goes with the coil."},
	} {
		if bad(e.link) {
			points(e.k, there[e.k].Place, e.why)
			return
		}
	}
	for i, l := range ch.Links {
		if i > 0 && l.State == LinkOpen || i == 0 && l.State == LinkOpen {
			if l.ID == "coil" && l.Card == nil && i < len(ch.Links)-1 {
				continue
			}
			ch.Next = i
			for k := i + 1; k < len(ch.Links); k++ {
				if ch.Links[k].State == LinkOpen {
					ch.Links[k].State = LinkWaits
				}
			}
			return
		}
	}
	switch {
	case bad("pulse"):
		points(engine.Driver, there[engine.Driver].Place, "Coil, feed, ground and wire are proven and the trigger is absent: what is left is the driver in the control unit. It is far rarer than the coil: look at its own feed and ground once more before it is bought.")
	case slices.ContainsFunc(ch.Links, func(l Link) bool { return l.ID == "coil" && l.State == LinkProven }):
		between := engine.Lead
		if a.Now.Serving(engine.Boot, c) != "" {
			between = engine.Boot
		}
		points(between, engine.At(c), "The coil and all that leads to it are proven: what is left lies between the coil and the plug’s end. Take the spark at the coil’s own tower, then look at boot, lead, cap and rotor.")
	default:
		points(engine.Coil, there[engine.Coil].Place, "All that leads to the coil is proven, and there is no spark behind it: the coil, or what lies between it and the plug’s end.")
	}
}

// state is a link's state by an answer, of which one is good.
func state(r, good evidence.ResultID) LinkState {
	switch r {
	case "":
		return LinkOpen
	case good:
		return LinkProven
	}
	return LinkBad
}

// ever is the newest answer of a test at a place, whatever sat there.
func ever(a *diagnose.Assessment, id evidence.TestID, place engine.Place) (r evidence.ResultID, known string) {
	t, _ := evidence.FindTest(id)
	for _, c := range slices.Backward(a.Checks) {
		if c.Check.Test == id && c.Check.Place == place {
			result, _ := t.Result(c.Check.Result)
			return c.Check.Result, fmt.Sprintf("entry %d: %s", a.Moments[c.Moment].Entry.Seq, result.Words)
		}
	}
	return "", ""
}

// pulsePart is what is known of feed or ground: by volts under load, or by the plain answer
// of the test of all three.
func pulsePart(a *diagnose.Assessment, place, coil engine.Place, id evidence.ResultID, measure evidence.MeasureID) (LinkState, string) {
	known := func(m evidence.Moment, words string) string { return fmt.Sprintf("entry %d: %s", m.Entry.Seq, words) }
	for i, m := range slices.Backward(a.Moments) { // figures before words
		if r := m.Entry.Readings(); r == nil || r.Measure != measure || r.Unloaded {
			continue
		}
		for _, c := range a.AnswersOf(i) {
			switch {
			case c.Check.Place != place:
			case c.Check.Result == id:
				return LinkBad, known(m, m.Entry.Readings().Words())
			default:
				return LinkProven, known(m, m.Entry.Readings().Words())
			}
		}
	}
	for _, m := range slices.Backward(a.Moments) {
		c := m.Entry.Check()
		if c == nil || c.Test != evidence.TriggerPulse || c.Place != place && c.Place != coil {
			continue
		}
		switch c.Result {
		case id:
			return LinkBad, known(m, c.Words())
		case "there", "intermittent", "missing":
			return LinkProven, known(m, c.Words())
		}
	}
	return LinkOpen, ""
}

// coilState is what moves have shown of the coil that serves a cylinder.
func coilState(a *diagnose.Assessment, coil part.Tag, c engine.Cylinder) (LinkState, string) {
	for _, d := range slices.Backward(a.Decodes) {
		moved := slices.ContainsFunc(d.Tags, func(t part.Tag) bool { return t.Kind() == engine.Coil })
		if !moved || !d.From.Has(c) && !slices.Contains(d.Tags, coil) {
			continue
		}
		known := fmt.Sprintf("entry %d: %s", d.Move, d.Outcome)
		switch d.Outcome {
		case diagnose.Stayed:
			return LinkProven, known
		case diagnose.Followed:
			if slices.Contains(d.Tags, coil) && !d.From.Has(c) {
				return LinkBad, known
			}
			return LinkProven, known // the one that sits here now is another
		}
	}
	for _, chk := range a.Checks {
		t, _ := evidence.FindTest(chk.Check.Test)
		r, _ := t.Result(chk.Check.Result)
		if chk.Check.Test == evidence.CoilResistance && r.Abnormal && chk.At.In(engine.Coil, chk.Check.Place) == coil {
			return LinkBad, fmt.Sprintf("entry %d: %s", a.Moments[chk.Moment].Entry.Seq, r.Words)
		}
	}
	return LinkOpen, ""
}
