package diagnose

import (
	"cmp"
	"slices"
)

// Sum is the probability of all joint hypotheses with one key.
type Sum struct {
	Key string
	P   float64 // 0 to 1
}

// SumBy adds the probabilities of joint hypotheses with equal keys, and lists the largest sum first. It omits
// hypotheses with an empty key.
func SumBy(joints []JointHypothesis, key func(*JointHypothesis) string) []Sum {
	var sums []Sum
	at := map[string]int{}
	for i := range joints {
		k := key(&joints[i])
		if k == "" {
			continue
		}
		n, ok := at[k]
		if !ok {
			n = len(sums)
			at[k] = n
			sums = append(sums, Sum{Key: k})
		}
		sums[n].P += joints[i].P
	}
	slices.SortStableFunc(sums, func(x, y Sum) int { return cmp.Compare(y.P, x.P) })
	return sums
}
