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
		c.Title, c.Minutes, c.Step.Tools, c.Step.Cautions, c.Finished = "Proven: hand the vehicle back", 0, nil, nil, true
		if Attribution(a, e) == Several {
			c.Title = "Fixed, not attributed: hand the vehicle back"
		}
		c.Do = "Print the finding for the owner, and say what to watch for."
		c.Why = strings.TrimSpace(stillOff(a) + borrowed(a))
		return c
	}
	c.Title, c.Minutes, c.Step.Tools = "Run it: does the repair of "+evidence.UnitWords(v.Unit)+" hold?", ProofRun, nil
	c.Do = fmt.Sprintf("Run the engine %s, and record what it does.", inCondition(a))
	if ran(a, at) {
		c.Do = fmt.Sprintf("Run it again %s, on another day if you can, and record what it does.", inCondition(a))
	}
	c.Why = fmt.Sprintf("The repair is recorded in entry %d. Only clean running in the condition where it failed shows that it holds.", at) + borrowed(a)
	if !p.Known {
		c.Why += " Nothing was counted before the repair in this condition, so that no length of run proves it: set a date for a recheck."
	}
	return c
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
		c.Title, c.Do = "The planned work is done", "Print the finding for the owner. Everything is recorded."
		c.Why = strings.TrimSpace("The engine was run after the parts were renewed. " + stillOff(a))
		c.Minutes, c.Step.Cautions, c.Finished = 0, nil, true
	}
	return c
}
