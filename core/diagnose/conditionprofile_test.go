package diagnose

import (
	"math"
	"slices"
	"testing"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// The severity of every mode, after any statement of the driver, is a distribution over the grid; so is that
// of two modes with one rate.
func TestSeverityOnGridSumsToOne(t *testing.T) {
	for _, said := range append(slices.Clone(knowledge.Conditions), evidence.AnyCondition, knowledge.Always) {
		told := statedProfiles{knowledge.Shipped, said, map[[3]any]*statedProfile{}}
		for _, x := range fault.Catalogue {
			of, grid := told.of(x), 0.0
			for _, s := range of.severity {
				grid += math.Exp(s) / infer.Rates
			}
			if math.Abs(grid-1) > 1e-9 || of.pStated <= 0 || of.pStated > 1+1e-9 {
				t.Errorf("%s, %q: the grid sums to %v, said %v", x.ID, said, grid, of.pStated)
			}
			for _, y := range fault.Catalogue[:8] {
				sum, other := 0.0, told.of(y).severity
				for r := range infer.Rates {
					sum += math.Exp(of.severity[r]+other[r]-infer.OneRate(of.severity, other)) / infer.Rates
				}
				if math.Abs(sum-1) > 1e-9 {
					t.Errorf("%s with %s: %v", x.ID, y.ID, sum)
				}
			}
		}
	}
}

// Every kind of fault has its condition profile, whose shares sum to 1, and what is said of it at each rate is
// something. The failing condition of a fault that has a condition of its own is that condition until another is
// stated.
func TestConditionProfilesAreShares(t *testing.T) {
	for _, mode := range fault.Catalogue {
		m := knowledge.Shipped.Profile(mode.ID)
		if m == nil || m.Source == "" {
			t.Fatalf("%s has no condition profile", mode.ID)
		}
		for _, rate := range infer.Grid {
			sum := m.ChanceOfStatement(knowledge.Always, rate)
			for _, c := range knowledge.Conditions {
				sum += m.ChanceOfStatement(c, rate)
			}
			if math.Abs(sum-1) > 1e-9 || m.ChanceOfStatement(evidence.AnyCondition, rate) != 1 {
				t.Errorf("%s at %.3f: all that can be said sums to %v", mode.ID, rate, sum)
			}
		}
		if h := m.FailingCondition(evidence.AnyCondition); h < 0 || (h == 0) != m.Alike {
			t.Errorf("%s has no failing condition", mode.ID)
		}
	}
	// Common practice: what was said to be hot only, and runs clean at idle, is no worn gap; a
	// connector that makes no contact does not wait for heat.
	weak, gap, contact := knowledge.Shipped.Profile(fault.CoilWeakHot), knowledge.Shipped.Profile(fault.PlugWornGap), knowledge.Shipped.Profile(fault.ConnectorLoose)
	if weak.ChanceOfStatement(evidence.Hot, 0.5) < 5*gap.ChanceOfStatement(evidence.Hot, 0.5) || contact.ChanceOfStatement(knowledge.Always, 0.5) < 3*contact.ChanceOfStatement(evidence.Hot, 0.5) {
		t.Error("what drivers say does not tell them apart")
	}
	clean := func(m *knowledge.ConditionProfile, said, run evidence.Condition) float64 {
		return showing(said, run)[m.FailingCondition(said)][12][len(knowledge.Levels)-1]
	}
	if of := clean(weak, evidence.AnyCondition, evidence.Idle); of < 5*clean(weak, evidence.AnyCondition, evidence.Hot) || of < 5*clean(contact, evidence.AnyCondition, evidence.Idle) {
		t.Error("a coil that is weak when hot shows at idle")
	}
	if asMuch(evidence.Snap) != evidence.Load || clean(gap, evidence.Load, evidence.Load) > clean(gap, evidence.Load, evidence.Idle)/5 {
		t.Error("a gap that fails under load fails at idle")
	}
}
