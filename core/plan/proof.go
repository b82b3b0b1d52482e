package plan

import (
	"fmt"
	"math"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/proof"
)

// Engine speeds for which minutes of a proof are stated, in revolutions per minute, where no freeze frame
// states one (C; judgement).
const (
	idleSpeed = 700
	loadSpeed = 2000
)

// Proof is how far clean running proves a repair.
type Proof struct {
	// State is NotYet if nothing can be weighed.
	State proof.State
	// Known is true if counts from before the repair give a rate. Misfires of Events are those counts in
	// Condition, and Rate is the lower bound of their rate at 95 %, bursts counted once.
	Known            bool
	Condition        evidence.Condition
	Misfires, Events int
	Rate             float64
	// Run and RunMisfires are the firing events of one cylinder since the repair in Condition, and the
	// misfires of the worst cylinder among them. Progress is as [proof.Test.After] returns it.
	Run, RunMisfires int
	Progress         float64
	// Fixed is the probability that the repair holds: that of the verdict, with the odds of the runs since. It
	// is 0 if nothing can be weighed.
	Fixed float64
	// More is how many more clean firing events prove it.
	More int
	// RPM is the engine speed for which minutes are stated: of the freeze frame, or usual in Condition.
	RPM float64
}

// ProofOf weighs the runs since the repair at entry number at against the counts from before it. Runs
// count in the condition in which the vehicle fails, and only with counters that stood at zero.
func ProofOf(a *diagnose.Assessment, at int) Proof {
	p := Proof{State: proof.NotYet, Condition: RunIn(a), RPM: idleSpeed}
	if p.Condition == evidence.Load {
		p.RPM = loadSpeed
	}
	after, verdict := false, 0.0
	for _, m := range a.Moments {
		after = after || m.Entry.Seq == at
		if v := m.Entry.Verdict(); v != nil && !after {
			verdict = v.P
		}
		if codes := m.Entry.Codes(); !after && codes != nil && codes.Frame != nil && codes.Frame.RPM != nil && *codes.Frame.RPM >= idleSpeed/2 {
			p.RPM = *codes.Frame.RPM
		}
		c := m.Entry.Counters()
		if c == nil || !c.Fresh || p.Condition != evidence.AnyCondition && m.Entry.Condition != p.Condition {
			continue
		}
		_, most := c.Most()
		switch {
		case after:
			p.Run, p.RunMisfires = p.Run+c.Revolutions/2, p.RunMisfires+most
		case m.Entry.ShowsMisfire():
			p.Events, p.Misfires = p.Events+c.Revolutions/2, p.Misfires+most
		}
	}
	if p.Misfires == 0 || verdict == 0 {
		return p
	}
	burst := proof.Usual(0).Burst
	p.Known, p.Rate = true, proof.LowerBound(float64(p.Misfires)/burst, float64(p.Events)/burst, 0.95)
	test := proof.Usual(p.Rate)
	p.State, p.Progress = test.After(p.Run, p.RunMisfires)
	p.More = test.More(p.Run, p.RunMisfires)
	p.Fixed = 1 / (1 + (1-verdict)/verdict*math.Exp(-test.LogRatio(p.Run, p.RunMisfires)))
	return p
}

// Minutes returns how long the firing events that are missing take. A cylinder fires in every second
// revolution.
func (p Proof) Minutes() float64 { return 2 * float64(p.More) / p.RPM }

// Needs says what is missing to the proof, "" if nothing can be said.
func (p Proof) Needs() string {
	if !p.Known {
		return ""
	}
	takes := fmt.Sprintf("about %.0f min at %.0f rpm", max(1, math.Ceil(p.Minutes())), p.RPM)
	before := fmt.Sprintf("Before the repair %d of %d firing events misfired.", p.Misfires, p.Events)
	switch {
	case p.State == proof.Proven:
		return fmt.Sprintf("%s Since then %d of %d did.", before, p.RunMisfires, p.Run)
	case p.Run == 0:
		return fmt.Sprintf("%s %d clean firing events of each cylinder prove the repair: %s.", before, p.More, takes)
	}
	return fmt.Sprintf("%s Since then %d of %d did. %d more clean ones prove it: %s.", before, p.RunMisfires, p.Run, p.More, takes)
}

// Bar returns how full the bar towards the proof is, in per cent: 0 when the runs speak against it.
func (p Proof) Bar() int { return int(100 * max(0, p.Progress)) }
