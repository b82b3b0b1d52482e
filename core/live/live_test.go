package live

import (
	"bytes"
	"fmt"
	"math"
	"reflect"
	"slices"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/trouble"
)

func four() engine.Engine {
	p, _ := engine.FindPattern("four-across")
	return p.Engine()
}

// at is a sample of a warm engine.
func at(seconds, rpm, load, coolant, speed float64, counts ...int) Sample {
	return Sample{At: time.Duration(seconds * float64(time.Second)), RPM: rpm, Load: load, Coolant: coolant, Speed: speed, Started: seconds, Counts: counts}
}

func TestConditionIsRecognised(t *testing.T) {
	for _, c := range []struct {
		name string
		s    Sample
		want []evidence.Condition
	}{
		{"standing engine", at(0, 0, 0, 85, 0), nil},
		{"warm idle", at(0, 750, 22, 88, 0), []evidence.Condition{evidence.Idle}},
		{"cold idle", at(0, 1100, 35, 18, 0), []evidence.Condition{evidence.Cold, evidence.Idle}},
		{"pulling up a hill, hot", at(0, 2400, 85, 101, 45), []evidence.Condition{evidence.Load, evidence.Hot}},
		{"warm on the flat", at(0, 2000, 35, 89, 60), nil},
		{"coasting", at(0, 1000, 15, 89, 30), nil},
		{"without a speed", at(0, 750, 22, 88, math.NaN()), []evidence.Condition{evidence.Idle}},
	} {
		if got := c.s.Conditions(); !slices.Equal(got, c.want) {
			t.Errorf("%s: %q, want %q", c.name, got, c.want)
		}
	}
	hot := at(0, 750, 22, 101, 0)
	if got := hot.In(evidence.Idle); got != evidence.Idle {
		t.Errorf("a hot idle where the complaint is idle: %q", got)
	}
	if got := hot.In(evidence.AnyCondition); got != evidence.Hot {
		t.Errorf("a hot idle, no condition stated: %q, want the rarer", got)
	}
}

// Five minutes at 700 rpm are 3 500 revolutions and 1 750 opportunities a cylinder (one every two revolutions: common practice).
func TestRunCountsRevolutionsAndMisfires(t *testing.T) {
	r := NewRun(four(), evidence.Load, "")
	misfires := 40 // from earlier in the drive
	for i := range 3001 {
		if i%100 == 50 {
			misfires++
		}
		r.Take(at(float64(i)/10, 700, 20, 88, 0, 0, misfires, 0, 1))
	}
	for i := range 601 { // a minute up a hill at 2 400 rpm
		r.Take(at(300.1+float64(i)/10, 2400, 80, 90, 50, 0, misfires+i/10, 0, 1))
	}
	got := r.Stretches()
	if len(got) != 2 || got[0].Condition != evidence.Load || got[1].Condition != evidence.Idle {
		t.Fatalf("stretches %+v, want that of the complaint first", got)
	}
	if idle := got[1]; math.Abs(idle.Revolutions-3500) > 1 || idle.Opportunities() != 1750 || !slices.Equal(idle.Misfires, []int{0, 30, 0, 0}) {
		t.Errorf("idle: %+v", idle)
	}
	if load := got[0]; math.Abs(load.Revolutions-2400) > 5 || load.Misfires[1] != 60 {
		t.Errorf("load: %+v", load)
	}
	entries := r.Entries()
	if len(entries) != 2 || entries[0].Condition != evidence.Load || !entries[0].Counters().Fresh || entries[0].Counters().Counts[1] != 60 {
		t.Errorf("entries: %+v", entries)
	}
	if here := r.Here(); here.Most() != 60 {
		t.Errorf("in the condition of the complaint: %+v", here)
	}
}

func TestLostConnectionIsCaughtUp(t *testing.T) {
	e := four()
	for _, c := range []struct {
		name        string
		back        Sample
		revolutions float64
		second      int
		missed      time.Duration
	}{
		{"the engine ran on", at(70, 1000, 20, 88, 0, 0, 9, 0, 0), 100 + 1000, 4, 60 * time.Second},
		{"it ran on faster: the lower speed is the safe one", at(70, 3000, 30, 88, 60, 0, 9, 0, 0), 100 + 1000, 4, 60 * time.Second},
		{"it was started again, and the counts with it", func() Sample { s := at(70, 1000, 20, 88, 0, 0, 3, 0, 0); s.Started = 4; return s }(), 100, 3, 60 * time.Second},
		{"its own clock is not read", func() Sample { s := at(70, 1000, 20, 88, 0, 0, 9, 0, 0); s.Started = math.NaN(); return s }(), 100, 4, 60 * time.Second},
	} {
		r := NewRun(e, evidence.AnyCondition, "")
		for i := range 7 {
			r.Take(at(float64(4+i), 1000, 20, 88, 0, 0, 5, 0, 0))
		}
		r.Lose()
		r.Lose()
		r.Take(c.back)
		revolutions, misfires := r.Total()
		if times, missed := r.Losses(); times != 1 || missed != c.missed {
			t.Errorf("%s: lost %d times, %v missed", c.name, times, missed)
		}
		if math.Abs(revolutions-c.revolutions) > 0.5 || misfires[1] != c.second {
			t.Errorf("%s: %.0f revolutions and %d misfires, want %.0f and %d", c.name, revolutions, misfires[1], c.revolutions, c.second)
		}
	}
}

