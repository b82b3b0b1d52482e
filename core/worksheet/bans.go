package worksheet

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/forbid"
)

// bans puts what ends a danger before the work, and a caution into each step that runs the engine. Those are
// the steps with the caution of a running engine.
func (b *builder) bans() {
	for i, ban := range forbid.Of(b.Job.Ledger.Replay(b.eng)) {
		for k := range b.steps {
			if s := &b.steps[k]; slices.Contains(s.Cautions, runHands) {
				s.Cautions = append([]string{"Do not start it before the danger is over: " + ban.Because + "."}, s.Cautions...)
			}
		}
		target := engine.Whole
		if ban.Tag != "" {
			target = ban.Tag.Home()
		}
		step := Step{ID: "prepare.danger-" + string(ban.Of) + "@" + string(target), Phase: Prepare, Target: target, Title: "Before it may turn again: " + ban.Because,
			Do: ban.Lifts + " Record it under Stop.", Why: "Until then, nothing may run or crank the engine.", Cautions: []string{makerFirst}, Minutes: 15}
		b.steps = slices.Insert(b.steps, i, step)
	}
}
