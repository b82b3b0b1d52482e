package plan

import (
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/jobtest"
	"glenmist/core/part"
	"glenmist/core/proof"
)

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
		"no run":              {[]part.Kind{engine.Coil}, nil, proof.NotYet, "does the repair", "signed"},
		"long and clean":      {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 0, failing, false)}, proof.Proven, "Proven", "proven"},
		"short":               {[]part.Kind{engine.Coil}, []evidence.Entry{run(500, 0, failing, false)}, proof.NotYet, "does the repair", "signed"},
		"short, three times":  {[]part.Kind{engine.Coil}, []evidence.Entry{run(500, 0, failing, false), run(500, 0, failing, false), run(500, 0, failing, false)}, proof.Proven, "Proven", "proven"},
		"another condition":   {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 0, other, false)}, proof.NotYet, "does the repair", "signed"},
		"counters not zeroed": {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 0, failing, true)}, proof.NotYet, "does the repair", "signed"},
		"one stray":           {[]part.Kind{engine.Coil}, []evidence.Entry{run(18_750, 1, failing, false)}, proof.Proven, "Proven", "proven"},
		"two things at once":  {[]part.Kind{engine.Coil, engine.Plug}, []evidence.Entry{run(18_750, 0, failing, false)}, proof.Proven, "Fixed, not attributed", "signed"},
	} {
		j := signedCoil(t)
		j = jobtest.With(t, j, renewed(j, c.kinds...))
		at := j.Ledger[len(j.Ledger)-1].Seq
		j = jobtest.With(t, j, c.runs...)
		a := diagnose.Assess(j)
		p := ProofOf(a, at)
		if p.State != c.want {
			t.Errorf("%s: %s after %d of %d (needs %d), want %s", name, p.State, p.RunMisfires, p.Run, p.More, c.want)
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

// Where nothing was counted before the repair, no run proves it, and the card says what to do instead.
func TestProofNeedsCountsFromBefore(t *testing.T) {
	j := signedCoil(t)
	uncounted := j
	uncounted.Ledger = nil
	for _, e := range j.Ledger {
		if e.Counters() != nil {
			w := jobtest.Watch(2)
			w.Seq, w.Done, w.By, w.Condition = e.Seq, e.Done, e.By, e.Condition
			if n, _ := e.Counters().Most(); n == 4 {
				w = jobtest.Watch(4)
				w.Seq, w.Done, w.By, w.Condition = e.Seq, e.Done, e.By, e.Condition
			}
			e = w
		}
		uncounted.Ledger = append(uncounted.Ledger, e)
	}
	uncounted = jobtest.With(t, uncounted, renewed(uncounted, engine.Coil), jobtest.Counts(18_750, 0, 0, 0, 0))
	card := For(uncounted, diagnose.Assess(uncounted)).Next
	if card.Proof == nil || card.Proof.Known || !strings.Contains(card.Why, "recheck") || card.Proof.Needs() != "" {
		t.Errorf("%+v: %s", card.Proof, card.Why)
	}
}
