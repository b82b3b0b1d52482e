package diagnose

import (
	"math"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// suspected is a job of four with a misfire on cylinder 2.
func suspected(t testing.TB) job.Job {
	t.Helper()
	return jobtest.With(t, jobtest.AnyTime(4), evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0302, State: trouble.Stored}}}})
}

// coils reads the secondary windings of the four coils.
func coils(figures ...float64) evidence.Entry {
	r := &evidence.Readings{Measure: evidence.CoilSecondary}
	for i, v := range figures {
		r.Each = append(r.Each, evidence.Reading{Tag: part.Tag([]string{"C1", "C2", "C3", "C4"}[i]), Figures: []float64{v}})
	}
	return evidence.Entry{Body: r}
}

func odds(p float64) float64 { return math.Log(p / (1 - p)) }

// Of readings that fit a fail better and better the suspect rises step by step, and no step
// is a threshold: two figures that differ by three per cent never differ by much in what
// they say.
func TestNoThresholdInReadings(t *testing.T) {
	last := math.NaN()
	for ratio := 1.0; ratio < 6; ratio *= 1.03 {
		now := odds(p(t, Assess(jobtest.With(t, suspected(t), coils(9500, 9500*ratio, 9480, 9530))), "coil C2"))
		if now < last-0.02 { // shorted turns, the other way, are left out by little
			t.Errorf("at %.2f times the others it falls from %.3f to %.3f", ratio, last, now)
		}
		if now-last > 1.5 {
			t.Errorf("at %.2f times the others it leaps from %.3f to %.3f", ratio, last, now)
		}
		last = now
	}
	if last < odds(0.85) {
		t.Errorf("a winding six times too high leaves the coil at log odds %.2f", last)
	}
}

// What readings say, against the trade (C; section 8): a fail is strong and a pass weak, a
// drop without a load proves little, a jump is a break whatever the figure between, and what
// is out of the set's line is so only where the set has a line.
func TestWhatReadingsSay(t *testing.T) {
	base := Assess(suspected(t))
	said := func(key string, entries ...evidence.Entry) float64 {
		return odds(p(t, Assess(jobtest.With(t, suspected(t), entries...)), key)) - odds(p(t, base, key))
	}
	pass := said("coil C2", coils(9500, 9500, 9500, 9500))
	fail := said("coil C2", coils(9500, 95000, 9500, 9500))
	if pass > 0 || pass < -0.7 || fail < 2.3 {
		t.Errorf("a pass says %.2f, a fail %.2f", pass, fail)
	}
	if lonely := said("coil C2", coils(9500, 14000)); lonely > fail/2 {
		t.Errorf("of two that differ the higher one is blamed: %.2f", lonely)
	}
	drop := func(pin float64, unloaded bool) evidence.Entry {
		return evidence.Entry{Body: &evidence.Readings{Measure: evidence.FeedDrop, Unloaded: unloaded, Each: []evidence.Reading{{Place: "cyl-2", Figures: []float64{12.3, pin}}}}}
	}
	if loaded, idle := said("feed cyl-2", drop(9.1, false)), said("feed cyl-2", drop(9.1, true)); loaded < 3 || idle > loaded-1 {
		t.Errorf("3.2 V lost under load say %.2f, without %.2f", loaded, idle)
	}
	if fine, blind := said("feed cyl-2", drop(12.2, false)), said("feed cyl-2", drop(12.2, true)); fine > -1 || blind < fine+0.5 {
		t.Errorf("a tenth lost under load says %.2f, without %.2f", fine, blind)
	}
	wire := func(jumps bool) evidence.Entry {
		return evidence.Entry{Body: &evidence.Readings{Measure: evidence.WireOhms, Each: []evidence.Reading{{Place: "cyl-2", Figures: []float64{0.3}, Jumps: jumps}}}}
	}
	if steady, jumps := said("trigger wire cyl-2", wire(false)), said("trigger wire cyl-2", wire(true)); steady > 0 || jumps < 2.5 {
		t.Errorf("a steady wire says %.2f, one that jumps %.2f", steady, jumps)
	}
	// Figures speak for what they show, the plain answer beside them for the rest.
	plain := evidence.Entry{Body: &evidence.Check{Test: evidence.InjectorTest, Place: "cyl-2", Result: "odd"}}
	ohms := evidence.Entry{Body: &evidence.Readings{Measure: evidence.InjectorOhms, Each: []evidence.Reading{
		{Place: "cyl-1", Figures: []float64{14.5}}, {Place: "cyl-2", Figures: []float64{14.5}}, {Place: "cyl-3", Figures: []float64{14.6}}, {Place: "cyl-4", Figures: []float64{14.4}}}}}
	if both, one := said("injector cyl-2", plain, ohms), said("injector cyl-2", plain); both < one-1.5 || both > one {
		t.Errorf("odd, but not by its ohms: %.2f; odd alone %.2f", both, one)
	}
}

