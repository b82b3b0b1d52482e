package score

import (
	"cmp"
	"slices"

	"glenmist/core/proof"
)

// Share is k of n, with the exact bounds of the share at 95 % (Clopper and Pearson, Biometrika 1934, from
// memory).
type Share struct {
	K, N      int
	Low, High float64
}

// NewShare returns k of n with its bounds.
func NewShare(k, n int) Share {
	return Share{k, n, proof.LowerBound(float64(k), float64(n), 0.975), 1 - proof.LowerBound(float64(n-k), float64(n), 0.975)}
}

// P returns k / n, 0 without any.
func (s Share) P() float64 {
	if s.N == 0 {
		return 0
	}
	return float64(s.K) / float64(s.N)
}

// Row is the share of verdicts that held on one layout, or on one kind of part.
type Row struct {
	Name string
	Held Share
}

// Bin is the verdicts whose probability at the signature was in one range: their mean, and the share that
// held.
type Bin struct {
	From, To float64
	Said     float64
	Held     Share
}

// Score is what became of a workshop's verdicts. Verdicts that were fixed and not attributed are counted
// apart: neither held nor failed.
type Score struct {
	Held         Share
	Unattributed int
	CameBack     int
	ByLayout     []Row
	ByKind       []Row
	// Bins compare stated probabilities with outcomes; nil below [Least] verdicts.
	Bins []Bin
	// Took and Usual are the minutes of all jobs, Parts and InVain their renewed parts.
	Took, Usual   float64
	Parts, InVain int
}

// Least is how many verdicts a comparison of stated probabilities with outcomes needs (C; judgement: at 20 of
// 20 the lower bound is 83 %).
const Least = 20

// edges are the limits of the bins. Verdicts below the first are in the first bin.
var edges = []float64{0.3, 0.7, 0.9, 0.95, 0.98, 1}

// counted adds a verdict to the row of a name.
func counted(rows []Row, name string, held bool) []Row {
	i := slices.IndexFunc(rows, func(r Row) bool { return r.Name == name })
	if i < 0 {
		i = len(rows)
		rows = append(rows, Row{Name: name})
	}
	k := rows[i].Held.K
	if held {
		k++
	}
	rows[i].Held = NewShare(k, rows[i].Held.N+1)
	return rows
}

// Tally counts outcomes.
func Tally(all []Outcome) (s Score) {
	said := make([]float64, len(edges)-1)
	bins := make([]Bin, len(edges)-1)
	for i := range bins {
		bins[i].From, bins[i].To = edges[i], edges[i+1]
	}
	held := 0
	for _, o := range all {
		s.Took, s.Usual, s.Parts, s.InVain = s.Took+o.Took, s.Usual+o.Usual, s.Parts+o.Parts, s.InVain+o.InVain
		if o.Result == CameBack {
			s.CameBack++
		}
		if o.Result == Unattributed {
			s.Unattributed++
			continue
		}
		ok := o.Result == Held
		if ok {
			held++
		}
		s.Held = NewShare(held, s.Held.N+1)
		s.ByLayout, s.ByKind = counted(s.ByLayout, o.Layout.Words(), ok), counted(s.ByKind, string(o.Unit), ok)
		i := len(bins) - 1
		for i > 0 && o.P < bins[i].From {
			i--
		}
		k := bins[i].Held.K
		if ok {
			k++
		}
		bins[i].Held = NewShare(k, bins[i].Held.N+1)
		said[i] += o.P
	}
	for i := range bins {
		if n := bins[i].Held.N; n > 0 && s.Held.N >= Least {
			bins[i].Said = said[i] / float64(n)
			s.Bins = append(s.Bins, bins[i])
		}
	}
	most := func(x, y Row) int { return cmp.Compare(y.Held.N, x.Held.N) }
	slices.SortStableFunc(s.ByLayout, most)
	slices.SortStableFunc(s.ByKind, most)
	return s
}
