package diagnose

import (
	"fmt"
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/enginetest"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

func p(t testing.TB, a *Assessment, key string) float64 {
	t.Helper()
	for _, s := range a.Suspects {
		if s.Key() == key {
			return s.P
		}
	}
	t.Fatalf("no suspect %q", key)
	return 0
}

// Worked by hand from Bayes' rule and the tables: how the odds of two faults, each
// alone, change with one look. It finds the connector of cylinder 2 loose: where it is
// at fault that comes with 0.38, everywhere else with 0.03, and two looks in a thousand
// tell nothing.
func TestBayesByHandOneLook(t *testing.T) {
	for name, c := range map[string]struct {
		seen         evidence.Seen
		fault, other string
		want         float64
	}{
		"connector against coil":       {evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorLoose}, "connector.loose@cyl-2", "coil.cracked@C1", 0.032 / 0.065 * (0.998*0.38/0.03 + 0.002)},
		"boot against seat":            {evidence.Seen{Tag: "B1", Finding: evidence.BootTorn}, "boot.torn@B1", "seat.not-home@cyl-1", 0.018 / 0.029 * (0.998*0.56/0.012 + 0.002) / (0.998*0.014/0.012 + 0.002)},
		"boot against its plug":        {evidence.Seen{Tag: "B1", Finding: evidence.BootTorn}, "boot.torn@B1", "plug.cracked@P1", 0.018 / 0.054 * (0.998*0.56/0.012 + 0.002) / (0.998*0.04/0.012 + 0.002)},
		"no look at one, nor at other": {evidence.Seen{Tag: "B1", Finding: evidence.BootTorn}, "plug.worn-gap@P2", "coil.cracked@C3", 0.125 / 0.065},
	} {
		j := jobtest.With(t, jobtest.AnyTime(4), jobtest.Look(c.seen))
		a := Assess(j)
		post := a.weighing.posterior(everything, false)
		odds := map[string]float64{}
		for k, f := range a.Faults {
			odds[f.Hypothesis.Key()] += post.Single[k]
		}
		// What the look touched may have been cured: both halves of a fault are it.
		if got := odds[c.fault] / odds[c.other]; math.Abs(got-c.want) > 1e-9*c.want {
			t.Errorf("%s: odds of %.9f, want %.9f by hand", name, got, c.want)
		}
	}
}

// Two faults at once have their share, and a cause makes its effect likelier: by the
// table, a worn plug with a broken coil on one cylinder is eight times as likely as
// one each on two cylinders.
func TestPairsByHand(t *testing.T) {
	a := Assess(jobtest.AnyTime(4))
	sum, single := 0.0, 0.0
	post := a.weighing.posterior(everything, false)
	for k := range a.Faults {
		sum += a.Faults[k].P
		single += post.Single[k]
	}
	if math.Abs(single-(1-fault.TwoFaults)) > 1e-12 || math.Abs(sum-(1+fault.TwoFaults)) > 1e-9 {
		t.Errorf("alone they sum to %v, in all to %v", single, sum)
	}
	home := part.Home(a.Engine)
	at := func(key string) fault.Hypothesis {
		for _, f := range a.Faults {
			if f.Hypothesis.Key() == key {
				return f.Hypothesis
			}
		}
		t.Fatal(key)
		return fault.Hypothesis{}
	}
	for _, c := range []struct {
		one, two string
		want     float64
	}{
		{"plug.worn-gap@P1", "coil.cracked@C1", 8}, {"plug.worn-gap@P1", "coil.cracked@C2", 1},
		{"plug.worn-gap@P1", "plug.cracked@P1", 0}, {"plug.worn-gap@P1", "no-fault.now@engine", 0},
	} {
		one, two := at(c.one), at(c.two)
		if got := fault.Together(&one, &two, one.Serves(home)&two.Serves(home) != 0); got != c.want {
			t.Errorf("%s with %s: %v times, want %v", c.one, c.two, got, c.want)
		}
	}
}

