package plan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/proof"
	"glenmist/core/trouble"
	"glenmist/core/unit"
)

// prove is the card of a job with a signed verdict: the repair by its worksheet, or the run that shows
// whether it holds.
func prove(a *diagnose.Assessment, e evidence.Entry) Card {
	v := e.Verdict()
	what := evidence.UnitWords(v.Unit)
	if len(v.With) > 0 {
		what += " with " + unit.List(v.With)
	}
	c := Card{Step: Find(FixAndProve), Minutes: Find(FixAndProve).Minutes, Target: v.Unit, Condition: RunIn(a)}
	at := RepairedAt(a, v.Unit)
	if at == 0 {
		c.Worksheet = true
		c.Title = "Put " + evidence.UnitWords(v.Unit) + " right, then prove it"
		c.Do = fmt.Sprintf("Renew or put right %s by the worksheet, and record it.%s%s Run it %s.", what, onAgain(a), clearing(a), inCondition(a))
		c.Why = "A verdict is a judgement. It is proven by clean running where the misfire was, and a smooth idle alone does not do that." + borrowed(a)
		return c
	}
	c.Step.Cautions = Find(RunAfterMove).Cautions
	p := ProofOf(a, at)
	c.Proof = &p
	if p.State == proof.Proven {
		proven(a, e, at, &c)
		return c
	}
	c.Title, c.Minutes, c.Step.Tools = "Run it: does the repair of "+evidence.UnitWords(v.Unit)+" hold?", ProofRun, nil
	c.Do = fmt.Sprintf("Run the engine %s, and record what it does.", inCondition(a))
	if ran(a, at) {
		c.Do = fmt.Sprintf("Run it again %s, on another day if you can, and record what it does.", inCondition(a))
	}
	c.Why = fmt.Sprintf("The repair is recorded in entry %d. Only clean running in the condition where it failed shows that it holds.", at) + borrowed(a)
	if p.Condition == evidence.Wet {
		c.Do += " " + WithWater
		c.Step.Cautions = append(slices.Clone(c.Step.Cautions), WaterCaution)
	}
	_, days := p.Takes()
	switch due, set := recheckOf(a); {
	case set:
		c.Title = "Recheck on " + due.Due.Words() + ": does the repair hold?"
		c.Do = "The vehicle is in use until then. At the recheck, " + unit.Lower(c.Do)
	case !p.Known:
		c.Recheck = RecheckDays
		c.Why += " No misfire was counted before the repair in this condition, so that no length of run proves it. Set a date for a recheck."
	case days > 0:
		c.Recheck = max(RecheckDays, days)
		c.Why += fmt.Sprintf(" The proof takes about %d days of use: set a date for a recheck.", days)
	}
	return c
}

// Proof with water for a complaint of rain.
const (
	WithWater    = "Or use water: mist from a spray bottle over one place at a time, a few minutes each, with the engine idling."
	WaterCaution = "Water and high voltage: keep hands, sleeves and leads clear of it, and of the fan and belts. No jet, no water on a hot exhaust or into the intake. The maker's procedure comes first."
)

// RecheckDays is how long after a repair a recheck is proposed, in days (C; judgement).
const RecheckDays = 14

// proven fills in the card of a repair that the runs have proven: what the codes still say, then the end of
// the job.
func proven(a *diagnose.Assessment, signed evidence.Entry, at int, c *Card) {
	read, open, permanent := codesSince(a, at)
	if len(open) > 0 {
		c.Title, c.Minutes, c.Step.Tools = "A code is back: "+words(open), ProofRun, nil
		c.Do = fmt.Sprintf("Run it again %s, and count the misfires. Read the codes after it.", inCondition(a))
		c.Why = fmt.Sprintf("The counts prove the repair, but entry %d shows a code that was set since. One drive with a misfire sets a pending code.", read)
		return
	}
	c.Title, c.Minutes, c.Step.Tools, c.Step.Cautions, c.Finished = "Proven: hand the vehicle back", 0, nil, nil, true
	if Attribution(a, signed) == Several {
		c.Title = "Fixed, not attributed: hand the vehicle back"
	}
	c.Do = "Print the finding for the owner, say what to watch for, and close the job."
	c.Why = strings.TrimSpace(stillOff(a) + borrowed(a))
	if len(permanent) > 0 {
		c.Title = "Proven, but a permanent code is still there: " + words(permanent)
		c.Do = "Set a date for a recheck, and hand the vehicle back. Read the codes again then."
		c.Why = strings.TrimSpace("A permanent code cannot be cleared. The control unit erases it by itself, after drives in which its monitor has passed. " + c.Why)
		if _, set := recheckOf(a); !set {
			c.Recheck = RecheckDays
		}
	}
}

