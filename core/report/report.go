// Package report is the answer to one job as other programs read it: the shape
// of "diagnose --json".
package report

import (
	"cmp"
	"slices"
	"strings"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/proof"
)

// Version of the shape.
const Version = 1

// Report is the whole answer. Lists are never null.
type Report struct {
	Version int    `json:"version"`
	Job     string `json:"job"`
	// Phase is where the job stands in the order of the work.
	Phase        course.Phase  `json:"phase"`
	Suspects     []Suspect     `json:"suspects"`
	Hypotheses   []Hypothesis  `json:"hypotheses"`
	Next         Next          `json:"next"`
	Alternatives []Alternative `json:"alternatives"`
	// Gates lists the gates of the suspect that the plan is about, and of every other that may well be at fault.
	Gates []Gate `json:"gates"`
	// Cautions lists those that hold for the whole job, whatever the step.
	Cautions []string `json:"cautions"`
	// Forbidden lists the steps that a finding forbids.
	Forbidden []plan.Forbidden `json:"forbidden"`
	// Permanent lists the permanent codes, and what has become of them.
	Permanent      []plan.PermanentCode `json:"permanent"`
	Contradictions []Contradiction      `json:"contradictions"`
	Verdict        *Verdict             `json:"verdict"`
	Proof          *Proof               `json:"proof"`
}

// Proof is how far a signed verdict's repair is proven.
type Proof struct {
	// State is none (nothing repaired), not-yet, proven, not-fixed or unattributed.
	State string `json:"state"`
	// Fixed is the probability that the repair holds; null if nothing was counted before it.
	Fixed *float64 `json:"p_fixed"`
	Needs Needs    `json:"needs"`
	// Recheck is the date of the next look, null for none.
	Recheck *string `json:"recheck"`
}

// Needs is what is missing to the proof; null where it cannot be said.
type Needs struct {
	Events    *int     `json:"events"`
	Minutes   *float64 `json:"minutes"`
	Condition string   `json:"condition"`
	Exposures *int     `json:"exposures"`
}

// Suspect is one repair unit with its likeliest mode.
type Suspect struct {
	Fault string `json:"fault"`
	Part  string `json:"part"`
	Tag   string `json:"tag"`
	// With lists the parts that cannot be told apart from it, or that make up the set.
	With    []string `json:"with,omitzero"`
	Place   string   `json:"place"`
	P       float64  `json:"p"`
	Reasons []Reason `json:"reasons"`
}

// Reason is what one entry adds, in natural log odds.
type Reason struct {
	Entry   int     `json:"entry"`
	LogOdds float64 `json:"log_odds"`
	Text    string  `json:"text"`
}

// Hypothesis is a set of faults that would explain everything.
type Hypothesis struct {
	Faults []string `json:"faults"`
	P      float64  `json:"p"`
}

// Next is the step to do.
type Next struct {
	Step     string    `json:"step"`
	Target   string    `json:"target"`
	Partner  string    `json:"partner"`
	Minutes  float64   `json:"minutes"`
	Why      string    `json:"why"`
	Outcomes []Outcome `json:"outcomes"`
	Cautions []string  `json:"cautions"`
}

// Outcome is one way the step can turn out.
type Outcome struct {
	Outcome string  `json:"outcome"`
	P       float64 `json:"p"`
	Means   string  `json:"means"`
}

// Alternative is another step, with its extra cost in minutes.
type Alternative struct {
	Step      string  `json:"step"`
	Target    string  `json:"target"`
	ExtraCost float64 `json:"extra_cost"`
}

// Gate is a condition before condemning.
type Gate struct {
	Target string `json:"target"`
	Met    bool   `json:"met"`
	Needs  string `json:"needs"`
}

// Contradiction is entries that disagree with everything else: the one that does
// not fit, and the one that it fits worst with.
type Contradiction struct {
	Entries []int  `json:"entries"`
	Text    string `json:"text"`
	// CouldMean lists explanations of two moves that contradict each other.
	CouldMean []Meaning `json:"could_mean,omitzero"`
}

// Meaning is one explanation of all evidence, with its probability.
type Meaning struct {
	Text string  `json:"text"`
	P    float64 `json:"p"`
}

// Verdict is what has been signed, or could be signed now.
type Verdict struct {
	Unit    string   `json:"unit"`
	P       float64  `json:"p"`
	With    []string `json:"with"`
	Cleared []string `json:"cleared"`
}

// proofOf is how far the repair of the signed verdict is proven, nil without such a verdict.
func proofOf(j job.Job, a *diagnose.Assessment) *Proof {
	signed, ok := j.Signed()
	if !ok {
		return nil
	}
	out := &Proof{State: "none", Needs: Needs{Condition: string(plan.RunIn(a))}}
	if due, ok := j.Ledger.DueRecheck(); ok {
		day := string(due.Due)
		out.Recheck = &day
	}
	at := plan.RepairedAt(a, signed.Verdict().Unit)
	if at == 0 {
		return out
	}
	p := plan.ProofOf(a, at)
	out.State, out.Needs.Condition = string(p.State), string(p.Condition)
	if p.State == proof.Proven && plan.Attribution(a, signed) == plan.Several {
		out.State = "unattributed"
	}
	if !p.Known {
		return out
	}
	out.Fixed = &p.Fixed
	if p.State == proof.NotFixed { // nothing proves it any more
		return out
	}
	if minutes, days := p.Takes(); days == 0 || p.Of == "" {
		out.Needs.Minutes = &minutes
	}
	if p.Of != "" {
		out.Needs.Exposures = &p.More
	} else {
		out.Needs.Events = &p.More
	}
	return out
}

