package plan

import (
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// What opens the gates of each kind of unit, and what is not enough (section 11 of the
// trade: direct evidence, or all else on the way cleared; C).
func TestWhatOpensEachGate(t *testing.T) {
	check := func(test evidence.TestID, place engine.Place, result evidence.ResultID) evidence.Entry {
		return evidence.Entry{Body: &evidence.Check{Test: test, Place: place, Result: result}}
	}
	look := func(items ...evidence.Seen) evidence.Entry {
		return evidence.Entry{Body: &evidence.Look{Items: items}}
	}
	pulse := func(r evidence.ResultID) evidence.Entry { return check(evidence.TriggerPulse, "cyl-2", r) }
	read := func(of plug.Look) evidence.Entry { // read in full, with the maker's range known
		l := evidence.Look{Gap: &plug.Range{Low: 0.8, High: 0.9}}
		l.Items = append(l.Items, l.Read("P2", of))
		return evidence.Entry{Body: &l}
	}
	colour := plug.Look{Nose: plug.Black, Deposit: plug.Soot, Wet: plug.Fuel, Edges: plug.Sharp, GapMM: 0.85}
	// moved takes coil, then plug, of cylinder 2 away: the misfire stays.
	moved := func(s *story) *story {
		for _, k := range []engine.Kind{engine.Coil, engine.Plug} {
			at := s.j.Ledger.Positions(s.j.Vehicle.Engine)
			s.add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: at.Swap("cyl-2", "cyl-4", companionsOf(k)...)}}).counts(0, 150, 1, 0)
		}
		return s
	}
	for name, c := range map[string]struct {
		unit   string
		moved  bool
		enough []evidence.Entry
		short  []evidence.Entry // not enough
	}{
		"connector seen loose":       {"connector cyl-2", false, []evidence.Entry{look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorLoose})}, []evidence.Entry{look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorSound})}},
		"connector wiggled":          {"connector cyl-2", false, []evidence.Entry{check(evidence.Wiggle, "cyl-2", "changes")}, []evidence.Entry{check(evidence.Wiggle, "cyl-3", "changes")}},
		"connector by elimination":   {"connector cyl-2", true, []evidence.Entry{look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorSound}), pulse("there"), check(evidence.WireTest, "cyl-2", "sound")}, []evidence.Entry{look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorSound}), pulse("missing"), check(evidence.WireTest, "cyl-2", "sound")}},
		"connector, trigger watched": {"connector cyl-2", true, []evidence.Entry{look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorSound}), pulse("there"), check(evidence.TriggerWatch, "cyl-2", "there")}, []evidence.Entry{look(evidence.Seen{Place: "cyl-2", Finding: evidence.ConnectorSound}), pulse("there"), check(evidence.TriggerWatch, "cyl-2", "quiet")}},
		"well seen wet":              {"plug well cyl-2", false, []evidence.Entry{look(evidence.Seen{Tag: "B2", Finding: evidence.BootWet})}, []evidence.Entry{look(evidence.Seen{Tag: "B2", Finding: evidence.BootTorn})}},
		"seat seen not home":         {"seat cyl-2", false, []evidence.Entry{look(evidence.Seen{Tag: "B2", Finding: evidence.BootNotHome})}, []evidence.Entry{look(evidence.Seen{Tag: "B2", Finding: evidence.BootSound})}},
		"feed read low":              {"feed cyl-2", false, []evidence.Entry{pulse("feed")}, []evidence.Entry{pulse("missing")}},
		"ground read poor":           {"ground cyl-2", false, []evidence.Entry{pulse("ground")}, []evidence.Entry{pulse("feed")}},
		"feed overlaid":              {"feed cyl-2", false, []evidence.Entry{pulse("there"), check(evidence.Overlay, "cyl-2", "feed")}, []evidence.Entry{pulse("there"), check(evidence.Overlay, "cyl-2", "ground")}},
		"wire overlaid":              {"trigger wire cyl-2", false, []evidence.Entry{check(evidence.WireTest, "cyl-2", "sound"), check(evidence.Overlay, "cyl-2", "trigger")}, []evidence.Entry{check(evidence.WireTest, "cyl-2", "sound"), check(evidence.Overlay, "cyl-2", "same")}},
		"driver, another wire tried": {"driver cyl-2", true, []evidence.Entry{pulse("missing"), check(evidence.Overlay, "cyl-2", "same")}, []evidence.Entry{pulse("missing"), check(evidence.Overlay, "cyl-2", "trigger")}},
		"wire found open":            {"trigger wire cyl-2", false, []evidence.Entry{check(evidence.WireTest, "cyl-2", "bad")}, []evidence.Entry{pulse("missing")}},
		"driver, the last to blame":  {"driver cyl-2", true, []evidence.Entry{pulse("missing"), check(evidence.WireTest, "cyl-2", "sound")}, []evidence.Entry{pulse("missing")}},
		"wire by both its ends":      {"trigger wire cyl-2", false, []evidence.Entry{check(evidence.TriggerWatch, "cyl-2", "wire"), check(evidence.WireTest, "cyl-2", "sound")}, []evidence.Entry{check(evidence.TriggerWatch, "cyl-2", "wire")}},
		"driver by its own end":      {"driver cyl-2", true, []evidence.Entry{check(evidence.TriggerWatch, "cyl-2", "unit"), check(evidence.WireTest, "cyl-2", "sound")}, []evidence.Entry{check(evidence.TriggerWatch, "cyl-2", "missing"), check(evidence.WireTest, "cyl-2", "sound")}},
		"driver, its wire unproven":  {"driver cyl-2", true, []evidence.Entry{check(evidence.TriggerWatch, "cyl-2", "unit"), check(evidence.WireTest, "cyl-2", "sound")}, []evidence.Entry{check(evidence.TriggerWatch, "cyl-2", "unit")}},
		"injector tested odd":        {"injector cyl-2", false, []evidence.Entry{check(evidence.InjectorTest, "cyl-2", "odd")}, []evidence.Entry{check(evidence.InjectorTest, "cyl-2", "in-line")}},
		"compression read low":       {"compression cyl-2", false, []evidence.Entry{check(evidence.CompressionTest, "cyl-2", "low")}, []evidence.Entry{check(evidence.LeakDown, "cyl-2", "rings")}},
		"plug cracked":               {"plug P2", false, []evidence.Entry{look(evidence.Seen{Tag: "P2", Finding: evidence.PlugCracked})}, []evidence.Entry{look(evidence.Seen{Tag: "P2", Finding: evidence.PlugSoot})}},
		"a gap beside the colour":    {"plug P2", false, []evidence.Entry{read(colour.Over(plug.Look{GapMM: 1.4}))}, []evidence.Entry{read(colour)}},
		"bridged":                    {"plug P2", false, []evidence.Entry{read(plug.Look{Deposit: plug.Bridged})}, []evidence.Entry{read(plug.Look{Nose: plug.White, Deposit: plug.Glaze, GapMM: 0.85})}},
		"tracked":                    {"plug P2", false, []evidence.Entry{read(colour.Over(plug.Look{Insulator: plug.Tracked}))}, []evidence.Entry{read(plug.Look{Nose: plug.Black, Wet: plug.Oil})}},
		"the listed one is another":  {"plug P2", false, []evidence.Entry{{Body: &evidence.Beside{Tag: "P2", Listed: "new", Old: part.PlugDesign{ReachMM: 26.5}, New: part.PlugDesign{ReachMM: 19}}}}, []evidence.Entry{{Body: &evidence.Beside{Tag: "P2", Old: part.PlugDesign{ReachMM: 26.5}, New: part.PlugDesign{ReachMM: 19}}}}},
		"well by oil at the hex":     {"plug well cyl-2", false, []evidence.Entry{read(plug.Look{High: plug.Oil, Wet: plug.Dry})}, []evidence.Entry{read(plug.Look{Wet: plug.Oil, High: plug.Dry})}},
		"plug loose":                 {"plug P2", false, []evidence.Entry{look(evidence.Seen{Tag: "P2", Finding: evidence.PlugLoose})}, []evidence.Entry{look(evidence.Seen{Tag: "P2", Finding: evidence.PlugFuel})}},
		"plug by kilovolts and look": {"plug P2", false, []evidence.Entry{check(evidence.Kilovolts, "cyl-2", "high"), look(evidence.Seen{Tag: "P2", Finding: evidence.PlugSoot})}, []evidence.Entry{check(evidence.Kilovolts, "cyl-2", "high")}},
		"boot tracked, plug seen":    {"boot B2", false, []evidence.Entry{look(evidence.Seen{Tag: "B2", Finding: evidence.BootTracked}, evidence.Seen{Tag: "P2", Finding: evidence.PlugNormal})}, []evidence.Entry{look(evidence.Seen{Tag: "B2", Finding: evidence.BootTracked})}},
		"air leak found with smoke":  {"air leak engine", false, []evidence.Entry{check(evidence.Smoke, "engine", "leak")}, []evidence.Entry{check(evidence.Smoke, "engine", "tight")}},
		"fuel pressure found low":    {"fuel supply engine", false, []evidence.Entry{check(evidence.FuelPressure, "engine", "low")}, []evidence.Entry{check(evidence.Smoke, "engine", "leak")}},
		"coil that the misfire left": {"coil C2", true, nil, []evidence.Entry{look(evidence.Seen{Tag: "P2", Finding: evidence.PlugNormal}, evidence.Seen{Tag: "B2", Finding: evidence.BootSound})}},
	} {
		met := func(entries []evidence.Entry) bool {
			s := begin(t, 4).code(2).counts(0, 140, 1, 0)
			if c.moved {
				s = moved(s)
			}
			for _, e := range entries {
				s.add(e)
			}
			a := diagnose.Assess(s.j)
			for _, it := range a.Suspects {
				if it.Key() == c.unit || it.Tag != "" && string(it.Tag) == c.unit[len(c.unit)-2:] {
					return gate.AllMet(gate.Of(a, it))
				}
				for _, along := range it.With { // a boot that went with its coil
					if along == part.Tag(c.unit[len(c.unit)-2:]) {
						return gate.AllMet(gate.Of(a, it))
					}
				}
			}
			t.Fatalf("%s: no suspect %s", name, c.unit)
			return false
		}
		if c.enough != nil && !met(c.enough) {
			t.Errorf("%s: the gates of %s stay shut", name, c.unit)
		}
		if met(c.short) {
			t.Errorf("%s: the gates of %s open for too little", name, c.unit)
		}
	}
}

