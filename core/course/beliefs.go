package course

import (
	"cmp"
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/knowledge"
)

// Belief is the probability of one repair unit over the entries of a job.
type Belief struct {
	// Key is the key of the unit, Short a name of two or three words.
	Key, Short string
	// P holds the probability before the first point's entry, then after each point's entry.
	P []float64
}

// Point is one entry after which the probabilities are stated.
type Point struct {
	Seq   int
	Words string
}

// Bounds of a course. Each point costs one assessment.
const (
	mostPoints  = 24
	mostBeliefs = 4
	// leastBelief is the least probability that a listed unit had at some point.
	leastBelief = 0.05
)

// Beliefs returns the probability of the units that lead a job, or have led it, over its last
// entries, the present leader first. Entries that carry no evidence are left out.
func Beliefs(b *knowledge.Beliefs, j job.Job) ([]Point, []Belief) {
	var points []Point
	for _, e := range j.Ledger {
		if diagnose.Weighs(e.Kind()) || e.Move() != nil || e.Fit() != nil || e.Withdraw() != nil {
			points = append(points, Point{e.Seq, e.Words()})
		}
	}
	if len(points) == 0 {
		return nil, nil
	}
	points = points[max(0, len(points)-mostPoints):]
	var all []Belief
	at := map[string]int{}
	for i := range len(points) + 1 {
		until := points[0].Seq - 1
		if i > 0 {
			until = points[i-1].Seq
		}
		for _, s := range diagnose.AssessBy(b, before(j, until)).Suspects {
			if !s.Real() {
				continue
			}
			k, known := at[s.Key()]
			if !known {
				k = len(all)
				at[s.Key()] = k
				all = append(all, Belief{Key: s.Key(), Short: short(s), P: make([]float64, len(points)+1)})
			}
			all[k].P[i] = s.P
		}
	}
	// A unit that is now counted together with another has no probability of its own.
	all = slices.DeleteFunc(all, func(b Belief) bool { return last(b) == 0 })
	if len(all) == 0 {
		return nil, nil
	}
	// The present leader, then those that were most probable at some point.
	slices.SortStableFunc(all, func(x, y Belief) int { return cmp.Compare(slices.Max(y.P), slices.Max(x.P)) })
	lead := slices.MaxFunc(all, func(x, y Belief) int { return cmp.Compare(last(x), last(y)) })
	all = append([]Belief{lead}, slices.DeleteFunc(all, func(b Belief) bool { return b.Key == lead.Key })...)
	all = all[:min(mostBeliefs, len(all))]
	for len(all) > 1 && slices.Max(all[len(all)-1].P) < leastBelief {
		all = all[:len(all)-1]
	}
	return points, all
}

func last(b Belief) float64 { return b.P[len(b.P)-1] }

// before returns the job with the entries up to a number.
func before(j job.Job, seq int) job.Job {
	n := slices.IndexFunc(j.Ledger, func(e evidence.Entry) bool { return e.Seq > seq })
	if n >= 0 {
		j.Ledger = j.Ledger[:n]
	}
	return j
}

// short names a unit in two or three words: "plug P2", "injector 2", "air leak".
func short(s diagnose.Suspect) string {
	if s.Tag != "" {
		return s.Tag.Words()
	}
	if c, ok := s.Place.Cylinder(); ok {
		return fmt.Sprintf("%s %d", s.Unit, c)
	}
	return string(s.Unit)
}
