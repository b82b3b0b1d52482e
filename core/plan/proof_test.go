package plan

import (
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/jobtest"
	"glenmist/core/part"
	"glenmist/core/proof"
	"glenmist/core/trouble"
)

// A run that goes on is weighed as it is weighed once it is recorded.
func TestProofWithARunUnderWay(t *testing.T) {
	j := signedCoil(t)
	j = jobtest.With(t, j, renewed(j, engine.Coil))
	at := j.Ledger[len(j.Ledger)-1].Seq
	a := diagnose.Assess(j)
	for _, run := range [][2]int{{500, 0}, {3000, 0}, {18_750, 1}, {2000, 40}} {
		e := jobtest.Counts(run[0], 0, 0, 0, run[1])
		e.Condition = a.FailsWhen
		recorded := ProofOf(diagnose.Assess(jobtest.With(t, j, e)), at)
		going := ProofOf(a, at).With(run[0]/2, run[1])
		if recorded.Fixed == 0 { // once it is recorded, the suspects are back sooner than the test says so
			if going.Progress >= 0 {
				t.Errorf("%v: %+v does not speak against the repair", run, going)
			}
			continue
		}
		if going.State != recorded.State || going.More != recorded.More || going.Since != recorded.Since || math.Abs(going.Progress-recorded.Progress) > 1e-9 {
			t.Errorf("%v: under way %+v, recorded %+v", run, going, recorded)
		}
		if math.Abs(going.Fixed-recorded.Fixed) > 1e-6 {
			t.Errorf("%v: holds with %v under way, %v recorded", run, going.Fixed, recorded.Fixed)
		}
	}
}

// A repair is proven by enough clean running in the condition in which it failed; runs of several days add
// up, a run in another condition or on counters that were not zeroed does not count, and a misfire that stays
// brings the suspects back.
func TestProofOfARepair(t *testing.T) {
	run := func(revolutions, most int, when evidence.Condition, stale bool) evidence.Entry {
		e := jobtest.Counts(revolutions, 0, 0, 0, most)
		e.Condition, e.Counters().Fresh = when, !stale
		return e
	}
	failing := diagnose.Assess(signedCoil(t)).FailsWhen
	other := evidence.Load
	if failing == other {
		other = evidence.Wet
	}
	for name, c := range map[string]struct {
		kinds []part.Kind
		runs  []evidence.Entry
		want  proof.State
		title string
		state string
	}{
		"no run":              {[]part.Kind{engine.Coil}, nil, proof.NotYet, "does the repair", "repaired"},
		"long and clean":      {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 0, failing, false)}, proof.Proven, "Proven", "proven"},
		"short":               {[]part.Kind{engine.Coil}, []evidence.Entry{run(500, 0, failing, false)}, proof.NotYet, "does the repair", "repaired"},
		"short, three times":  {[]part.Kind{engine.Coil}, []evidence.Entry{run(500, 0, failing, false), run(500, 0, failing, false), run(500, 0, failing, false)}, proof.Proven, "Proven", "proven"},
		"another condition":   {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 0, other, false)}, proof.NotYet, "does the repair", "repaired"},
		"counters not zeroed": {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 0, failing, true)}, proof.NotYet, "does the repair", "repaired"},
		"one stray":           {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 1, failing, false)}, proof.Proven, "Proven", "proven"},
		"two things at once":  {[]part.Kind{engine.Coil, engine.Plug}, []evidence.Entry{run(18_750, 0, failing, false)}, proof.Proven, "Fixed, not attributed", "fixed"},
	} {
		j := signedCoil(t)
		j = jobtest.With(t, j, renewed(j, c.kinds...))
		at := j.Ledger[len(j.Ledger)-1].Seq
		j = jobtest.With(t, j, c.runs...)
		a := diagnose.Assess(j)
		p := ProofOf(a, at)
		if p.State != c.want {
			t.Errorf("%s: %s after %d of %d (needs %d), want %s", name, p.State, p.Since.Failed, p.Since.Times, p.More, c.want)
		}
		if card := For(j, a).Next; !strings.Contains(card.Title, c.title) || card.Finished != (c.want == proof.Proven) || card.Finished == (len(card.Step.Cautions) > 0) {
			t.Errorf("%s: next is %q with %q, want %q", name, card.Title, card.Step.Cautions, c.title)
		}
		if got := StatusOf(j, a).State; got != c.state {
			t.Errorf("%s: status %s, want %s", name, got, c.state)
		}
		if missing := strings.Contains(p.Needs(), "prove"); missing != (c.want == proof.NotYet) {
			t.Errorf("%s: %s", name, p.Needs())
		}
		if c.want == proof.NotYet && p.Bar() == 100 || c.want == proof.Proven && (p.Bar() != 100 || p.More != 0) {
			t.Errorf("%s: bar %d, %d more", name, p.Bar(), p.More)
		}
		if c.want == proof.NotYet { // what is said to be missing is enough
			enough := jobtest.With(t, j, run(2*p.More, 0, failing, false))
			if after := ProofOf(diagnose.Assess(enough), at); after.State != proof.Proven {
				t.Errorf("%s: %d more clean events are not enough", name, p.More)
			}
		}
	}
}

