package worksheet

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// signed is a job on a pattern with a signed verdict on a unit, and a plug design for all plugs.
func signed(t testing.TB, pattern, unit string, d part.PlugDesign) job.Job {
	t.Helper()
	j := jobtest.Shelf(t, pattern)
	j.Vehicle.Parts = []part.Record{{Kind: engine.Plug, Plug: &d}}
	return jobtest.With(t, j, evidence.Entry{Body: &evidence.Verdict{Unit: unit, P: 0.97}})
}

var m14 = part.PlugDesign{Electrode: "nickel", Seat: "gasket", ThreadMM: 14, ReachMM: 19, HexMM: 16, Finish: part.Bright, GapLow: 0.8, GapHigh: 0.9}

func find(t testing.TB, c Case, id string) Step {
	t.Helper()
	s, ok := Of(c)
	if !ok {
		t.Fatal("no worksheet")
	}
	i := slices.IndexFunc(s.Steps, func(s Step) bool { return s.ID == id })
	if i < 0 {
		t.Fatalf("no step %s", id)
	}
	return s.Steps[i]
}

func ids(t testing.TB, c Case) (all []string) {
	t.Helper()
	s, ok := Of(c)
	if !ok {
		t.Fatal("no worksheet")
	}
	for _, step := range s.Steps {
		all = append(all, step.ID)
	}
	return all
}

func ExampleOf() {
	t := &testing.T{}
	sheet, _ := Of(Case{Job: signed(t, "four-across", "plug P2", m14)})
	for _, s := range sheet.Steps {
		if s.Figure != nil && s.Phase == Torque {
			fmt.Println(s.Title, s.Figure.Value, s.Figure.Unit, s.Figure.Also[0].Value, s.Figure.Also[0].Unit)
		}
	}
	// Output:
	// Tighten the plug of cylinder 2 25 N·m 18.4 lbf·ft
	// Tighten the bolt of the coil of cylinder 2 7.5 N·m 5.5 lbf·ft
}

// Every plug torque and angle of the table stands on the worksheet (values.md: M torque on a dry thread
// in an alloy head, M turn after finger-tight).
func TestPlugTorqueByThreadSeatAndHead(t *testing.T) {
	for _, c := range []struct {
		thread    float64
		seat      part.PlugSeat
		low, high float64
	}{{8, "gasket", 8, 10}, {10, "taper", 10, 12}, {12, "gasket", 15, 20}, {14, "gasket", 20, 30}, {14, "taper", 10, 20}, {18, "gasket", 35, 45}, {18, "taper", 20, 30}} {
		d := m14
		d.ThreadMM, d.Seat = c.thread, c.seat
		of := Case{Job: signed(t, "four-across", "plug P2", d)}
		f := find(t, of, "torque.plug@cyl-2").Figure
		if f == nil || f.Low != c.low || f.High != c.high || f.Unit != "N·m" || !strings.Contains(f.Source, "dry thread") || f.Value < f.Low || f.Value > f.High {
			t.Errorf("M%g %s: %+v", c.thread, c.seat, f)
		}
		of.Job.Vehicle.Engine.Head = engine.Iron
		if iron := find(t, of, "torque.plug@cyl-2").Figure; iron.High <= f.High || iron.Low != f.Low {
			t.Errorf("M%g %s in cast iron: %+v", c.thread, c.seat, iron)
		}
		of.Schools = map[string]string{"torque": "angle"}
		want := map[part.PlugSeat]float64{"gasket": 210, "taper": 22.5}[c.seat] // 7/12 turn, 1/16 turn
		if a := find(t, of, "torque.plug@cyl-2").Figure; a.Unit != "°" || math.Abs(a.Value-want) > 1e-9 {
			t.Errorf("M%g %s by angle: %+v", c.thread, c.seat, a)
		}
	}
	unknown := Case{Job: signed(t, "four-across", "plug P2", part.PlugDesign{})}
	if s := find(t, unknown, "torque.plug@cyl-2"); s.Figure != nil || !strings.Contains(s.Do, "not recorded") {
		t.Errorf("a plug of unknown thread gets %+v", s.Figure)
	}
}

