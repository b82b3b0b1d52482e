package diagnose

import (
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
)

// cameBack marks the item of a comeback.
const cameBack = "comeback"

// leastCarried bounds the factor of a fault that the earlier job has ruled out. It may have come since.
const leastCarried = 0.02

// comebackItems passes on the evidence of an earlier job on the same trouble.
func comebackItems(_ *Assessment, i int, take taker) {
	take(flatItem{with: cameBack}, flatItem{moment: i, with: cameBack}, newest)
}

// site is a mode at the place where its part or site is now.
type site struct {
	mode fault.ModeID
	at   engine.Place
}

// siteOf returns the mode and place of a fault with its part at home.
func siteOf(f *Fault) site {
	at := f.Hypothesis.Place
	if f.Hypothesis.Tag != "" {
		at = f.Hypothesis.Tag.Home()
	}
	return site{f.Hypothesis.Mode.ID, at}
}

// carried is how the evidence of an earlier job shifts a fault. With probability w its verdict was wrong and
// the trouble is still the same, at the shares c of its end; otherwise the trouble is new, at the prior
// shares. The likelihood ratio is w·c/prior + 1 − w.
func (a *Assessment) carried(i int, f *Fault) (likelihoodRow, bool) {
	c := a.Moments[i].Entry.Comeback()
	sum := 0.0
	for _, one := range c.Carried {
		sum += one.P
	}
	if sum == 0 {
		return likelihoodRow{}, false
	}
	of, p, prior := siteOf(f), 0.0, 0.0
	for _, one := range c.Carried {
		if one.Fault == string(of.mode) && one.Place == of.at {
			p += one.P
		}
	}
	prior = a.priors()[of]
	odds := 1 - c.Wrong
	if prior > 0 {
		odds += c.Wrong * p / sum / prior
	}
	return likelihoodRow{odds: max(leastCarried, odds), sound: 1, seen: 1}, true
}

// priors returns the prior shares of all faults by mode and place.
func (a *Assessment) priors() map[site]float64 {
	if a.sites == nil {
		a.sites = map[site]float64{}
		for k := range a.weighing.faults {
			f := &a.weighing.faults[k]
			a.sites[siteOf(f)] += f.prior
		}
	}
	return a.sites
}

// Carry lists what the evidence says of the faults that can still be there, for a job that comes back: by
// mode and by where its part sits now. Parts on the bench and the unit that was put right are left out.
func (a *Assessment) Carry(putRight string) (all []evidence.Carried) {
	at := map[site]int{}
	for k := range a.Faults {
		f := &a.Faults[k]
		h := &f.Hypothesis
		if h.Mode.Unit == fault.NoFault || f.P < leastWorthCarrying {
			continue
		}
		place := h.Place
		if h.Tag != "" {
			place = a.Now.Where(h.Tag)
		}
		if place == engine.Bench || h.Tag == "" && evidence.UnitKey(h.Unit(), place) == putRight {
			continue
		}
		of := site{h.Mode.ID, place}
		i, ok := at[of]
		if !ok {
			i = len(all)
			at[of] = i
			all = append(all, evidence.Carried{Fault: string(of.mode), Place: of.at})
		}
		all[i].P += f.P
	}
	for i := range all {
		all[i].P = min(1, all[i].P)
	}
	return all
}

// leastWorthCarrying is the probability below which a fault of an earlier job is not listed.
const leastWorthCarrying = 1e-7