// companionsOf is what moves with a kind of part on a coil-on-plug engine.
func companionsOf(k engine.Kind) []engine.Kind {
	if k == engine.Coil {
		return []engine.Kind{engine.Coil, engine.Boot}
	}
	return []engine.Kind{k}
}

// While covers are off, what pays behind them is named: looks and tests of what stands
// still, with the minutes they then save; nothing where no cover is in the way.
func TestWhatPaysWhileCoversAreOff(t *testing.T) {
	p := beginOn(t, "v6-across").code(2).plan()
	if len(p.Next.Covers) == 0 || len(p.While) == 0 {
		t.Fatalf("next %s under %v, meanwhile %d", p.Next.Title, p.Next.Covers, len(p.While))
	}
	for _, m := range p.While {
		if m.Saves < worthDoing || m.Minutes <= 0 || len(m.Card.Parts) > 0 || m.Card.Test == evidence.Wiggle {
			t.Errorf("%s meanwhile: %v minutes, saves %v", m.Card.Title, m.Minutes, m.Saves)
		}
	}
	bare := begin(t, 4).code(2).plan()
	for _, m := range bare.While {
		t.Errorf("%s saves %v behind no cover", m.Card.Title, m.Saves)
	}
}

// Whatever has been done, every move that is proposed can be made: a spare that went out
// again is not asked for, and the old part is.
func TestEveryProposedMoveCanBeMade(t *testing.T) {
	s := beginOn(t, "single-remote").watch(1)
	for _, parts := range [][]part.Relocation{
		{{Tag: "L1", To: engine.Bench}, {Tag: "LS1", To: "cyl-1"}},
		{{Tag: "CA", To: engine.Bench}, {Tag: "CS1", To: "coil-A"}},
		{{Tag: "CS1", To: engine.Bench}, {Tag: "CA", To: "coil-A"}},
		{{Tag: "LS1", To: engine.Bench}, {Tag: "L1", To: "cyl-1"}},
	} {
		s.add(evidence.Entry{Body: &evidence.Move{Cleared: true, Parts: parts}}).watch()
		a := diagnose.Assess(s.j)
		for _, c := range Candidates(a) {
			if len(c.Parts) == 0 {
				continue
			}
			if _, err := a.Now.Move(c.Parts); err != nil {
				t.Errorf("after %d moves: %s: %v", len(a.Decodes), c.Title, err)
			}
		}
	}
}
