package plan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/gate"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// connectorOf is the place of the coil connector that cylinder c depends on, or "".
func connectorOf(a *diagnose.Assessment, c engine.Cylinder) engine.Place {
	for _, item := range a.Engine.Series(c) {
		if item.Kind == engine.Connector {
			return item.Place
		}
	}
	return ""
}

func lookConnector(a *diagnose.Assessment, place engine.Place) Card {
	item := evidence.Seen{Place: place}
	c := at(a, LookConnector, place)
	feeds, _ := a.Engine.Feeds(place)
	c.Target, c.Cylinder, c.Look = "connector "+string(place), feeds.First(), []evidence.Seen{item}
	c.Title = fmt.Sprintf("Look at the connector of %s", place)
	c.Do = fmt.Sprintf("Ignition off. Unlatch the coil connector of %s, look at pins and lock, and push it home until it clicks.", place)
	c.Why = "It costs little, and a poor contact is cured at once. A clean look clears it only in part."
	c.later = func(c *Card) {
		var branches []branch
		for _, row := range evidence.FindingsOn(engine.Connector) {
			branches = append(branches, finding(a, item, row))
		}
		c.weigh(a, branches)
	}
	return c
}

func finding(a *diagnose.Assessment, item evidence.Seen, row evidence.FindingWords) branch {
	item.Finding = row.Finding
	return branch{Outcome{ID: string(row.Finding), Words: row.Words,
		Record: evidence.Entry{Body: &evidence.Look{Items: []evidence.Seen{item}}}},
		a.Finding(item)}
}

// plugAndLead lists the plug, and the boot or lead on it, of a cylinder.
func plugAndLead(a *diagnose.Assessment, c engine.Cylinder) []evidence.Seen {
	var seen []evidence.Seen
	for _, k := range []engine.Kind{engine.Plug, engine.Boot, engine.Lead} {
		t := a.Now.Serving(k, c)
		if !t.IsOriginal() { // known to be good: its own, on the bench, is the one to look at
			if t = part.Home(a.Engine).Serving(k, c); a.Now.Where(t) != engine.Bench || a.Now.Renewed(t) {
				continue
			}
		}
		if t != "" {
			seen = append(seen, evidence.Seen{Tag: t})
		}
	}
	return seen
}

// glance is the minutes for inspecting an item that comes off for a move, and mostGlances the greatest
// number of such items (C; judgement).
const (
	glance      = 0.5
	mostGlances = 4
)

// onTheWay has a card that moves some parts look at what then comes into the hand: the
// part, the boot or lead that is pulled with it, the connector that is unplugged. What
// has been looked at before is left out, and so are spares.
func (c *Card) onTheWay(a *diagnose.Assessment, tags ...part.Tag) {
	add := func(item evidence.Seen) {
		if !slices.Contains(c.Look, item) && len(c.Look) < mostGlances && len(gate.Findings(a, item.Tag, item.Place)) == 0 {
			c.Look = append(c.Look, item)
			c.Minutes += glance
		}
	}
	addPart := func(t part.Tag) {
		if t != "" && t.IsOriginal() && slices.Contains(evidence.LookKinds(a.Engine), t.Kind()) {
			add(evidence.Seen{Tag: t})
		}
	}
	for _, t := range tags {
		home := a.Now.Where(t)
		if home == engine.Bench {
			continue
		}
		addPart(t)
		for _, site := range a.Engine.Disturbs(t.Kind(), home) {
			switch cyl, ok := site.Place.Cylinder(); {
			case site.Kind == engine.Connector:
				add(evidence.Seen{Place: site.Place})
			case ok && site.Kind == engine.Seat:
				addPart(a.Now.Serving(engine.Boot, cyl))
				addPart(a.Now.Serving(engine.Lead, cyl))
			}
		}
	}
}

// splitByLook splits each outcome of a move in two, by whether everything that came off looked sound.
func (c *Card) splitByLook(a *diagnose.Assessment) {
	if len(c.Look) == 0 {
		return
	}
	sound := make([]float64, len(a.JointHypotheses))
	for i := range sound {
		sound[i] = 1
	}
	for _, item := range c.Look {
		item.Finding = evidence.FindingsOn(item.Kind())[0].Finding
		chance := a.Finding(item)
		for i := range a.JointHypotheses {
			sound[i] *= chance(&a.JointHypotheses[i])
		}
	}
	n := len(c.chances)
	for k := range n {
		abnormal := make([]float64, len(sound))
		for i, p := range sound {
			abnormal[i] = c.chances[k][i] * (1 - p)
			c.chances[k][i] *= p
		}
		c.chances = append(c.chances, abnormal)
	}
	for i := range c.Outcomes {
		for _, row := range c.Outcomes[i].rows {
			c.Outcomes[i].rows = append(c.Outcomes[i].rows, row+n)
		}
	}
}

