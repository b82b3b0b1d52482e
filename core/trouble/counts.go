package trouble

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"gonum.org/v1/gonum/stat/combin"

	"glenmist/core/engine"
	"glenmist/core/unit"
)

// Standing is how one cylinder's misfire count stands against the rest.
type Standing struct {
	Cylinder engine.Cylinder
	// Count is its misfires in Of opportunities.
	Count, Of int
	// Rest is the misfires of all other cylinders, in RestOf opportunities.
	Rest, RestOf int
	// P is the chance that a cylinder no worse than the rest counts as many or
	// more: the one-sided exact test. It is for reading only and never enters the
	// reasoning. NaN when there is no other cylinder.
	P float64
	// Adjusted is P with the correction for having looked at all cylinders.
	Adjusted float64
}

// The words for a standing (C): below the first it is not chance, and a lone
// count of one or two is no evidence whatever the test says.
const (
	notChance  = 0.01
	leastCount = 3
)

// Abnormal reports whether the cylinder is worse than the rest, and not by chance.
func (s Standing) Abnormal() bool { return s.Adjusted < notChance && s.Count >= leastCount }

// Rate is the share of its opportunities that misfired.
func (s Standing) Rate() float64 { return float64(s.Count) / float64(s.Of) }

// Words says the standing: "23 of 1 500, the others 2.0 each: not chance (p < 0.001)".
func (s Standing) Words() string {
	words := fmt.Sprintf("%s of %s", unit.Thousands(s.Count), unit.Thousands(s.Of))
	if s.RestOf == 0 {
		return words + "; there is no other cylinder to compare with"
	}
	words += fmt.Sprintf(", the others %.3g each", float64(s.Rest)*float64(s.Of)/float64(s.RestOf))
	p := fmt.Sprintf("p = %.2g", s.Adjusted)
	if s.Adjusted < 0.001 {
		p = "p < 0.001"
	}
	switch {
	case s.Abnormal():
		return words + ": not chance (" + p + ")"
	case s.Count > 0 && s.Count < leastCount:
		return words + ": a lone count or two is no evidence"
	case s.Adjusted < 0.1:
		return words + ": may be more than chance (" + p + ")"
	}
	return words + ": no sign of more than chance"
}

// Standings compares each cylinder's count with all the others by Fisher's exact
// test (The Design of Experiments, 1935, from memory), one-sided, with Holm's
// correction for having looked at all of them. counts has one figure a cylinder;
// revolutions is at least 2.
func Standings(counts []int, revolutions int) []Standing {
	n := unit.Revolutions(revolutions).Opportunities()
	total := 0
	for _, k := range counts {
		total += k
	}
	all := make([]Standing, len(counts))
	order := make([]int, len(counts))
	for i, k := range counts {
		order[i] = i
		s := Standing{Cylinder: engine.Cylinder(i + 1), Count: k, Of: n, Rest: total - k, RestOf: n * (len(counts) - 1), P: math.NaN(), Adjusted: math.NaN()}
		if s.RestOf > 0 {
			s.P = FisherGreater(k, n, s.Rest, s.RestOf)
		}
		all[i] = s
	}
	if len(counts) < 2 {
		return all
	}
	slices.SortStableFunc(order, func(a, b int) int { return cmp.Compare(all[a].P, all[b].P) })
	so := 0.0
	for rank, i := range order {
		so = max(so, min(1, all[i].P*float64(len(counts)-rank)))
		all[i].Adjusted = so
	}
	return all
}

// FisherGreater is the one-sided exact test of a of n against b of m: the chance,
// with the total a + b given, that the first group has a or more (the tail of the
// hypergeometric distribution).
func FisherGreater(a, n, b, m int) float64 {
	k, all := a+b, n+m
	if a <= max(0, k-m) {
		return 1
	}
	top := min(k, n)
	term := func(x int) float64 {
		return math.Exp(logChoose(n, x) + logChoose(m, k-x) - logChoose(all, k))
	}
	mode := int(float64(k+1) * float64(n+1) / float64(all+2))
	// Sum the shorter tail, away from the mode, until nothing is added any more.
	if a > mode {
		return min(1, tail(a, top, 1, term))
	}
	return max(0, 1-tail(a-1, max(0, k-m), -1, term))
}

func tail(from, to, step int, term func(int) float64) float64 {
	sum := 0.0
	for x := from; x*step <= to*step; x += step {
		t := term(x)
		sum += t
		if t <= sum*1e-17 {
			break
		}
	}
	return sum
}

// logChoose is the log of the binomial coefficient n over k.
func logChoose(n, k int) float64 { return combin.LogGeneralizedBinomial(float64(n), float64(k)) }

// Blocks of revolutions in which the misfire percentage is taken, and the lowest
// that each threshold may be (13 CCR 1968.2(e)(3), from memory).
const (
	CatalystBlock      = 200
	EmissionsBlock     = 1000
	CatalystThreshold  = 5.0
	EmissionsThreshold = 1.0
)

// Percentage is the regulatory misfire percentage of one run in blocks of a size:
// total misfires over total opportunities.
type Percentage struct {
	Block int
	// Mean is that of the whole run, in per cent. The run's counters do not say
	// how the misfires lay: Worst is the most that one block can have had, and no
	// block had less than Mean at its worst.
	Mean, Worst float64
	// Threshold is the lowest that the threshold may be, in per cent.
	Threshold float64
}

// Percentages works out the regulatory percentages of a run.
func Percentages(counts []int, revolutions int) []Percentage {
	total := 0
	for _, k := range counts {
		total += k
	}
	share := func(revs int) float64 {
		return 100 * float64(total) / (float64(revs) / 2 * float64(len(counts)))
	}
	var all []Percentage
	for _, b := range []struct {
		block int
		least float64
	}{{CatalystBlock, CatalystThreshold}, {EmissionsBlock, EmissionsThreshold}} {
		all = append(all, Percentage{b.block, share(revolutions), min(100, share(min(b.block, revolutions))), b.least})
	}
	return all
}

// Words says the percentage against its threshold.
func (p Percentage) Words() string {
	what := "emissions"
	if p.Block == CatalystBlock {
		what = "catalyst damage"
	}
	s := fmt.Sprintf("%.2g %% over the run, at most %.3g %% in one block of %d revolutions", p.Mean, p.Worst, p.Block)
	switch {
	case p.Mean >= p.Threshold:
		return fmt.Sprintf("%s: above %g %%, the lowest that the %s threshold may be", s, p.Threshold, what)
	case p.Worst >= p.Threshold:
		return fmt.Sprintf("%s: if they came in bursts, above %g %%, the lowest that the %s threshold may be", s, p.Threshold, what)
	}
	return fmt.Sprintf("%s: below %g %%, the lowest that the %s threshold may be", s, p.Threshold, what)
}
