package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// Assessment is what the evidence of one job says.
type Assessment struct {
	Engine    engine.Engine
	FailsWhen evidence.Condition
	Moments   []evidence.Moment
	// Now is where every part sits.
	Now part.Positions
	// Worlds sum to 1.
	Worlds []World
	// Suspects are the repair units, the likeliest first; with "something else"
	// and "no fault now" they sum to 1.
	Suspects []Suspect
	// Suspicion is the probability that each cylinder misfires as the parts sit
	// now; index 0 is cylinder 1.
	Suspicion []float64
	// Decodes says what each move showed, in order.
	Decodes []Decode

	weighing *weighing
}

// LastDecode is what the last move showed, or nil when nothing was moved.
func (a *Assessment) LastDecode() *Decode {
	if len(a.Decodes) == 0 {
		return nil
	}
	return &a.Decodes[len(a.Decodes)-1]
}

// Assess weighs a job's evidence. The job must be valid. The suspects carry no
// reasons yet: [Assessment.Explain] adds them.
func Assess(j job.Job) *Assessment {
	e := j.Vehicle.Engine
	a := &Assessment{Engine: e, FailsWhen: j.FailsWhen, Moments: j.Ledger.Replay(e), Now: j.Ledger.Positions(e)}
	a.Worlds = worlds(e, a.Moments)
	w := newWeighing(a)
	all := w.posterior(everything)
	for s := range a.Worlds {
		a.Worlds[s].P, a.Worlds[s].Rate = all.p[s], all.rate[s]
	}
	a.Suspicion = make([]float64, e.Cylinders)
	for _, world := range a.Worlds {
		sick := world.sickAt(len(a.Moments), a.Now, e)
		for i := range a.Suspicion {
			if sick.has(engine.Cylinder(i + 1)) {
				a.Suspicion[i] += world.P
			}
		}
	}
	a.weighing = w
	a.Suspects = suspects(a)
	a.Decodes = decodes(a)
	return a
}

// Worst is the cylinder most likely to misfire as the parts sit now.
func (a *Assessment) Worst() engine.Cylinder {
	worst := engine.Cylinder(1)
	for i, p := range a.Suspicion {
		if p > a.Suspicion[worst-1] {
			worst = engine.Cylinder(i + 1)
		}
	}
	return worst
}

// weighing holds what the sums over the evidence have in common, so that one
// entry can be left out without working out the others again.
type weighing struct {
	a *Assessment
	// runs[i][sick] is the log probability of the i-th moment's counters or watch.
	runs []map[afflicted]perRate
	// base[s] is the sum over the runs in world s.
	base []perRate
	// codes and looks are the other likelihoods that have been worked out.
	codes map[codeKey]perRate
	looks map[lookItem][]float64
}

type codeKey struct {
	known   codesKnown
	sick    afflicted
	history bool
}

func newWeighing(a *Assessment) *weighing {
	w := &weighing{a: a, runs: make([]map[afflicted]perRate, len(a.Moments)), base: make([]perRate, len(a.Worlds)),
		codes: map[codeKey]perRate{}, looks: map[lookItem][]float64{}}
	for i := range a.Moments {
		if !a.counts(i) {
			continue
		}
		w.runs[i] = map[afflicted]perRate{}
		for s, world := range a.Worlds {
			addTo(&w.base[s], w.run(i, world), 1)
		}
	}
	return w
}

// counts says whether the i-th moment is a run whose figures can be used: not
// one whose counters still hold what was counted before a move.
func (a *Assessment) counts(i int) bool {
	m := a.Moments[i]
	return m.Entry.Watch != nil || m.Entry.Counters != nil && (m.Entry.Counters.Fresh || m.Epoch == 0)
}

func (w *weighing) run(i int, world World) perRate {
	sick := world.sickAt(i, w.a.Moments[i].At, w.a.Engine)
	if have, ok := w.runs[i][sick]; ok {
		return have
	}
	lik := w.a.runLikelihood(i, sick, showing(w.a.FailsWhen, w.a.Moments[i].Entry.Condition))
	w.runs[i][sick] = lik
	return lik
}

func (a *Assessment) runLikelihood(i int, sick afflicted, shows float64) perRate {
	entry := a.Moments[i].Entry
	if entry.Counters != nil {
		return counted(*entry.Counters, sick, shows)
	}
	return watched(*entry.Watch, a.Engine, sick, shows)
}

func (w *weighing) code(c codeEpoch, world World) perRate {
	key := codeKey{c.known, world.sickAt(c.moment, w.a.Moments[c.moment].At, w.a.Engine), c.history}
	lik, ok := w.codes[key]
	if !ok {
		lik = coded(c.known, w.a.Engine, key.sick, c.history)
		w.codes[key] = lik
	}
	return lik
}

// look is the log probability of one finding in each world.
func (w *weighing) look(l lookItem) []float64 {
	logs, ok := w.looks[l]
	if !ok {
		logs = make([]float64, len(w.a.Worlds))
		for s, world := range w.a.Worlds {
			logs[s] = w.a.lookLikelihood(l, world)
		}
		w.looks[l] = logs
	}
	return logs
}

type posterior struct {
	p    []float64
	rate []perRate
}

// keep says which moments count.
type keep func(moment int) bool

func everything(int) bool { return true }

func without(skip int) keep { return func(i int) bool { return i != skip } }

func alone(one int) keep { return func(i int) bool { return i == one } }

