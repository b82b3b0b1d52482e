package trial

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
)

// The baseline policies read the code, then renew or exchange parts in a fixed order until the engine runs clean. They
// use the same minutes, prices and proof run as the other policies, but no posterior.

// shopJob is one job under a baseline policy.
type shopJob struct {
	s    Setup
	b    *simulator.Engine
	rng  simulator.Rand
	at   part.Positions
	when evidence.Condition
	off  []string // covers that are off
	r    Result
	used map[part.Tag]bool // spares
}

func (s Setup) shopJob(rng simulator.Rand) *shopJob {
	s.Engine = s.Engine.Derive()
	w := &shopJob{s: s, b: s.simulated(rng), rng: rng, at: part.Home(s.Engine), used: map[part.Tag]bool{}}
	w.when = s.intake(w.b, rng).FailsWhen
	return w
}

// partsFirst renews the plug of the misfiring cylinder, then its coil, then all plugs and leads or boots. A proof run
// follows each.
func partsFirst(s Setup, rng simulator.Rand) Result {
	w := s.shopJob(rng)
	c := w.worst()
	for _, parts := range [][]part.Tag{w.of(c, engine.Plug), w.of(c, engine.Coil, engine.Boot), w.all(engine.Plug, engine.Boot, engine.Lead)} {
		if w.renew(parts) {
			return w.proven()
		}
	}
	return w.gaveUp()
}

// swapFirst exchanges the coil, then the plug, with another cylinder, and renews the part that the misfire follows. If
// it follows neither, plugs, boots and leads are renewed.
func swapFirst(s Setup, rng simulator.Rand) Result {
	w := s.shopJob(rng)
	c := w.worst()
	for _, of := range []struct {
		kind, along engine.Kind
		step        string
	}{{engine.Coil, engine.Boot, plan.SwapCoil}, {engine.Plug, "", plan.SwapPlug}} {
		tag := w.at.Serving(of.kind, c)
		to, ok := w.partner(of.kind, c)
		if !ok {
			continue
		}
		kinds := []engine.Kind{of.kind}
		if of.along != "" && w.s.Engine.OwnCoils() && slices.Contains(w.s.Engine.PartKinds(), of.along) {
			kinds = append(kinds, of.along)
		}
		w.move(w.at.Swap(w.at.Where(tag), to, kinds...), plan.Find(of.step).Minutes)
		now := w.most(3500)
		switch {
		case now == 0: // no misfire: the shop stops here and makes the proof run
			w.r.Minutes += plan.ProofRun
			if w.proof() {
				return w.proven()
			}
		case slices.Contains(w.at.Feeds(tag), now) && now != c:
			parts := []part.Tag{tag}
			if len(kinds) > 1 {
				parts = append(parts, w.at.In(of.along, w.at.Where(tag)))
			}
			if w.renew(parts) {
				return w.proven()
			}
			c = w.worst()
		}
	}
	for _, parts := range [][]part.Tag{w.of(c, engine.Plug, engine.Boot, engine.Lead), w.all(engine.Plug, engine.Boot, engine.Lead)} {
		if w.renew(parts) {
			return w.proven()
		}
	}
	return w.gaveUp()
}

// worst returns the misfiring cylinder, by codes and counters or by watching, and adds the minutes.
func (w *shopJob) worst() engine.Cylinder {
	w.r.Steps++
	if w.s.Engine.Scanned() {
		w.r.Minutes += plan.Find(plan.ReadCodes).Minutes + plan.Find(plan.CountMisfires).Minutes
	} else {
		w.r.Minutes += plan.Find(plan.FindCylinder).Minutes
	}
	return max(1, w.most(drive))
}

// most runs the engine and returns the cylinder with the most misfires counted, or 0 after a clean run.
func (w *shopJob) most(revolutions int) engine.Cylinder {
	run := w.b.Run(w.at, w.when, revolutions)
	n := slices.Max(run.Counted)
	if n <= passes {
		return 0
	}
	return engine.Cylinder(slices.Index(run.Counted, n) + 1)
}