// without returns a job whose counted runs were watched, or left out.
func without(j job.Job, watched bool) job.Job {
	var l evidence.Ledger
	for _, e := range j.Ledger {
		if e.Counters() != nil {
			n, _ := e.Counters().Most()
			e.Body = &evidence.Watch{Cylinders: []engine.Cylinder{n}}
			if !watched {
				e.Body = &evidence.Watch{Cylinders: []engine.Cylinder{}}
			}
		}
		l = append(l, e)
	}
	j.Ledger = l
	return j
}

// What was only watched before the repair is proven by clean runs: two of two bound the chance from below at
// the square root of 0.05 (Clopper and Pearson), and the limit of ln 20 then asks for 13. Where no run showed a
// misfire before, none proves it, and a recheck is proposed.
func TestProofWithoutCounts(t *testing.T) {
	j := without(signedCoil(t), true)
	j = jobtest.With(t, j, renewed(j, engine.Coil))
	at := j.Ledger[len(j.Ledger)-1].Seq
	want := int(math.Ceil(math.Log(20) / (math.Log1p(-0.1*math.Sqrt(0.05)) - math.Log1p(-math.Sqrt(0.05)))))
	for n := range want {
		p := ProofOf(diagnose.Assess(j), at)
		if p.State != proof.NotYet || p.More != want-n || !strings.Contains(p.Needs(), "2 of 2 runs failed") {
			t.Fatalf("after %d clean runs: %s, %d more, want %d; %s", n, p.State, p.More, want-n, p.Needs())
		}
		j = jobtest.With(t, j, evidence.Entry{Condition: evidence.Idle, Body: &evidence.Watch{Cylinders: []engine.Cylinder{}}})
	}
	if p := ProofOf(diagnose.Assess(j), at); p.State != proof.Proven {
		t.Errorf("after %d clean runs: %s", want, p.State)
	}
	none := without(signedCoil(t), false)
	none = jobtest.With(t, none, renewed(none, engine.Coil), jobtest.Counts(18_750, 0, 0, 0, 0))
	card := For(none, diagnose.Assess(none)).Next
	if card.Proof == nil || card.Proof.Known || card.Recheck != RecheckDays || !strings.Contains(card.Why, "recheck") || card.Proof.Needs() != "" {
		t.Errorf("%+v: %s", card.Proof, card.Why)
	}
}

