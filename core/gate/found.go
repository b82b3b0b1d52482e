package gate

import (
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// Findings lists the findings of all looks at an item.
func Findings(a *diagnose.Assessment, t part.Tag, at engine.Place) []evidence.Finding {
	var all []evidence.Finding
	for _, m := range a.Moments {
		if b := m.Entry.Beside(); b != nil && t != "" && b.Tag == t && b.Says() == plug.Wrong {
			all = append(all, evidence.PlugWrong)
		}
		if m.Entry.Look() == nil {
			continue
		}
		for _, item := range m.Entry.Look().Items {
			if item.Tag == t && item.Place == at {
				all = append(all, m.Entry.Look().Findings(item)...)
			}
		}
	}
	return all
}

// WellWet reports whether a plug of the cylinder was removed with oil or water at its hex.
func WellWet(a *diagnose.Assessment, c engine.Cylinder) bool {
	for _, m := range a.Moments {
		if m.Entry.Look() == nil {
			continue
		}
		for _, item := range m.Entry.Look().Items {
			if (item.Plug.High == plug.Oil || item.Plug.High == plug.Water) && slices.Contains(m.At.Feeds(item.Tag), c) {
				return true
			}
		}
	}
	return false
}

// Found reports whether one of the findings was seen on a part or at a place.
func Found(a *diagnose.Assessment, t part.Tag, at engine.Place, oneOf ...evidence.Finding) bool {
	return slices.ContainsFunc(Findings(a, t, at), func(f evidence.Finding) bool { return slices.Contains(oneOf, f) })
}

// checkFound reports whether a test has an abnormal result anywhere.
func checkFound(a *diagnose.Assessment, id evidence.TestID) bool {
	return AbnormalAnswer(a, id, func(diagnose.Checked) bool { return true })
}

// abnormalAt reports whether a test has an abnormal result at a place.
func abnormalAt(a *diagnose.Assessment, id evidence.TestID, place engine.Place) bool {
	return AbnormalAnswer(a, id, func(c diagnose.Checked) bool {
		of, _ := a.Engine.Feeds(place)
		at, _ := a.Engine.Feeds(c.Check.Place)
		return of&at != 0
	})
}

// answeredAt reports whether a test has the given result at a place.
func answeredAt(a *diagnose.Assessment, id evidence.TestID, place engine.Place, want evidence.ResultID) bool {
	return slices.ContainsFunc(a.Checks, func(c diagnose.Checked) bool {
		return c.Check == evidence.Check{Test: id, Place: place, Result: want}
	})
}

// abnormalTest reports whether a test of a part has an abnormal result.
func abnormalTest(a *diagnose.Assessment, id evidence.TestID, t part.Tag) bool {
	return AbnormalAnswer(a, id, func(c diagnose.Checked) bool { return c.At.In(t.Kind(), c.Check.Place) == t })
}

// abnormalKV reports whether the kilovolts of the cylinder that a part served were abnormal.
func abnormalKV(a *diagnose.Assessment, t part.Tag) bool {
	return AbnormalAnswer(a, evidence.Kilovolts, func(c diagnose.Checked) bool {
		at, _ := a.Engine.Feeds(c.Check.Place)
		return engine.SetOf(c.At.Feeds(t)...)&at != 0
	})
}

// AbnormalAnswer reports whether an abnormal result of a test satisfies the predicate.
func AbnormalAnswer(a *diagnose.Assessment, id evidence.TestID, of func(diagnose.Checked) bool) bool {
	t, _ := evidence.FindTest(id)
	return slices.ContainsFunc(a.Checks, func(c diagnose.Checked) bool {
		if c.Check.Test != id || !of(c) {
			return false
		}
		r, _ := t.Result(c.Check.Result)
		return r.Abnormal
	})
}

// circuitCode reports whether an injector circuit code names a cylinder.
func circuitCode(a *diagnose.Assessment, at engine.Place) bool {
	feeds, _ := a.Engine.Feeds(at)
	for _, m := range a.Moments {
		if m.Entry.Codes() == nil {
			continue
		}
		for _, r := range m.Entry.Codes().Read {
			if k, of, ok := r.Code.Circuit(a.Engine); ok && k == engine.Injector && of&feeds != 0 {
				return true
			}
		}
	}
	return false
}
