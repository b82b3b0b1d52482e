package standin

import (
	"math/rand/v2"
	"reflect"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/sim/simulator"
)

var standin = Standin{Chance: func(a, b uint64) simulator.Rand { return rand.New(rand.NewPCG(a, b)) }}

func begin(t *testing.T, number string, counts ...int) job.Job {
	t.Helper()
	p, _ := engine.FindPattern("six-pairs")
	j := job.Job{Number: number, Complaint: "shakes", By: "x", Opened: time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC), Vehicle: job.Vehicle{Fleet: "T-1", What: "van", Engine: p.Engine()}}
	e := evidence.Entry{Done: j.Opened, By: "x", Body: &evidence.Counters{Revolutions: 4000, Counts: counts, Fresh: true}}
	l, err := j.Ledger.Add(j.Vehicle.Engine, e)
	if err != nil {
		t.Fatal(err)
	}
	j.Ledger = l
	return j
}

// The same question of the same job has the same answer, and what it hides fits what the job
// has seen: over many jobs that misfire on 2 and 5 it is their leads that read abnormal, and
// hardly ever others.
func TestStandinFitsTheJob(t *testing.T) {
	mine, others, jobs := 0, 0, 60
	if testing.Short() {
		jobs = 24
	}
	for i := range jobs {
		j := begin(t, string(rune('A'+i%26))+string(rune('a'+i/26)), 0, 140, 1, 0, 130, 0)
		for _, tag := range []part.Tag{"L1", "L2", "L3", "L4", "L5", "L6"} {
			set, err := standin.Read(j, evidence.LeadOhms, evidence.Reading{Tag: tag})
			if err != nil {
				t.Fatal(err)
			}
			if again, _ := standin.Read(j, evidence.LeadOhms, evidence.Reading{Tag: tag}); !reflect.DeepEqual(again, set) {
				t.Fatal("asked again it reads something else")
			}
			one := set.Each[0]
			if abnormal := one.Over || one.Figures[0] > 30*one.Millimetres; abnormal && (tag == "L2" || tag == "L5") {
				mine++
			} else if abnormal {
				others++
			}
		}
	}
	if mine < jobs/12 || others > mine/3 {
		t.Errorf("odd leads of the pair in trouble %d, of others %d", mine, others)
	}
}

func TestStandinRefuses(t *testing.T) {
	j := begin(t, "A", 0, 140, 1, 0, 130, 0)
	for _, ask := range []struct {
		id evidence.MeasureID
		on evidence.Reading
	}{{"mood", evidence.Reading{Tag: "L1"}}, {evidence.LeadOhms, evidence.Reading{Tag: "L9"}}, {evidence.LeadOhms, evidence.Reading{Place: "cyl-1"}}, {evidence.AirGapLegs, evidence.Reading{Place: "engine"}}} {
		if got, err := standin.Read(j, ask.id, ask.on); err == nil {
			t.Errorf("%+v reads %+v", ask, got)
		}
	}
	test := evidence.Sparks{Tester: "opened-plug", GapMM: 6, From: engine.Boot, AirKPa: 95, AirCelsius: 12}
	if saw, err := standin.Spark(j, test, "cyl-1"); err != nil || saw != "strong" {
		t.Errorf("a sound cylinder: %s, %v", saw, err)
	}
	if _, err := standin.Spark(j, test, "cyl-9"); err == nil {
		t.Error("cylinder 9 of 6 sparks")
	}
	test.GapMM = 40
	if _, err := standin.Spark(j, test, "cyl-1"); err == nil {
		t.Error("40 mm are within the law")
	}
}