// An injector that is cut ends the counting: what runs then is not clean, until the engine was started again.
func TestCutInjectorIsNotClean(t *testing.T) {
	r := NewRun(four(), evidence.AnyCondition, "")
	seconds, misfires := 0.0, 0
	drive := func(samples, each int) {
		for range samples { // 15 events of each cylinder a second
			seconds++
			misfires += each
			r.Take(at(seconds, 1800, 30, 88, 50, 0, misfires, 0, 0))
		}
	}
	drive(20, 12)
	drive(60, 0)
	if got := r.Cut().List(); len(got) != 1 || got[0] != 2 {
		t.Fatalf("cut: %v", got)
	}
	before, _ := r.Total()
	if before < 20*30-60 || before > 20*30+60 { // what ran before the cut, to a window
		t.Errorf("%.0f revolutions before the cut", before)
	}
	drive(600, 0)
	if after, counts := r.Total(); after != before || counts[1] != 12*19 {
		t.Errorf("%.0f revolutions became %.0f with a cut injector; counts %v", before, after, counts)
	}
	seconds++
	r.Take(at(seconds, 0, 0, 88, 0, 0, misfires, 0, 0))
	drive(60, 0)
	if after, _ := r.Total(); after <= before || r.Cut() != 0 {
		t.Errorf("after a stop of the engine it is still cut")
	}
	healed := NewRun(four(), evidence.AnyCondition, "") // a cylinder that gets better slowly is not cut
	for i, each := range []int{12, 12, 12, 12, 12, 12, 12, 12, 12, 2, 2, 2, 2, 2, 2, 2, 2, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0} {
		misfires += each
		healed.Take(at(float64(i), 1800, 30, 88, 50, 0, misfires, 0, 0))
	}
	if healed.Cut() != 0 {
		t.Error("a cylinder that got better is taken to be cut")
	}
}

// A vehicle that does not count by cylinder gives a run without counts: nothing is written down as clean.
func TestUncountedRunIsNotClean(t *testing.T) {
	r := NewRun(four(), evidence.AnyCondition, "")
	for i := range 100 {
		r.Take(at(float64(i), 800, 20, 88, 0))
	}
	if r.Counted() || len(r.Entries()) != 0 {
		t.Errorf("an uncounted run is written down as %+v", r.Entries())
	}
}

