package plan

import (
	"fmt"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/proof"
)

// EndingOf returns how a job would end now.
func EndingOf(j job.Job, a *diagnose.Assessment) evidence.Ending {
	signed, ok := j.Signed()
	if !ok || settled(a)[signed.Verdict().Unit] {
		if len(j.Planned) > 0 && len(Unrenewed(j)) == 0 && !anyMisfire(a) {
			return evidence.EndedPlanned
		}
		return evidence.EndedUnresolved
	}
	at := RepairedAt(a, signed.Verdict().Unit)
	switch {
	case at == 0:
		return evidence.EndedUnresolved
	case ProofOf(a, at).State != proof.Proven:
		return evidence.EndedUnproven
	case Attribution(a, signed) == Several:
		return evidence.EndedUnattributed
	}
	return evidence.EndedProven
}

// closed is the card of a job that has ended.
func closed(j job.Job, a *diagnose.Assessment, end evidence.Entry) Card {
	c := Card{Step: Find(FixAndProve), Target: string(engine.Whole), Finished: true, Closed: true, Condition: RunIn(a)}
	c.Step.Tools, c.Step.Cautions = nil, nil
	c.Title = "Closed: " + end.Closing().Ending.Words()
	c.Do = fmt.Sprintf("Nothing is left to do. If the trouble comes back, open a new job for %s and choose “the same trouble”: it starts from this evidence.", j.Vehicle.Fleet)
	c.Why = "Whatever is recorded here from now on opens the job again."
	if signed, ok := j.Signed(); ok {
		if at := RepairedAt(a, signed.Verdict().Unit); at > 0 {
			p := ProofOf(a, at)
			c.Proof = &p
		}
	}
	return c
}