// A spark over a wide gap clears the coil further than one over a narrow gap; taken at the coil's own tower it says nothing of the boot.
func TestWhatATesterSays(t *testing.T) {
	base := Assess(suspected(t))
	test := func(key string, gap float64, from engine.Kind, seen evidence.ResultID) float64 {
		s := &evidence.Sparks{Tester: "opened-plug", GapMM: gap, From: from, AirKPa: 101, AirCelsius: 20, Each: []evidence.Sparked{{Place: "cyl-2", Seen: seen}}}
		return odds(p(t, Assess(jobtest.With(t, suspected(t), evidence.Entry{Body: s})), key)) - odds(p(t, base, key))
	}
	last := 0.1
	for _, gap := range []float64{0.8, 2, 4, 7} {
		now := test("coil C2", gap, engine.Boot, "strong")
		if now > last {
			t.Errorf("a strong spark over %g mm says %.2f of the coil, over a narrower gap %.2f", gap, now, last)
		}
		last = now
	}
	if wide, narrow := test("coil C2", 7, engine.Boot, "none"), test("coil C2", 1, engine.Boot, "none"); wide < 0.5 || narrow < 0.5 {
		t.Errorf("no spark over 1 mm says %.2f, over 7 mm %.2f", narrow, wide)
	}
	if coil, boot := test("boot B2", 7, engine.Coil, "none"), test("boot B2", 7, engine.Boot, "none"); coil >= 0 || boot <= coil {
		t.Errorf("no spark at the tower says %.2f of the boot, at its end %.2f", coil, boot)
	}
	// In the condition in which it fails a good spark clears further.
	hot := suspected(t)
	hot.FailsWhen = evidence.Hot
	in := func(when evidence.Condition) float64 {
		s := &evidence.Sparks{Tester: "opened-plug", GapMM: 7, From: engine.Boot, AirKPa: 101, AirCelsius: 20, Each: []evidence.Sparked{{Place: "cyl-2", Seen: "strong"}}}
		return p(t, Assess(jobtest.With(t, hot, evidence.Entry{Body: s, Condition: when})), "coil C2")
	}
	if warm, cold := in(evidence.Hot), in(evidence.AnyCondition); warm >= cold {
		t.Errorf("a strong spark when hot leaves %.3f, another time %.3f", warm, cold)
	}
}

