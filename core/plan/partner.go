package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Partner is where to exchange a part with, and why there.
type Partner struct {
	// Place is where the part goes: a cylinder, a coil, or the bench for a spare.
	Place engine.Place
	// Spare is the part that comes in when Place is the bench.
	Spare part.Tag
	Why   []string
}

// Rules of a partner with what each costs; none forbids (C; judgement).
const (
	busy         = 0.10 // suspicion from which a cylinder counts as in trouble itself
	costBusy     = 10   // for each whole of suspicion
	costOwn      = 5    // misfires of its own
	costBeside   = 1    // can share a gasket or an air leak
	costTower    = 1    // stands beside it in the cap
	costCircuit  = 12   // fires on the same coil: an open starves both, wherever it sits
	costMisfit   = 20   // another design
	costReach    = 4    // out of a lead's reach
	costMinute   = 0.1  // covers to take off, a minute
	spareInstead = 10   // from which a spare is the better partner
)

// candidatePlace is a place with its cost and what speaks for and against.
type candidatePlace struct {
	place      engine.Place
	cost       float64
	pros, cons []string
}

// PartnerOf is the best place to exchange a part with, and why; ok is false for a
// part that lies on the bench.
func PartnerOf(a *diagnose.Assessment, t part.Tag) (p Partner, ok bool) {
	if at := a.Now.Where(t); at == "" || at == engine.Bench {
		return Partner{}, false
	}
	return partner(a, t), true
}

// partner ranks the other places of a part of one kind. taken lists places that
// are spoken for. Where no place suits, a known-good spare is the partner.
func partner(a *diagnose.Assessment, t part.Tag, taken ...engine.Place) Partner {
	k, home := t.Kind(), a.Now.Where(t)
	own := engine.SetOf(a.Now.Feeds(t)...)
	var best *candidatePlace
	for _, slot := range a.Now.Slots() {
		if slot.Kind != k || slot.Place == home || slices.Contains(taken, slot.Place) {
			continue
		}
		if p := judge(a, t, own, slot); best == nil || p.cost < best.cost-1e-9 {
			best = &p
		}
	}
	spare := Partner{Place: engine.Bench}
	spare.Spare, _ = a.Now.FreeSpare(k, func(s part.Tag) bool { return used(a, s) })
	switch {
	case best == nil:
		spare.Why = []string{fmt.Sprintf("there is no other %s to exchange it with, so a known-good spare is the partner", k)}
		return spare
	case best.cost >= spareInstead && spare.Spare != "" && len(taken) == 0:
		spare.Why = append([]string{"a known-good spare, since no place suits"}, best.cons...)
		return spare
	}
	return Partner{Place: best.place, Why: append(best.pros, best.cons...)}
}

func used(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool {
		return m.Entry.Move() != nil && slices.ContainsFunc(m.Entry.Move().Parts, func(r part.Relocation) bool { return r.Tag == t })
	})
}

func judge(a *diagnose.Assessment, t part.Tag, own engine.Set, slot part.Slot) candidatePlace {
	k, home := t.Kind(), a.Now.Where(t)
	p := candidatePlace{place: slot.Place}
	add := func(cost float64, against, favour string) {
		switch {
		case cost > 0:
			p.cost += cost
			p.cons = append(p.cons, against)
		case favour != "":
			p.pros = append(p.pros, favour)
		}
	}
	there := slot.Set()
	worst, counted := 0.0, 0
	beside, tower, apart, across := false, false, 0, false
	counts := a.LastCounts()
	for _, c := range there.List() {
		worst = max(worst, a.Suspicion[c-1])
		if counts != nil {
			counted = max(counted, counts.Counts[c-1])
		}
		for _, mine := range own.List() {
			beside = beside || slices.Contains(a.Engine.Neighbours(mine), c)
			tower = tower || slices.Contains(a.Engine.FiringNeighbours(mine), c)
			apart = max(apart, a.Engine.Apart(mine, c))
			across = across || a.Engine.BankOf(mine) != a.Engine.BankOf(c)
		}
	}
	suspicion := 0.0
	if worst > busy {
		suspicion = costBusy * worst
	}
	add(suspicion, fmt.Sprintf("it is not free of suspicion itself, at %s", unit.Percent(worst)), "no misfire of its own")
	if counted >= evidence.Enough {
		add(costOwn, fmt.Sprintf("it counted %s misfires of its own", unit.Thousands(counted)), "")
	}
	if own.Len() == 1 {
		pair := a.Engine.Circuit(own.First()) == a.Engine.Circuit(there.First()) && a.Engine.Circuit(own.First()).Len() > 1
		add(cost(costCircuit, pair), "it fires on the same coil", "")
		add(cost(costBeside, beside), fmt.Sprintf("it stands beside %s and can share a gasket or an air leak", own), fmt.Sprintf("not beside %s, so no gasket or air leak is shared", own))
		if a.Engine.Ignition == engine.Distributor {
			add(cost(costTower, tower), "its tower stands beside the other in the cap", "")
		}
		if k == engine.Lead {
			add(cost(costReach, apart > 2 || across), "the lead may not reach that far", "within the lead's reach")
		}
	}
	mine, knownMine := part.For(a.Records, k, home)
	theirs, knownTheirs := part.For(a.Records, k, slot.Place)
	if knownMine && knownTheirs {
		fits, why := part.Fits(mine, theirs)
		add(cost(costMisfit, !fits), why, "")
		if fits && mine.Number != "" && mine.Number == theirs.Number {
			p.pros = append(p.pros, "the same part number")
		}
	}
	covers, minutes := a.Engine.Access(slot.Place, append(slices.Clone(a.Off), names(a, home)...))
	if len(covers) > 0 {
		add(costMinute*minutes, fmt.Sprintf("%s must come off too, %g min", coverNames(covers), minutes), "")
	} else if len(a.Engine.Behind(slot.Place)) > 0 {
		p.pros = append(p.pros, "behind what is off anyway")
	}
	return p
}

func cost(c float64, when bool) float64 {
	if when {
		return c
	}
	return 0
}

// names lists the covers that come off for a place.
func names(a *diagnose.Assessment, p engine.Place) []string {
	covers, _ := a.Engine.Access(p, a.Off)
	var all []string
	for _, c := range covers {
		all = append(all, c.Name)
	}
	return all
}

func coverNames(covers []engine.Cover) string {
	var all []string
	for _, c := range covers {
		all = append(all, c.Name)
	}
	return unit.List(all)
}
