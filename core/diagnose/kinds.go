package diagnose

import (
	"math"
	"slices"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
	"glenmist/core/plug"
	"glenmist/core/trouble"
)

// kindOf is how entries of one kind are weighed. Fields that do not apply are nil.
type kindOf struct {
	// ran is true if the engine ran for it.
	ran bool
	// run is what a run showed on each cylinder; counts says whether it can be used.
	run    func(e evidence.Entry, eng engine.Engine) *runTable
	counts func(m evidence.Moment) bool
	// answers lists the answers of tests.
	answers func(a *Assessment, m evidence.Moment) []flatItem
	// items passes on what else is weighed at the i-th moment.
	items func(a *Assessment, i int, take taker)
	// trims are fuel trims that were read.
	trims func(e evidence.Entry) []trouble.Trim
	// surprise is the probability of what the entry says, or of anything as unlikely, given some joint
	// hypotheses and the moments that are kept.
	surprise func(a *Assessment, i int, post []JointHypothesis, kept keep) float64
}

// taker takes an item as the answer to a question; of two answers it keeps the one that tells more.
type taker func(asked, item flatItem, tells func(flatItem) float64)

// kinds states how each kind of entry is weighed. A kind that is not listed, such as a move or a verdict,
// is no evidence by itself.
var kinds map[evidence.Kind]kindOf

// Weighs reports whether a kind of entry is evidence by itself.
func Weighs(k evidence.Kind) bool {
	_, ok := kinds[k]
	return ok
}

func init() { // its functions come back to it
	kinds = map[evidence.Kind]kindOf{
		evidence.KindCodes: {ran: true, trims: frameTrims, surprise: codesSurprise},
		evidence.KindCounters: {ran: true, surprise: countersSurprise,
			run:    func(e evidence.Entry, eng engine.Engine) *runTable { return counted(*e.Counters(), eng) },
			counts: func(m evidence.Moment) bool { return m.Entry.Counters().Fresh || m.Epoch == 0 }},
		evidence.KindWatch: {ran: true, surprise: watchSurprise,
			run:    func(e evidence.Entry, eng engine.Engine) *runTable { return watched(*e.Watch(), eng) },
			counts: func(evidence.Moment) bool { return true }},
		evidence.KindLook:     {items: lookItems, surprise: lookSurprise},
		evidence.KindBeside:   {items: besideItems},
		evidence.KindComeback: {items: comebackItems},
		evidence.KindTrims:    {trims: func(e evidence.Entry) []trouble.Trim { return e.Trims().Banks }},
		evidence.KindCheck:    {answers: checkAnswers, surprise: checkSurprise},
		evidence.KindSparks:   {answers: sparkAnswers},
		evidence.KindReadings: {answers: readingAnswers},
	}
}

func frameTrims(e evidence.Entry) []trouble.Trim {
	if f := e.Codes().Frame; f != nil {
		return f.Trims
	}
	return nil
}

func checkAnswers(_ *Assessment, m evidence.Moment) []flatItem {
	return []flatItem{{check: *m.Entry.Check()}}
}

func sparkAnswers(_ *Assessment, m evidence.Moment) (all []flatItem) {
	s := m.Entry.Sparks()
	proof, err := s.Proof()
	if err != nil {
		return nil
	}
	for _, one := range s.Each {
		all = append(all, flatItem{check: evidence.Check{Test: evidence.Spark, Place: one.Place, Result: one.Seen}, sparks: tester{s.From, proof.Low, proof.High}})
	}
	return all
}

func readingAnswers(a *Assessment, m evidence.Moment) (all []flatItem) {
	measure, _ := evidence.FindMeasure(m.Entry.Readings().Measure)
	if measure.ID == evidence.KVSnap { // the first figure of each is the steady one
		all = readingAnswers(a, steadyOf(m))
	}
	for k, n := range a.numbers(m) {
		one := m.Entry.Readings().Each[k]
		place := one.Place
		if one.Tag != "" {
			place = m.At.Where(one.Tag)
		}
		all = append(all, flatItem{check: evidence.Check{Test: measure.Test, Place: place, Result: n.answer(a.Beliefs)}, number: n})
	}
	return all
}

// steadyOf returns the first figures of a snap reading as a reading of steady kilovolts.
func steadyOf(m evidence.Moment) evidence.Moment {
	r := *m.Entry.Readings()
	r.Measure, r.Each = evidence.KVSteady, slices.Clone(r.Each)
	for i := range r.Each {
		r.Each[i].Figures, r.Each[i].AtLeast = r.Each[i].Figures[:min(1, len(r.Each[i].Figures))], false
	}
	m.Entry.Body = &r
	return m
}

func lookItems(a *Assessment, i int, take taker) {
	for _, item := range a.Moments[i].Entry.Look().Items {
		asked := evidence.Seen{Tag: item.Tag, Place: item.Place}
		if item.Kind() != engine.Plug && item.Finding.Abnormal() { // an item can have several; the signs of a plug are a board
			asked.Finding = item.Finding
		}
		take(flatItem{seen: asked}, flatItem{moment: i, seen: item}, lookTells)
	}
	if b := a.boards[i]; b != nil && len(b.of) > 1 { // of several, that of the most plugs
		take(flatItem{set: true}, flatItem{moment: i, set: true}, func(f flatItem) float64 { return float64(len(a.boards[f.moment].of)) })
	}
}

