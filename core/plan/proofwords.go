package plan

import (
	"fmt"
	"math"

	"glenmist/core/proof"
	"glenmist/core/unit"
)

// Minutes returns how long what is missing takes.
func (p Proof) Minutes() float64 {
	minutes, _ := p.Takes()
	return minutes
}

// counted returns a number of firing events or exposures in words.
func (p Proof) counted(n int) string {
	if p.Of != "" {
		return p.Of.Words(n)
	}
	return unit.Thousands(n) + " firing events"
}

// takes says how long what is missing takes.
func (p Proof) takes() string {
	minutes, days := p.Takes()
	switch {
	case days > 0:
		return fmt.Sprintf("about %d days of use", days)
	case p.Of != "":
		return fmt.Sprintf("about %.0f min", max(1, math.Ceil(minutes)))
	}
	return fmt.Sprintf("about %.0f min at %.0f rpm", max(1, math.Ceil(minutes)), p.RPM)
}

// Needs says what is missing to the proof, "" if nothing can be said.
func (p Proof) Needs() string {
	if !p.Known {
		return ""
	}
	misfired := "misfired"
	if p.Of != "" {
		misfired = "failed"
	}
	before := fmt.Sprintf("Before the repair %s of %s %s.", unit.Thousands(p.Before.Failed), p.counted(p.Before.Times), misfired)
	since := fmt.Sprintf(" Since then %s of %s did.", unit.Thousands(p.Since.Failed), unit.Thousands(p.Since.Times))
	switch {
	case p.State != proof.NotYet:
		return before + since
	case p.Since.Times == 0:
		since = ""
	}
	if p.Since.Times == 0 && p.Elsewhere == 0 {
		each := " of each cylinder"
		if p.Of != "" {
			each = ""
		}
		return fmt.Sprintf("%s %s%s without a misfire prove the repair: %s.", before, p.counted(p.More), each, p.takes())
	}
	return fmt.Sprintf("%s%s%s %s more without a misfire prove it: %s.", before, since, p.elsewhere(), p.counted(p.More), p.takes())
}

// elsewhere says what the runs in other conditions are worth.
func (p Proof) elsewhere() string {
	if p.Elsewhere == 0 {
		return ""
	}
	_, high := proof.Usual(0).Limits()
	return fmt.Sprintf(" The clean runs in other conditions are worth %.0f %% of a proof.", 100*p.Elsewhere/high)
}

// Bar returns how full the bar is, in per cent: towards the proof, or towards "not fixed" if the runs speak
// against the repair.
func (p Proof) Bar() int { return int(100 * math.Abs(p.Progress)) }

// Against reports whether the runs speak against the repair.
func (p Proof) Against() bool { return p.Progress < 0 }

// Towards says where the bar fills to.
func (p Proof) Towards() string {
	if p.Against() {
		return fmt.Sprintf("%d %% towards “not fixed”", p.Bar())
	}
	return fmt.Sprintf("%d %% towards “proven”", p.Bar())
}

// Missing says in short what is still to be run, "" if nothing is or nothing can be said.
func (p Proof) Missing() string {
	if !p.Known || p.State != proof.NotYet {
		return ""
	}
	return fmt.Sprintf("%s to go without a misfire: %s", p.counted(p.More), p.takes())
}
