// Package course states how far a job has come: the phases of the work in order, what was found
// in each, what is still open, and what blocks it.
package course

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/proof"
	"glenmist/core/unit"
)

// Phase is one part of the work. The words are those of "diagnose --json".
type Phase string

// The phases in the order of the work.
const (
	Intake  Phase = "intake"
	Scan    Phase = "scan"
	Trace   Phase = "trace"
	Verdict Phase = "verdict"
	Fix     Phase = "fix"
	Prove   Phase = "prove"
	Closed  Phase = "closed"
)

// Phases lists the phases in the order of the work.
func Phases() []Phase { return []Phase{Intake, Scan, Trace, Verdict, Fix, Prove, Closed} }

// Words returns the phase as a title.
func (p Phase) Words() string { return unit.Capital(string(p)) }

// State is the state of one phase.
type State string

// The states. A phase that is Open can be worked on; one that is Blocked waits for another.
const (
	Done    State = "done"
	Here    State = "here"
	Open    State = "open"
	Blocked State = "blocked"
)

// Station is one phase of a job. Found states what it has shown, "" for nothing. Missing states
// what is still open or what blocks it, "" for nothing.
type Station struct {
	Phase   Phase
	State   State
	Found   string
	Missing string
}

// Of lists the phases of a job, given its assessment and plan. Exactly one is Here.
func Of(j job.Job, a *diagnose.Assessment, p plan.Plan) []Station {
	s := status{j: j, a: a, p: p}
	if signed, ok := j.Signed(); ok && !p.PutRight[signed.Verdict().Unit] {
		s.signed, s.repaired = &signed, plan.RepairedAt(a, signed.Verdict().Unit)
	}
	all := []Station{s.intake(), s.scan(), s.trace(), s.verdict(), s.fix(), s.prove(), s.closed()}
	here := s.here()
	for i := range all {
		if all[i].Phase == here {
			all[i].State = Here
		}
	}
	return all
}

// At returns the phase in which a job stands.
func At(stations []Station) Phase {
	i := slices.IndexFunc(stations, func(s Station) bool { return s.State == Here })
	return stations[i].Phase
}

// status is a job with the facts that several phases need.
type status struct {
	j job.Job
	a *diagnose.Assessment
	p plan.Plan
	// signed is the verdict that is valid, nil for none; repaired is the entry that repaired its
	// unit, 0 for none.
	signed   *evidence.Entry
	repaired int
}

// here is the phase of the next step.
func (s status) here() Phase {
	switch {
	case s.p.Next.Closed:
		return Closed
	case s.signed != nil && s.p.Verdict != nil && s.p.Next.Step.ID == plan.SignVerdict:
		return Verdict // a second verdict
	case s.signed != nil && s.repaired > 0:
		return Prove
	case s.signed != nil:
		return Fix
	}
	if s.planned() {
		if len(plan.Unrenewed(s.j)) > 0 {
			return Fix
		}
		return Prove
	}
	switch s.p.Next.Step.ID {
	case plan.SignVerdict, plan.EndUnresolved:
		return Verdict
	case plan.ReadCodes, plan.ReadTrims:
		return Scan
	case plan.CountMisfires:
		if len(s.a.Decodes) == 0 {
			return Scan
		}
	}
	return Trace
}

// planned reports whether the job is planned work, and nothing speaks of a misfire.
func (s status) planned() bool {
	return len(s.j.Planned) > 0 && s.signed == nil && s.p.Next.Step.ID == plan.FixAndProve
}

func (s status) intake() Station {
	if s.planned() {
		return Station{Phase: Intake, State: Done, Found: "planned work"}
	}
	t := Station{Phase: Intake, State: Done, Found: "fails " + s.j.Fails()}
	if s.j.FailsWhen == evidence.AnyCondition && !slices.Contains(s.j.Signs, evidence.AlwaysThere) {
		t.Found, t.Missing = "", "when it fails is not stated"
	}
	if s.j.Complaint == "" {
		t.State, t.Missing = Open, "no complaint"
	}
	return t
}