// The worksheet is computed from the job: change the seat, the school, the design, a cover, the layout,
// the tools or a figure of the vehicle, and the step changes as the trade has it (job.md, sections 12 and
// 14; C).
func TestWorksheetFollowsTheJob(t *testing.T) {
	design := func(change func(*part.PlugDesign)) func(*Case) {
		return func(c *Case) {
			d := m14
			change(&d)
			c.Job.Vehicle.Parts = []part.Record{{Kind: engine.Plug, Plug: &d}}
		}
	}
	school := func(id, answer string) func(*Case) {
		return func(c *Case) { c.Schools = map[string]string{id: answer} }
	}
	spec := func(of string, low, high float64, reason string) func(*Case) {
		return func(c *Case) {
			c.Job.Vehicle.Engine = c.Job.Vehicle.Engine.WithSpec(engine.Spec{Of: of, Low: low, High: high, Reason: reason})
		}
	}
	for name, c := range map[string]struct {
		pattern, unit string
		change        func(*Case)
		step          string
		want, gone    string // words of the step afterwards, and words that it no longer has
	}{
		"gap of a nickel plug": {"four-across", "plug P2", nil, "gap.plug@cyl-2", "ground strap only", "Do not bend"},
		"gap of fine wire":     {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.Electrode = "fine-wire" }), "gap.plug@cyl-2", "Inspect only", "Bend the ground"},
		"fine wire, gently": {"four-across", "plug P2", func(c *Case) {
			design(func(d *part.PlugDesign) { d.Electrode = "fine-wire" })(c)
			school("gap", "gently")(c)
		}, "gap.plug@cyl-2", "fine wire breaks", "Inspect only"},
		"three electrodes":        {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.Electrode = "multi-ground" }), "gap.plug@cyl-2", "from the insulator to each side electrode", "adjust if"},
		"surface gap":             {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.Electrode = "surface-gap" }), "gap.plug@cyl-2", "nothing is measured or bent", "wires"},
		"design not known":        {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.Electrode = "" }), "gap.plug@cyl-2", "Bend nothing before you know", ""},
		"gap from the maker":      {"four-across", "plug P2", spec(engine.PlugGap, 1, 1.1, ""), "gap.plug@cyl-2", "maker's figure", "catalogue"},
		"gap of our own":          {"four-across", "plug P2", spec(engine.PlugGap, 0.6, 0.7, "runs on gas"), "gap.plug@cyl-2", "runs on gas", "catalogue"},
		"wires that bracket":      {"four-across", "plug P2", func(c *Case) { c.Tools.Wires = []float64{0.7, 0.8, 0.9, 1} }, "gap.plug@cyl-2", "0.8 mm must pass and 0.9 mm must not", ""},
		"wires that do not":       {"four-across", "plug P2", func(c *Case) { c.Tools.Wires = []float64{0.7, 0.85, 1} }, "gap.plug@cyl-2", "cannot prove the range", "must pass"},
		"paste by finish, bright": {"four-across", "plug P2", nil, "thread.plug@cyl-2", "dry thread", "rice"},
		"paste by finish, dark":   {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.Finish = part.Dark }), "thread.plug@cyl-2", "grain of rice", "Fit the new plug with a dry"},
		"dark in cast iron": {"four-across", "plug P2", func(c *Case) {
			design(func(d *part.PlugDesign) { d.Finish = part.Dark })(c)
			c.Job.Vehicle.Engine.Head = engine.Iron
		}, "thread.plug@cyl-2", "cast iron thread needs none", "rice"},
		"paste never": {"four-across", "plug P2", func(c *Case) {
			design(func(d *part.PlugDesign) { d.Finish = part.Dark })(c)
			school("paste", "never")(c)
		}, "thread.plug@cyl-2", "falsifies", "rice"},
		"paste always":              {"four-across", "plug P2", school("paste", "always"), "thread.plug@cyl-2", "grain of rice", "falsifies"},
		"torque with paste":         {"four-across", "plug P2", school("paste", "always"), "torque.plug@cyl-2", "18 N·m 14 21", "25 N·m"},
		"torque from the catalogue": {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.TorqueLow, d.TorqueHigh = 22, 24 }), "torque.plug@cyl-2", "catalogue", "dry thread"},
		"torque from the maker":     {"four-across", "plug P2", spec(SpecPlugTorque, 18, 20, ""), "torque.plug@cyl-2", "maker's figure", "M14"},
		"wrench that reaches":       {"four-across", "plug P2", func(c *Case) { c.Tools.Wrenches = []Wrench{{5, 25}, {20, 110}} }, "torque.plug@cyl-2", "wrench of 5 to 25", "by the angle"},
		"wrench that does not":      {"four-across", "plug P2", func(c *Case) { c.Tools.Wrenches = []Wrench{{40, 200}} }, "torque.plug@cyl-2", "by the angle", "clicks once"},
		"coil bolt too low":         {"four-across", "coil C2", func(c *Case) { c.Tools.Wrenches = []Wrench{{10, 60}} }, "torque.coil-bolt@cyl-2", "trusted from 12", "Use the wrench"},
		"cold engine":               {"four-across", "plug P2", nil, "prepare.heat", "cold to the hand", "hand-warm"},
		"warm engine":               {"four-across", "plug P2", school("heat", "warm"), "prepare.heat", "hand-warm", "cold to the hand"},
		"seized plug, cold":         {"four-across", "plug P2", nil, "remove.plug@cyl-2", "head cold", "warm the engine"},
		"seized plug, warm":         {"four-across", "plug P2", school("heat", "warm"), "remove.plug@cyl-2", "warm the engine up", "head cold"},
		"cross-threaded":            {"four-across", "plug P2", nil, "remove.plug@cyl-2", "hand it over", ""},
		"plug in the well":          {"four-across", "plug P2", nil, "remove.plug@cyl-2", "magnet", ""},
		"battery stays":             {"four-across", "coil C2", nil, "prepare.ignition", "ignition off", ""},
		"battery for the harness":   {"four-across", "connector cyl-2", nil, "prepare.battery", "negative terminal", ""},
		"battery always":            {"four-across", "coil C2", school("battery", "always"), "prepare.battery", "negative terminal", ""},
		"socket by the hexagon":     {"four-across", "plug P2", nil, "prepare.tools", "16 mm plug socket", "not recorded"},
		"extension by the well":     {"four-across", "plug P2", spec(SpecWellDepth, 160, 160, ""), "prepare.tools", "extension of 150 mm", "longer than the well"},
		"boots by mark":             {"four-across", "plug P2", nil, "thread.boot@cyl-2", "thin film", "Renew the boot"},
		"boots with the set":        {"four-across", "plug P2", school("boots", "set"), "thread.boot@cyl-2", "Renew the boot", ""},
		"resistor of the catalogue": {"four-across", "plug P2", design(func(d *part.PlugDesign) { d.ResistorOhms = 1000 }), "prepare.beside-plug@cyl-2", "800", "3000"},
		"plenum gaskets":            {"v6-across", "coil C1", nil, "refit.cover-intake-plenum", "throttle gasket", ""},
		"plenum torque":             {"v6-across", "coil C1", nil, "refit.cover-intake-plenum", "10 N·m", "7.5"},
		"no start without intake":   {"v6-across", "coil C1", nil, "refit.start", "does not run without its intake", "listen"},
		"start before the covers":   {"four-across", "coil C2", nil, "refit.start", "Start the engine before the covers", "intake"},
		"coil seal, click, lock":    {"four-across", "coil C2", nil, "refit.home@cyl-2", "weather seal", ""},
		"leads by the firing order": {"six-distributor", "lead L3", nil, "refit.leads", "1-5-3-6-2-4", ""},
		"leads round the cap":       {"six-distributor", "lead L3", nil, "refit.leads", "clockwise, seen from above", ""},
		"timing without a figure":   {"six-distributor", "base timing engine", nil, "time.lamp", "not recorded", "mm along the rim"},
		"timing on the rim":         {"six-distributor", "base timing engine", func(c *Case) { spec(SpecBaseTiming, 10, 10, "")(c); spec(SpecPulley, 150, 150, "")(c) }, "time.lamp", "13.1 mm along the rim", "not recorded"},
		"timing idle":               {"six-distributor", "base timing engine", spec(SpecIdleSpeed, 600, 700, ""), "time.lamp", "600 to 700 rpm", "as low as"},
		"distributor out":           {"six-distributor", "base timing engine", school("distributor", "out"), "time.mesh", "never by the bolt", ""},
		"gear of 13 teeth":          {"six-distributor", "base timing engine", func(c *Case) { school("distributor", "out")(c); spec(SpecGearTeeth, 13, 13, "")(c) }, "time.mesh", "27.69", ""},
		"lifted by 24 degrees": {"six-distributor", "base timing engine", func(c *Case) {
			school("distributor", "out")(c)
			c.Job.Worksheet = marks(mark(stepLifted, job.Measured, "24"))
		}, "time.mesh", "24° before its mark", "as many degrees"},
		"air gap by thumb":     {"single-magneto", "coil C1", nil, "gap.air", "common", ""},
		"air gap of the maker": {"single-magneto", "coil C1", spec(SpecAirGap, 0.25, 0.35, ""), "gap.air", "0.3", "0.33"},
		"stop wire, no switch": {"single-magneto", "stop wire engine", nil, "refit.stop-repair", "no switch brought the spark back", ""},
		"stop wire, seat switch": {"single-magneto", "stop wire engine", func(c *Case) {
			c.Job.Worksheet = marks(mark("refit.stop-key", job.Ticked, "no"), mark("refit.stop-seat", job.Ticked, "yes"))
		}, "refit.stop-repair", "seat switch, which is shorted", "no switch"},
		"flywheel key":                 {"single-magneto", "base timing engine", nil, "refit.key", "puller", ""},
		"wasted-spark coil":            {"four-pairs", "coil CA", nil, "remove.coil@coil-A", "Mark its leads", ""},
		"one by one, a start for each": {"four-across", "plugs", school("refit", "single"), "refit.start@cyl-3", "Start it, listen", ""},
	} {
		j := jobtest.Shelf(t, c.pattern)
		if c.unit == "plugs" {
			j.Planned = []engine.Kind{engine.Plug}
			d := m14
			j.Vehicle.Parts = []part.Record{{Kind: engine.Plug, Plug: &d}}
		} else {
			j = signed(t, c.pattern, c.unit, m14)
		}
		of := Case{Job: j}
		if c.change != nil {
			c.change(&of)
		}
		s := find(t, of, c.step)
		words := s.Title + " " + s.Do + " " + s.Why + " " + strings.Join(s.Tools, " ")
		for _, x := range s.If {
			words += " " + x.If + " " + x.Do
		}
		if f := s.Figure; f != nil {
			words += fmt.Sprintf(" %.4g %s %.4g %.4g %s", f.Value, f.Unit, f.Low, f.High, strings.ReplaceAll(f.Source, "C: by maker", "common"))
		}
		if !strings.Contains(words, c.want) || c.gone != "" && strings.Contains(words, c.gone) {
			t.Errorf("%s: want %q, not %q, in: %s", name, c.want, c.gone, words)
		}
	}
}

