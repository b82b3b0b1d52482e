package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/unit"
)

// Partner is the cylinder to exchange a part with, and why that one.
type Partner struct {
	Cylinder engine.Cylinder
	Why      []string
}

// partner ranks the other cylinders as partners of c; none is forbidden. A
// cylinder with a misfire of its own would muddle the answer, and a neighbour
// can share a gasket or an air leak (C).
func partner(a *diagnose.Assessment, c engine.Cylinder) Partner {
	const busy = 0.10 // suspicion from which a cylinder counts as in trouble itself
	beside := a.Engine.Neighbours(c)
	own := func(p engine.Cylinder) int {
		if counts := a.LastCounts(); counts != nil {
			return counts.Counts[p-1]
		}
		return 0
	}
	cost := func(p engine.Cylinder) float64 {
		cost := 0.0
		if a.Suspicion[p-1] > busy {
			cost += 10 * a.Suspicion[p-1]
		}
		if own(p) >= diagnose.Enough {
			cost += 5
		}
		if slices.Contains(beside, p) {
			cost++
		}
		return cost
	}
	best := engine.Cylinder(0)
	for _, p := range a.Engine.All() {
		if p != c && (best == 0 || cost(p) < cost(best)) {
			best = p
		}
	}
	out := Partner{Cylinder: best}
	switch {
	case own(best) >= diagnose.Enough:
		out.Why = append(out.Why, fmt.Sprintf("no cylinder suits better, though it counted %s misfires of its own", unit.Thousands(own(best))))
	case a.Suspicion[best-1] <= busy:
		out.Why = append(out.Why, "no misfire of its own")
	default:
		out.Why = append(out.Why, fmt.Sprintf("no cylinder is free of suspicion; this one is at %s", unit.Percent(a.Suspicion[best-1])))
	}
	if slices.Contains(beside, best) {
		out.Why = append(out.Why, fmt.Sprintf("no other suits better, though it stands beside cylinder %d and can share a gasket or an air leak", c))
	} else {
		out.Why = append(out.Why, fmt.Sprintf("not beside cylinder %d, so no gasket or air leak is shared", c))
	}
	return out
}