// Leaving an entry out must be the same as never having made it. (Looks are left
// aside: what was touched stays touched; and so are runs before a look: that a plug ran there
// stays true whatever was counted.)
func TestLeaveOneOut(t *testing.T) {
	r := rand.New(rand.NewPCG(8, 13))
	jobs := 40
	if testing.Short() {
		jobs = 12
	}
	compared := 0
	for range jobs {
		j := randomJob(t, r)
		a := Assess(j)
		for i, m := range a.Moments {
			looked := slices.ContainsFunc(a.Moments[i:], func(m evidence.Moment) bool { return m.Entry.Look() != nil })
			ran := m.Entry.Counters() != nil || m.Entry.Watch() != nil || m.Entry.Codes() != nil
			if m.Entry.Move() != nil || m.Entry.Look() != nil || ran && looked {
				continue
			}
			fewer := j
			fewer.Ledger = append(append(evidence.Ledger{}, j.Ledger...), evidence.Entry{Seq: j.Ledger.Next(), Done: jobtest.Clock(99), By: "x",
				Body: &evidence.Withdraw{Entry: m.Entry.Seq, Reason: "left out"}})
			b := Assess(fewer)
			keys := func(a *Assessment) (all []string) {
				for _, f := range a.Faults {
					all = append(all, f.Hypothesis.Key())
				}
				return all
			}
			if !slices.Equal(keys(a), keys(b)) { // it named cylinders, and so which sets are listed
				continue
			}
			compared++
			for s, got := range a.weighing.posterior(without(i), false).Any {
				if want := b.Faults[s].P; math.Abs(got-want) > 1e-9 {
					t.Fatalf("without entry %d, %s: %v, want %v", m.Entry.Seq, a.Faults[s].Hypothesis.Key(), got, want)
				}
			}
		}
	}
	if compared < jobs {
		t.Errorf("%d entries of %d jobs were compared", compared, jobs)
	}
}

// randomJob is a job on any engine with a handful of entries of every kind.
func randomJob(t testing.TB, r *rand.Rand) job.Job {
	j := jobtest.New(2)
	j.Vehicle.Engine = enginetest.Random(r.IntN)
	j.FailsWhen = append(slices.Clone(knowledge.Conditions), evidence.AnyCondition, evidence.Snap)[r.IntN(7)]
	if j.FailsWhen == evidence.AnyCondition && r.IntN(2) == 0 {
		j.Signs = []evidence.Sign{evidence.AlwaysThere}
	}
	e := j.Vehicle.Engine
	n := e.Cylinders
	cyl := func() engine.Cylinder { return engine.Cylinder(1 + r.IntN(n)) }
	slots := part.Slots(e)
	for range 1 + r.IntN(8) {
		at := j.Ledger.Positions(e)
		switch r.IntN(9) {
		case 0:
			if e.Scanned() {
				read := jobtest.Codes(cyl())
				if r.IntN(3) == 0 {
					coil, _ := trouble.Parse("P0351")
					read.Codes().Read = append(read.Codes().Read, trouble.Reading{Code: coil, State: trouble.Pending})
				}
				j = jobtest.With(t, j, read)
			}
		case 1:
			c := make([]int, n)
			for i := range c {
				c[i] = r.IntN(3)
			}
			c[r.IntN(n)] += r.IntN(60)
			j = jobtest.With(t, j, jobtest.Counts(200+r.IntN(4000), c...))
		case 2:
			j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Watch{Cylinders: []engine.Cylinder{cyl()}}})
		case 3:
			a, b := slots[r.IntN(len(slots))], slots[r.IntN(len(slots))]
			if a.Kind == b.Kind && a.Place != b.Place {
				j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Move{Cleared: r.IntN(2) == 0, Parts: at.Swap(a.Place, b.Place, a.Kind)}})
			} else if in, ok := at.FreeSpare(a.Kind, j.Ledger.Used); ok {
				j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: at.Replace(at.In(a.Kind, a.Place), in)}})
			}
		case 4:
			kinds := evidence.LookKinds(e)
			k := kinds[r.IntN(len(kinds))]
			rows := evidence.FindingsOn(k)
			seen := evidence.Seen{Finding: rows[r.IntN(len(rows))].Finding}
			if k == engine.Connector {
				seen.Place = e.CoilOf(cyl()).Place
			} else {
				seen.Tag = at.Serving(k, cyl())
			}
			j = jobtest.With(t, j, jobtest.Look(seen))
		case 5:
			j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Trims{Banks: []trouble.Trim{{Bank: 1, Short: 20*r.Float64() - 8, Long: 20*r.Float64() - 8}}}})
		case 6:
			tests := evidence.TestsOf(e)
			test := tests[r.IntN(len(tests))]
			places := test.Places(e)
			check := evidence.Check{Test: test.ID, Place: places[r.IntN(len(places))], Result: test.Results[r.IntN(len(test.Results))].ID}
			if answer, _ := test.Result(check.Result); test.Of == evidence.OfLeaks && !answer.Abnormal {
				check.Place = engine.Whole
			}
			j = jobtest.With(t, j, evidence.Entry{Body: &check})
		case 7:
			m := evidence.Measures[r.IntN(len(evidence.Measures))]
			if m.There(e) {
				j = jobtest.With(t, j, evidence.Entry{Body: randomReadings(m, m.Each(e, at), r)})
			}
		case 8:
			s := &evidence.Sparks{Tester: "opened-plug", GapMM: 1 + 8*r.Float64(), From: evidence.Ends[r.IntN(3)].From, AirKPa: 95, AirCelsius: 12}
			s.Each = []evidence.Sparked{{Place: engine.At(cyl()), Seen: []evidence.ResultID{"strong", "weak", "intermittent", "none"}[r.IntN(4)]}}
			j = jobtest.With(t, j, evidence.Entry{Body: s})
		}
	}
	return j
}