func mark(step string, do job.Do, value string) job.Mark {
	return job.Mark{Step: step, Do: do, Value: value, By: "x", Done: jobtest.Clock(1)}
}

func marks(all ...job.Mark) []job.Mark {
	for i := range all {
		all[i].N = i + 1
	}
	return all
}

// The order is that of the work: covers off before coils, threads by hand before torque, coil home before
// its bolt, start before the covers, and with one at a time each cylinder on its own.
func TestOrderOfTheWork(t *testing.T) {
	before := func(name string, all []string, pairs ...string) {
		t.Helper()
		for i := 1; i < len(pairs); i++ {
			x, y := slices.Index(all, pairs[i-1]), slices.Index(all, pairs[i])
			if x < 0 || y < 0 || x > y {
				t.Errorf("%s: %s (%d) is not before %s (%d) in %v", name, pairs[i-1], x, pairs[i], y, all)
			}
		}
	}
	before("coil under a plenum", ids(t, Case{Job: signed(t, "v6-across", "coil C1", m14)}),
		"prepare.tools", "remove.off", "remove.cover-engine-cover", "remove.cover-intake-plenum", "remove.coil@cyl-1", "refit.home@cyl-1", "torque.coil-bolt@cyl-1", "refit.start", "refit.cover-intake-plenum", "refit.cover-engine-cover", "after.renewal", "after.run")
	planned := jobtest.Shelf(t, "four-across")
	planned.Planned = []engine.Kind{engine.Plug}
	before("a set", ids(t, Case{Job: planned}), "prepare.beside-plug", "remove.coil", "remove.plug@cyl-1", "gap.plug@cyl-1", "gap.even", "thread.plug", "refit.hand-tight", "torque.plug@cyl-1", "torque.plug@cyl-4", "refit.home", "torque.coil-bolt", "refit.start", "refit.cover-engine-cover")
	before("one at a time", ids(t, Case{Job: planned, Schools: map[string]string{"refit": "single"}}), "remove.coil@cyl-1", "remove.plug@cyl-1", "gap.plug@cyl-1", "refit.hand-tight@cyl-1", "torque.plug@cyl-1", "refit.home@cyl-1", "refit.start@cyl-1", "remove.coil@cyl-2", "refit.start@cyl-2", "refit.start@cyl-4", "refit.cover-engine-cover")
	out := Case{Job: signed(t, "six-distributor", "base timing engine", m14), Schools: map[string]string{"distributor": "out"}}
	before("distributor out and in", ids(t, out), "remove.distributor-mark", stepLifted, stepMeshed, "torque.clamp", "refit.start", stepLamp, "time.clamp", "after.run")
	before("magneto", ids(t, Case{Job: signed(t, "single-magneto", "coil C1", m14)}), "remove.magneto-lead@cyl-1", "remove.magneto-coil@cyl-1", "gap.air", "refit.magneto-coil", "torque.magneto", "refit.air-again", "refit.magneto-spark", "refit.home@cyl-1", "refit.cover-blower-housing")
	for _, p := range engine.Shelf { // no step stands twice, on any layout, for any item
		e := p.Engine()
		for _, item := range e.Items() {
			unit := evidence.UnitKey(item.Kind, item.Place)
			if item.Part {
				unit = string(item.Kind) + " " + string(part.Of(item.Kind, item.Place))
			}
			all := ids(t, Case{Job: signed(t, p.ID, unit, m14)})
			sorted := slices.Sorted(slices.Values(all))
			if len(slices.Compact(sorted)) != len(all) || len(all) < 5 {
				t.Errorf("%s, %s: %v", p.ID, unit, all)
			}
		}
	}
}