// Kilovolts tell inside the chamber from outside it (section 9 of the trade, C): one high and
// steady is a gap or a resistance, one that jumps a path that should not be there, and on snap
// a wide gap rises far more and a leak gives way.
func TestKilovolts(t *testing.T) {
	p8, _ := engine.FindPattern("v8-leads")
	j := jobtest.AnyTime(4)
	j.Vehicle.Engine = p8.Engine()
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0302, State: trouble.Stored}}}})
	base := Assess(j)
	set := func(id evidence.MeasureID, mine ...float64) evidence.Entry {
		r := &evidence.Readings{Measure: id}
		for _, c := range base.Engine.All() {
			figures := []float64{9 + 0.2*float64(c), 7.5 + 0.2*float64(c), 11 + 0.2*float64(c)}
			if id == evidence.KVSnap {
				figures = []float64{9, 16 + 0.2*float64(c)}
			}
			if c == 2 {
				figures = mine
			}
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(c), Figures: figures})
		}
		return evidence.Entry{Body: r}
	}
	mode := func(a *Assessment, id string) float64 {
		sum := 0.0
		for _, f := range a.Faults {
			if f.Hypothesis.Mode.ID == fault.ModeID(id) {
				sum += f.P
			}
		}
		return sum
	}
	times := func(id string, e evidence.Entry) float64 {
		return mode(Assess(jobtest.With(t, j, e)), id) / mode(base, id)
	}
	for _, c := range []struct {
		what     string
		entry    evidence.Entry
		up, down string
	}{
		{"high, steady", set(evidence.KVSteady, 16, 14, 18), "plug.worn-gap", "lead.leaking"},
		{"low, steady", set(evidence.KVSteady, 4, 3.4, 4.6), "compression.valve", "plug.worn-gap"},
		{"jumping", set(evidence.KVSteady, 8, 2.5, 12), "lead.leaking", "compression.valve"},
		{"in line", set(evidence.KVSteady, 9.4, 8, 11.2), "coil.weak-load", "plug.worn-gap"},
		{"far more on snap", set(evidence.KVSnap, 9, 30), "plug.worn-gap", "compression.valve"},
		{"high, and no room to rise", set(evidence.KVSteady, 24, 22, 26), "plug.worn-gap", "lead.leaking"},
		{"no rise on snap", set(evidence.KVSnap, 9, 9.5), "lead.leaking", "plug.worn-gap"},
	} {
		if up, down := times(c.up, c.entry), times(c.down, c.entry); up < 1 || down > 1 || up < 2*down {
			t.Errorf("%s: %s is %.2f times as likely, %s %.2f times", c.what, c.up, up, c.down, down)
		}
	}
}

// The table of section 9 of the trade (C), row by row, in a capture: what a cylinder's events look
// like beside its siblings speaks for what the table says, and against the other side.
func TestWaveformsPointWhereTheTableSays(t *testing.T) {
	p8, _ := engine.FindPattern("v8-leads")
	j := jobtest.AnyTime(4)
	j.Vehicle.Engine = p8.Engine()
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0302, State: trouble.Stored}}}})
	base := Assess(j)
	like := func(mine ...float64) evidence.Readings {
		r := evidence.Readings{Measure: evidence.KVWave}
		for _, c := range base.Engine.All() {
			v := float64(c) / 10
			figures := []float64{9 + v, 7.8 + v, 10.4 + v, 1.4, 1.2, -0.1, 100, 8}
			if c == 2 {
				figures = mine
			}
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(c), Figures: figures})
		}
		return r
	}
	share := func(a *Assessment, id string) (sum float64) {
		for _, f := range a.Faults {
			if f.Hypothesis.Mode.ID == fault.ModeID(id) {
				sum += f.P
			}
		}
		return sum
	}
	for _, c := range []struct {
		shape    string
		figures  []float64
		up, down string
	}{
		{"nothing that stands out", []float64{9.2, 8, 10.6, 1.4, 1.2, -0.1, 100, 8}, "coil.weak-load", "plug.worn-gap"},
		{"a wide gap", []float64{15, 13, 17, 1, 1.7, -0.1, 100, 8}, "plug.worn-gap", "lead.leaking"},
		{"resistance in series", []float64{13, 11, 15, 0.9, 1.7, -3, 100, 7}, "lead.high-resistance", "plug.worn-gap"},
		{"a gap in series", []float64{26, 21, 31, 1.1, 1.2, -0.1, 100, 8}, "lead.open", "compression.valve"},
		{"a lean or turbulent charge", []float64{12.5, 10, 15, 0.9, 1.25, 0.3, 100, 8}, "injector.clogged", "lead.leaking"},
		{"a small gap", []float64{4.4, 3.8, 5.2, 1.75, 0.92, -0.1, 100, 8}, "plug.closed-gap", "plug.worn-gap"},
		{"little charge", []float64{6, 5.2, 7, 1.5, 1.17, -0.1, 100, 8}, "compression.valve", "lead.leaking"},
		{"flashes over to ground", []float64{5.8, 4.6, 8, 1.9, 0.85, -0.05, 100, 8}, "lead.leaking", "compression.valve"},
		{"jumps from event to event", []float64{8, 2.6, 12, 1.5, 1.05, -0.1, 100, 8}, "lead.leaking", "compression.valve"},
		{"little energy", []float64{9, 7.8, 10.4, 0.5, 1.1, 0.9, 100, 8}, "coil.weak-load", "compression.valve"},
		{"as high as the coil gives, and no arc", []float64{27, 24, 31, 0, 0, 0, 0, 10}, "lead.open", "compression.valve"},
		{"little, and no arc", []float64{6, 4, 7, 0, 0, 0, 0, 9}, "coil.secondary-open", "plug.worn-gap"},
		{"hardly any ringing", []float64{6, 5, 7, 0.9, 1.1, 0, 100, 1}, "coil.secondary-shorted", "lead.leaking"},
		{"sparks missing", []float64{9, 8, 10, 1.4, 1.2, -0.1, 60, 8}, "connector.loose", "plug.worn-gap"},
		{"sparks missing", []float64{0, 0, 0, 0, 0, 0, 0}, "driver.dead", "plug.worn-gap"},
	} {
		set := like(c.figures...)
		if got := base.Shapes(set, evidence.Readings{})[1]; got.Words != c.shape || got.Abnormal != (c.shape != knowledge.Waves[0].Words) || got.P < 0.3 {
			t.Errorf("%v looks like %q, %.2f: want %q", c.figures, got.Words, got.P, c.shape)
		}
		a := Assess(jobtest.With(t, j, evidence.Entry{Body: &set}))
		// What rules out most others may raise both, but then the one far more.
		if up, down := share(a, c.up)/share(base, c.up), share(a, c.down)/share(base, c.down); up < 1 || down > max(1, up/8) || up < 2*down {
			t.Errorf("%s: %s is %.2f times as likely, %s %.2f times", c.shape, c.up, up, c.down, down)
		}
	}
	// In line at idle, and on a snap it does not rise as the others do.
	rises := evidence.Readings{Measure: evidence.KVSnap}
	for _, c := range base.Engine.All() {
		peak := 21 + float64(c)/10
		if c == 3 {
			peak = 10.5
		}
		rises.Each = append(rises.Each, evidence.Reading{Place: engine.At(c), Figures: []float64{9, peak}})
	}
	for _, got := range base.Shapes(like(9.2, 8, 10.6, 1.4, 1.2, -0.1, 100, 8), rises) {
		if abnormal := got.Cylinder == 3; got.Abnormal != abnormal || abnormal && got.Words != riseWords["less"] {
			t.Errorf("%+v", got)
		}
	}
	// A peak that was cut off may be as high as one likes: it speaks no less for a wide gap, and
	// one that is cut off in line with the others against nothing that is higher.
	cut := like(9.2, 8, 10.6, 1, 1.7, -0.1, 100, 8)
	whole := share(Assess(jobtest.With(t, j, evidence.Entry{Body: &cut})), "plug.worn-gap")
	least := like(9.2, 8, 10.6, 1, 1.7, -0.1, 100, 8)
	least.Each[1].AtLeast = true
	if open := share(Assess(jobtest.With(t, j, evidence.Entry{Body: &least})), "plug.worn-gap"); open <= whole {
		t.Errorf("cut off it leaves %.4f of a worn gap, as it stands %.4f", open, whole)
	}
}

