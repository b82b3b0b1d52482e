package diagnose

import (
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// A workshop's own row takes the place of the one that ships, in its jobs only.
func TestOwnRows(t *testing.T) {
	j := jobtest.With(t, jobtest.AnyTime(4), jobtest.Look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorLoose}))
	before := p(t, Assess(j), "connector cyl-2")
	row := knowledge.Looks[len(knowledge.Looks)-1]
	for _, l := range knowledge.Looks {
		if l.On == engine.Connector && l.Bearing == knowledge.Bystander {
			row = l
		}
	}
	own, err := knowledge.Believe([]knowledge.Override{
		{Row: row.RowID(), Values: []float64{.60, .35, .05}, Reason: "the old bus has brittle latches", By: "Wyn"},
	})
	if err != nil {
		t.Fatal(err)
	}
	if after := p(t, AssessBy(own, j), "connector cyl-2"); after >= before/2 {
		t.Errorf("a loose latch that is common weighs as much as before: %v, %v", after, before)
	}
	if again := p(t, Assess(j), "connector cyl-2"); again != before {
		t.Errorf("the tables that ship were changed: %v, %v", again, before)
	}
	often, err := knowledge.Believe([]knowledge.Override{{Row: "fault:connector.loose", Values: []float64{5}, Reason: "salt", By: "Wyn"}})
	if err != nil {
		t.Fatal(err)
	}
	if after := p(t, AssessBy(often, j), "connector cyl-2"); after <= before {
		t.Errorf("five times the share leaves %v of %v", after, before)
	}
}

// A workshop's own severities, condition profiles, rules of thumb and repairs count, and only in its jobs.
func TestOwnModels(t *testing.T) {
	own := func(row string, values ...float64) *knowledge.Beliefs {
		t.Helper()
		b, err := knowledge.Believe([]knowledge.Override{{Row: row, Values: values, Reason: "ours", By: "Wyn"}})
		if err != nil {
			t.Fatal(err)
		}
		return b
	}
	row := func(mode fault.ModeID) string {
		return knowledge.Severities[slices.IndexFunc(knowledge.Severities, func(r knowledge.SeverityRow) bool { return r.Modes.Covers(mode) })].RowID()
	}
	slight := jobtest.With(t, jobtest.AnyTime(4), jobtest.Counts(3000, 0, 4, 0, 0))
	hot := jobtest.With(t, jobtest.AnyTime(4))
	hot.FailsWhen = evidence.Hot
	kv := jobtest.With(t, jobtest.AnyTime(4), evidence.Entry{Body: &evidence.Readings{Measure: evidence.KVSteady, Each: []evidence.Reading{{Place: "cyl-2", Figures: []float64{17}}}}})
	jolted := jobtest.With(t, jobtest.AnyTime(4))
	jolted.Signs = []evidence.Sign{evidence.AfterJolt}
	lean := jobtest.With(t, jobtest.AnyTime(4), evidence.Entry{Body: &evidence.Trims{Banks: []trouble.Trim{{Bank: 1, Long: 20}}}})
	circuit := jobtest.With(t, jobtest.AnyTime(4), evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{{Code: 0x0352, State: trouble.Stored}}}})
	read := func(l plug.Look) job.Job {
		look := evidence.Look{Gap: &plug.Range{Low: 0.9, High: 1.1}}
		look.Items = append(look.Items, look.Read("P2", l))
		return jobtest.With(t, jobtest.AnyTime(4), evidence.Entry{Body: &look})
	}
	wave, made := jobtest.V8(t)
	capture := jobtest.With(t, wave, made(1, 15, 13, 17, 1, 1.7, -0.1, 100, 8))
	first := func(m evidence.MeasureID, answer evidence.ResultID) string {
		return knowledge.NumberRows[slices.IndexFunc(knowledge.NumberRows, func(r knowledge.NumberRow) bool { return r.Measure == m && r.Answer == answer })].RowID()
	}
	for name, c := range map[string]struct {
		j    job.Job
		b    *knowledge.Beliefs
		key  string
		more bool
	}{
		"jolts here loosen connectors":    {jolted, own(fault.Shifts[slices.IndexFunc(fault.Shifts, func(s fault.Shift) bool { return s.When == evidence.AfterJolt })].RowID(), 6), "connector cyl-2", true},
		"our leaks hardly move the trims": {lean, own("trims:air.leak/shared", 4, 5), "air leak engine", false},
		"our coils set no circuit code":   {circuit, own("code:coil circuit/coil.primary-open", .005), "coil C2", false},
		"our cracks are not seen":         {read(plug.Look{Insulator: plug.Cracked}), own("sign:the plug is cracked/insulator", .98, .01, .01), "plug P2", false},
		"our gaps grow without harm":      {read(plug.Look{GapMM: 1.5}), own("gap:"+string(knowledge.Bystander), 0.4, 0.3), "plug P2", false},
		"high is higher here":             {kv, own(first(evidence.KVSteady, "high"), 0, 1.4, .2, .45, .3), "plug P2", false},
		"plugs that are mostly slight":    {slight, own(row(fault.PlugWornGap), .8, .1, .04, .03, .02, .01), "plug P2", true},
		"what drivers say is hot is gaps": {hot, own(knowledge.Shipped.Profile(fault.PlugWornGap).RowID(), .05, .05, .80, .05, .05, .6, .05, .1), "plug P2", true},
		"our lines never look like gaps":  {capture, own("wave:plug.worn-gap", .70, .02, .02, .02, .02, .02, .02, .02, .02, .03, .03, .02, .02, .02, .02), "plug P2", false},
		"17 kV is what ours show":         {kv, own("thumb:kilovolts", 12, 20), "plug P2", false},
	} {
		before, after := p(t, Assess(c.j), c.key), p(t, AssessBy(c.b, c.j), c.key)
		if after > before != c.more || math.Abs(math.Log(after/before)) < math.Log(1.1) {
			t.Errorf("%s: %s from %v to %v", name, c.key, before, after)
		}
	}
}

