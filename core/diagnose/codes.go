package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// codesKnown is what is known of the codes at one moment.
type codesKnown struct {
	random bool
	set    engine.Set
	// coils and injectors have a circuit code, by the cylinders they feed; lean and
	// rich banks have a code, bit b for bank b.
	coils, injectors engine.Set
	lean, rich       uint8
	// cleared is true if the codes were cleared before the run that this speaks
	// of: then a code that is absent counts, but a short drive may not set one.
	cleared bool
	// open is true if absence counts for nothing, since the unit was not read in
	// full since the last move or still held older codes.
	open bool
}

// any reports whether some code is known to be set.
func (k codesKnown) any() bool {
	return k.random || k.set|k.coils|k.injectors != 0 || k.lean|k.rich != 0
}

// logCodeLikelihood is the log ratio of the misfire codes of the cylinders that were found, when
// some are affected.
func logCodeLikelihood(k codesKnown, affected engine.Set) (out infer.PerRate) {
	for r := range out {
		p := knowledge.CodeStray + (1-knowledge.CodeStray)*k.likely(infer.Grid[r])
		for _, c := range affected.List() {
			if k.set.Has(c) {
				out[r] += math.Log(p / knowledge.CodeStray)
			} else if !k.open {
				out[r] += math.Log1p(-p) - math.Log1p(-knowledge.CodeStray)
			}
		}
	}
	return out
}

// likely is the chance that a misfire sets a code.
func (k codesKnown) likely(rate float64) float64 {
	p := knowledge.CodeMost * rate / (rate + knowledge.CodeHalf)
	if k.cleared {
		p *= knowledge.CodeRunAgain
	}
	return p
}

// logRandomCode is the log chance that no random misfire code came of some cylinders.
func logRandomCode(k codesKnown, e engine.Engine, affected engine.Set) (out infer.PerRate) {
	several := knowledge.RandomOne
	switch {
	case affected == e.Everything():
		several = knowledge.RandomAll
	case affected.Len() > 1:
		several = knowledge.RandomSome
	}
	for r := range out {
		out[r] = math.Log1p(-several * k.likely(infer.Grid[r]))
	}
	return out
}

// circuitRows lists what is read of a unit's circuits and mixture: whose code, of
// which cylinders, and whether it was set.
func (k codesKnown) circuitRows(e engine.Engine, history bool) []circuitRead {
	if !e.Scanned() {
		return nil
	}
	var all []circuitRead
	add := func(code knowledge.CodeKind, of engine.Set, set bool) {
		if set || !k.open {
			all = append(all, circuitRead{code, of, set})
		}
	}
	if history { // codes of a misfire that has gone
		for _, c := range e.All() {
			add(knowledge.GoneCode, engine.SetOf(c), k.set.Has(c))
		}
	}
	for _, coil := range e.Coils() {
		of := engine.SetOf(coil.Cylinders...)
		add(knowledge.CoilCircuit, of, k.coils&of != 0)
	}
	for _, c := range e.All() {
		add(knowledge.InjectorCircuit, engine.SetOf(c), k.injectors.Has(c))
	}
	for b := 1; b <= e.Banks(); b++ {
		of := e.BankSet(b)
		add(knowledge.BankLean, of, k.lean&(1<<b) != 0)
		add(knowledge.BankRich, of, k.rich&(1<<b) != 0)
	}
	return all
}

// circuitRead is one code of a circuit or of the mixture, set or not.
type circuitRead struct {
	code knowledge.CodeKind
	of   engine.Set
	set  bool
}

// bears is what it says of a fault that depends on an item feeding fed, and makes
// affected misfire.
func (c circuitRead) bears(b *knowledge.Beliefs, mode fault.ModeID, fed, affected engine.Set) (row likelihoodRow, ok bool) {
	stray := knowledge.StrayCode[c.code]
	p := stray
	if c.code == knowledge.GoneCode {
		stray, p = knowledge.CodeStray, knowledge.CodeStray
		if mode == fault.NoFaultNow {
			p = knowledge.CodeHistory
		}
	}
	if q := b.Code(c.code, mode); fed&c.of != 0 && affected != 0 {
		p = max(p, q)
	}
	if q := b.Code(c.code, ""); affected&c.of != 0 {
		p = max(p, q)
	}
	if p == stray {
		return row, false
	}
	if c.set {
		return likelihoodRow{odds: p, sound: stray, seen: 1}, true
	}
	return likelihoodRow{odds: 1 - p, sound: 1 - stray, seen: 1}, true
}
