package plan

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
	"glenmist/core/part"
)

// comesBack is a new job, some days after a repaired one, on the same trouble.
func comesBack(t *testing.T, old job.Job, days int) (job.Job, evidence.Comeback) {
	t.Helper()
	j := old
	j.Number, j.Ledger, j.Opened = "t-2", nil, jobtest.Clock(days*24*60+60)
	c := ComebackOf(old, diagnose.Assess(old), j.Opened, j.Distance)
	return jobtest.With(t, j, evidence.Entry{Body: &c}), c
}

// A job that comes back starts from the old evidence: with probability w the verdict was wrong and the shares
// are those at its end, otherwise they are the prior ones (the law of total probability, checked by hand for
// each fault alone). The old part is out; the boot that moved with it leads.
func TestComebackStartsFromTheOldEvidence(t *testing.T) {
	old := signedCoil(t)
	old = jobtest.With(t, old, renewed(old, engine.Coil), jobtest.Counts(18_750, 0, 0, 0, 0))
	j, c := comesBack(t, old, 42)
	if c.Unit != "coil C2" || c.Days != 42 || !(c.Wrong > 0.1 && c.Wrong < 0.7) || len(c.Renewed) != 1 || c.Renewed[0] != (evidence.CameIn{Kind: engine.Coil, Place: "cyl-4"}) {
		t.Fatalf("%+v", c)
	}
	inPlace := 0.0
	for _, f := range c.Carried {
		if strings.HasPrefix(f.Fault, "coil.") && f.Place == "cyl-4" {
			inPlace += f.P
		}
	}
	if inPlace > fault.NewPartFaulty {
		t.Errorf("the part that came off is still carried: its place has %.3f, a new part %.3f at most", inPlace, fault.NewPartFaulty)
	}
	fresh := j
	fresh.Ledger = nil
	alone := func(a *diagnose.Assessment) map[string]float64 {
		sum := map[string]float64{}
		for _, w := range a.JointHypotheses {
			if len(w.Faults) == 1 {
				h := w.Faults[0].Hypothesis
				place := h.Place
				if h.Tag != "" {
					place = h.Tag.Home()
				}
				sum[string(h.Mode.ID)+" "+string(place)] += w.P
			}
		}
		return sum
	}
	prior, after := alone(diagnose.Assess(fresh)), alone(diagnose.Assess(j))
	all, carried := 0.0, 0.0
	for _, p := range prior {
		all += p
	}
	for _, f := range c.Carried {
		carried += f.P
	}
	want := func(key string, p float64) float64 { return c.Wrong*p/carried + (1-c.Wrong)*prior[key]/all }
	first := c.Carried[0]
	for _, f := range c.Carried {
		if f.P > first.P {
			first = f
		}
	}
	leads := first.Fault + " " + string(first.Place)
	for _, f := range c.Carried {
		key := f.Fault + " " + string(f.Place)
		got, hand := after[key]/after[leads], want(key, f.P)/want(leads, first.P)
		if math.Abs(got-hand) > 0.02*hand+1e-9 {
			t.Errorf("%s against %s: %.5f, by hand %.5f", key, leads, got, hand)
		}
	}
	j = jobtest.With(t, j, jobtest.Counts(3000, 0, 0, 0, 150))
	a := diagnose.Assess(j)
	boot := func(a *diagnose.Assessment) float64 {
		return a.Suspects[slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Tag == "B4" })].P
	}
	if p := boot(a); p < 0.25 {
		t.Errorf("after a run the boot that moved with the coil stands at %.2f", p)
	}
	if p := boot(diagnose.Assess(jobtest.With(t, fresh, jobtest.Counts(3000, 0, 0, 0, 150)))); p > 0.15 {
		t.Errorf("without the old evidence the boot stands at %.2f as well", p)
	}
	// "Another trouble after all" is a withdrawal.
	back := jobtest.With(t, j, evidence.Entry{Body: &evidence.Withdraw{Entry: 1, Reason: "another trouble"}})
	if p := boot(diagnose.Assess(back)); p > 0.15 {
		t.Error("a withdrawn comeback still counts")
	}
}

// A verdict is the likelier wrong the sooner the trouble is back, and certainly so where nothing was repaired.
func TestWrongVerdictBySoonness(t *testing.T) {
	old := signedCoil(t)
	if _, c := comesBack(t, old, 42); c.Wrong != 1 {
		t.Errorf("not repaired: %.3f", c.Wrong)
	}
	old = jobtest.With(t, old, renewed(old, engine.Coil), jobtest.Counts(18_750, 0, 0, 0, 0))
	last := 1.0
	for _, days := range []int{1, 7, 42, 365, 2000} {
		_, c := comesBack(t, old, days)
		if c.Wrong >= last {
			t.Errorf("after %d days %.3f, earlier %.3f", days, c.Wrong, last)
		}
		last = c.Wrong
	}
}

// A wrong part is taken out again and the old one put back by an ordinary move; the evidence stays with each.
func TestOldPartGoesBack(t *testing.T) {
	j := signedCoil(t)
	r := renewed(j, engine.Coil)
	r.Renewal().Parts[0].Fate = evidence.Kept
	j = jobtest.With(t, j, r)
	in := r.Renewal().Parts[0].In
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: []part.Relocation{{Tag: in, To: engine.Bench}, {Tag: "C2", To: "cyl-4"}}}})
	now := j.Ledger.Positions(j.Vehicle.Engine)
	if now.Where("C2") != "cyl-4" || now.Where(in) != engine.Bench {
		t.Fatalf("C2 is at %s, %s at %s", now.Where("C2"), in, now.Where(in))
	}
	a := diagnose.Assess(j)
	if a.Suspects[0].Key() != "coil C2" || RepairedAt(a, "coil C2") == 0 && For(j, a).Next.Title == "" {
		t.Errorf("%s leads", a.Suspects[0].Key())
	}
	if !a.Sick().Has(4) {
		t.Errorf("the old part is back, and %s misfire", a.Sick())
	}
}