func TestExposuresAreCounted(t *testing.T) {
	type leg struct {
		seconds                   int
		rpm, load, coolant, speed float64
		misfires                  int // of cylinder 3
		started                   float64
	}
	for _, c := range []struct {
		name string
		of   evidence.Circumstance
		legs []leg
		want evidence.Exposure
	}{
		{"two hills, one fails, one too short", evidence.Hill, []leg{{seconds: 30, rpm: 2400, load: 80, coolant: 90, speed: 50}, {seconds: 20, rpm: 2000, load: 30, coolant: 90, speed: 50},
			{seconds: 40, rpm: 2400, load: 85, coolant: 90, speed: 50, misfires: 5}, {seconds: 20, rpm: 2000, load: 30, coolant: 90, speed: 50}, {seconds: 6, rpm: 2400, load: 85, coolant: 90, speed: 50}},
			evidence.Exposure{Of: evidence.Hill, Times: 2, Failed: 1}},
		{"eleven minutes at idle", evidence.IdleSpell, []leg{{seconds: 660, rpm: 700, load: 20, coolant: 90}}, evidence.Exposure{Of: evidence.IdleSpell, Times: 2}},
		{"a cold start", evidence.ColdStart, []leg{{seconds: 5, coolant: 15}, {seconds: 60, rpm: 1200, load: 40, coolant: 20}}, evidence.Exposure{Of: evidence.ColdStart, Times: 1}},
		{"cold, and started long ago", evidence.ColdStart, []leg{{seconds: 60, rpm: 1200, load: 40, coolant: 20, started: 100}}, evidence.Exposure{Of: evidence.ColdStart}},
		{"a warm start", evidence.ColdStart, []leg{{seconds: 5, coolant: 85}, {seconds: 60, rpm: 900, load: 25, coolant: 85}}, evidence.Exposure{Of: evidence.ColdStart}},
		{"a lone count of two is no failure", evidence.Hill, []leg{{seconds: 30, rpm: 2400, load: 80, coolant: 90, speed: 50, misfires: 2}}, evidence.Exposure{Of: evidence.Hill, Times: 1}},
		{"a run that fails late", evidence.AnyRun, []leg{{seconds: 90, rpm: 700, load: 20, coolant: 90}, {seconds: 90, rpm: 700, load: 20, coolant: 90, misfires: 9}}, evidence.Exposure{Of: evidence.AnyRun, Times: 1, Failed: 1}},
		{"mist cannot be recognised", evidence.Misted, []leg{{seconds: 600, rpm: 700, load: 20, coolant: 90}}, evidence.Exposure{}},
	} {
		when, _ := c.of.In()
		r := NewRun(four(), when, c.of)
		seconds, misfires := 0, 0
		for _, l := range c.legs {
			for i := range l.seconds {
				if i == l.seconds/2 {
					misfires += l.misfires
				}
				s := at(float64(seconds), l.rpm, l.load, l.coolant, l.speed, 0, 0, misfires, 0)
				s.Started = l.started + float64(i)
				r.Take(s)
				seconds++
			}
		}
		x, ok := r.Exposure()
		if x != c.want || ok != (c.want.Times > 0) {
			t.Errorf("%s: %+v, want %+v", c.name, x, c.want)
		}
		if entries := r.Entries(); ok {
			w := entries[0].Watch()
			if w == nil || (x.Failed > 0) != slices.Contains(w.Cylinders, 3) {
				t.Errorf("%s: written down as %+v", c.name, entries)
			}
		}
	}
}

func TestTableComesBack(t *testing.T) {
	table := NewTable(1, 4)
	var file bytes.Buffer
	if err := table.WriteHead(&file); err != nil {
		t.Fatal(err)
	}
	want := []Sample{at(0.1, 700, 20.4, 88, 0, 1, 2, 3, 4), at(0.2, 712, 21.2, 88, 12, 1, 2, 3, 5)}
	want[1].Trims = []trouble.Trim{{Bank: 1, Short: -2.3, Long: 4.7}}
	for i := range want {
		want[i].Started = float64(i)
		table.Add(want[i])
	}
	table.Add(Unread(300 * time.Millisecond))
	file.Write(table.Cut())
	if len(table.Cut()) != 0 {
		t.Error("rows came twice")
	}
	got, err := ParseTable(&file, 1, 4)
	if err != nil || len(got) != 3 || !reflect.DeepEqual(got[:2], want) || !math.IsNaN(got[2].RPM) || got[2].Counts != nil {
		t.Errorf("%v\n%+v\n%+v", err, got, want)
	}
}

func FuzzParseTable(f *testing.F) {
	head := strings.Join(NewTable(1, 2).Head(), ",")
	f.Add(head + "\n0.10,1,700,20.4,88,0,-2.3,4.7,1,2\n")
	f.Add(head + "\n,,,,,,,,,\n")
	f.Add(head + "\n1e9,NaN,-Inf,0x1,1,1,1,1,1,1\n")
	e := four()
	f.Fuzz(func(t *testing.T, text string) {
		samples, err := ParseTable(strings.NewReader(text), 1, 2)
		if err != nil {
			return
		}
		r := NewRun(e, evidence.Load, evidence.Hill)
		for _, s := range samples {
			s.Counts = append(s.Counts, 0, 0)
			r.Take(s)
		}
		for _, p := range r.Stretches() {
			if p.Time < 0 {
				t.Errorf("a stretch of %v", p.Time)
			}
		}
	})
}

func ExampleRun() {
	four, _ := engine.FindPattern("four-across")
	r := NewRun(four.Engine(), evidence.Idle, "")
	for i := range 301 {
		r.Take(Sample{At: time.Duration(i) * time.Second, RPM: 700, Load: 20, Coolant: 88, Counts: []int{0, 0, i / 30, 0}})
	}
	for _, entry := range r.Entries() {
		c := entry.Counters()
		fmt.Println(entry.Condition.Words(), c.Revolutions, c.Counts)
	}
	// Output: at idle 3500 [0 0 10 0]
}
