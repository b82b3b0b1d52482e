package plan

import (
	"time"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/proof"
	"glenmist/core/unit"
)

// ComebackOf carries the evidence of an earlier job into one on the same trouble: its verdict, how likely
// that was wrong, the parts renewed since, and the faults that can still be there. now and distance are
// those of the new complaint.
func ComebackOf(j job.Job, a *diagnose.Assessment, now time.Time, distance unit.Kilometres) evidence.Comeback {
	c := evidence.Comeback{Of: j.Number, Wrong: 1, Km: max(0, float64(distance-j.Distance))}
	last := j.Opened
	for _, m := range a.Moments {
		last = m.Entry.Done
	}
	c.Days = max(0, int(now.Sub(last).Hours()/24))
	if signed, ok := j.Signed(); ok {
		c.Unit, c.P = signed.Verdict().Unit, signed.Verdict().P
		if at := RepairedAt(a, c.Unit); at > 0 && !settled(a)[c.Unit] {
			c.Fixed = c.P
			if p := ProofOf(a, at); p.Known {
				c.Fixed = p.Fixed
			}
			c.Wrong = proof.Wrong(c.P, c.Fixed, c.Days, c.Km)
		}
	}
	for _, m := range a.Moments {
		if r := m.Entry.Renewal(); r != nil {
			for _, one := range r.Parts {
				c.Renewed = append(c.Renewed, evidence.CameIn{Kind: one.Out.Kind(), Place: one.Place})
			}
		}
	}
	c.Carried = a.Carry(c.Unit)
	return c
}