// named adds the names of a table's rows, and says how many rows there are.

// The age of a part shifts it: a plug past its distance is worn more often than a new
// one, and a new one is more often the wrong one (C).
func TestAgeShifts(t *testing.T) {
	at := func(fitted unit.Kilometres) *Assessment {
		j := jobtest.AnyTime(4)
		j.Distance, j.Opened = 100000, time.Date(2026, 1, 1, 0, 0, 0, 0, time.UTC)
		j.Vehicle.Parts = []part.Record{{Kind: engine.Plug, Place: "cyl-2", FittedKm: &fitted, LifeKm: 60000}}
		return Assess(j)
	}
	mode := func(a *Assessment, id string) (sum float64) {
		for _, f := range a.Faults {
			if f.Hypothesis.Tag == "P2" && strings.HasPrefix(string(f.Hypothesis.Mode.ID), id) {
				sum += f.P
			}
		}
		return sum
	}
	old, fresh := at(20000), at(99000)
	if mode(old, "plug.worn-gap") < 5*mode(fresh, "plug.worn-gap") || mode(fresh, "plug.wrong") < 2*mode(old, "plug.wrong") {
		t.Errorf("worn %v %v, wrong %v %v", mode(old, "plug.worn-gap"), mode(fresh, "plug.worn-gap"), mode(old, "plug.wrong"), mode(fresh, "plug.wrong"))
	}
}

// What no step can tell apart is listed, and nothing that a step can.
func TestSuspectsThatNoStepTellsApartAreListed(t *testing.T) {
	for id, want := range map[string]string{
		"single-magneto": "stop-wire.shorted stop-wire.switch", "four-across": "boot.swollen boot.torn", "six-distributor": "",
	} {
		pattern, _ := engine.FindPattern(id)
		var all []string
		for _, pair := range knowledge.Alike(pattern.Engine()) {
			all = append(all, string(pair[0].ID+" "+pair[1].ID))
		}
		if got := strings.Join(all, ", "); want == "" && strings.Contains(got, "plug.") || !strings.Contains(got, want) {
			t.Errorf("%s: %s", id, got)
		}
	}
	for _, m := range fault.Catalogue {
		if m.ID == fault.CoilCracked && !knowledge.Shipped.States(evidence.Spark, m.ID) {
			t.Error("the spark test says nothing of a cracked coil")
		}
	}
}

// Whatever a workshop writes into a row, it is refused with what was expected, or every
// chance stays a chance and the beliefs still sum to 1.
func FuzzBelieve(f *testing.F) {
	f.Add("fault:connector.loose", 5.0, 0.0)
	f.Add(knowledge.Looks[0].RowID(), 0.2, 0.1)
	f.Add(knowledge.TestRows[0].RowID(), 0.4, 0.3)
	f.Add(knowledge.Severities[0].RowID(), 0.4, 0.3)
	f.Add(knowledge.Thumbs[0].RowID(), 5.0, 15.0)
	f.Add(knowledge.Gaps[0].RowID(), 0.1, 0.2)
	f.Add(knowledge.TrimRows[0].RowID(), 10.0, 5.0)
	f.Add(knowledge.CodeRows[0].RowID(), 0.4, 0.0)
	f.Add(knowledge.Signs[0].RowID(), 0.4, 0.3)
	pattern, _ := engine.FindPattern("four-across")
	j := job.Job{Vehicle: job.Vehicle{Engine: pattern.Engine()}}
	j.Ledger = evidence.Ledger{{Seq: 1, Body: &evidence.Check{Test: evidence.Spark, Place: "cyl-2", Result: "weak"}},
		{Seq: 2, Body: &evidence.Look{Items: []evidence.Seen{{Tag: "P2", Finding: evidence.PlugWorn}}}}}
	f.Fuzz(func(t *testing.T, row string, first, second float64) {
		values := []float64{first}
		if r, _, ok := knowledge.FindRow(row); ok && len(r.Figures) > 1 {
			values = spread(first, second, len(r.Figures))
		}
		b, err := knowledge.Believe([]knowledge.Override{{Row: row, Values: values, Reason: "so it is", By: "Wyn"}})
		if err != nil {
			for _, e := range invalid.From(err) {
				if e.Field == "" || e.Expected == "" {
					t.Errorf("an error without a field or an expectation: %+v", e)
				}
			}
			return
		}
		for _, s := range AssessBy(b, j).Suspects {
			if !(s.P >= 0 && s.P <= 1+1e-9) {
				t.Errorf("%s at %v by %s %v", s.Key(), s.P, row, values)
			}
		}
	})
}

// spread makes n chances of two figures, what is left over shared by the others.
func spread(first, second float64, n int) []float64 {
	values := make([]float64, n)
	values[0], values[1] = first, second
	for i := 2; i < n; i++ {
		values[i] = (1 - first - second) / float64(n-2)
	}
	return values
}
