package plan

import (
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// pastHalf is the share of its life from which a lead or plug is renewed with a failed
// wasted-spark coil (C: test them; renew when past half their life).
const pastHalf = 0.5

// along lists what is put right together with a unit, each with its reason, besides the parts
// that cannot be distinguished from it (C: repair the cause with the part).
func along(a *diagnose.Assessment, s diagnose.Suspect) []string {
	var all []string
	add := func(format string, args ...any) {
		if words := fmt.Sprintf(format, args...); !slices.Contains(all, words) {
			all = append(all, words)
		}
	}
	for _, c := range cylindersOf(a, s) {
		plug, boot := a.Now.Serving(engine.Plug, c), bootOrLead(a, c)
		alongTrack(a, s, plug, boot, add)
		if s.Unit == engine.Coil && gate.Found(a, plug, "", evidence.PlugWorn) {
			add("%s: its wide gap overworks the new coil as it did the old", plug.Words())
		}
		alongWell(a, s, c, boot, add)
	}
	if s.Unit == engine.Coil && len(a.Now.Feeds(s.Tag)) == 2 {
		for _, c := range a.Now.Feeds(s.Tag) {
			for _, k := range []engine.Kind{engine.Lead, engine.Plug} {
				if t := a.Now.Serving(k, c); t != "" {
					add("%s: %s", t.Words(), withAge(a, t))
				}
			}
		}
	}
	if gaskets := gasketsOff(a, s); len(gaskets) > 0 {
		add("new for the covers that come off: %s", unit.List(gaskets))
	}
	return all
}

// bootOrLead returns the part on the plug of a cylinder, or "".
func bootOrLead(a *diagnose.Assessment, c engine.Cylinder) part.Tag {
	if boot := a.Now.Serving(engine.Boot, c); boot != "" {
		return boot
	}
	return a.Now.Serving(engine.Lead, c)
}

// alongTrack adds the part with the other half of a track: a plug and what sits on it burn together.
func alongTrack(a *diagnose.Assessment, s diagnose.Suspect, plug, boot part.Tag, add func(string, ...any)) {
	burnt := gate.Found(a, boot, "", evidence.BootTracked, evidence.LeadBurnt)
	cracked := gate.Found(a, plug, "", evidence.PlugCracked)
	switch {
	case s.Unit == engine.Plug && burnt && boot != "":
		add("%s: it carries the other half of the track", boot.Words())
	case s.Unit == engine.Plug && cracked && boot != "":
		add("%s, if the crack is a burnt track: it carries the other half", boot.Words())
	case (s.Unit == engine.Boot || s.Unit == engine.Lead) && burnt:
		add("%s: it carries the other half of the track", plug.Words())
	}
}

// alongWell adds the seal of a wet well, and what the liquid has damaged.
func alongWell(a *diagnose.Assessment, s diagnose.Suspect, c engine.Cylinder, boot part.Tag, add func(string, ...any)) {
	switch s.Unit {
	case engine.Boot, engine.Plug, engine.Coil, engine.Lead:
		if gate.WellWet(a, c) || gate.Found(a, boot, "", evidence.BootWet, evidence.LeadWet) {
			add("the seal of the well of cylinder %d: else the oil or water returns", c)
		}
	case engine.Well:
		add("the seal above the well, else it returns")
		if boot != "" && gate.Found(a, boot, "", evidence.BootTorn, evidence.BootTracked, evidence.LeadBurnt) {
			add("%s, which it has swollen or let arc", boot.Words())
		}
	}
}

// withAge returns what its age asks of a lead or plug beside a failed wasted-spark coil: an open one
// kills the new coil.
func withAge(a *diagnose.Assessment, t part.Tag) string {
	used, known := a.Complaint.Used[t]
	switch {
	case !known:
		return "test it, and renew it when it is past half its life: an open one kills the new coil"
	case used >= pastHalf:
		return fmt.Sprintf("renew it, at %s of its life: an open one kills the new coil", unit.Percent(used))
	}
	return fmt.Sprintf("test it; at %s of its life it can stay", unit.Percent(used))
}

// gasketsOff lists what the covers need that are off, or hide the suspect.
func gasketsOff(a *diagnose.Assessment, s diagnose.Suspect) []string {
	place := s.Place
	if s.Tag != "" {
		place = a.Now.Where(s.Tag)
	}
	var all []string
	covers, _ := a.Engine.Access(place, a.Off)
	for _, name := range a.Off {
		c, _ := a.Engine.Cover(name)
		covers = append(covers, c)
	}
	for _, c := range covers {
		for _, g := range c.Gaskets {
			if !slices.Contains(all, g) {
				all = append(all, g)
			}
		}
	}
	return all
}

// cylindersOf lists the cylinders that a suspect serves where it sat when it failed.
func cylindersOf(a *diagnose.Assessment, s diagnose.Suspect) []engine.Cylinder {
	if s.Tag != "" {
		at := a.Now
		if s.Unit == engine.Coil {
			at = gate.Where(a, s.Tag)
		}
		return at.Feeds(s.Tag)
	}
	feeds, _ := a.Engine.Feeds(s.Place)
	return feeds.List()
}

// causes states what lies behind a unit that failed, where something was found that says so, the
// first that fits (C: the cause and effect pairs of the trade).
var causes = []struct {
	unit engine.Kind
	// on is the kind of part on which one of the findings says so, at the unit's cylinder; wet says
	// that its well does.
	on    engine.Kind
	found []evidence.Finding
	wet   bool
	why   string
}{
	{engine.Coil, engine.Plug, []evidence.Finding{evidence.PlugWorn}, false, "a plug with a wide gap, which asks for more kilovolts than the coil is made for"},
	{engine.Boot, engine.Boot, []evidence.Finding{evidence.BootWet}, true, "oil or water in the well, which swells the boot and lets it arc"},
	{engine.Plug, engine.Plug, []evidence.Finding{evidence.PlugCracked}, false, "dropped, over-bent or over-torqued when it was fitted, or a track that its boot began"},
	{engine.Plug, engine.Plug, []evidence.Finding{evidence.PlugWrong}, false, "the wrong part, or a copy: look at its neighbours as well"},
	{engine.Plug, engine.Plug, []evidence.Finding{evidence.PlugLoose}, false, "it was never tight"},
	{engine.Plug, engine.Plug, []evidence.Finding{evidence.PlugOil}, false, "oil in the chamber: a new plug fouls again"},
	{engine.Plug, engine.Plug, []evidence.Finding{evidence.PlugSoot}, false, "a rich mixture, short trips or a weak spark: a new plug may foul again"},
}

// cause is what lies behind a suspect, or nothing where nothing found says so.
func cause(a *diagnose.Assessment, s diagnose.Suspect) string {
	if s.IsSet() {
		if i := slices.IndexFunc(fault.SetCauses, func(c fault.SetCause) bool { return c.Mode == s.Mode.ID }); i >= 0 {
			return fault.SetCauses[i].Words
		}
	}
	if s.Unit == engine.Well {
		return "its seal: the valve cover's, the well's, or that of the cowl"
	}
	for _, row := range causes {
		for _, c := range cylindersOf(a, s) {
			on := s.Tag
			if row.on != s.Unit {
				on = a.Now.Serving(row.on, c)
			}
			if row.unit == s.Unit && (gate.Found(a, on, "", row.found...) || row.wet && gate.WellWet(a, c)) {
				return row.why
			}
		}
	}
	if used, ok := a.Complaint.Used[s.Tag]; ok && used >= 1 {
		return fmt.Sprintf("its age: %s of its life has passed", unit.Percent(used))
	}
	return ""
}