// of lists the parts of some kinds that serve a cylinder.
func (w *shopJob) of(c engine.Cylinder, kinds ...engine.Kind) (all []part.Tag) {
	for _, k := range kinds {
		if t := w.at.Serving(k, c); t != "" && !slices.Contains(all, t) {
			all = append(all, t)
		}
	}
	return all
}

// all lists the parts of some kinds that serve any cylinder.
func (w *shopJob) all(kinds ...engine.Kind) (all []part.Tag) {
	for _, c := range w.s.Engine.All() {
		for _, t := range w.of(c, kinds...) {
			if !slices.Contains(all, t) {
				all = append(all, t)
			}
		}
	}
	return all
}

// partner is the place of another part of a kind.
func (w *shopJob) partner(k engine.Kind, c engine.Cylinder) (engine.Place, bool) {
	mine := w.at.Where(w.at.Serving(k, c))
	for _, slot := range w.at.Slots() {
		if slot.Kind == k && slot.Place != mine && w.at.In(k, slot.Place) != "" {
			return slot.Place, true
		}
	}
	return "", false
}

// reach removes the covers above a place and adds the minutes.
func (w *shopJob) reach(p engine.Place) {
	covers, minutes := w.s.Engine.Access(p, w.off)
	for _, c := range covers {
		w.off = append(w.off, c.Name)
	}
	w.r.Minutes += minutes
}

// move moves parts and adds the minutes.
func (w *shopJob) move(parts []part.Relocation, minutes float64) {
	w.r.Steps++
	w.r.Minutes += minutes
	for _, r := range parts {
		w.reach(w.at.Where(r.Tag))
	}
	w.set(parts)
}

func (w *shopJob) set(parts []part.Relocation) {
	next, err := w.at.Move(parts)
	if err != nil {
		return
	}
	moveParts(w.b, w.s.Engine, w.at, parts)
	w.at = next
}

// renew replaces the parts that have not been renewed yet, makes the proof run, and reports whether it passed.
func (w *shopJob) renew(parts []part.Tag) bool {
	var fitted []part.Tag
	for _, t := range parts {
		place := w.at.Where(t)
		in, ok := w.at.FreeSpare(t.Kind(), func(t part.Tag) bool { return w.used[t] })
		if t.IsSpare() || place == engine.Bench || !ok {
			continue
		}
		w.reach(place)
		w.used[in] = true
		w.set(w.at.Replace(t, in))
		w.r.Minutes += plan.RepairOf(knowledge.Shipped, t.Kind()).Minutes
		fitted = append(fitted, t)
	}
	if len(fitted) == 0 {
		return false
	}
	w.r.Steps++
	coil := slices.ContainsFunc(fitted, func(t part.Tag) bool { return t.Kind() == engine.Coil })
	for _, t := range fitted {
		switch {
		case w.s.faulty(t):
			w.r.True = w.r.True || !w.r.Reached
		case coil && t.Kind() == engine.Boot: // it comes with its coil
		default:
			w.r.Vain++
		}
	}
	w.r.Reached = true
	w.r.Minutes += plan.ProofRun
	return w.proof()
}

// faulty reports whether a part holds a hidden fault.
func (s Setup) faulty(t part.Tag) bool {
	for i := range s.Hidden {
		if s.Hidden[i].Includes(t) {
			return true
		}
	}
	return false
}

// proof makes the proof run.
func (w *shopJob) proof() bool {
	_, passed := w.s.prove(w.b, w.at, w.when)
	return passed
}

func (w *shopJob) proven() Result {
	w.r.Proven = true
	w.r.Right = w.r.Vain == 0
	return w.r
}

func (w *shopJob) gaveUp() Result {
	w.r.Minutes += plan.Find(plan.EndUnresolved).Minutes
	return w.r
}