// A complaint of rain is counted by starts in the wet. Six of six before the repair: their lower bound is the
// sixth root of 0.05, and the limit of ln 20 asks for four clean ones. They take days, so that a recheck is
// proposed; set, it stands in the card, the status and the checklist until a run on its day.
func TestProofByExposuresSetsARecheck(t *testing.T) {
	wet := func(times, failed int) evidence.Entry {
		w := &evidence.Watch{Cylinders: []engine.Cylinder{}, Exposure: &evidence.Exposure{Of: evidence.WetStart, Times: times, Failed: failed}}
		if failed > 0 {
			w.Cylinders = []engine.Cylinder{4}
		}
		return evidence.Entry{Condition: evidence.Wet, Body: w}
	}
	j := signedCoil(t)
	j.FailsWhen = evidence.Wet
	j = jobtest.With(t, j, wet(6, 6))
	j = jobtest.With(t, j, renewed(j, engine.Coil))
	at := j.Ledger[len(j.Ledger)-1].Seq
	p0 := math.Pow(0.05, 1.0/6)
	want := int(math.Ceil(math.Log(20) / (math.Log1p(-0.1*p0) - math.Log1p(-p0))))
	card := For(j, diagnose.Assess(j)).Next
	if p := card.Proof; p.Of != evidence.WetStart || p.More != want || card.Recheck == 0 || !strings.Contains(card.Do, "mist") || !slices.Contains(card.Step.Cautions, WaterCaution) {
		t.Errorf("%+v, want %d: %+v", p, want, card)
	}
	due := evidence.DayOf(jobtest.Clock(3 * 24 * 60))
	j = jobtest.With(t, j, evidence.Entry{Body: &evidence.Recheck{Due: due}})
	a := diagnose.Assess(j)
	if card := For(j, a).Next; card.Recheck != 0 || !strings.Contains(card.Title, due.Words()) || !strings.HasSuffix(StatusOf(j, a).Words, "recheck on "+due.Short()) {
		t.Errorf("with a recheck: %q, %q", card.Title, StatusOf(j, a).Words)
	}
	early := jobtest.With(t, j, wet(1, 0))
	if _, ok := early.Ledger.DueRecheck(); !ok {
		t.Error("a run before the day has made the recheck")
	}
	made := wet(want, 0)
	made.By, made.Done = "x", jobtest.Clock(3*24*60)
	l, err := j.Ledger.Add(j.Vehicle.Engine, made)
	if err != nil {
		t.Fatal(err)
	}
	j.Ledger = l
	if _, ok := j.Ledger.DueRecheck(); ok || ProofOf(diagnose.Assess(j), at).State != proof.Proven {
		t.Errorf("after the recheck: due %v, %+v", ok, ProofOf(diagnose.Assess(j), at))
	}
}

// Clean runs in another condition count for what the chance is that the fault shows there. They rise with the
// length of the run, and alone they never prove a repair.
func TestRunsElsewhereCountForTheirWorth(t *testing.T) {
	worth := func(revolutions int, when evidence.Condition) Proof {
		j := signedCoil(t)
		j = jobtest.With(t, j, renewed(j, engine.Coil))
		at := j.Ledger[len(j.Ledger)-1].Seq
		if revolutions > 0 {
			run := jobtest.Counts(revolutions, 0, 0, 0, 0)
			run.Condition = when
			j = jobtest.With(t, j, run)
		}
		return ProofOf(diagnose.Assess(j), at)
	}
	none, short, long := worth(0, ""), worth(300, evidence.Load), worth(40_000, evidence.Load)
	if !(none.Elsewhere == 0 && short.Elsewhere > 0 && long.Elsewhere >= short.Elsewhere) {
		t.Errorf("worth %g, %g, %g", none.Elsewhere, short.Elsewhere, long.Elsewhere)
	}
	if long.State != proof.NotYet || long.Progress > proof.MostOutside || long.More >= none.More || long.More == 0 {
		t.Errorf("%s at %g with %d more, %d without", long.State, long.Progress, long.More, none.More)
	}
	if !strings.Contains(long.Needs(), "other conditions") {
		t.Error(long.Needs())
	}
}

