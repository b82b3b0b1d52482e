package worksheet

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/part"
	"glenmist/core/plan"
)

// after adds what follows the repair.
func (b *builder) after() {
	renewal := false
	for _, t := range b.targets {
		renewal = renewal || t.tag != ""
	}
	if renewal {
		b.step(Step{ID: "after.renewal", Phase: After, Target: engine.Whole, Title: "Record what was renewed", Do: "Record each new part with its number, and what becomes of the old one. Keep the old parts for the owner to see.",
			Why: "The age of the new part counts from today, and the old evidence stays with the old part.", Minutes: 2})
	}
	if b.eng.Scanned() {
		b.step(Step{ID: "after.clear", Phase: After, Target: engine.Whole, Title: "Save the codes, then clear them and zero the counters", Do: "Save codes and freeze frame once more. Then clear them, and set the misfire counters to zero.",
			Why: "Clearing erases the freeze frame and readiness. New counts show the repair alone.", Tools: []string{"scan tool"}, Minutes: 2})
	}
	when := "in the condition in which it failed"
	if len(b.Job.Planned) > 0 {
		when = "warm, at idle and under load"
	}
	b.step(Step{ID: "after.run", Phase: After, Target: engine.Whole, Title: "Run it, and record what it does", Do: "Run the engine " + when + ". Record counts or what you noticed.", Why: "A smooth idle alone proves nothing.", Cautions: []string{runHands}, Minutes: plan.ProofRun})
	for _, d := range b.due() {
		b.step(Step{ID: "after.due-" + slug(string(d.Kind)), Phase: After, Target: engine.Whole, Title: "Tell the owner: " + d.Words, Do: fmt.Sprintf("Renewed now they cost about %.0f. In a visit of their own they cost about %.0f.", d.Now, d.Later), Why: d.Age + ".", Minutes: 1})
	}
}

// dueFrom is the share of its life from which a part is named as due (C; judgement).
const dueFrom = 0.85

// visitMinutes is the time of a second visit besides the work: booking, moving, a test drive (C;
// judgement).
const visitMinutes = 30.0

// Due is a kind of part that is due by age, with its cost now and in a visit of its own.
type Due struct {
	Kind  part.Kind
	Words string
	Age   string
	// Now and Later are costs in the workshop's currency: Now shares the covers that are off anyway.
	Now, Later float64
}

// due lists what else is due by distance or years.
func (b *builder) due() (all []Due) {
	for _, k := range b.eng.PartKinds() {
		n, words := 0, ""
		access := 0.0
		var off []string
		for _, c := range b.covers() {
			off = append(off, c.Name)
		}
		extra := 0.0 // covers that are not off for this repair
		for _, slot := range part.Slots(b.eng) {
			if slot.Kind != k || slices.ContainsFunc(b.targets, func(t target) bool { return t.kind == k && t.place == slot.Place }) {
				continue
			}
			r, ok := part.For(b.records, k, slot.Place)
			if !ok {
				continue
			}
			age := r.AgeAt(b.Job.Distance, b.Job.Opened)
			if math.IsNaN(age.Used) || age.Used < dueFrom {
				continue
			}
			n++
			words = age.Words()
			_, minutes := b.eng.Access(slot.Place, nil)
			access = max(access, minutes)
			_, minutes = b.eng.Access(slot.Place, off)
			extra = max(extra, minutes)
		}
		if n == 0 {
			continue
		}
		r := plan.RepairOf(b.Beliefs, k)
		rate := cmp.Or(b.HourlyRate, plan.Default.HourlyRate) / 60
		work := float64(n) * (r.Price + r.Minutes*rate)
		all = append(all, Due{Kind: k, Words: fmt.Sprintf("%s due", many(n, string(k))), Age: words, Now: work + extra*rate, Later: work + (access+visitMinutes)*rate})
	}
	return all
}

// many counts things: "1 plug is", "4 plugs are".
func many(n int, thing string) string {
	if n == 1 {
		return "1 " + thing + " is"
	}
	return fmt.Sprintf("%d %ss are", n, thing)
}

// Cost sums a worksheet in minutes and in the workshop's currency: planned, and done so far.
type Cost struct {
	Minutes, DoneMinutes float64
	Parts, DoneParts     float64
	Labour, DoneLabour   float64
}

// Total returns the planned sum.
func (c Cost) Total() float64 { return c.Parts + c.Labour }

// DoneTotal returns the sum of what is done.
func (c Cost) DoneTotal() float64 { return c.DoneParts + c.DoneLabour }

// cost sums the steps that are not skipped, and the parts. Parts count as done once their renewal is
// recorded.
func (b *builder) cost(s *Sheet) (c Cost) {
	for _, step := range s.Steps {
		if step.State.Skipped {
			continue
		}
		c.Minutes += step.Minutes
		if step.State.Done {
			c.DoneMinutes += step.Minutes
		}
	}
	for _, l := range s.Parts {
		c.Parts += l.Price
		if b.now.Where(l.Out) == engine.Bench && l.Out.IsOriginal() && b.now.Renewed(l.Out) {
			c.DoneParts += l.Price
		}
	}
	rate := cmp.Or(b.HourlyRate, plan.Default.HourlyRate) / 60
	c.Labour, c.DoneLabour = c.Minutes*rate, c.DoneMinutes*rate
	return c
}