// What is measured is judged against the figure of its step.
func TestMeasuredIsJudged(t *testing.T) {
	timing := Ask{Of: AskTiming, Low: 6, High: 8, Tolerance: 1, Rotor: engine.Clockwise}
	gap := Figure{Low: 0.8, High: 0.9, Unit: "mm"}
	torque := Figure{Low: 20, High: 30, Unit: "N·m"}
	for _, c := range []struct {
		ask   Ask
		f     *Figure
		typed string
		says  string
		bad   bool
		err   string
	}{
		{Ask{Of: AskGap}, &gap, "0.85", "in", false, ""},
		{Ask{Of: AskGap}, &gap, "0.8-0.9", "in", false, ""}, // 0.8 passes, 0.9 does not
		{Ask{Of: AskGap}, &gap, "0.7-0.8", "out", true, ""},
		{Ask{Of: AskGap}, &gap, "0.75-0.85", "cannot tell", false, ""},
		{Ask{Of: AskGap, Design: "multi-ground"}, &gap, "1.1", "not adjusted", true, ""},
		{Ask{Of: AskGap}, nil, "0.85", "not recorded", false, ""},
		{Ask{Of: AskGap}, &gap, "39", "", false, "with its unit"},
		{Ask{Of: AskTorque}, &torque, "25 Nm", "in", false, ""},
		{Ask{Of: AskTorque}, &torque, "18 lbf·ft", "in", false, ""},
		{Ask{Of: AskTorque}, &torque, "18 lbf·in", "lbf·ft. Which unit", true, ""},
		{Ask{Of: AskTorque}, &torque, "50 Nm", "above", true, ""},
		{Ask{Of: AskTorque}, &torque, "25", "", false, "the unit of the torque"},
		{Ask{Of: AskTorque}, &torque, "900 lbf·ft", "", false, "check its unit"},
		{timing, nil, "7", "right", false, ""},
		{timing, nil, "13", "6° too early: turn the housing 3° clockwise, which retards", true, ""},
		{timing, nil, "-1", "8° too late: turn the housing 4° anticlockwise, which advances", true, ""},
		{Ask{Of: AskDegrees, Teeth: 13}, nil, "1", "on its mark", false, ""},
		{Ask{Of: AskDegrees, Teeth: 13}, nil, "28", "1 tooth off, 55 crank degrees", true, ""},
		{Ask{Of: AskLegs, Low: 0.25, High: 0.35}, nil, "0.30 0.34", "in", false, ""},
		{Ask{Of: AskLegs, Low: 0.25, High: 0.35}, nil, "0.3 mm / 0.5 mm", "second leg: 0.5 mm", true, ""},
		{Ask{Of: AskLegs, Low: 0.25, High: 0.35}, nil, "0.1 0.3", "first leg: 0.1 mm", true, ""},
		{Ask{Of: AskLegs, Low: 0.25, High: 0.35}, nil, "0,3 0,34", "in", false, ""},
		{Ask{Of: AskLegs, Low: 0.25, High: 0.35}, nil, "0.3", "", false, "air gap"},
		{Ask{Of: AskOhms}, &Figure{Low: 3000, High: 8000}, "5k1", "in", false, ""},
		{Ask{Of: AskOhms}, &Figure{Low: 3000, High: 8000}, "OL", "open", true, ""},
		{Ask{Of: AskYes}, nil, "maybe", "", false, "yes or no"},
	} {
		says, bad, err := c.ask.Judge(c.typed, c.f)
		if !strings.Contains(says, c.says) || bad != c.bad || (err != nil) != (c.err != "") || err != nil && !strings.Contains(err.Error(), c.err) {
			t.Errorf("%s %q: %q, %t, %v; want %q, %t, %q", c.ask.Of, c.typed, says, bad, err, c.says, c.bad, c.err)
		}
	}
}