// randomReadings reads some of what a measure is read on, one of them far off.
func randomReadings(m evidence.Measure, on []evidence.Reading, r *rand.Rand) *evidence.Readings {
	set := &evidence.Readings{Measure: m.ID, Unloaded: m.Loaded && r.IntN(2) == 0}
	abnormal := r.IntN(len(on))
	for i, one := range on {
		if one.Tag.IsSpare() || r.IntN(5) == 0 && i > 0 {
			continue
		}
		for k := range m.Figures {
			v := 5 * math.Exp(0.05*r.NormFloat64())
			if i == abnormal {
				v *= math.Exp(r.NormFloat64())
			}
			if m.Test == evidence.Kilovolts && (k == 1 || k == 2) { // about the usual one
				v = one.Figures[0] * []float64{0, 0.8, 1.2}[k]
			}
			if of := m.Figures[k].Of; of != nil {
				v = min(max(v, of.Low), of.High)
			}
			one.Figures = append(one.Figures, v)
		}
		if one.Jumps = m.Bends && r.IntN(6) == 0; m.Figures[0].Of == nil && r.IntN(8) == 0 {
			one.Figures, one.Over = nil, true
		}
		set.Each = append(set.Each, one)
	}
	return set
}

// The decode of a swap of coil and boot between 2 and 4, after P0302 and a run
// with 143 of 1500 on cylinder 2. The facts are section by section the trade's
// (C): what follows is the part's, what stays is not, a clean run proves nothing.
func TestDecode(t *testing.T) {
	base := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 143, 1, 0))
	base = jobtest.With(t, base, jobtest.Swap24(base, engine.Coil, engine.Boot))
	slight := jobtest.With(t, jobtest.New(4), jobtest.Counts(30000, 0, 150, 1, 0))
	slight = jobtest.With(t, slight, jobtest.Swap24(slight, engine.Coil))
	for name, c := range map[string]struct {
		before  job.Job
		after   []evidence.Entry
		outcome Outcome
		check   func(*testing.T, *Assessment)
	}{
		"waiting": {base, nil, Waiting, nil},
		"followed": {base, []evidence.Entry{jobtest.Counts(3000, 1, 0, 0, 139)}, Followed, func(t *testing.T, a *Assessment) {
			if got := p(t, a, "coil C2"); got < 0.95 {
				t.Errorf("coil with its boot at %v", got)
			}
			if len(a.Suspects[0].With) != 1 || a.Suspects[0].With[0] != "B2" {
				t.Errorf("the boot that travelled is not with the coil: %v", a.Suspects[0].With)
			}
		}},
		"followed, by code only": {base, []evidence.Entry{jobtest.Codes(4)}, Followed, nil},
		"stayed": {base, []evidence.Entry{jobtest.Counts(3000, 0, 131, 0, 1)}, Stayed, func(t *testing.T, a *Assessment) {
			if got := p(t, a, "coil C2"); got > 0.01 {
				t.Errorf("the coil is still suspected at %v", got)
			}
			if a.Suspects[0].Key() != "plug P2" {
				t.Errorf("first suspect is %s, want the plug", a.Suspects[0].Key())
			}
		}},
		"gone": {base, []evidence.Entry{jobtest.Counts(6000, 0, 0, 0, 0)}, Gone, func(t *testing.T, a *Assessment) {
			if got := p(t, a, "coil C2"); got > 0.6 {
				t.Errorf("a clean run condemns the coil at %v", got)
			}
			if was, is := 0.07/4, p(t, a, "connector cyl-2"); is < 4*was {
				t.Errorf("the connector that was touched went from %v to %v only", was, is)
			}
		}},
		"both":                  {base, []evidence.Entry{jobtest.Counts(3000, 0, 120, 1, 110)}, Both, nil},
		"elsewhere":             {base, []evidence.Entry{jobtest.Counts(3000, 0, 0, 150, 0)}, Elsewhere, nil},
		"elsewhere, put home":   {base, []evidence.Entry{jobtest.Counts(3000, 0, 0, 150, 0), jobtest.Counts(3000, 1, 0, 0, 139)}, Followed, nil},
		"elsewhere, twice":      {base, []evidence.Entry{jobtest.Counts(3000, 0, 0, 150, 0), jobtest.Counts(3000, 1, 0, 139, 0)}, Elsewhere, nil},
		"too little watched":    {slight, []evidence.Entry{jobtest.Counts(400, 0, 0, 0, 0)}, Unclear, nil},
		"old counts say little": {base, []evidence.Entry{{Body: &evidence.Counters{Revolutions: 3000, Counts: []int{0, 143, 0, 90}}}}, Waiting, nil},
	} {
		t.Run(name, func(t *testing.T) {
			a := Assess(jobtest.With(t, c.before, c.after...))
			d := a.LastDecode()
			if d == nil || d.Outcome != c.outcome {
				t.Fatalf("decoded as %+v, want %s", d, c.outcome)
			}
			if d.From != engine.SetOf(2) || d.To != engine.SetOf(4) || d.Tags[0] != "C2" {
				t.Errorf("decoded as %+v", d)
			}
			if c.check != nil {
				c.check(t, a)
			}
		})
	}
}