// A permanent code stands until a read after the run no longer has it, a pending one asks for another run,
// and a job that is closed has ended until something is recorded.
func TestProofEndsWithTheCodes(t *testing.T) {
	read := func(state trouble.State, n ...engine.Cylinder) evidence.Entry {
		e := jobtest.Codes(n...)
		for i := range e.Codes().Read {
			e.Codes().Read[i].State = state
		}
		return e
	}
	repaired := signedCoil(t)
	repaired = jobtest.With(t, repaired, renewed(repaired, engine.Coil))
	at := repaired.Ledger[len(repaired.Ledger)-1].Seq
	clean := jobtest.With(t, repaired, jobtest.Counts(18_750, 0, 0, 0, 0))
	for name, c := range map[string]struct {
		then     []evidence.Entry
		title    string
		finished bool
		open     []string // of the checklist
	}{
		"not read":         {nil, "Proven: hand", true, []string{"readiness", "codes"}},
		"no codes":         {[]evidence.Entry{jobtest.Codes()}, "Proven: hand", true, []string{"readiness"}},
		"pending":          {[]evidence.Entry{read(trouble.Pending, 2)}, "A code is back: P0302", false, []string{"readiness", "codes"}},
		"permanent":        {[]evidence.Entry{read(trouble.Permanent, 2)}, "permanent code is still there: P0302", true, []string{"readiness", "permanent"}},
		"permanent, gone":  {[]evidence.Entry{read(trouble.Permanent, 2), jobtest.Codes()}, "Proven: hand", true, []string{"readiness"}},
		"pending, rerun":   {[]evidence.Entry{read(trouble.Pending, 2), jobtest.Counts(8000, 0, 0, 0, 0)}, "Proven: hand", true, []string{"readiness", "codes"}},
		"closed":           {[]evidence.Entry{{Body: &evidence.Closing{Ending: evidence.EndedProven}}}, "Closed: the repair is proven", true, []string{"readiness", "codes"}},
		"closed, misfires": {[]evidence.Entry{{Body: &evidence.Closing{Ending: evidence.EndedProven}}, jobtest.Counts(3000, 0, 0, 0, 200)}, "", false, nil},
	} {
		j := jobtest.With(t, clean, c.then...)
		a := diagnose.Assess(j)
		card := For(j, a).Next
		if !strings.Contains(card.Title, c.title) || card.Finished != c.finished || c.finished && card.Do == "" {
			t.Errorf("%s: next is %q, finished %v", name, card.Title, card.Finished)
		}
		if c.open == nil {
			continue
		}
		var open []string
		for _, item := range ProofChecklist(j, a, at) {
			if !item.Done {
				open = append(open, item.ID)
			}
		}
		if !slices.Equal(open, c.open) {
			t.Errorf("%s: open are %q, want %q", name, open, c.open)
		}
	}
	gone := jobtest.With(t, clean, read(trouble.Permanent, 2), read(trouble.Permanent, 2, 3), read(trouble.Permanent, 3))
	if all := PermanentCodes(diagnose.Assess(gone)); len(all) != 2 || all[0].Code != "P0302" || all[0].Gone == nil || *all[0].Gone != len(gone.Ledger) || all[1].Gone != nil || all[1].Entry != len(gone.Ledger)-1 {
		t.Errorf("permanent codes %+v", all)
	}
	if got := EndingOf(clean, diagnose.Assess(clean)); got != evidence.EndedProven {
		t.Errorf("ends %s", got)
	}
	if got := EndingOf(repaired, diagnose.Assess(repaired)); got != evidence.EndedUnproven {
		t.Errorf("ends %s", got)
	}
}

