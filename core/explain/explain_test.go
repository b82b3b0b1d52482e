package explain

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/spark"
	"glenmist/core/trouble"
)

// plug2 is how likely plug P2 is at fault.
func plug2(t testing.TB, a *diagnose.Assessment) float64 {
	t.Helper()
	for _, s := range a.Suspects {
		if s.Key() == "plug P2" {
			return s.P
		}
	}
	t.Fatal("plug P2 is no suspect")
	return 0
}

// Two entries that say the same each add little to the other; both are shown, with
// what they say alone.
func TestSharedReasons(t *testing.T) {
	a := Reasons(diagnose.Assess(jobtest.With(t, jobtest.AnyTime(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 143, 1, 0))))
	reasons := a.Suspects[0].Reasons
	if a.Suspects[0].Key() != "coil C2" || len(reasons) != 2 {
		t.Fatalf("%s: %+v", a.Suspects[0].Key(), reasons)
	}
	for _, r := range reasons {
		if !r.Shared || r.Alone < 1 {
			t.Errorf("entry %d adds %v, says %v alone", r.Entry, r.LogOdds, r.Alone)
		}
	}
	// A sound look speaks against a coil that all else condemns: nothing else says
	// so, and it is not said to be shared.
	j := jobtest.With(t, jobtest.New(4), jobtest.Codes(2), jobtest.Counts(3000, 0, 143, 1, 0))
	j = jobtest.With(t, j, jobtest.Swap24(j, engine.Coil, engine.Boot), jobtest.Counts(3000, 0, 0, 1, 139))
	c := Reasons(diagnose.Assess(jobtest.With(t, j, jobtest.Look(evidence.Seen{Tag: "P2", Finding: evidence.PlugNormal}, evidence.Seen{Tag: "B2", Finding: evidence.BootSound}))))
	for _, r := range c.Suspects[0].Reasons {
		if r.Alone < 0 && r.Shared {
			t.Errorf("entry %d is said to be shared: %+v", r.Entry, r)
		}
	}
	// An entry that stands alone says the same either way.
	b := Reasons(diagnose.Assess(jobtest.With(t, jobtest.New(4), jobtest.Codes(2))))
	if r := b.Suspects[0].Reasons[0]; math.Abs(r.LogOdds-r.Alone) > 1e-9 || r.Shared {
		t.Errorf("one entry: %+v", r)
	}
}

func TestWhatIsSetAsideIsSaid(t *testing.T) {
	moved := func(cleared bool) job.Job {
		j := jobtest.With(t, jobtest.New(4), jobtest.Codes(2))
		m := jobtest.Swap24(j, engine.Coil)
		m.Move().Cleared = cleared
		return jobtest.With(t, j, m)
	}
	other := evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0455, State: trouble.Stored}}}}
	permanent := jobtest.Codes(2)
	permanent.Codes().Read[0].State = trouble.Permanent
	for name, c := range map[string]struct {
		job  job.Job
		last evidence.Entry
		want string
	}{
		"a first code":       {jobtest.New(4), jobtest.Codes(2), ""},
		"another family":     {jobtest.New(4), other, "noted, not weighed"},
		"not cleared":        {moved(false), jobtest.Codes(2), "may be an old code"},
		"new, not cleared":   {moved(false), jobtest.Codes(4), ""},
		"cleared":            {moved(true), jobtest.Codes(2), ""},
		"permanent":          {moved(true), permanent, "may be an old code"},
		"counts of before":   {moved(true), evidence.Entry{Body: &evidence.Counters{Revolutions: 900, Counts: make([]int, 4)}}, "before the move"},
		"counts from zero":   {moved(true), jobtest.Counts(900, 0, 0, 0, 9), ""},
		"counts, not moved":  {jobtest.New(4), evidence.Entry{Body: &evidence.Counters{Revolutions: 900, Counts: make([]int, 4)}}, ""},
		"a look, like a run": {jobtest.New(4), jobtest.Look(evidence.Seen{Tag: "P2", Finding: evidence.PlugWorn}), ""},
	} {
		a := diagnose.Assess(jobtest.With(t, c.job, c.last))
		if got := Aside(a.SetAside(len(a.Moments) - 1)); (got == "") != (c.want == "") || !strings.Contains(got, c.want) {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
	}
}