// One job on each layout, from the misfire to what a move showed, and who leads
// then. The facts are the trade's (C): the coil of a pair takes both cylinders with
// it, an open lead can starve both and goes alone, a split move tells coil from
// plug, a spare proves nothing until the old part is put back.
func TestDecodeOnEveryLayout(t *testing.T) {
	swapAt := func(j job.Job, a, b engine.Place, k ...engine.Kind) job.Job {
		at := j.Ledger.Positions(j.Vehicle.Engine)
		return jobtest.With(t, j, jobtest.Moved(at.Swap(a, b, k...)...))
	}
	pair := jobtest.With(t, jobtest.Shelf(t, "six-pairs"), jobtest.Counts(3000, 0, 90, 0, 1, 84, 0))
	lead := jobtest.With(t, jobtest.Shelf(t, "six-pairs"), jobtest.Counts(3000, 0, 120, 0, 1, 0, 0))
	near := jobtest.With(t, jobtest.Shelf(t, "v8-leads"), jobtest.Codes(5), jobtest.Counts(3000, 0, 0, 1, 0, 150, 0, 0, 0))
	split := jobtest.With(t, near, jobtest.Moved(append(part.Home(near.Vehicle.Engine).Swap("cyl-5", "cyl-2", engine.Coil), part.Home(near.Vehicle.Engine).Swap("cyl-5", "cyl-8", engine.Plug)...)...))
	capped := jobtest.With(t, jobtest.Shelf(t, "six-distributor"), jobtest.Watch(3))
	single := jobtest.With(t, jobtest.Shelf(t, "single-magneto"), jobtest.Watch(1))
	spare := jobtest.With(t, single, jobtest.Moved(part.Home(single.Vehicle.Engine).Replace("P1", "PS1")...))
	back := jobtest.With(t, spare, jobtest.Watch())
	back = jobtest.With(t, back, jobtest.Moved(part.Relocation{Tag: "P1", To: "cyl-1"}, part.Relocation{Tag: "PS1", To: "bench"}))
	for name, c := range map[string]struct {
		j       job.Job
		outcome Outcome
		tags    string
		lead    string
		least   float64
	}{
		"coil of a pair followed":     {jobtest.With(t, swapAt(pair, "coil-B", "coil-A", engine.Coil), jobtest.Counts(3000, 92, 0, 1, 0, 0, 81)), Followed, "[CB]", "coil CB", 0.9},
		"coil of a pair stayed":       {jobtest.With(t, swapAt(pair, "coil-B", "coil-A", engine.Coil), jobtest.Counts(3000, 0, 88, 1, 0, 90, 0)), Stayed, "[CB]", "", 0},
		"lead of one of a pair":       {jobtest.With(t, swapAt(lead, "cyl-2", "cyl-3", engine.Lead), jobtest.Counts(3000, 0, 0, 118, 1, 0, 0)), Followed, "[L2]", "lead L2", 0.9},
		"open lead starves both":      {jobtest.With(t, swapAt(pair, "cyl-2", "cyl-3", engine.Lead), jobtest.Counts(3000, 0, 0, 110, 95, 0, 1)), Followed, "[L2]", "lead L2", 0.5},
		"split, with the coil":        {jobtest.With(t, split, jobtest.Counts(3000, 0, 148, 0, 0, 0, 1, 0, 0)), Followed, "[C5]", "coil C5", 0.9},
		"split, with the plug":        {jobtest.With(t, split, jobtest.Counts(3000, 0, 0, 0, 0, 1, 0, 0, 139)), Followed, "[P5]", "plug P5", 0.9},
		"split, with neither":         {jobtest.With(t, split, jobtest.Counts(3000, 0, 0, 0, 0, 144, 0, 1, 0)), Stayed, "", "lead L5", 0.2},
		"lead on a cap, only watched": {jobtest.With(t, swapAt(capped, "cyl-3", "cyl-4", engine.Lead), jobtest.Watch(4)), Followed, "[L3]", "lead L3", 0.8},
		"with a spare gone":           {jobtest.With(t, spare, jobtest.Watch()), Gone, "[P1]", "plug P1", 0.4},
		"with a spare stayed":         {jobtest.With(t, spare, jobtest.Watch(1)), Stayed, "[P1]", "", 0},
		"came back with it":           {jobtest.With(t, back, jobtest.Watch(1)), Followed, "[P1]", "plug P1", 0.6},
		"put back and still clean":    {jobtest.With(t, back, jobtest.Watch()), Gone, "[P1]", "", 0},
	} {
		a := Assess(c.j)
		d := a.LastDecode()
		if d == nil || d.Outcome != c.outcome || c.tags != "" && fmt.Sprint(d.Tags) != c.tags {
			t.Errorf("%s: decoded as %+v", name, d)
		}
		if c.lead != "" && (a.Suspects[0].Key() != c.lead || a.Suspects[0].P < c.least) {
			t.Errorf("%s: %s leads at %.3f, then %s; want %s above %v", name, a.Suspects[0].Key(), a.Suspects[0].P, a.Suspects[1].Key(), c.lead, c.least)
		}
		if c.outcome == Stayed {
			for _, w := range d.Ways {
				if got := p(t, a, string(w.Tags[0].Kind())+" "+string(w.Tags[0])); got > 0.10 {
					t.Errorf("%s: %s is still suspected at %v", name, w.Tags[0], got)
				}
			}
		}
	}
}