// Rain is proven by mist on the repaired place: by spells where spells failed before, and as minutes at idle
// where firing events were counted in the wet. Mist on another place proves nothing of the repair. Of several
// circumstances the one that failed most often is counted.
func TestProofWithWater(t *testing.T) {
	mist := func(place engine.Place, times, failed int) evidence.Entry {
		w := &evidence.Watch{Cylinders: []engine.Cylinder{}, Exposure: &evidence.Exposure{Of: evidence.Misted, Times: times, Failed: failed, Place: place}}
		if failed > 0 {
			w.Cylinders = []engine.Cylinder{4}
		}
		return evidence.Entry{Condition: evidence.Wet, Body: w}
	}
	counted := jobtest.Counts(2000, 0, 0, 0, 240)
	counted.Condition = evidence.Wet
	for name, c := range map[string]struct {
		before, since []evidence.Entry
		of            evidence.Circumstance
		times         int
		want          proof.State
	}{
		"spells":             {[]evidence.Entry{mist("cyl-4", 3, 3), mist("cyl-1", 1, 1)}, []evidence.Entry{mist("cyl-4", 8, 0)}, evidence.Misted, 8, proof.Proven},
		"spells elsewhere":   {[]evidence.Entry{mist("cyl-4", 3, 3)}, []evidence.Entry{mist("cyl-1", 9, 0)}, evidence.Misted, 0, proof.NotYet},
		"counted":            {[]evidence.Entry{counted}, []evidence.Entry{mist("cyl-4", 1, 0)}, "", 1050, proof.Proven},
		"counted, elsewhere": {[]evidence.Entry{counted}, []evidence.Entry{mist("cyl-2", 5, 0)}, "", 0, proof.NotYet},
		"it misfires again":  {[]evidence.Entry{mist("cyl-4", 3, 3)}, []evidence.Entry{mist("cyl-4", 2, 1)}, evidence.Misted, 2, proof.NotFixed},
	} {
		j := signedCoil(t)
		j.FailsWhen = evidence.Wet
		j = jobtest.With(t, j, c.before...)
		j = jobtest.With(t, j, renewed(j, engine.Coil))
		at := j.Ledger[len(j.Ledger)-1].Seq
		a := diagnose.Assess(jobtest.With(t, j, c.since...))
		if p := ProofOf(a, at); p.Of != c.of || p.Since.Times != c.times || p.State != c.want {
			t.Errorf("%s: %s by %q, %d since, want %s by %q, %d", name, p.State, p.Of, p.Since.Times, c.want, c.of, c.times)
		}
		places := MistPlaces(a, at)
		if len(places) != 4 || places[0].Place != "cyl-4" {
			t.Errorf("%s: places %+v", name, places)
		}
	}
}

// The bar fills towards the side that the runs speak for.
func TestBarFillsTowardsEitherSide(t *testing.T) {
	j := signedCoil(t)
	j = jobtest.With(t, j, renewed(j, engine.Coil))
	at := j.Ledger[len(j.Ledger)-1].Seq
	for name, c := range map[string]struct {
		run     evidence.Entry
		against bool
		words   string
	}{
		"clean":        {jobtest.Counts(300, 0, 0, 0, 0), false, "towards “proven”"},
		"some strays":  {jobtest.Counts(600, 0, 0, 0, 5), true, "towards “not fixed”"},
		"still there":  {jobtest.Counts(4000, 0, 0, 0, 260), true, "100 % towards “not fixed”"},
		"enough clean": {jobtest.Counts(18_750, 0, 0, 0, 0), false, "100 % towards “proven”"},
	} {
		p := ProofOf(diagnose.Assess(jobtest.With(t, j, c.run)), at)
		if p.State == proof.NotFixed && (p.Fixed > 0.05 || p.More != 0 || strings.Contains(p.Needs(), "prove")) {
			t.Errorf("%s: not fixed, with %.2f, and %s", name, p.Fixed, p.Needs())
		}
		if p.Against() != c.against || !strings.HasSuffix(p.Towards(), c.words) {
			t.Errorf("%s: %s, %.2f", name, p.Towards(), p.Progress)
		}
	}
}
