package diagnose

import (
	"math"
	"slices"

	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/infer"
	"glenmist/core/knowledge"
)

// said is the condition that the driver stated: one of [knowledge.Conditions], [knowledge.Always], or none.
func (a *Assessment) said() evidence.Condition {
	switch {
	case a.FailsWhen == evidence.AnyCondition && slices.Contains(a.Complaint.Signs, evidence.AlwaysThere):
		return knowledge.Always
	}
	return asMuch(a.FailsWhen)
}

// asMuch maps a snap of the throttle to load: both demand as many kilovolts.
func asMuch(c evidence.Condition) evidence.Condition {
	if c == evidence.Snap {
		return evidence.Load
	}
	return c
}

// statedProfile combines the severity of a kind of fault with the driver's statement: the log of
// P(rate | statement) against equal rates, the chance of the statement, and the index of its failing condition.
type statedProfile struct {
	severity *infer.PerRate
	pStated  float64
	failing  int
}

// statedProfiles holds a statedProfile for each pair of table rows, worked out once for one statement.
type statedProfiles struct {
	by    *knowledge.Beliefs
	said  evidence.Condition
	known map[[3]any]*statedProfile
}

func (t *statedProfiles) of(mode fault.Mode) *statedProfile { return t.given(mode, t.said) }

// unstated is the profile of a fault that did not exist yet when the driver made the statement.
func (t *statedProfiles) unstated(mode fault.Mode) *statedProfile {
	return t.given(mode, evidence.AnyCondition)
}

func (t *statedProfiles) given(mode fault.Mode, said evidence.Condition) *statedProfile {
	m, s := t.by.Profile(mode.ID), t.by.Severity(mode.ID)
	key := [3]any{m, s, said}
	if have := t.known[key]; have != nil {
		return have
	}
	out := &statedProfile{severity: &infer.PerRate{}, failing: m.FailingCondition(said)}
	for r, rate := range infer.Grid {
		out.severity[r] = math.Exp(s[r]) * m.ChanceOfStatement(said, rate)
		out.pStated += out.severity[r] / infer.Rates
	}
	for r, x := range out.severity {
		out.severity[r] = math.Log(x / out.pStated)
	}
	t.known[key] = out
	return out
}

// StatementEffect returns how the driver's statement changes the shares of some modes: the
// least and the greatest likelihood ratio. The ratio compares the statement given the mode
// with the mean over all faults of the engine. 1 means no effect.
func (a *Assessment) StatementEffect(modes []fault.Mode) (least, most float64) {
	w := a.weighing
	if w.profiles.said == evidence.AnyCondition {
		return 1, 1
	}
	for i, mode := range modes {
		told := w.profiles.of(mode).pStated / w.pStated
		if i == 0 || told < least {
			least = told
		}
		most = max(most, told)
	}
	return least, most
}