// What each kind of entry points at (facts of the trade, C).
func TestWhatEachEntryPointsAt(t *testing.T) {
	code := func(s string) evidence.Entry {
		c, err := trouble.Parse(s)
		if err != nil {
			t.Fatal(err)
		}
		return evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: c, State: trouble.Stored}}}}
	}
	trims := func(one, two float64) evidence.Entry {
		return evidence.Entry{Body: &evidence.Trims{Banks: []trouble.Trim{{Bank: 1, Long: one}, {Bank: 2, Long: two}}}}
	}
	found := func(test evidence.TestID, at engine.Place, result evidence.ResultID) evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: test, Place: at, Result: result}}
	}
	for name, c := range map[string]struct {
		j    job.Job
		lead string
	}{
		"lean on both banks, all misfire a little": {jobtest.With(t, jobtest.Shelf(t, "v6-across"), trims(22, 24), jobtest.Counts(6000, 20, 18, 25, 16, 22, 19)), "air leak engine"},
		"lean on one bank":                         {jobtest.With(t, jobtest.Shelf(t, "v6-across"), trims(21, 1), jobtest.Counts(6000, 0, 1, 0, 16, 22, 19), trims(1, 21)), "air leak bank-2"},
		"smoke at one runner":                      {jobtest.With(t, jobtest.Shelf(t, "v6-across"), jobtest.Codes(2), found(evidence.Smoke, "cyl-2", "leak")), "air leak cyl-2"},
		"stop wire off, and it sparks":             {jobtest.With(t, jobtest.Shelf(t, "single-magneto"), jobtest.Watch(1), found(evidence.StopWireOff, "engine", "sparks")), "stop wire engine"},
		"two leads found exchanged":                {jobtest.With(t, jobtest.Shelf(t, "six-distributor"), jobtest.Watch(2, 4), found(evidence.LeadRouting, "engine", "exchanged")), "lead order engine"},
		"neighbours in the cap, cap tracked":       {jobtest.With(t, jobtest.Shelf(t, "six-distributor"), jobtest.Watch(1, 5), jobtest.Look(evidence.Seen{Tag: "DA", Finding: evidence.CapTracked})), "cap DA"},
		"a pair, and its coil's circuit code":      {jobtest.With(t, jobtest.Shelf(t, "six-pairs"), jobtest.Codes(2), code("P0352"), jobtest.Look(evidence.Seen{Place: "coil-B", Finding: evidence.ConnectorLoose})), "connector coil-B"},
	} {
		a := Assess(c.j)
		if got := a.Suspects[0].Key(); got != c.lead {
			t.Errorf("%s: %s leads at %.2f, then %s at %.2f; want %s", name, got, a.Suspects[0].P, a.Suspects[1].Key(), a.Suspects[1].P, c.lead)
		}
	}
	// One lean bank beside one misfiring cylinder may be its effect: it weighs less.
	alone := Assess(jobtest.With(t, jobtest.Shelf(t, "v6-across"), jobtest.Counts(3000, 0, 0, 0, 0, 200, 0)))
	lean := Assess(jobtest.With(t, jobtest.Shelf(t, "v6-across"), jobtest.Counts(3000, 0, 0, 0, 0, 200, 0), trims(0, 12)))
	if was, is := p(t, alone, "coil C5"), p(t, lean, "coil C5"); is < was/2 {
		t.Errorf("a lean bank takes the coil from %v to %v", was, is)
	}
}

