package finding

import (
	"fmt"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/forbid"
	"glenmist/core/plan"
	"glenmist/core/proof"
	"glenmist/core/unit"
	"glenmist/web/jobs"
)

// cautionsOf lists what the owner must not do: turn an engine that a finding forbids to turn, or drive while the
// lamp flashes.
func cautionsOf(it jobs.Loaded) (words []string) {
	for _, b := range forbid.Of(it.Assessment().Moments) {
		words = append(words, fmt.Sprintf("Do not start the engine, %s. %s", b.Because, b.Lifts))
	}
	if slices.Contains(it.Record.Job.Signs, evidence.LampFlashing) {
		words = append(words, "Do not drive while the engine lamp flashes: unburnt fuel overheats the catalyst, which can set fire to what is near it.")
	}
	return words
}

// provenWords says in a few words whether clean running has proven the repair.
func provenWords(it jobs.Loaded) string {
	signed, ok := it.Record.Job.Signed()
	if !ok {
		return "not yet proven by a run"
	}
	a := it.Assessment()
	at := plan.RepairedAt(a, signed.Verdict().Unit)
	switch {
	case at == 0:
		return "not yet proven by a run"
	case plan.ProofOf(a, at).State == proof.NotFixed:
		return "refuted: the misfire is back"
	case plan.ProofOf(a, at).State != proof.Proven:
		return "not yet proven by a run"
	case plan.Attribution(a, signed) == plan.Several:
		return "fixed by clean running, and not attributed"
	}
	return "proven by clean running"
}

// proofWords says to the owner how sure the repair is, what is still to come, and what to watch for.
func proofWords(it jobs.Loaded, v evidence.Verdict) (words []string) {
	a := it.Assessment()
	at := plan.RepairedAt(a, v.Unit)
	if at == 0 {
		return []string{"Run the engine in the condition where it failed, long enough to prove it: until then it is found and not yet proven."}
	}
	p := plan.ProofOf(a, at)
	switch {
	case p.State == proof.NotFixed:
		return []string{"The repair did not hold: the misfire is back. The search goes on from all that was found."}
	case p.State == proof.Proven:
		words = append(words, fmt.Sprintf("The repair is proven. %s It holds with a probability of %s.", p.Needs(), unit.Percent(p.Fixed)))
	case p.Known:
		words = append(words, "The repair is not yet proven. "+p.Needs())
	default:
		words = append(words, "The repair is not yet proven, and no count from before can prove it.")
	}
	if codes := plan.Standing(a, at); codes != "" {
		words = append(words, fmt.Sprintf("Permanent code %s is still there. It goes by itself after some drives, and cannot be cleared.", codes))
	}
	if due, ok := it.Record.Job.Ledger.DueRecheck(); ok {
		words = append(words, fmt.Sprintf("Bring it back for a recheck on %s.", due.Due.Words()))
	}
	return append(words, watchFor(p.Condition))
}

// watchFor says to the owner when to come back at once.
func watchFor(when evidence.Condition) string {
	if when == evidence.AnyCondition {
		return "Come back if the lamp comes on or the engine shakes as before."
	}
	return fmt.Sprintf("Watch for it %s, where it failed. Come back if the lamp comes on or the engine shakes as before.", when.Words())
}