// Two captures with a move between them: what went with a part, what stayed, what is new.
func TestChanged(t *testing.T) {
	shapes := func(abnormal ...engine.Cylinder) (all []diagnose.Shape) {
		for c := engine.Cylinder(1); c <= 4; c++ {
			s := diagnose.Shape{Cylinder: c, Words: knowledge.Waves[0].Words}
			if slices.Contains(abnormal, c) {
				s.Abnormal, s.Words = true, "jumps from event to event"
			}
			all = append(all, s)
		}
		return all
	}
	p4, _ := engine.FindPattern("four-across")
	e := p4.Engine()
	home := part.Home(e)
	now, err := home.Move([]part.Relocation{{Tag: "P2", To: "cyl-4"}, {Tag: "P4", To: "cyl-2"}})
	if err != nil {
		t.Fatal(err)
	}
	moved := Passages(home, now)
	if len(moved) != 2 || moved[0] != (Passage{"P2", 2, 4}) {
		t.Fatalf("%v", moved)
	}
	for want, c := range map[string]struct {
		before, after []diagnose.Shape
		moved         []Passage
	}{
		"what cylinder 2 showed is on cylinder 4 now: it went with plug P2":                    {shapes(2), shapes(4), moved},
		"cylinder 2 is abnormal as before (jumps from event to event): it stayed":              {shapes(2), shapes(2), moved},
		"cylinder 3 is abnormal as before (jumps from event to event)":                         {shapes(3), shapes(3), nil},
		"cylinder 2 no longer stands out: it showed “jumps from event to event”":               {shapes(2), shapes(), moved},
		"cylinder 1 is abnormal now (jumps from event to event), and did not stand out before": {shapes(), shapes(1), moved},
	} {
		if got := Changed(c.before, c.after, c.moved); len(got) != 1 || got[0] != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// A capture stands among the reasons with what it looks like; a second one of the same says little
// more; and beside kilovolts of a clamp it is the one that counts, whichever came first.
func TestCaptureAmongTheReasons(t *testing.T) {
	j, capture := jobtest.V8(t)
	wide := []float64{15, 13, 17, 1, 1.7, -0.1, 100, 8}
	one := jobtest.With(t, j, capture(3, wide...))
	a := Reasons(diagnose.Assess(one))
	lead := a.Suspects[0]
	if lead.Tag != "P2" {
		t.Fatalf("%s leads", lead.Name())
	}
	said := ""
	for _, r := range lead.Reasons {
		said += r.Text + "\n"
	}
	if !strings.Contains(said, "capture 3: cylinder 2: a wide gap") {
		t.Errorf("the reasons do not say it:\n%s", said)
	}
	before, once, twice := plug2(t, diagnose.Assess(j)), plug2(t, diagnose.Assess(one)), plug2(t, diagnose.Assess(jobtest.With(t, one, capture(4, wide...))))
	odds := func(p float64) float64 { return math.Log(p / (1 - p)) }
	if once <= before || odds(twice)-odds(once) > 0.2*(odds(once)-odds(before)) {
		t.Errorf("before %.3f, with one capture %.3f, with two alike %.3f", before, once, twice)
	}
	clamp := evidence.Entry{Body: &evidence.Readings{Measure: evidence.KVSteady}}
	for c := engine.Cylinder(1); c <= 8; c++ {
		clamp.Readings().Each = append(clamp.Readings().Each, evidence.Reading{Place: engine.At(c), Figures: []float64{9 + float64(c)/10}})
	}
	for _, both := range [][]evidence.Entry{{clamp, capture(3, wide...)}, {capture(3, wide...), clamp}} {
		if got := plug2(t, diagnose.Assess(jobtest.With(t, j, both...))); math.Abs(got-once) > 0.02 {
			t.Errorf("with a clamp beside it %.3f, the capture alone %.3f", got, once)
		}
	}
	if quiet := Reasons(diagnose.Assess(jobtest.With(t, j, capture(5, 9.2, 8, 10.6, 1.4, 1.2, -0.1, 100, 8)))); plug2(t, quiet) >= before {
		t.Error("in line with the others, and the worn plug is as likely as before")
	}
}

// What a pass is worth is said in the numbers that a job is weighed by.
func TestWorthOfAnAnswer(t *testing.T) {
	base := diagnose.Assess(jobtest.AnyTime(4))
	for _, w := range Spark(base, spark.Range{Low: 14, High: 20}) {
		if w.Answer == "strong and steady" && w.Times > 1 || w.Answer == "none" && w.Times < 1 {
			t.Errorf("%+v", w)
		}
	}
	for _, w := range Measure(base, evidence.CoilSecondary) {
		if w.Mode == fault.CoilSecondaryOpen && w.Answer == "open, or far too high" && w.Times < 10 || w.Mode == fault.CoilWeakLoad && w.Times > 20 {
			t.Errorf("%+v", w)
		}
	}
}

func TestWorthInWords(t *testing.T) {
	for times, want := range map[float64]string{2.04: "2 times likelier", 1: "1 times likelier", 0.25: "4 times less likely", 0.013: "77 times less likely"} {
		if got := (Worth{Times: times}).String(); got != want {
			t.Errorf("%g: %q, want %q", times, got, want)
		}
	}
}

// A cylinder without others to compare with is compared with its own earlier captures, in words.
func TestHistory(t *testing.T) {
	p, _ := engine.FindPattern("single-remote")
	capture := func(number int, figures ...float64) evidence.Readings {
		return evidence.Readings{Measure: evidence.KVWave, Capture: number, Each: []evidence.Reading{{Place: "cyl-1", Figures: figures}}}
	}
	first, second, now := capture(1, 14.2, 12, 16, 1.1), capture(2, 0), capture(3, 9.1, 8, 10, 1.42)
	j := jobtest.AnyTime(2)
	j.Vehicle.Engine = p.Engine()
	for _, c := range []struct {
		before []evidence.Readings
		want   string
	}{
		{nil, ""},
		{[]evidence.Readings{first}, "Cylinder 1 in capture 1: 14.2 kV, burn time 1.10 ms. Now: 9.1 kV, burn time 1.42 ms."},
		{[]evidence.Readings{first, second, now}, "Cylinder 1 in capture 2: no event. Now: 9.1 kV, burn time 1.42 ms."},
	} {
		with := j
		for _, r := range c.before {
			with = jobtest.With(t, with, evidence.Entry{Body: &r})
		}
		if got := History(diagnose.Assess(with), now, 3); got != c.want {
			t.Errorf("%q, want %q", got, c.want)
		}
	}
}