func TestUnclearSaysHowMuchMore(t *testing.T) {
	j := jobtest.With(t, jobtest.New(4), jobtest.Counts(30000, 0, 150, 1, 0))
	j = jobtest.With(t, j, jobtest.Swap24(j, engine.Coil))
	a := Assess(jobtest.With(t, j, jobtest.Counts(400, 0, 0, 0, 0)))
	more := a.LastDecode().More
	if more < 400 {
		t.Fatalf("after 200 clean events at a rate of one in a hundred: %d more revolutions", more)
	}
	b := Assess(jobtest.With(t, j, jobtest.Counts(400, 0, 0, 0, 0), jobtest.Counts(more, 0, 0, 0, 0)))
	if d := b.LastDecode(); d.Outcome != Gone {
		t.Errorf("after the %d revolutions it asked for: %+v", more, d)
	}
}

// A permanent code, and codes that were not cleared, may be old: they say nothing
// after a move.
func TestOldCodesAfterAMove(t *testing.T) {
	base := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 143, 1, 0))
	moved := jobtest.Swap24(base, engine.Coil, engine.Boot)
	moved.Move().Cleared = false
	j := jobtest.With(t, base, moved)
	before, after := Assess(j), Assess(jobtest.With(t, j, jobtest.Codes(2)))
	if d := math.Abs(p(t, before, "coil C2") - p(t, after, "coil C2")); d > 1e-9 {
		t.Errorf("the old code moves the coil by %v", d)
	}
}

func TestRepeatedReadsTellNoMore(t *testing.T) {
	once, twice := Assess(jobtest.With(t, jobtest.New(4), jobtest.Codes(2))), Assess(jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Codes(2)))
	if a, b := p(t, once, "coil C2"), p(t, twice, "coil C2"); math.Abs(a-b) > 1e-12 {
		t.Errorf("read once %v, read twice %v", a, b)
	}
}

func TestNoFaultNowIsAHypothesis(t *testing.T) {
	j := jobtest.New(4)
	for range 6 {
		j = jobtest.With(t, j, jobtest.Counts(6000, 0, 0, 0, 0))
	}
	if a := Assess(j); a.Suspects[0].Unit != fault.NoFault {
		t.Errorf("after six clean runs the first suspect is %s", a.Suspects[0].Name())
	}
}