// The bracket of a workshop's wires agrees with every gap that the wires allow, by brute force: if the
// named wires pass and stop, every such gap is in the range.
func TestBracketAgainstEveryGap(t *testing.T) {
	for _, wires := range [][]float64{{0.7, 0.8, 0.9, 1}, {0.6, 0.75, 0.85, 0.95}, {0.8, 0.9}, {0.5, 1.5}, {0.81, 0.83, 0.88, 0.89}} {
		for _, r := range []plug.Range{{Low: 0.8, High: 0.9}, {Low: 0.7, High: 0.8}, {Low: 0.75, High: 1}} {
			passes, stops := Tools{Wires: wires}.wires(r.Low, r.High)
			proves := passes > 0 && stops > passes
			possible := false // that some pair of wires proves the range
			for _, a := range wires {
				for _, b := range wires {
					possible = possible || a < b && a >= r.Low && b <= r.High
				}
			}
			if proves != possible {
				t.Errorf("%v for %v: %g and %g, possible %t", wires, r, passes, stops, possible)
			}
			for gap := 0.4; proves && gap < 1.6; gap += 0.001 {
				if gap >= passes && gap < stops && (gap < r.Low-1e-9 || gap > r.High+1e-9) {
					t.Errorf("%v for %v: a gap of %.3f passes %g, stops at %g and is out", wires, r, gap, passes, stops)
				}
			}
		}
	}
}

