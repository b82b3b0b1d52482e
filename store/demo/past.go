package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/trouble"
	"glenmist/core/unit"
	"glenmist/store"
)

// repair is a job of the past: a part was traced by moving it, renewed, and run.
type repair struct {
	fleet     string
	kind      engine.Kind
	from, to  engine.Place // where it misfired, and where it was moved to
	daysAgo   int
	km        unit.Kilometres // driven since
	failsWhen evidence.Condition
	end       end
}

// end is how a job of the past ended.
type end string

const (
	held     end = "held"   // proven and closed
	stayed   end = "stayed" // the misfire stayed
	both     end = "both"   // the boot was renewed with it
	cameBack end = "came-back"
	waiting  end = "waiting"  // repaired, and waiting for a recheck
	standing end = "standing" // proven, with a permanent code
)

// The repairs of the past two years, the oldest first.
var repairs = []repair{
	{"P-04", engine.Coil, "cyl-2", "cyl-3", 690, 61_000, evidence.Idle, held},
	{"B-03", engine.Coil, "cyl-4", "cyl-2", 655, 70_000, evidence.Load, held},
	{"R-02", engine.Plug, "cyl-1", "cyl-4", 640, 33_000, evidence.Idle, held},
	{"P-11", engine.Coil, "cyl-2", "cyl-1", 600, 24_000, evidence.Idle, held},
	{"B-09", engine.Plug, "cyl-3", "cyl-2", 570, 41_000, evidence.Load, held},
	{"S-01", engine.Coil, "cyl-5", "cyl-1", 541, 28_000, evidence.Cold, held},
	{"L-06", engine.Lead, "cyl-5", "cyl-2", 520, 60_000, evidence.Load, held},
	{"P-16", engine.Coil, "cyl-4", "cyl-1", 480, 44_000, evidence.Idle, stayed},
	{"B-03", engine.Coil, "cyl-1", "cyl-3", 455, 52_000, evidence.Load, held},
	{"T-03", engine.Coil, "cyl-2", "cyl-4", 431, 25_000, evidence.Idle, held},
	{"F-02", engine.Lead, "cyl-3", "cyl-6", 402, 46_000, evidence.Load, held},
	{"P-04", engine.Boot, "cyl-1", "cyl-4", 377, 35_000, evidence.Wet, held},
	{"B-07", engine.Coil, "coil-A", "coil-C", 350, 37_000, evidence.Load, held},
	{"R-02", engine.Coil, "cyl-2", "cyl-4", 333, 17_000, evidence.Load, both},
	{"P-07", engine.Coil, "cyl-3", "cyl-1", 301, 22_000, evidence.Idle, held},
	{"F-05", engine.Lead, "cyl-2", "cyl-5", 288, 30_000, evidence.Load, held},
	{"B-09", engine.Coil, "cyl-1", "cyl-4", 262, 19_000, evidence.Load, cameBack},
	{"S-01", engine.Plug, "cyl-3", "cyl-1", 240, 12_000, evidence.Cold, held},
	{"P-11", engine.Coil, "cyl-3", "cyl-2", 215, 9_000, evidence.Idle, held},
	{"T-03", engine.Coil, "cyl-1", "cyl-3", 190, 11_000, evidence.Load, held},
	{"B-07", engine.Coil, "coil-B", "coil-C", 160, 16_000, evidence.Hot, held},
	{"L-06", engine.Lead, "cyl-1", "cyl-4", 131, 15_000, evidence.Load, held},
	{"P-16", engine.Coil, "cyl-2", "cyl-3", 102, 9_500, evidence.Load, held},
	{"B-03", engine.Plug, "cyl-6", "cyl-1", 74, 11_000, evidence.Load, held},
	{"P-04", engine.Coil, "cyl-3", "cyl-1", 40, 4_100, evidence.Load, held},
	{"R-02", engine.Coil, "cyl-4", "cyl-1", 19, 900, evidence.Wet, waiting},
	{"P-11", engine.Coil, "cyl-1", "cyl-3", 15, 800, evidence.Idle, standing},
}

