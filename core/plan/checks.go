package plan

import (
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/unit"
)

// check is a test with a plain answer, made at a place.
func check(a *diagnose.Assessment, t evidence.Test, place engine.Place) Card {
	c := at(a, checkSteps[t.ID])
	if t.Of == evidence.OfItem && !wholeEngine[t.ID] {
		c = at(a, checkSteps[t.ID], place)
	}
	c.Title, c.Target, c.Test, c.Place = c.Step.Words, string(place), t.ID, place
	c.Do, c.Why = checkDo[t.ID], checkWhy[t.ID]
	if t.Of == evidence.OfItem {
		feeds, _ := a.Engine.Feeds(place)
		c.Cylinder = feeds.First()
		c.Target = string(t.On) + " " + string(place)
		c.Title += ", " + place.String()
		if tag := a.Now.In(t.On, place); tag != "" && t.On != engine.Plug {
			c.Target = tag.Words()
			c.Title = c.Step.Words + " " + string(tag)
		}
	}
	c.later = func(c *Card) {
		c.weigh(a, answers(a, t, place))
		c.keepLikeliest(a.Engine.Cylinders)
	}
	return c
}

// wholeEngine lists the tests of an item that need no access to it. Relative compression is read from the starter current.
var wholeEngine = map[evidence.TestID]bool{evidence.CompressionTest: true}

// answers makes the branches of a test.
func answers(a *diagnose.Assessment, t evidence.Test, place engine.Place) []branch {
	var branches []branch
	add := func(r evidence.Result, place engine.Place, id, words string) {
		answer := evidence.Check{Test: t.ID, Place: place, Result: r.ID}
		branches = append(branches, branch{Outcome{ID: id, Words: unit.Capital(words), Record: evidence.Entry{Body: &answer}},
			a.Answer(answer)})
	}
	for _, r := range t.Results {
		if t.Of != evidence.OfLeaks || !r.Abnormal {
			add(r, place, string(r.ID), r.Words)
			continue
		}
		for _, leak := range t.Places(a.Engine) {
			add(r, leak, string(r.ID)+"-"+string(leak), r.Words+" at "+leak.String())
		}
	}
	return branches
}

var checkDo = map[evidence.TestID]string{
	evidence.Smoke:            "Engine off. Close the intake, let smoke in at low pressure, and look where it comes out: manifold, hoses, injector seats.",
	evidence.FuelPressure:     "Measure the fuel pressure at rest, running and under load, and the volume it delivers in the time the maker says.",
	evidence.StopWireOff:      "Plug out, grounded tester on. Take the stop wire off the coil and crank: does it spark now?",
	evidence.AirGapCheck:      "Turn the magnets to the coil and try the feeler at both legs. Set it a leg at a time, in small steps, and measure again after tightening.",
	evidence.LeadRouting:      "Start at the tower of cylinder 1 and follow each lead to its plug, in firing order and the sense in which the rotor turns.",
	evidence.Spark:            "Put a tester with a wide gap in place of the plug, or the in-line lamp, and crank or run. The wider the gap, the more it proves.",
	evidence.Kilovolts:        "Clamp each cylinder in turn, at idle and on a snap of the throttle, and compare it with the others.",
	evidence.CoilResistance:   "Subtract the meter's leads. Read primary and secondary, and those of the other coils, at one temperature.",
	evidence.LeadResistance:   "Read the lead and its siblings by length, and wiggle it while you read.",
	evidence.TriggerPulse:     "Feed loaded and while cranking, ground as a voltage drop, then the trigger pulse while cranking.",
	evidence.InjectorTest:     "Listen, measure its resistance against the others, and exchange it where that is quick.",
	evidence.InjectorExchange: "Let the pressure off, exchange the injector with one of a cylinder that runs well, new seals, and run it: did the misfire go along?",
	evidence.WireTest:         "Unplug both ends. Measure the trigger wire from end to end, then to ground and to its neighbours, while it is bent along its run.",
	evidence.Wiggle:           "Engine running, with the misfire there: push, pull and bend the connector and the first hand's breadth of its wires. Does it come or go?",
	evidence.LeakDown:         "Piston at the top of compression, both valves closed: air in, read the loss, and listen where it comes out.",
	evidence.CrankSignal:      "Scope on the pickup while cranking: height, shape, dropouts; wiggle the wire.",
	evidence.TriggerWatch:     "Probe the trigger at the coil's connector and at the control unit, and the crank or pickup signal. Run the engine as it fails. Which of the signals was there at the misfire?",
	evidence.Overlay:          "Connect on the harness side of the coil's connector, one after the other. First a fused lead from the battery to the feed. Then one from the battery's minus to the ground. Then one from the control unit's pin to the trigger. Run it five minutes with each, as it fails: with which does the misfire stay away?",
	evidence.StopWireRun:      "Stop wire off the coil, plug and lead on: run it for five minutes, then with the wire on again. Does the misfire stay away with it off?",
	evidence.CompressionTest:  "Crank with fuel and ignition off, and compare the humps of the starter current; or a gauge in each.",
	evidence.TimingLamp:       "Warm, idle low, control input off as the maker says: lamp on cylinder 1, read the mark.",
}

var checkWhy = map[evidence.TestID]string{
	evidence.Smoke:            "Several cylinders, or lean trims, point at unmetered air before any coil is touched.",
	evidence.FuelPressure:     "What is not air can be fuel: low pressure leans out all cylinders.",
	evidence.StopWireOff:      "A shorted stop wire or switch looks like a dead coil: isolate it first.",
	evidence.AirGapCheck:      "A wide gap weakens the spark and costs nothing to put right.",
	evidence.LeadRouting:      "Two exchanged leads make exactly two cylinders misfire, and it costs only a look.",
	evidence.Spark:            "No spark or a weak one points upstream of the plug. A good one at idle clears nothing that fails hot or under load.",
	evidence.Kilovolts:        "It tells inside the chamber from outside it in a minute, without taking anything apart.",
	evidence.CoilResistance:   "An open or a clear short condemns; a pass is weak evidence.",
	evidence.LeadResistance:   "A fail is strong, a pass is weak.",
	evidence.TriggerPulse:     "It tells feed, ground and trigger apart; the driver is suspect last.",
	evidence.InjectorTest:     "With the ignition of that cylinder cleared, fuel comes next.",
	evidence.InjectorExchange: "What goes with the injector is the injector.",
	evidence.WireTest:         "It tells the wire from the driver behind it, and the driver is dear.",
	evidence.Wiggle:           "A contact that looks clean can still be poor; moving it shows that.",
	evidence.LeakDown:         "It says not only that a cylinder leaks, but where.",
	evidence.CrankSignal:      "A weak pickup and a bad trigger wire look alike at the coil: this parts them.",
	evidence.TriggerWatch:     "A trigger that fails once in a hundred passes while cranking: only at the misfire itself does it show.",
	evidence.Overlay:          "If it runs clean on a wire of its own, the old wire is at fault. Connector and control unit are not.",
	evidence.StopWireRun:      "A switch or a wire that shorts now and then passes while cranking: only running shows it.",
	evidence.CompressionTest:  "A minute with a clamp tells whether the cylinder itself is to blame.",
	evidence.TimingLamp:       "Timing that is off makes all cylinders weak.",
}
