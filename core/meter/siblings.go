package meter

import (
	"fmt"
	"math"
	"slices"

	"glenmist/core/unit"
)

// Sibling is one figure of a set in any unit, above 0; Over means over range.
type Sibling struct {
	Name  string
	Value float64
	Over  bool
}

// Judged is one reading against the others.
type Judged struct {
	Sibling
	// Z is the distance from the median in robust standard deviations. It is +Inf if it is
	// over range and the others are not, and 0 if there are too few readings.
	Z        float64
	Abnormal bool
}

// Siblings is a set of readings, judged.
type Siblings struct {
	Each []Judged
	// Median is that of the figures, Spread the robust standard deviation with its floor. Both
	// are 0 without figures.
	Median, Spread float64
	// Few is true if there were three or fewer: they are compared pair by pair.
	Few bool
	// Words describes the result.
	Words string
}

const (
	// toSigma converts a median absolute deviation to a standard deviation, for a normal
	// distribution (P: Rousseeuw and Croux 1993, from memory).
	toSigma = 1.4826
	// abnormalFrom is the robust deviation of an abnormal reading (P: Iglewicz and Hoaglin
	// 1993, from memory: 3.5).
	abnormalFrom = 3.5
	// alike is the usual difference of equal parts, as a share of their median (C; judgement).
	// It is the floor of the spread.
	alike = 0.03
	few   = 3
)

// CompareSiblings compares readings by median and median absolute deviation. resolution is the
// smallest step of the meter in the unit of the readings, and a floor of the spread.
func CompareSiblings(readings []Sibling, resolution float64) Siblings {
	var figures []float64
	for _, r := range readings {
		if !r.Over {
			figures = append(figures, r.Value)
		}
	}
	s := Siblings{Few: len(readings) <= few}
	for _, r := range readings {
		s.Each = append(s.Each, Judged{Sibling: r})
	}
	if len(figures) == 0 {
		s.Words = "none shows a figure"
		return s
	}
	s.Median = Median(figures)
	s.Spread = max(toSigma*deviation(figures, s.Median), resolution, alike*s.Median)
	if s.Few {
		s.pairs(resolution)
		return s
	}
	var abnormal []string
	for i := range s.Each {
		j := &s.Each[i]
		if j.Z = (j.Value - s.Median) / s.Spread; j.Over {
			j.Z = math.Inf(1)
		}
		// If most are over range, the one that is not is not abnormal.
		if j.Abnormal = math.Abs(j.Z) > abnormalFrom && 2*len(figures) > len(readings); j.Abnormal {
			abnormal = append(abnormal, j.Name)
		}
	}
	switch {
	case 2*len(figures) <= len(readings):
		s.Words = "half or more are over range: look at the meter, the range and the way it is measured"
	case len(abnormal) == 0:
		s.Words = "all in line"
	default:
		s.Words = fmt.Sprintf("out of line: %s", unit.List(abnormal))
	}
	return s
}

// pairs compares three or fewer readings: two that agree identify a third that does not.
func (s *Siblings) pairs(resolution float64) {
	agree := func(i, k int) bool {
		a, b := s.Each[i], s.Each[k]
		return a.Over == b.Over && (a.Over || math.Abs(a.Value-b.Value) <= abnormalFrom*max(resolution, alike*min(a.Value, b.Value)))
	}
	switch len(s.Each) {
	case 1:
		s.Words = "one reading has no other to compare it with"
	case 2:
		s.Words = "two that differ: either may be abnormal"
		if agree(0, 1) {
			s.Words = "two that agree; two are few"
		}
	case few:
		s.Words = "three that all differ: none can be told"
		for i := range s.Each {
			j, k := (i+1)%few, (i+2)%few
			if agree(j, k) && !agree(i, j) && !agree(i, k) {
				s.Each[i].Abnormal = true
				s.Words = fmt.Sprintf("out of line: %s; the other two agree, and three are few", s.Each[i].Name)
			}
		}
		if agree(0, 1) && agree(1, 2) && agree(0, 2) {
			s.Words = "all in line; three are few"
		}
	}
}

// Median returns the median; the mean of the middle two for an even number; 0 for none.
func Median(of []float64) float64 {
	if len(of) == 0 {
		return 0
	}
	sorted := slices.Sorted(slices.Values(of))
	n := len(sorted)
	return (sorted[(n-1)/2] + sorted[n/2]) / 2
}

// deviation is the median absolute deviation from a centre.
func deviation(of []float64, centre float64) float64 {
	var away []float64
	for _, x := range of {
		away = append(away, math.Abs(x-centre))
	}
	return Median(away)
}