func besideItems(a *Assessment, i int, take taker) {
	b := a.Moments[i].Entry.Beside()
	if says := b.Says(); says != "" && b.Tag.Kind() == engine.Plug {
		item := evidence.Seen{Tag: b.Tag, Plug: plug.Look{Lettering: says}}
		take(flatItem{seen: evidence.Seen{Tag: item.Tag}, with: "beside"}, flatItem{moment: i, seen: item, with: "beside"}, newest)
	}
}

// newest ranks items by their moments: the last one counts.
func newest(f flatItem) float64 { return float64(f.moment) }

func countersSurprise(a *Assessment, i int, post []JointHypothesis, kept keep) float64 {
	e := a.Moments[i].Entry.Counters()
	n := e.Revolutions / 2
	plain, shown := clearlyMisfiring(*e)
	p := pattern{stray: 1 - upTo(plain-1, n, func(k int) float64 { return logStray(k, n, 0, 0) }), of: a.levelsOf(i, kept)}
	for b, of := range knowledge.Bursts {
		for r := range infer.Rates {
			p.affected[b][r] = 1 - upTo(plain-1, n, func(k int) float64 { return infer.LogBetaBinomial(k, n, infer.Grid[r], of.Alpha) })
		}
	}
	return a.unlikely(i, post, p, shown)
}

// clearlyMisfiring returns the cylinders whose counts are too many for strays, and the least such count.
func clearlyMisfiring(e evidence.Counters) (plain int, shown engine.Set) {
	n, all := e.Revolutions/2, 0
	for _, k := range e.Counts {
		all += k
	}
	plain = max(evidence.Enough, n/100, all/25)
	for c, k := range e.Counts {
		if k >= plain {
			shown |= engine.SetOf(engine.Cylinder(c + 1))
		}
	}
	return plain, shown
}

// moreThanTheirs returns the cylinders with more counts than misattributed misfires of the others explain.
func moreThanTheirs(e evidence.Counters) (more engine.Set) {
	all := 0
	for _, k := range e.Counts {
		all += k
	}
	for c, k := range e.Counts {
		if k >= 2*evidence.Enough && float64(k) > knowledge.TakenForTheirs*float64(all-k) {
			more |= engine.SetOf(engine.Cylinder(c + 1))
		}
	}
	return more
}

func watchSurprise(a *Assessment, i int, post []JointHypothesis, kept keep) float64 {
	p := pattern{stray: knowledge.NoticedWrong, of: a.levelsOf(i, kept)}
	p.setAll(func(rate float64) float64 {
		return knowledge.NoticedWrong + (knowledge.NoticedMost-knowledge.NoticedWrong)*rate/(rate+knowledge.NoticedHalf)
	})
	return a.unlikely(i, post, p, engine.SetOf(a.Moments[i].Entry.Watch().Cylinders...))
}

func codesSurprise(a *Assessment, i int, post []JointHypothesis, _ keep) float64 {
	m := a.Moments[i]
	if m.Epoch > 0 { // what is old among them is not known for certain
		return 1
	}
	var known codesKnown
	for _, r := range m.Entry.Codes().Read {
		known.take(r, a.Engine)
	}
	p := pattern{stray: knowledge.CodeStray}
	p.setAll(func(rate float64) float64 {
		return knowledge.CodeStray + (1-knowledge.CodeStray)*knowledge.CodeMost*rate/(rate+knowledge.CodeHalf)
	})
	return a.unlikely(i, post, p, known.set)
}

func lookSurprise(a *Assessment, i int, post []JointHypothesis, _ keep) float64 {
	items := a.Moments[i].Entry.Look().Items
	least := 1.0
	for _, item := range items {
		var chances []float64
		found := 0
		for k, row := range evidence.FindingsOn(item.Kind()) {
			if row.Finding == item.Finding {
				found = k
			}
			asked := evidence.Seen{Tag: item.Tag, Place: item.Place, Finding: row.Finding}
			chances = append(chances, a.predict(post, flatItem{moment: i, seen: asked}))
		}
		least = math.Min(least, asUnlikely(chances, found)*float64(len(items)))
	}
	return math.Min(1, least)
}

func checkSurprise(a *Assessment, i int, post []JointHypothesis, _ keep) float64 {
	came := *a.Moments[i].Entry.Check()
	t, _ := evidence.FindTest(came.Test)
	var chances []float64
	found := 0
	for _, r := range t.Results {
		places := []engine.Place{came.Place}
		if t.Of == evidence.OfLeaks {
			places = []engine.Place{engine.Whole}
			if r.Abnormal {
				places = t.Places(a.Engine)
			}
		}
		for _, place := range places {
			asked := evidence.Check{Test: t.ID, Place: place, Result: r.ID}
			if asked == came {
				found = len(chances)
			}
			chances = append(chances, a.predict(post, flatItem{moment: i, check: asked}))
		}
	}
	return asUnlikely(chances, found)
}
