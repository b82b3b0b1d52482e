// Package score counts what became of verdicts: how often they held, how well their probabilities were
// stated, and what the work took.
package score

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/proof"
)

// Result is what became of a verdict.
type Result string

// The results. A job that came back later is CameBack, whatever it was before.
const (
	Held         Result = "held"
	Failed       Result = "failed"
	CameBack     Result = "came-back"
	Unattributed Result = "unattributed"
)

// Outcome is what became of the first verdict of a job that was carried out.
type Outcome struct {
	Layout engine.Ignition `json:"layout"`
	// Unit is the kind of the unit, and P its probability at the signature.
	Unit   fault.Unit `json:"unit"`
	P      float64    `json:"p"`
	Result Result     `json:"result"`
	// Closed is true if the job is closed. Learnt is the unit that the job's shares are learnt from: of a
	// closed job whose last verdict was proven and attributed; empty for none.
	Closed bool       `json:"closed"`
	Learnt fault.Unit `json:"learnt,omitzero"`
	// Took and Usual are the minutes that the work took and usually takes, see [plan.Took].
	Took  float64 `json:"took"`
	Usual float64 `json:"usual"`
	// Parts is how many parts were renewed, and InVain how many of them for a verdict that failed.
	Parts  int `json:"parts"`
	InVain int `json:"in_vain"`
}

// Of returns the outcome of a job; ok is false while nothing is known of a verdict.
func Of(j job.Job, a *diagnose.Assessment) (o Outcome, ok bool) {
	refuted := plan.Refuted(a)
	var first *evidence.Entry
	var vain []string // units of refuted verdicts, with what went with them
	for _, m := range a.Moments {
		e := m.Entry
		if v := e.Verdict(); v != nil && first == nil && (refuted[v.Unit] || plan.RepairedAt(a, v.Unit) > 0) {
			first = &e
		}
		if v := e.Verdict(); v != nil && refuted[v.Unit] {
			vain = append(append(vain, v.Unit), v.With...)
		}
		if r := e.Renewal(); r != nil {
			o.Parts += len(r.Parts)
			for _, one := range r.Parts {
				if slices.Contains(vain, one.Out.Words()) {
					o.InVain++
				}
			}
		}
	}
	if first == nil {
		return o, false
	}
	v := first.Verdict()
	last, _ := j.Signed()
	proven := !refuted[last.Verdict().Unit] && plan.ProofOf(a, plan.RepairedAt(a, last.Verdict().Unit)).State == proof.Proven
	attributed := plan.Attribution(a, last) != plan.Several
	switch {
	case refuted[v.Unit]:
		o.Result = Failed
	case !proven:
		return o, false
	case !attributed:
		o.Result = Unattributed
	default:
		o.Result = Held
	}
	o.Layout, o.Unit, o.P = a.Engine.Ignition, unitOf(a, v.Unit), v.P
	_, o.Closed = j.Ledger.Closed()
	if o.Closed && proven && attributed {
		o.Learnt = unitOf(a, last.Verdict().Unit)
	}
	o.Took, o.Usual = plan.Took(a.Beliefs, j)
	return o, true
}

// unitOf returns the kind of a repair unit by its key.
func unitOf(a *diagnose.Assessment, key string) fault.Unit {
	i := slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Key() == key })
	if i < 0 {
		return fault.Else
	}
	return a.Suspects[i].Unit
}
