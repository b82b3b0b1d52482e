// Package jobtest makes jobs and entries for the tests of other rooms.
package jobtest

import (
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// New is a job on an engine in line with coils on plugs, which fails at idle.
func New(n int) job.Job {
	return job.Job{Number: "t-1", Complaint: "shakes", By: "x", Opened: Clock(0), FailsWhen: evidence.Idle,
		Vehicle: job.Vehicle{Fleet: "T-1", What: "van", Engine: engine.Engine{Cylinders: n, Arrangement: engine.Inline,
			Mounting: engine.Crossways, BeltEnd: engine.Left, Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(engine.Inline, n, "")}}}
}

// AnyTime is a job whose complaint shifts nothing.
func AnyTime(n int) job.Job {
	j := New(n)
	j.FailsWhen = evidence.AnyCondition
	return j
}

// Clock is so many minutes after the job was opened.
func Clock(minute int) time.Time {
	return time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC).Add(time.Duration(minute) * time.Minute)
}

// With adds entries to a job, a minute apart.
func With(t testing.TB, j job.Job, entries ...evidence.Entry) job.Job {
	t.Helper()
	for _, e := range entries {
		e.Done, e.By = Clock(len(j.Ledger)+1), "x"
		l, err := j.Ledger.Add(j.Vehicle.Engine, e)
		if err != nil {
			t.Fatal(err)
		}
		j.Ledger = l
	}
	return j
}

// Codes is a scan with stored misfire codes of some cylinders.
func Codes(cylinders ...engine.Cylinder) evidence.Entry {
	c := &evidence.Codes{}
	for _, n := range cylinders {
		c.Read = append(c.Read, trouble.Reading{Code: trouble.MisfireOn(n), State: trouble.Stored})
	}
	return evidence.Entry{Body: c}
}

// Counts is a run at idle with counters from zero: counts of cylinder 1, 2, …
func Counts(revolutions int, counts ...int) evidence.Entry {
	return evidence.Entry{Condition: evidence.Idle, Body: &evidence.Counters{Revolutions: revolutions, Counts: counts, Fresh: true}}
}

// Look is a look at some items.
func Look(items ...evidence.Seen) evidence.Entry {
	return evidence.Entry{Body: &evidence.Look{Items: items}}
}

// Swap24 exchanges parts between cylinders 2 and 4.
func Swap24(j job.Job, kinds ...part.Kind) evidence.Entry {
	return evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: j.Ledger.Positions(j.Vehicle.Engine).Swap("cyl-2", "cyl-4", kinds...)}}
}

// Shelf is a job on a pattern of the shelf, whose complaint shifts nothing.
func Shelf(t testing.TB, id string) job.Job {
	t.Helper()
	p, ok := engine.FindPattern(id)
	if !ok {
		t.Fatalf("no pattern %s", id)
	}
	j := New(2)
	j.FailsWhen, j.Vehicle.Engine = evidence.AnyCondition, p.Engine()
	return j
}

// Watch is a run followed without numbers.
func Watch(cylinders ...engine.Cylinder) evidence.Entry {
	return evidence.Entry{Body: &evidence.Watch{Cylinders: cylinders}}
}

// Moved is a move of some parts, with the codes cleared.
func Moved(parts ...part.Relocation) evidence.Entry {
	return evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: parts}}
}

// V8 is a V8 with leads and a misfire code of cylinder 2, and a capture in which that cylinder
// shows some figures beside seven that are alike.
func V8(t testing.TB) (j job.Job, capture func(number int, mine ...float64) evidence.Entry) {
	t.Helper()
	j = With(t, Shelf(t, "v8-leads"), Codes(2))
	return j, func(number int, mine ...float64) evidence.Entry {
		r := &evidence.Readings{Measure: evidence.KVWave, Capture: number}
		for c := engine.Cylinder(1); c <= 8; c++ {
			figures := []float64{9 + float64(c)/10, 7.8 + float64(c)/10, 10.4 + float64(c)/10, 1.4, 1.2, -0.1, 100, 8}
			if c == 2 {
				figures = mine
			}
			r.Each = append(r.Each, evidence.Reading{Place: engine.At(c), Figures: figures})
		}
		return evidence.Entry{Condition: evidence.Idle, Body: r}
	}
}

// TracedCoil is a job on which a misfire followed coil C2 with its boot from cylinder 2 to cylinder 4, with plug and
// boot seen sound: a verdict on the coil can be signed.
func TracedCoil(t testing.TB) job.Job {
	t.Helper()
	j := With(t, New(4), Codes(2), Counts(3000, 1, 212, 0, 2))
	j = With(t, j, Swap24(j, engine.Coil, engine.Boot))
	return With(t, j, Counts(3000, 0, 1, 0, 208), Look(evidence.Seen{Tag: "P2", Finding: evidence.PlugNormal}, evidence.Seen{Tag: "B2", Finding: evidence.BootSound}))
}
