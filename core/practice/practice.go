// Package practice lists questions on which good practitioners disagree, with their positions
// and what Glenmist does. The maker's instructions take precedence.
package practice

import "slices"

// Question is one of them.
type Question struct {
	Ask string
	// Schools lists the common answers.
	Schools []string
	// Here is what Glenmist advises or does.
	Here string
	// Steps lists the steps beside which it is shown.
	Steps  []string
	Source string
}

const table = "C: where practitioners disagree"

var plugSteps = []string{"swap.plug", "swap.split", "look.plug-and-boot", "look.plug-and-lead", "try.spare"}

// Questions lists them (C).
var Questions = []Question{
	{"One part at a time, or a split move?", []string{"one at a time: slower, never ambiguous", "split: coil to one cylinder, plug to another, one run"},
		"both are offered with what each can show; minutes count the covers, so the split move comes first where getting there is dear", []string{"swap.coil", "swap.plug", "swap.lead", "swap.split"}, table},
	{"Is a pulled plug used again?", []string{"never: hairline cracks", "yes, for a swap test"}, "for a test, yes; for the fix not after high distance", plugSteps, table},
	{"Engine cold or warm to pull plugs?", []string{"cold", "warm, hours after a drive", "as the maker says"}, "the maker's word; else cold on an alloy head, warm where carbon has seized it", plugSteps, table},
	{"Anti-seize on plug threads?", []string{"never: plated shell, and the torque is falsified", "always a dab on alloy heads", "by finish: bare or dark shells yes, bright plated no"},
		"the maker's word; else by finish. With it the dry torque no longer holds. Never on insulator or electrode: it conducts", plugSteps, table},
	{"Torque by wrench or by feel?", []string{"wrench", "turn by feel"}, "wrench; the angle is the fallback, by the type of seat", plugSteps, table},
	{"Gap of new plugs?", []string{"always checked", "fine-wire never touched"}, "always looked at, adjusted only where the design allows", []string{"try.spare", "fix.and-prove"}, table},
	{"Boots new with every set of plugs?", []string{"with every set", "when marked"}, "by age and mark", []string{"look.plug-and-boot", "fix.and-prove"}, table},
	{"Power tools on threads?", []string{"run down by power, finish by hand", "never"}, "never", plugSteps, table},
	{"Battery off?", []string{"always", "only for work on the harness"}, "only where the harness is worked on; what is lost from memory is warned of by the maker", []string{"look.connector"}, table},
	{"Coils back in their own places?", []string{"no matter, the same part", "keep the order"}, "tags keep it traceable at no effort; all back is one action", []string{"swap.coil", "put.back", "fix.and-prove"}, table},
	{"One part, or the set?", []string{"the rest are as old: the set", "renew what failed, keep good ones as spares"}, "ages stand beside each part; what goes with the part stands in the verdict", []string{"sign.verdict", "fix.and-prove"}, table},
	{"A number or a waveform for secondary kilovolts?", []string{"one figure for each cylinder", "the whole trace"}, "both: figures are typed in, and a scope file gives each cylinder its figures and its waveform", nil, table},
}

// For lists the questions that belong beside a step.
func For(step string) []Question {
	var of []Question
	for _, q := range Questions {
		if slices.Contains(q.Steps, step) {
			of = append(of, q)
		}
	}
	return of
}