// Of works out the report of a valid job.
func Of(j job.Job) Report {
	a := explain.Reasons(diagnose.Assess(j))
	p := plan.For(j, a)
	r := Report{Version: Version, Job: j.Number, Phase: course.At(course.Of(j, a, p)), Suspects: []Suspect{}, Hypotheses: []Hypothesis{},
		Alternatives: []Alternative{}, Gates: []Gate{}, Contradictions: []Contradiction{}}
	for _, s := range a.Suspects {
		out := Suspect{Fault: string(s.Mode.ID), Part: string(s.Unit), Tag: string(s.Tag), Place: string(s.Place), P: s.P, Reasons: []Reason{}}
		for _, t := range s.With {
			out.With = append(out.With, string(t))
		}
		for _, reason := range s.Reasons {
			out.Reasons = append(out.Reasons, Reason{reason.Entry, reason.LogOdds, reason.Text})
		}
		r.Suspects = append(r.Suspects, out)
	}
	r.Hypotheses = hypotheses(a.JointHypotheses)
	for _, c := range a.Contradictions() {
		r.Contradictions = append(r.Contradictions, Contradiction{Entries: c.Entries, Text: explain.Contradiction(a, c)})
	}
	for _, c := range explain.Conflicts(a) {
		out := Contradiction{Entries: c.Entries, Text: c.Text}
		for _, m := range c.Meanings {
			out.CouldMean = append(out.CouldMean, Meaning{m.Words, m.P})
		}
		r.Contradictions = append(r.Contradictions, out)
	}
	r.Proof, r.Forbidden = proofOf(j, a), append([]plan.Forbidden{}, plan.ForbiddenSteps(a)...)
	r.Permanent = append([]plan.PermanentCode{}, plan.PermanentCodes(a)...)
	r.Next = next(p.Next)
	r.Next.Cautions = append(r.Next.Cautions, cautionsOf(j)...)
	for _, alt := range p.Alternatives {
		r.Alternatives = append(r.Alternatives, Alternative{alt.Card.Step.ID, alt.Card.Target, alt.ExtraCost})
	}
	for _, g := range p.Gates {
		r.Gates = append(r.Gates, Gate{g.Target, g.Met, g.Needs})
	}
	for _, s := range a.Suspects {
		if s.P < leadingFrom || !s.Real() || slices.ContainsFunc(p.Gates, func(g gate.Gate) bool { return g.Target == s.Key() }) {
			continue
		}
		for _, g := range gate.Of(a, s) {
			r.Gates = append(r.Gates, Gate{g.Target, g.Met, g.Needs})
		}
	}
	r.Cautions = append([]string{}, cautionsOf(j)...)
	if signed, ok := j.Signed(); ok {
		r.Verdict = verdict(*signed.Verdict())
	} else if p.Verdict != nil {
		r.Verdict = verdict(*p.Verdict)
	}
	return r
}

// leadingFrom is the probability from which a suspect's gates are listed.
const leadingFrom = 0.15

// OtherPairs stands for all pairs of faults that are too unlikely to name.
const OtherPairs = "two.others"

// hypotheses lists the faults alone and the likelier pairs, the likeliest first.
// "Something else" is one hypothesis, wherever it is. They sum to 1.
func hypotheses(joints []diagnose.JointHypothesis) []Hypothesis {
	left := 1.0
	sums := diagnose.SumBy(joints, func(w *diagnose.JointHypothesis) string {
		var faults []string
		for _, f := range w.Faults {
			switch f.Hypothesis.Mode.ID {
			case fault.SomethingElse, fault.NoFaultNow:
				faults = append(faults, string(f.Hypothesis.Mode.ID))
			default:
				faults = append(faults, f.Hypothesis.Key())
			}
		}
		left -= w.P
		return strings.Join(faults, " ") // a key of a fault has no spaces
	})
	out := make([]Hypothesis, 0, len(sums)+1)
	for _, s := range sums {
		out = append(out, Hypothesis{strings.Fields(s.Key), s.P})
	}
	out = append(out, Hypothesis{[]string{OtherPairs}, max(0, left)})
	slices.SortStableFunc(out, func(x, y Hypothesis) int { return cmp.Compare(y.P, x.P) })
	return out
}

// cautionsOf lists the cautions that hold for the whole job.
func cautionsOf(j job.Job) []string {
	if slices.Contains(j.Signs, evidence.LampFlashing) {
		return []string{evidence.LampCaution}
	}
	return nil
}

func next(c plan.Card) Next {
	n := Next{Step: c.Step.ID, Target: c.Target, Minutes: c.Minutes, Why: c.Why, Outcomes: []Outcome{}, Cautions: c.Step.Cautions}
	n.Partner = string(c.Partner.Place)
	if c.Partner.Spare != "" {
		n.Partner = string(c.Partner.Spare)
	}
	if n.Cautions == nil {
		n.Cautions = []string{}
	}
	for _, o := range c.Outcomes {
		n.Outcomes = append(n.Outcomes, Outcome{o.ID, o.P, o.Means})
	}
	return n
}

func verdict(v evidence.Verdict) *Verdict {
	return &Verdict{v.Unit, v.P, append([]string{}, v.With...), append([]string{}, v.Cleared...)}
}