// Tooth, crank degrees and millimetres on the rim are arithmetic (values.md: definitions; 150 mm and 10°
// make 13.09 mm).
func TestTeethRimAndHousing(t *testing.T) {
	if got := RimMM(150, 10); math.Abs(got-13.09) > 0.005 {
		t.Errorf("10° of 150 mm are %.3f mm", got)
	}
	for z := 8; z <= 60; z++ {
		tooth := 360 / float64(z)
		if TeethOff(tooth, z) != 1 || TeethOff(2*tooth, z) != 2 || TeethOff(0.4*tooth, z) != 0 || math.Abs(CrankDegrees(1, z)-2*tooth) > 1e-9 {
			t.Errorf("%d teeth: %d, %g", z, TeethOff(tooth, z), CrankDegrees(1, z))
		}
	}
	// Turned with the rotor a housing retards, against it advances; crank degrees are twice its own.
	for _, rotor := range []engine.Turn{engine.Clockwise, engine.Anticlockwise} {
		early, late := Correct(17, 10, 10, 2, rotor), Correct(3, 10, 10, 2, rotor)
		if early.Sense != rotor || late.Sense == rotor || early.Turn != 3.5 || late.Turn != 3.5 {
			t.Errorf("%s: early %+v, late %+v", rotor, early, late)
		}
	}
}