// Of a test that is made again the one that tells most counts, whichever came first: over a
// wider gap, under a load, in the condition in which it fails.
func TestTheBetterTestCounts(t *testing.T) {
	j := suspected(t)
	j.FailsWhen = evidence.Hot
	spark := func(gap float64, when evidence.Condition) evidence.Entry {
		return evidence.Entry{Condition: when, Body: &evidence.Sparks{Tester: "opened-plug", GapMM: gap, From: engine.Boot, AirKPa: 101, AirCelsius: 20, Each: []evidence.Sparked{{Place: "cyl-2", Seen: "strong"}}}}
	}
	drop := func(unloaded bool) evidence.Entry {
		return evidence.Entry{Body: &evidence.Readings{Measure: evidence.FeedDrop, Unloaded: unloaded, Each: []evidence.Reading{{Place: "cyl-2", Figures: []float64{12.3, 12.2}}}}}
	}
	for name, c := range map[string]struct {
		key           string
		worse, better evidence.Entry
	}{
		"a wider gap":   {"coil C2", spark(1, evidence.Hot), spark(7, evidence.Hot)},
		"when it fails": {"coil C2", spark(7, evidence.Cold), spark(7, evidence.Hot)},
		"under a load":  {"feed cyl-2", drop(true), drop(false)},
	} {
		alone := p(t, Assess(jobtest.With(t, j, c.better)), c.key)
		for _, both := range [][]evidence.Entry{{c.worse, c.better}, {c.better, c.worse}} {
			if got := p(t, Assess(jobtest.With(t, j, both...)), c.key); math.Abs(got-alone) > 1e-9 {
				t.Errorf("%s: both leave %.4f, the better alone %.4f", name, got, alone)
			}
		}
		if worse := p(t, Assess(jobtest.With(t, j, c.worse)), c.key); worse <= alone {
			t.Errorf("%s: the worse test leaves %.4f, the better %.4f", name, worse, alone)
		}
	}
}

