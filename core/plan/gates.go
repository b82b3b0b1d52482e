package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
)

// Gate is one condition that must hold before a suspect may be condemned.
type Gate struct {
	// Target is the suspect's key, such as "coil C2".
	Target string
	Met    bool
	// Needs says what is asked for; once met, what was asked for.
	Needs string
	// Look lists what a look would have to cover to meet it.
	Look []evidence.Seen
}

// Gates lists what stands before condemning a suspect.
func Gates(a *diagnose.Assessment, s diagnose.Suspect) []Gate {
	var gates []Gate
	add := func(met bool, needs string, look ...evidence.Seen) {
		gates = append(gates, Gate{s.Key(), met, needs, look})
	}
	lookAt := func(t part.Tag, why string) {
		add(len(findings(a, t, "")) > 0, fmt.Sprintf("a look at %s%s", t.Words(), why), evidence.Seen{Tag: t})
	}
	switch s.Unit {
	case fault.Coil:
		add(followed(a, s.Tag), fmt.Sprintf("the misfire follows %s to another cylinder", s.Tag.Words()))
		lookAt(plugUnder(a, s.Tag), ", which it fired while it failed (a wide gap overworks a coil)")
		lookAt(a.Now.In(part.Boot, a.Now.Where(s.Tag)), " on it")
	case fault.Boot:
		add(followed(a, s.Tag) || found(a, s.Tag, "", evidence.BootTracked, evidence.BootTorn),
			fmt.Sprintf("the misfire follows %s, or a look finds it tracked, torn or swollen", s.Tag.Words()), evidence.Seen{Tag: s.Tag})
		lookAt(a.Now.In(part.Plug, a.Now.Where(s.Tag)), " (it can carry the other half of a track)")
	case fault.Plug:
		add(followed(a, s.Tag) || found(a, s.Tag, "", evidence.PlugWorn, evidence.PlugCracked),
			fmt.Sprintf("a second sign on %s beside its colour: gap, crack, or a misfire that follows it", s.Tag.Words()), evidence.Seen{Tag: s.Tag})
	case fault.Connector:
		add(found(a, "", s.Place, evidence.ConnectorLoose, evidence.ConnectorBad),
			fmt.Sprintf("a look that finds the connector of %s loose or corroded", s.Place), evidence.Seen{Place: s.Place})
	case fault.Seat:
		c, _ := s.Place.Cylinder()
		boot := a.Now.In(part.Boot, c)
		add(found(a, boot, "", evidence.BootNotHome), fmt.Sprintf("a look that finds the coil or boot of %s not home", s.Place), evidence.Seen{Tag: boot})
	case fault.Trigger:
		add(ignitionCleared(a, s.Place), fmt.Sprintf("coil and plug of %s proven by a move", s.Place))
		add(false, "feed, ground and wire proven, and the trigger absent while cranking")
	case fault.Injector:
		add(ignitionCleared(a, s.Place), fmt.Sprintf("the ignition of %s cleared: coil and plug moved, and the misfire stayed", s.Place))
		add(false, "an injector circuit code, or an exchange of injectors")
	case fault.Compression:
		add(ignitionCleared(a, s.Place), fmt.Sprintf("the ignition of %s cleared: coil and plug moved, and the misfire stayed", s.Place))
		add(false, "a compression reading")
	}
	return gates
}

// AllMet says that nothing stands before condemning.
func AllMet(gates []Gate) bool {
	return len(gates) > 0 && !slices.ContainsFunc(gates, func(g Gate) bool { return !g.Met })
}

// followed says whether a move showed that the misfire goes with the part.
func followed(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return d.Outcome == diagnose.Followed && slices.Contains(d.Tags, t)
	})
}

// stayed says whether a part of a kind was moved away from a cylinder and the
// misfire did not go with it.
func stayed(a *diagnose.Assessment, k part.Kind, c engine.Cylinder) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return d.Outcome == diagnose.Stayed && d.From == c &&
			slices.ContainsFunc(d.Tags, func(t part.Tag) bool { return t.Kind() == k })
	})
}

func ignitionCleared(a *diagnose.Assessment, at engine.Place) bool {
	c, ok := at.Cylinder()
	return ok && stayed(a, part.Coil, c) && stayed(a, part.Plug, c)
}

// plugUnder is the plug that a coil fired when its misfire was first seen: the
// one it stood on before it was moved, unless the misfire stayed behind, else
// the one it stands on now.
func plugUnder(a *diagnose.Assessment, coil part.Tag) part.Tag {
	for _, d := range a.Decodes {
		if d.Outcome == diagnose.Stayed || !slices.Contains(d.Tags, coil) {
			continue
		}
		for _, m := range a.Moments {
			if m.Entry.Seq == d.Move {
				return m.Before.In(part.Plug, d.From)
			}
		}
	}
	return a.Now.In(part.Plug, a.Now.Where(coil))
}

// findings lists what looks at an item have found.
func findings(a *diagnose.Assessment, t part.Tag, at engine.Place) []evidence.Finding {
	var all []evidence.Finding
	for _, m := range a.Moments {
		if m.Entry.Look == nil {
			continue
		}
		for _, item := range m.Entry.Look.Items {
			if item.Tag == t && item.Place == at {
				all = append(all, item.Finding)
			}
		}
	}
	return all
}

func found(a *diagnose.Assessment, t part.Tag, at engine.Place, any ...evidence.Finding) bool {
	return slices.ContainsFunc(findings(a, t, at), func(f evidence.Finding) bool { return slices.Contains(any, f) })
}