// Marks tick, skip, measure and move steps; what comes off gets a step to go back, and a newer mark of
// somebody else is noticed.
func TestMarks(t *testing.T) {
	j := signed(t, "v6-across", "coil C1", m14)
	j.Worksheet = marks(mark("prepare.tools", job.Ticked, ""), mark(StepOff, job.CameOff, "vacuum hose"), mark(StepOff, job.Lost, "M6 bolt"),
		mark("torque.coil-bolt@cyl-1", job.Measured, "12 Nm"), mark("thread.boot@cyl-1", job.Skipped, ""), mark("prepare.ignition", job.Later, ""))
	j.Worksheet[4].Reason = "came greased"
	sheet, _ := Of(Case{Job: j})
	if len(sheet.Off) != 2 || !sheet.Off[1].Lost || sheet.Steps[0].ID != "prepare.tools" || sheet.Steps[1].ID != "prepare.ignition" {
		t.Errorf("off %+v, first %s", sheet.Off, sheet.Steps[0].ID)
	}
	bolt := find(t, Case{Job: j}, "torque.coil-bolt@cyl-1")
	if !bolt.State.Bad || bolt.State.Done || bolt.State.Mark != 4 {
		t.Errorf("a bolt at 12 of 5 to 10 N·m: %+v", bolt.State)
	}
	hose := find(t, Case{Job: j}, back(2))
	if hose.State.Done || hose.Phase != Refit {
		t.Errorf("hose %+v", hose)
	}
	if s := find(t, Case{Job: j}, "thread.boot@cyl-1"); s.Open() || s.State.Reason != "came greased" {
		t.Errorf("skipped: %+v", s.State)
	}
	for name, c := range map[string]struct {
		m    job.Mark
		seen int
		want string
	}{
		"skipped without a reason": {mark("prepare.also", job.Skipped, ""), 0, "why the step is skipped"},
		"no such step":             {mark("torque.wheel", job.Ticked, ""), 0, "a step of this worksheet"},
		"unreadable torque":        {mark("torque.coil-bolt@cyl-1", job.Measured, "tight"), 4, "a torque with its unit"},
		"marked meanwhile":         {mark("torque.coil-bolt@cyl-1", job.Ticked, ""), 0, ErrMoved.Error()},
		"no such school":           {mark("school.paste", job.Chosen, "sometimes"), 0, "one of the schools"},
		"no such bundle":           {mark("also.P9", job.Chosen, "yes"), 0, "a part that the verdict names"},
	} {
		if err := sheet.Check(c.m, c.seen); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v, want %q", name, err, c.want)
		}
	}
	if err := sheet.Check(mark("torque.coil-bolt@cyl-1", job.Ticked, "8 Nm"), 4); err != nil {
		t.Error(err)
	}
}

