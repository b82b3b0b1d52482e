package plan

import (
	"slices"
	"strings"
	"testing"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// What goes with a unit, and what lies behind it (section 12 of the trade: bundle the cause with the
// part; C).
func TestAlongAndCause(t *testing.T) {
	read := func(l *evidence.Look) evidence.Entry { return evidence.Entry{Body: l} }
	on := func(tag part.Tag, of plug.Look, more ...evidence.Seen) evidence.Entry {
		l := &evidence.Look{Gap: &plug.Range{Low: 0.8, High: 0.9}}
		l.Items = append([]evidence.Seen{l.Read(tag, of)}, more...)
		return read(l)
	}
	km := func(k unit.Kilometres) *unit.Kilometres { return &k }
	four, pairs := "four-across", "six-pairs"
	for name, c := range map[string]struct {
		pattern string
		parts   []part.Record
		entry   evidence.Entry
		unit    string
		also    []string // each somewhere among what goes with it
		not     string
		cause   string
	}{
		"tracked boot":      {four, nil, on("P2", plug.Look{Insulator: plug.Tracked}, evidence.Seen{Tag: "B2", Finding: evidence.BootTracked}), "boot B2", []string{"plug P2: it carries the other half"}, "seal", ""},
		"tracked plug":      {four, nil, on("P2", plug.Look{Insulator: plug.Tracked}, evidence.Seen{Tag: "B2", Finding: evidence.BootTracked}), "plug P2", []string{"boot B2: it carries the other half"}, "seal", "dropped"},
		"swollen boot":      {four, nil, on("P2", plug.Look{High: plug.Oil}, evidence.Seen{Tag: "B2", Finding: evidence.BootTorn}), "boot B2", []string{"the seal of the well of cylinder 2"}, "plug P2", "swells the boot"},
		"wet well":          {four, nil, on("P2", plug.Look{High: plug.Oil}, evidence.Seen{Tag: "B2", Finding: evidence.BootTorn}), "plug well cyl-2", []string{"the seal above the well", "boot B2, which it has swollen"}, "plug P2", "its seal"},
		"coil and worn":     {four, nil, on("P2", plug.Look{Edges: plug.Eaten, GapMM: 1.6}), "coil C2", []string{"plug P2: its wide gap overworks"}, "boot", "wide gap"},
		"coil, sound plug":  {four, nil, on("P2", plug.Sound), "coil C2", nil, "plug", ""},
		"wasted spark, old": {pairs, []part.Record{{Kind: engine.Plug, FittedKm: km(20_000), LifeKm: 60_000}}, on("P2", plug.Sound), "coil CB", []string{"plug P2: renew it, at 117", "lead L2: test it, and renew it when it is past half"}, "", ""},
		"wasted spark, new": {pairs, []part.Record{{Kind: engine.Plug, FittedKm: km(84_000), LifeKm: 60_000}}, on("P2", plug.Sound), "coil CB", []string{"of its life it can stay"}, "", ""},
		"under the plenum":  {"v6-across", nil, on("P2", plug.Look{Edges: plug.Eaten, GapMM: 1.6}), "plug P2", []string{"new for the covers that come off: "}, "", ""},
		"worn out":          {four, []part.Record{{Kind: engine.Plug, FittedKm: km(20_000), LifeKm: 60_000}}, on("P2", plug.Look{Edges: plug.Eaten, GapMM: 1.6}), "plug P2", nil, "", "its age: 117"},
		"fouled by oil":     {four, nil, on("P2", plug.Look{Wet: plug.Oil, Nose: plug.Black}), "plug P2", nil, "", "fouls again"},
	} {
		s := beginOn(t, c.pattern)
		s.j.Distance, s.j.Vehicle.Parts = 90_000, c.parts
		a := diagnose.Assess(s.add(c.entry).j)
		i := slices.IndexFunc(a.Suspects, func(s diagnose.Suspect) bool { return s.Key() == c.unit })
		if i < 0 {
			t.Fatalf("%s: no suspect %s", name, c.unit)
		}
		got := along(a, a.Suspects[i])
		all := strings.Join(got, "\n")
		for _, want := range c.also {
			if !strings.Contains(all, want) {
				t.Errorf("%s: %q is not among %q", name, want, got)
			}
		}
		if len(c.also) == 0 && len(got) > 0 || c.not != "" && strings.Contains(all, c.not) {
			t.Errorf("%s: goes with it: %q", name, got)
		}
		if why := cause(a, a.Suspects[i]); (c.cause == "") != (why == "") || !strings.Contains(why, c.cause) {
			t.Errorf("%s: behind it %q, want %q", name, why, c.cause)
		}
	}
}
