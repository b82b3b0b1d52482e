package plan

import (
	"fmt"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/forbid"
	"glenmist/core/job"
	"glenmist/core/proof"
	"glenmist/core/unit"
)

// Status is where a job stands, in one word and in one line.
type Status struct {
	// State is one of new, stopped, tracing, waiting, followed, stayed, both, gone,
	// elsewhere, unclear, proposed, signed, repaired, proven, fixed, planned, closed.
	State string
	Words string
}

// StatusOf returns where a job stands, with the recheck that is still to be made.
func StatusOf(j job.Job, a *diagnose.Assessment) Status {
	s := statusOf(j, a)
	if due, ok := j.Ledger.DueRecheck(); ok {
		s.Words += "; recheck on " + due.Due.Short()
	}
	return s
}

func statusOf(j job.Job, a *diagnose.Assessment) Status {
	signed, ok := j.Signed()
	end, ended := j.Ledger.Closed()
	bans := forbid.Of(a.Moments)
	switch {
	case ended && ok && end.Closing().Ending != evidence.EndedUnresolved:
		return Status{"closed", fmt.Sprintf("Closed: %s, %s", end.Closing().Ending.Words(), evidence.UnitWords(signed.Verdict().Unit))}
	case ended:
		return Status{"closed", "Closed: " + end.Closing().Ending.Words()}
	case len(bans) > 0:
		return Status{"stopped", "Do not start it, " + bans[0].Because}
	case ok && settled(a)[signed.Verdict().Unit]:
		return Status{"tracing", fmt.Sprintf("%s was put right, and the misfire stayed", unit.Capital(evidence.UnitWords(signed.Verdict().Unit)))}
	case ok && Attribution(a, signed) == Several && RanClean(a, signed):
		return Status{"fixed", "Fixed, not attributed: several parts were renewed at once"}
	case ok && ProofOf(a, RepairedAt(a, signed.Verdict().Unit)).State == proof.Proven:
		return Status{"proven", fmt.Sprintf("Proven: the repair of %s holds", evidence.UnitWords(signed.Verdict().Unit))}
	case ok && RepairedAt(a, signed.Verdict().Unit) > 0:
		return Status{"repaired", fmt.Sprintf("Repaired, not yet proven: %s", evidence.UnitWords(signed.Verdict().Unit))}
	case ok && signed.Verdict().Trial:
		return Status{"signed", fmt.Sprintf("Trial repair, not yet made: %s", evidence.UnitWords(signed.Verdict().Unit))}
	case ok:
		return Status{"signed", fmt.Sprintf("Verdict, not yet proven: %s", evidence.UnitWords(signed.Verdict().Unit))}
	}
	if v, ok := j.Ledger.Provisional(); ok {
		return Status{"proposed", fmt.Sprintf("Verdict of %s, to be countersigned: %s", v.By, evidence.UnitWords(v.Verdict().Unit))}
	}
	if len(j.Planned) > 0 && !anyMisfire(a) {
		if left := Unrenewed(j); len(left) > 0 {
			return Status{"planned", fmt.Sprintf("Planned work: %d parts to renew", len(left))}
		}
		return Status{"planned", "Planned work: all parts renewed"}
	}
	if d := a.LastDecode(); d != nil {
		return Status{string(d.Outcome), explain.Move(*d)}
	}
	if !a.Observed() {
		return Status{"new", "Nothing recorded yet"}
	}
	if affected := a.Sick(); affected != 0 {
		return Status{"tracing", unit.Capital(affected.String()) + " in trouble"}
	}
	return Status{"tracing", "No cylinder stands out yet"}
}

// SignedNow compares a signed verdict with what the evidence says now: the
// probability of its unit.
func SignedNow(a *diagnose.Assessment, v evidence.Verdict) float64 {
	for _, s := range a.Suspects {
		if s.Key() == v.Unit {
			return s.P
		}
	}
	return 0
}