// leadOhms are readings of the leads in ohms, by number; 0 is over range. They were taken first in the repair of so many days ago.
var leadOhms = map[int][]float64{
	520: {5600, 5200, 4800, 4500, 0, 3700},
	288: {5700, 0, 5000, 4900, 4400, 3900},
	131: {0, 5900, 5300, 5100, 4300, 4000},
}

// LoadPast writes the workshop's repairs of the past into the database of the demo's jobs.
func LoadPast(ctx context.Context, s *store.Store, now time.Time) error {
	ctx = store.WithActor(ctx, store.Actor{Name: "the demo"})
	for i, r := range repairs {
		j, err := r.job(now, i)
		if err == nil {
			j.Number = fmt.Sprintf("%d-P%02d", j.Opened.Year(), i+1)
			_, err = s.Open(ctx, j)
		}
		if err == nil && r.end == cameBack {
			err = comeback(ctx, s, j)
		}
		if err != nil {
			return fmt.Errorf("past job %d of %s: %w", i+1, r.fleet, err)
		}
	}
	return nil
}

// comeback opens the job on which a repair came back, six weeks after it.
func comeback(ctx context.Context, s *store.Store, old job.Job) error {
	j := old
	j.Number, j.Opened, j.Distance, j.Ledger = old.Number+"-back", old.Opened.AddDate(0, 0, 42), old.Distance+3200, evidence.Ledger{}
	j.Complaint = "Stutters again as it did six weeks ago."
	c := plan.ComebackOf(old, diagnose.Assess(old), j.Opened, j.Distance)
	for k, e := range []evidence.Entry{{Body: &c}, codes("P0304", trouble.Pending), counters(old.FailsWhen, 5000, 0, 0, 0, 88)} {
		if err := add(&j, e, j.Opened.Add(time.Duration(6*k)*time.Minute), technician); err != nil {
			return err
		}
	}
	_, err := s.Open(ctx, j)
	return err
}

func add(j *job.Job, e evidence.Entry, at time.Time, by string) (err error) {
	e.Done, e.By = at, by
	j.Ledger, err = j.Ledger.Add(j.Vehicle.Engine, e)
	return err
}

// job makes the job of a repair as it stands now.
func (r repair) job(now time.Time, i int) (job.Job, error) {
	in := intakes[slices.IndexFunc(intakes, func(in intake) bool { return in.fleet == r.fleet })]
	opened := now.UTC().Truncate(time.Minute).AddDate(0, 0, -r.daysAgo).Add(-time.Duration(i%5) * time.Hour)
	j := job.Job{Number: "past", Vehicle: job.Vehicle{Fleet: in.fleet, What: in.what, Engine: in.engine, Parts: in.parts}, Distance: in.distance - r.km,
		Complaint: "Misfires " + r.failsWhen.Words() + ".", FailsWhen: r.failsWhen, Opened: opened, By: []string{technician, lead, apprentice}[i%3], Ledger: evidence.Ledger{}}
	e := in.engine.Derive()
	minute := 0
	step := func(minutes int, entry evidence.Entry) error {
		minute += minutes
		return add(&j, entry, opened.Add(time.Duration(minute)*time.Minute), j.By)
	}
	counts := func(revolutions int, at engine.Place) evidence.Entry {
		n := make([]int, e.Cylinders)
		feeds, _ := e.Feeds(at)
		for k, c := range feeds.List() {
			n[c-1] = 160 + 7*i - 9*k
		}
		return counters(r.failsWhen, revolutions, n...)
	}
	feeds, _ := e.Feeds(r.from)
	read := &evidence.Codes{}
	for _, c := range feeds.List() {
		read.Read = append(read.Read, trouble.Reading{Code: trouble.MisfireOn(c), State: trouble.Stored})
	}
	kinds := []engine.Kind{r.kind}
	if r.kind == engine.Coil && e.Ignition == engine.CoilOnPlug {
		kinds = append(kinds, engine.Boot)
	}
	steps := []evidence.Entry{{Body: read}, counts(4000, r.from), swap(r.from, r.to, kinds...), counts(4000, r.to)}
	if !e.Scanned() {
		steps = steps[1:]
	}
	if ohms := leadOhms[r.daysAgo]; ohms != nil {
		steps = append([]evidence.Entry{leadsRead(ohms)}, steps...)
	}
	for k, entry := range steps {
		if err := step(4+3*k+i%4, entry); err != nil {
			return j, err
		}
	}
	for try := 0; ; try++ { // what the gates ask for
		p := plan.For(j, diagnose.Assess(j))
		if signed, err := p.Sign(); err == nil {
			if err := step(3, signed); err != nil {
				return j, err
			}
			break
		}
		if len(p.Next.Look) == 0 || try > 3 {
			return j, fmt.Errorf("no verdict: %s", p.Next.Title)
		}
		l := &evidence.Look{}
		for _, item := range p.Next.Look {
			item.Finding = evidence.FindingsOn(item.Kind())[0].Finding
			l.Items = append(l.Items, item)
		}
		if err := step(9, evidence.Entry{Body: l}); err != nil {
			return j, err
		}
	}
	return j, r.finish(&j, step, counts)
}