func (s status) scan() Station {
	if s.planned() {
		return Station{Phase: Scan, State: Open}
	}
	t := Station{Phase: Scan, State: Open}
	if !s.a.Engine.Scanned() {
		return Station{Phase: Scan, State: Done, Found: "no control unit to scan"}
	}
	codes, ran := false, false
	for _, m := range s.a.Moments {
		switch {
		case m.Entry.Codes() != nil:
			codes, t.Found = true, codesWords(m.Entry.Codes())
		case m.Entry.Counters() != nil, m.Entry.Watch() != nil:
			ran = true
		}
	}
	switch {
	case codes && ran:
		t.State = Done
	case codes:
		t.Missing = "misfires not counted"
	default:
		t.Missing = "codes not read"
	}
	return t
}

// codesWords lists the first codes of a read: "P0302, P0300 and 2 more".
func codesWords(c *evidence.Codes) string {
	if len(c.Read) == 0 {
		return "no codes"
	}
	var words []string
	for _, r := range c.Read {
		words = append(words, r.Code.String())
	}
	if len(words) > 2 {
		return fmt.Sprintf("%s and %d more", strings.Join(words[:2], ", "), len(words)-2)
	}
	return strings.Join(words, ", ")
}

func (s status) trace() Station {
	t := Station{Phase: Trace, State: Open}
	if s.signed != nil {
		t.State = Done
	}
	if affected := s.a.Sick(); affected != 0 {
		t.Found = affected.String()
	}
	if !s.a.Observed() && !s.planned() {
		t.Missing = "nothing observed"
	}
	return t
}

func (s status) verdict() Station {
	t := Station{Phase: Verdict, State: Blocked}
	switch {
	case s.planned():
		t.State = Open
	case s.signed != nil:
		t.State, t.Found = Done, evidence.UnitWords(s.signed.Verdict().Unit)
	case !s.a.Observed():
		t.Missing = "no evidence"
	case s.p.Verdict != nil:
		t.State = Open
	case s.p.Lead.P < plan.FitNow:
		t.Missing = fmt.Sprintf("no suspect above %.0f %%", 100*plan.FitNow)
	default:
		if needs := gate.Needs(s.p.Gates); len(needs) > 0 {
			t.Missing = needs[0]
		}
	}
	return t
}

func (s status) fix() Station {
	t := Station{Phase: Fix, State: Blocked, Missing: "no verdict"}
	switch {
	case s.planned() && len(plan.Unrenewed(s.j)) > 0:
		t.State, t.Missing = Open, fmt.Sprintf("%d to renew", len(plan.Unrenewed(s.j)))
	case s.planned():
		t.State, t.Missing, t.Found = Done, "", "renewed"
	case s.repaired > 0:
		t.State, t.Missing = Done, ""
		t.Found = fmt.Sprintf("repaired, entry %d", s.repaired)
	case s.signed != nil:
		t.State, t.Missing = Open, evidence.UnitWords(s.signed.Verdict().Unit)+" not yet repaired"
	}
	return t
}

func (s status) prove() Station {
	t := Station{Phase: Prove, State: Blocked, Missing: "no repair"}
	if s.planned() && len(plan.Unrenewed(s.j)) == 0 {
		for _, m := range s.a.Moments {
			if m.Entry.Renewal() != nil {
				s.repaired = m.Entry.Seq
			}
		}
	}
	if s.repaired == 0 {
		return t
	}
	t.State, t.Missing = Open, "no run since the repair"
	for _, m := range s.a.Moments {
		if e := m.Entry; e.Seq > s.repaired && (e.Counters() != nil || e.Watch() != nil) {
			t.Missing = ""
			t.Found = "run since the repair" + in(e.Condition)
		}
	}
	if p := s.p.Next.Proof; p != nil && p.State == proof.Proven {
		t.Found = "proven" + in(p.Condition)
	}
	return t
}

// closed is the end of the job: open as soon as it may be closed.
func (s status) closed() Station {
	t := Station{Phase: Closed, State: Blocked, Missing: "not handed back"}
	switch end, ok := s.j.Ledger.Closed(); {
	case ok:
		t.State, t.Missing, t.Found = Done, "", end.Closing().Ending.Words()
	case s.p.Next.Finished:
		t.State = Open
	}
	return t
}

func in(c evidence.Condition) string {
	if c == evidence.AnyCondition {
		return ""
	}
	return ", " + c.Words()
}