// A workshop's own figure replaces the table's, with its reason as the source. A verdict's bundle comes
// onto the worksheet when it is taken. Due parts are cheaper now than later.
func TestOwnFiguresBundleAndDue(t *testing.T) {
	own, err := knowledge.Believe([]knowledge.Override{{Row: "torque:coil-bolt", Values: []float64{6, 7}, Reason: "brass inserts", By: "Oda"}})
	if err != nil {
		t.Fatal(err)
	}
	if f := find(t, Case{Job: signed(t, "four-across", "coil C2", m14), Beliefs: own}, "torque.coil-bolt@cyl-2").Figure; f.Low != 6 || !strings.Contains(f.Source, "brass inserts") {
		t.Errorf("own torque: %+v", f)
	}
	j := jobtest.Shelf(t, "v6-across")
	j.Distance = 100_000
	zero, old := j.Distance-j.Distance, j.Distance-90_000
	j.Vehicle.Parts = []part.Record{{Kind: engine.Plug, FittedKm: &zero, LifeKm: 60_000, Plug: &m14}, {Kind: engine.Coil, FittedKm: &old, LifeKm: 250_000}}
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Verdict{Unit: "coil C1", P: 0.97, Also: []string{"plug P1: its wide gap overworks the new coil as it did the old"}}})
	sheet, _ := Of(Case{Job: j, HourlyRate: 60})
	if len(sheet.Also) != 1 || sheet.Also[0].On || len(sheet.Parts) != 1 {
		t.Errorf("also %+v, parts %+v", sheet.Also, sheet.Parts)
	}
	if len(sheet.Due) != 1 || sheet.Due[0].Kind != engine.Plug || sheet.Due[0].Now >= sheet.Due[0].Later {
		t.Errorf("due %+v", sheet.Due)
	}
	j.Worksheet = marks(mark("also.P1", job.Chosen, "yes"))
	with, _ := Of(Case{Job: j, HourlyRate: 60})
	if len(with.Parts) != 2 || with.Cost.Total() <= sheet.Cost.Total() || !slices.ContainsFunc(with.Steps, func(s Step) bool { return s.ID == "torque.plug@cyl-1" }) {
		t.Errorf("with the plug: %+v", with.Parts)
	}
}

// Every figure that a vehicle can have of its own reads back what it shows.
func TestSpecsRoundTrip(t *testing.T) {
	for _, s := range Specs {
		for _, typed := range map[bool][]string{true: {s.Example()}, false: {s.Example()}}[s.Single] {
			got, err := s.Parse(strings.Split(typed, ", or")[0])
			if err != nil || got.Low > got.High {
				t.Errorf("%s: %q is %+v, %v", s.Of, typed, got, err)
				continue
			}
			again, err := s.Parse(s.Show(got))
			if err != nil || math.Abs(again.Low-got.Low) > 1e-3 || math.Abs(again.High-got.High) > 1e-3 {
				t.Errorf("%s: %q shows as %q and reads as %+v, %v", s.Of, typed, s.Show(got), again, err)
			}
		}
	}
	gap, _ := SpecOf(engine.PlugGap)
	if got, err := gap.Parse("0.028-0.031 in"); err != nil || math.Abs(got.Low-0.7112) > 1e-9 || math.Abs(got.High-0.7874) > 1e-9 {
		t.Errorf("inches: %+v, %v", got, err)
	}
	torque, _ := SpecOf(SpecPlugTorque)
	if _, err := torque.Parse("25"); err == nil {
		t.Error("a torque without its unit is taken")
	}
}

// A danger stands first on the worksheet, and before each step that runs the engine, until it is over.
func TestWorksheetObeysBans(t *testing.T) {
	j := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 1, 212, 0, 2), evidence.Entry{Body: &evidence.Verdict{Unit: "coil C2", P: 0.98}},
		evidence.Entry{Body: &evidence.Danger{Of: evidence.FuelLeak}}, evidence.Entry{Body: &evidence.Danger{Of: evidence.BlownOut, Tag: "P3"}})
	warned := func(j job.Job) (first string, runs, warns int) {
		sheet, ok := Of(Case{Job: j})
		if !ok {
			t.Fatal("no worksheet")
		}
		for _, s := range sheet.Steps {
			if slices.Contains(s.Cautions, runHands) {
				runs++
				if strings.HasPrefix(s.Cautions[0], "Do not start it before") {
					warns++
				}
			}
		}
		return sheet.Steps[0].Title, runs, warns
	}
	if first, runs, warns := warned(j); !strings.Contains(first, "fuel leaks") || runs < 2 || warns != runs {
		t.Errorf("first %q, %d of %d warned", first, warns, runs)
	}
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Danger{Of: evidence.FuelLeak, Over: true, Done: "new seal"}}, evidence.Entry{Body: &evidence.Danger{Of: evidence.BlownOut, Tag: "P3", Over: true, Done: "new thread"}})
	if first, _, warns := warned(j); strings.Contains(first, "Before it may turn") || warns != 0 {
		t.Errorf("over: first %q, %d warned", first, warns)
	}
}