// capAndRotor lists cap, rotor and coil lead where they have not been looked at.
func capAndRotor(a *diagnose.Assessment) []evidence.Seen {
	var seen []evidence.Seen
	for _, k := range []engine.Kind{engine.Cap, engine.Rotor, engine.CoilLead} {
		if t := a.Now.Serving(k, 1); t != "" && len(gate.Findings(a, t, "")) == 0 {
			seen = append(seen, evidence.Seen{Tag: t})
		}
	}
	return seen
}

// lookParts is a look at several parts at once. Its outcomes are that all look sound, or that one
// is abnormal while the others are sound.
func lookParts(a *diagnose.Assessment, items []evidence.Seen) Card {
	var names, where []string
	var places []engine.Place
	id := LookCapRotor
	for _, item := range items {
		place := a.Now.Where(item.Tag)
		names = append(names, item.Tag.Words())
		if !slices.Contains(places, place) {
			places = append(places, place)
		}
		where = append(where, item.Tag.Words()+" "+part.At(place))
		switch item.Tag.Kind() {
		case engine.Boot:
			id = LookPlugBoot
		case engine.Lead, engine.Plug:
			if id != LookPlugBoot {
				id = LookPlugLead
			}
		}
	}
	if id == LookPlugLead && slices.Contains(a.Engine.PartKinds(), engine.Boot) {
		id = LookPlugBoot
	}
	c := at(a, id, places...)
	feeds := a.Now.Feeds(items[0].Tag)
	c.Target, c.Look = unit.List(names), items
	if len(feeds) > 0 {
		c.Cylinder = feeds[0]
	}
	c.Title = "Look at " + unit.List(names)
	c.Do = "Look at " + unit.List(where) + ": " + lookFor(items) + "."
	c.Why = "A crack, a track or a wide gap shows at once; a clean look clears only in part."
	c.later = func(c *Card) { c.weigh(a, looks(a, items)) }
	return c
}

// looks makes the branches of a look at some parts.
func looks(a *diagnose.Assessment, items []evidence.Seen) []branch {
	sound := make([]evidence.Seen, len(items))
	for i, item := range items {
		item.Finding = evidence.FindingsOn(item.Tag.Kind())[0].Finding
		sound[i] = item
	}
	found := map[evidence.Seen][]float64{} // the chance of each finding, by joint hypothesis
	chance := func(seen []evidence.Seen) likelihood {
		var of [][]float64
		for _, s := range seen {
			if found[s] == nil {
				likely := a.Finding(s)
				found[s] = make([]float64, len(a.JointHypotheses))
				for i := range a.JointHypotheses {
					found[s][i] = likely(&a.JointHypotheses[i])
				}
			}
			of = append(of, found[s])
		}
		return func(w *diagnose.JointHypothesis) float64 {
			p := 1.0
			for _, chances := range of {
				p *= chances[w.Index]
			}
			return p
		}
	}
	all := map[int]string{1: "Looks sound", 2: "Both look sound"}[len(items)]
	if all == "" {
		all = "All look sound"
	}
	branches := []branch{{Outcome{ID: "all-sound", Words: all, Record: evidence.Entry{Body: &evidence.Look{Items: sound}}}, chance(sound)}}
	for i, item := range items {
		for _, row := range evidence.FindingsOn(item.Tag.Kind())[1:] {
			seen := slices.Clone(sound)
			seen[i].Finding = row.Finding
			words := unit.Capital(string(item.Tag.Kind())) + " " + row.Short
			if others := kindsOf(slices.Delete(slices.Clone(items), i, i+1)); len(others) > 0 {
				words += ", " + unit.List(others) + " sound"
			}
			branches = append(branches, branch{Outcome{ID: string(row.Finding), Words: words,
				Record: evidence.Entry{Body: &evidence.Look{Items: seen}}}, chance(seen)})
		}
	}
	if len(items) > 1 {
		branches = append(branches, branch{Outcome{ID: "several-odd", Words: "More than one looks abnormal", Means: "enter each in full"}, nil})
	}
	return branches
}

func kindsOf(items []evidence.Seen) []string {
	var words []string
	for _, item := range items {
		words = append(words, string(item.Tag.Kind()))
	}
	return words
}

// lookFor returns what to look for on each kind.
func lookFor(items []evidence.Seen) string {
	words := map[engine.Kind]string{
		engine.Plug: "gap, insulator and nose of the plug", engine.Boot: "inside of the boot and its spring",
		engine.Lead: "the lead along its way and inside both ends", engine.Cap: "tracks and towers inside the cap",
		engine.Rotor: "the rotor's tip and under it", engine.CoilLead: "both ends of the coil lead",
	}
	var all []string
	for _, item := range items {
		all = append(all, words[item.Tag.Kind()])
	}
	return strings.Join(all, "; ")
}