// A gap so wide that it takes all that the coil has cannot ask for more on snap: a peak of 30 kV
// that has hardly risen says nothing against it, where one of 10 kV does. The steady kilovolts that it began with count.
func TestPeakAtTheCoilsLimitSaysNothingAgainstAWideGap(t *testing.T) {
	base := suspected(t)
	snap := func(steady, peak float64) float64 {
		r := &evidence.Readings{Measure: evidence.KVSnap}
		for c := range engine.Cylinder(4) {
			figures := []float64{9, 21 + 0.3*float64(c)}
			if c == 1 {
				figures = []float64{steady, peak}
			}
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(c + 1), Figures: figures})
		}
		return p(t, Assess(jobtest.With(t, base, evidence.Entry{Body: r})), "plug P2")
	}
	steady := func(kv float64) float64 {
		r := &evidence.Readings{Measure: evidence.KVSteady}
		for c := range engine.Cylinder(4) {
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(c + 1), Figures: []float64{9}})
		}
		r.Each[1].Figures = []float64{kv}
		return p(t, Assess(jobtest.With(t, base, evidence.Entry{Body: r})), "plug P2")
	}
	if all, some := snap(25, 30), snap(9, 10); math.Abs(all-steady(25)) > 0.01 || some > all-0.05 || all < p(t, Assess(base), "plug P2")+0.2 {
		t.Errorf("all that the coil has: %.3f, its steady figure alone %.3f, far less: %.3f, before: %.3f", all, steady(25), some, p(t, Assess(base), "plug P2"))
	}
}

// On wasted spark one plug of each pair fires backwards and needs more: like is compared with
// like, and none of them is abnormal for that.
func TestPolarityIsNoFault(t *testing.T) {
	p6, _ := engine.FindPattern("six-pairs")
	j := jobtest.AnyTime(4)
	j.Vehicle.Engine = p6.Engine()
	r, w := &evidence.Readings{Measure: evidence.KVSteady}, &evidence.Readings{Measure: evidence.KVWave}
	for _, c := range j.Vehicle.Engine.All() {
		kV := 8.0
		if j.Vehicle.Engine.Polarity(c) == 2 {
			kV = 13
		}
		r.Each = append(r.Each, evidence.Reading{Place: engine.At(c), Figures: []float64{kV, kV * 0.85, kV * 1.15}})
		w.Each = append(w.Each, evidence.Reading{Place: engine.At(c), Figures: []float64{kV, kV * 0.85, kV * 1.15, 1.2, 0.15 * kV, -0.1, 100, 7}})
	}
	for _, shape := range Assess(j).Shapes(*w, evidence.Readings{}) {
		if shape.Abnormal {
			t.Errorf("in a capture cylinder %d shows %s", shape.Cylinder, shape.Words)
		}
	}
	for _, c := range Assess(jobtest.With(t, j, evidence.Entry{Body: r})).Checks {
		if c.Check.Result != "in-line" {
			t.Errorf("%s is %s", c.Check.Place, c.Check.Result)
		}
	}
}

// What was found beside a meter's reading is not taken back by it: a ground that comes and goes
// reads well when the meter is on it (C).
func TestReadingDoesNotWithdrawWhatWasFoundBesideIt(t *testing.T) {
	read := evidence.Entry{Body: &evidence.Readings{Measure: evidence.GroundDrop, Each: []evidence.Reading{{Place: "cyl-2", Figures: []float64{0.05}}}}}
	answer := func(r evidence.ResultID) evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: evidence.TriggerPulse, Place: "cyl-2", Result: r}}
	}
	before := jobtest.With(t, suspected(t), read)
	plain, cleared := Assess(jobtest.With(t, before, answer("ground"))), Assess(jobtest.With(t, before, answer("there")))
	if was, is, not := p(t, Assess(before), "ground cyl-2"), p(t, plain, "ground cyl-2"), p(t, cleared, "ground cyl-2"); is < 5*was || not > 1.1*was {
		t.Errorf("a ground that reads well stands at %.4f, at %.4f where it was found to drop, at %.4f where not", was, is, not)
	}
}