// codesSince returns the last read of codes since the last run after an entry: its number, 0 for none, with
// the codes that bear on a misfire. Without such a read, permanent codes are those of the last read at all.
func codesSince(a *diagnose.Assessment, at int) (seq int, open, permanent []trouble.Code) {
	after := false
	for _, m := range a.Moments {
		e := m.Entry
		after = after || e.Seq == at
		switch {
		case e.Codes() != nil:
			permanent = e.Codes().Permanent()
			if after {
				seq, open = e.Seq, e.Codes().Open()
			}
		case after && (e.Counters() != nil || e.Watch() != nil):
			seq, open = 0, nil
		}
	}
	return seq, open, permanent
}

// Standing lists the permanent codes that the last read still shows, in words; "" for none.
func Standing(a *diagnose.Assessment, at int) string {
	_, _, permanent := codesSince(a, at)
	return words(permanent)
}

func words(codes []trouble.Code) string {
	list := make([]string, len(codes))
	for i, c := range codes {
		list[i] = c.String()
	}
	return unit.List(list)
}

// recheckOf returns the recheck that is still to be made.
func recheckOf(a *diagnose.Assessment) (evidence.Recheck, bool) {
	var l evidence.Ledger
	for _, m := range a.Moments {
		l = append(l, m.Entry)
	}
	return l.DueRecheck()
}

// ran reports whether a run was recorded after an entry.
func ran(a *diagnose.Assessment, seq int) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Seq > seq && (m.Entry.Counters() != nil || m.Entry.Watch() != nil)
	})
}

// stillOff asks for the covers back that are off.
func stillOff(a *diagnose.Assessment) string {
	if len(a.Off) == 0 {
		return ""
	}
	return "Still off: " + unit.List(a.Off) + ". Fit everything, and start the engine once more."
}

// borrowed asks for spares back that are still fitted.
func borrowed(a *diagnose.Assessment) string {
	var words []string
	for _, at := range a.Now.Away() {
		if at.Tag.IsSpare() && at.At != engine.Bench {
			words = append(words, string(at.Tag))
		}
	}
	if len(words) == 0 {
		return ""
	}
	return fmt.Sprintf(" A borrowed part is still fitted: %s. Put it back, or record it as renewed.", unit.List(words))
}

// anyMisfire reports whether a misfire has been seen or coded.
func anyMisfire(a *diagnose.Assessment) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		codes := m.Entry.Codes()
		return misfired(m.Entry) || codes != nil && len(codes.Read) > 0
	})
}

// Unrenewed lists the planned parts that have not been renewed yet.
func Unrenewed(j job.Job) (all []part.Tag) {
	now := j.Ledger.Positions(j.Vehicle.Engine)
	for _, slot := range part.Slots(j.Vehicle.Engine) {
		if t := part.Of(slot.Kind, slot.Place); slices.Contains(j.Planned, slot.Kind) && !now.Renewed(t) {
			all = append(all, t)
		}
	}
	return all
}

// planned is the card of a visit without a misfire.
func planned(j job.Job, a *diagnose.Assessment) Card {
	c := Card{Step: Find(FixAndProve), Minutes: Find(FixAndProve).Minutes, Target: string(engine.Whole)}
	var kinds []string
	for _, k := range j.Planned {
		kinds = append(kinds, string(k)+"s")
	}
	if left := Unrenewed(j); len(left) > 0 {
		c.Worksheet = true
		c.Title = fmt.Sprintf("Renew the %s by the worksheet", unit.List(kinds))
		c.Do = fmt.Sprintf("Follow the worksheet, read the old parts as they come out, and record what was renewed. Still to do: %d.", len(left))
		c.Why = "The next misfire starts from a record of what was fitted, and of how the old parts looked."
		return c
	}
	last := 0
	for _, m := range a.Moments {
		if m.Entry.Renewal() != nil {
			last = m.Entry.Seq
		}
	}
	c.Title, c.Minutes, c.Step.Tools = "Run it: does it run clean?", ProofRun, nil
	c.Do, c.Why = "Run the engine warm, at idle and under load, and record what it does.", "A mistake made while fitting shows now."
	if ran(a, last) {
		c.Title, c.Do = "The planned work is done", "Print the finding for the owner, and close the job."
		c.Why = strings.TrimSpace("The engine was run after the parts were renewed. " + stillOff(a))
		c.Minutes, c.Step.Cautions, c.Finished = 0, nil, true
	}
	return c
}