// posterior is the probability of every world by the moments that are kept: all
// of them, all but one, or one alone.
func (w *weighing) posterior(kept keep) posterior {
	a := w.a
	codes, looks := a.codeEpochs(kept), a.lookItems(kept)
	var dropped, used []int // the runs that are not kept, and those that are
	for i := range w.runs {
		switch {
		case w.runs[i] == nil:
		case kept(i):
			used = append(used, i)
		default:
			dropped = append(dropped, i)
		}
	}
	logs := make([]perRate, len(a.Worlds))
	all := make([]float64, 0, rates*len(a.Worlds))
	seen := make([][]float64, len(looks))
	for k, l := range looks {
		seen[k] = w.look(l)
	}
	for s, world := range a.Worlds {
		lik := w.base[s]
		if len(dropped) <= len(used) {
			for _, i := range dropped {
				addTo(&lik, w.run(i, world), -1)
			}
		} else {
			lik = perRate{}
			for _, i := range used {
				addTo(&lik, w.run(i, world), 1)
			}
		}
		for _, c := range codes {
			addTo(&lik, w.code(c, world), 1)
		}
		flat := math.Log(world.prior) - math.Log(rates)
		for k := range looks {
			flat += seen[k][s]
		}
		for r := range lik {
			lik[r] += flat
			all = append(all, lik[r])
		}
		logs[s] = lik
	}
	total := logSum(all)
	out := posterior{make([]float64, len(logs)), make([]perRate, len(logs))}
	for s, lik := range logs {
		for r, x := range lik {
			p := math.Exp(x - total)
			out.p[s] += p
			out.rate[s][r] = p
		}
		for r := range out.rate[s] {
			if out.p[s] > 0 {
				out.rate[s][r] /= out.p[s]
			}
		}
	}
	return out
}

func addTo(sum *perRate, more perRate, times float64) {
	for r := range sum {
		sum[r] += times * more[r]
	}
}

// SetAside says why a moment is noted and not weighed, or nothing when it is.
func (a *Assessment) SetAside(i int) string {
	m := a.Moments[i]
	switch {
	case m.Entry.Counters != nil && !a.counts(i):
		return "not weighed: the counters still held what was counted before the move"
	case m.Entry.Codes != nil && len(m.Entry.Codes.Read) > 0:
		weighed := a.codeEpochs(everything)
		for _, c := range weighed {
			if a.Moments[c.moment].Epoch != m.Epoch {
				continue
			}
			for _, r := range m.Entry.Codes.Read {
				cyl, ok := r.Code.MisfireCylinder()
				if ok && c.known.set.has(cyl) || r.Code == trouble.RandomMisfire && c.known.random {
					return ""
				}
			}
		}
		for _, r := range m.Entry.Codes.Read {
			if _, weighs := r.Code.Meaning(); weighs {
				return "not weighed: permanent, or not cleared after the move, so it may be an old code"
			}
		}
		return "noted, not weighed: no code that names a misfire"
	}
	return ""
}

// codeEpoch is what the reads between two moves tell together.
type codeEpoch struct {
	moment  int // the last read
	known   codesKnown
	history bool
}

// codeEpochs joins the reads of codes between moves: a code that is read twice
// tells no more than once. After a move only what cannot be old counts.
func (a *Assessment) codeEpochs(kept keep) []codeEpoch {
	var out []codeEpoch
	var earlier afflicted
	earlierRandom, cleared, epoch := false, true, -1
	for i, m := range a.Moments {
		if m.Entry.Move != nil {
			cleared = m.Entry.Move.Cleared
		}
		if m.Entry.Codes == nil || !kept(i) {
			continue
		}
		if m.Epoch != epoch {
			if n := len(out); n > 0 {
				earlier |= out[n-1].known.set
				earlierRandom = earlierRandom || out[n-1].known.random
			}
			epoch = m.Epoch
			out = append(out, codeEpoch{known: codesKnown{cleared: epoch > 0 && cleared, open: epoch > 0 && !cleared}, history: epoch == 0})
		}
		now := &out[len(out)-1]
		now.moment = i
		for _, r := range m.Entry.Codes.Read {
			if epoch > 0 && r.State == trouble.Permanent {
				continue
			}
			if c, ok := r.Code.MisfireCylinder(); ok && (!now.known.open || !earlier.has(c)) {
				now.known.set |= only(c)
			}
			if r.Code == trouble.RandomMisfire && (!now.known.open || !earlierRandom) {
				now.known.random = true
			}
		}
	}
	return out
}

// lookItem is one finding that counts.
type lookItem struct {
	moment int
	item   evidence.Seen
}

// lookItems lists the findings that count: of several looks at one item the
// first odd one, else the first, since a look repeated tells little more.
func (a *Assessment) lookItems(kept keep) []lookItem {
	var out []lookItem
	at := map[evidence.Seen]int{}
	for i, m := range a.Moments {
		if m.Entry.Look == nil || !kept(i) {
			continue
		}
		for _, item := range m.Entry.Look.Items {
			key := evidence.Seen{Tag: item.Tag, Place: item.Place}
			have, ok := at[key]
			switch {
			case !ok:
				at[key] = len(out)
				out = append(out, lookItem{i, item})
			case item.Finding.Odd() && !out[have].item.Finding.Odd():
				out[have] = lookItem{i, item}
			}
		}
	}
	return out
}

func (a *Assessment) lookLikelihood(l lookItem, w World) float64 {
	ran := []part.Positions{part.Home(a.Engine)}
	for i, m := range a.Moments[:l.moment] {
		ranHere := m.Entry.Counters != nil || m.Entry.Watch != nil || m.Entry.Codes != nil
		if ranHere && (w.CuredAfter < 0 || i <= w.CuredAfter) && !ran[len(ran)-1].Equal(m.At) {
			ran = append(ran, m.At)
		}
	}
	cured := w.CuredAfter >= 0 && l.moment > w.CuredAfter
	return looked(l.item, bearing(l.item, w, a.Moments[l.moment].At, ran, cured))
}