// A fault that shows no more of an answer than a sound one does is raised by no figure for it: 27 kV
// of a clamp speak for a gap, and of a coil that is weak under load they say what they say of a sound
// driver (the rows; C: what is asked is the gap's affair, not the coil's).
func TestFalseAlarmIsAsLikelyForEveryFault(t *testing.T) {
	j := jobtest.With(t, jobtest.AnyTime(4))
	high := jobtest.With(t, jobtest.AnyTime(4), evidence.Entry{Body: &evidence.Readings{Measure: evidence.KVSteady, Each: []evidence.Reading{
		{Place: "cyl-1", Figures: []float64{10}}, {Place: "cyl-2", Figures: []float64{27}}, {Place: "cyl-3", Figures: []float64{10}}, {Place: "cyl-4", Figures: []float64{10}}}}})
	mode := func(a *Assessment, id string) (sum float64) {
		for _, f := range a.Faults {
			if (f.Hypothesis.Tag == "C2" || f.Hypothesis.Tag == "P2") && f.Hypothesis.Mode.ID == fault.ModeID(id) {
				sum += f.P
			}
		}
		return sum
	}
	before, after := Assess(j), Assess(high)
	gap := mode(after, "plug.worn-gap") / mode(before, "plug.worn-gap")
	weak := mode(after, "coil.weak-load") / mode(before, "coil.weak-load")
	if gap < 10 || weak > 0.8 {
		t.Errorf("27 kV makes a worn gap %.2f times as likely and a weak coil %.2f times", gap, weak)
	}
}

// Base timing is a figure in degrees: within the maker's range it clears the timing, some degrees off it
// points there, whichever way, and without a range it says nothing. A narrow leg of an air gap is as far
// out as a wide one.
func TestTimingAndAirGapAreFigures(t *testing.T) {
	lamp := func(degrees float64, maker *evidence.Range) evidence.Entry {
		return evidence.Entry{Body: &evidence.Readings{Measure: evidence.BaseTiming, Maker: maker, Each: []evidence.Reading{{Place: engine.Whole, Figures: []float64{degrees}}}}}
	}
	p := func(j job.Job, unit engine.Kind) float64 {
		for _, s := range Assess(j).Suspects {
			if s.Unit == unit {
				return s.P
			}
		}
		return 0
	}
	start := jobtest.With(t, jobtest.Shelf(t, "six-distributor"), jobtest.Watch(1, 2, 3, 4, 5, 6))
	before := p(start, engine.Timing)
	maker := &evidence.Range{Low: 6, High: 8}
	for degrees, off := range map[float64]bool{7: false, 6.2: false, 14: true, -1: true, 30: true} {
		got := p(jobtest.With(t, start, lamp(degrees, maker)), engine.Timing)
		if off && got < 2*before || !off && got > before/2 {
			t.Errorf("%g° of 6 to 8: %.3f, before %.3f", degrees, got, before)
		}
	}
	if got := p(jobtest.With(t, start, lamp(14, nil)), engine.Timing); math.Abs(got-before) > 1e-9 {
		t.Errorf("without a range the lamp moves it from %.4f to %.4f", before, got)
	}
	legs := func(a, b float64) float64 {
		return p(jobtest.With(t, jobtest.With(t, jobtest.Shelf(t, "single-magneto"), jobtest.Watch(1)), evidence.Entry{Body: &evidence.Readings{Measure: evidence.AirGapLegs, Maker: &evidence.Range{Low: 0.25, High: 0.35},
			Each: []evidence.Reading{{Place: "cyl-1", Figures: []float64{a, b}}}}}), engine.AirGap)
	}
	if right, narrow, wide := legs(0.3, 0.32), legs(0.3, 0.1), legs(0.3, 0.9); narrow < 3*right || wide < 3*right {
		t.Errorf("air gap right %.3f, narrow %.3f, wide %.3f", right, narrow, wide)
	}
}