// leadsRead is a set of readings of the leads by number; 0 is over range.
func leadsRead(ohms []float64) evidence.Entry {
	set := &evidence.Readings{Measure: evidence.LeadOhms, Make: "carbon-core"}
	for i, v := range ohms {
		one := evidence.Reading{Tag: part.Tag(fmt.Sprintf("L%d", i+1)), Figures: []float64{v}}
		if v == 0 {
			one.Figures, one.Over = nil, true
		}
		set.Each = append(set.Each, one)
	}
	return evidence.Entry{Body: set}
}

// finish renews the part and proves it, or what came of that.
func (r repair) finish(j *job.Job, step func(int, evidence.Entry) error, counts func(int, engine.Place) evidence.Entry) error {
	now := j.Ledger.Positions(j.Vehicle.Engine)
	renewal := &evidence.Renewal{Cleared: true}
	kinds := []engine.Kind{r.kind}
	if r.end == both {
		kinds = append(kinds, engine.Plug)
	}
	for _, k := range kinds {
		in, _ := now.Free(k, r.to)
		renewal.Parts = append(renewal.Parts, evidence.Renewed{Place: r.to, Out: now.Off(k, r.to), In: in, Fate: evidence.Scrapped})
	}
	if err := step(22, evidence.Entry{Body: renewal}); err != nil {
		return err
	}
	clean := counters(r.failsWhen, 24_000, make([]int, j.Vehicle.Engine.Cylinders)...)
	today := func(days int) evidence.Day { return evidence.DayOf(j.Opened.AddDate(0, 0, r.daysAgo+days)) }
	var rest []evidence.Entry
	switch r.end {
	case stayed:
		rest = []evidence.Entry{counts(4000, r.to)}
	case waiting:
		rest = []evidence.Entry{counters(r.failsWhen, 300, make([]int, j.Vehicle.Engine.Cylinders)...), {Body: &evidence.Recheck{Due: today(-2), For: "Does the repair hold in the rain?"}}}
	case standing:
		still := codes("P0301", trouble.Permanent)
		still.Codes().Readiness = &trouble.Readiness{Incomplete: []trouble.Monitor{"catalyst"}}
		rest = []evidence.Entry{clean, still, {Body: &evidence.Recheck{Due: today(0), For: "Is the permanent code gone?"}}}
	default:
		rest = []evidence.Entry{clean}
		if j.Vehicle.Engine.Derive().Scanned() {
			rest = append(rest, evidence.Entry{Body: &evidence.Codes{Read: []trouble.Reading{}}})
		}
	}
	for k, entry := range rest {
		if err := step(24-8*k, entry); err != nil {
			return err
		}
	}
	if r.end == waiting || r.end == standing {
		return nil
	}
	return step(5, evidence.Entry{Body: &evidence.Closing{Ending: plan.EndingOf(*j, diagnose.Assess(*j))}})
}
