package plan

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// candidates lists every step that could be done now, made concrete.
func candidates(a *diagnose.Assessment) []Card {
	worst := a.Worst()
	cards := []Card{}
	if !read(a) {
		cards = append(cards, readCodes(a))
	}
	cards = append(cards, countMisfires(a), swap(a, SwapCoil, worst, part.Coil, part.Boot), swap(a, SwapPlug, worst, part.Plug))
	if len(findings(a, "", engine.At(worst))) == 0 {
		cards = append(cards, lookConnector(a, worst))
	}
	plug, boot := a.Now.In(part.Plug, worst), a.Now.In(part.Boot, worst)
	if len(findings(a, plug, "")) == 0 || len(findings(a, boot, "")) == 0 {
		cards = append(cards, lookPlugBoot(a, plug, boot))
	}
	return cards
}

// read says whether the codes have been read at all. After a move the counters of
// the next run tell sooner what codes would tell.
func read(a *diagnose.Assessment) bool {
	return slices.ContainsFunc(a.Moments, func(m evidence.Moment) bool { return m.Entry.Codes != nil })
}

func readCodes(a *diagnose.Assessment) Card {
	c := Card{Step: Find(ReadCodes), Title: "Read the trouble codes", Target: string(engine.Whole),
		Do:  "Read the stored and pending codes and write them all down before anything is cleared.",
		Why: "A misfire code names the cylinder to begin with. It never names a part."}
	var branches []branch
	var codes []likelihood
	for _, cyl := range a.Engine.All() {
		chance := func(w diagnose.World) float64 {
			if at, _ := a.Afflicts(w, a.Now); at == cyl {
				return a.CodeSet(w)
			}
			return 0
		}
		codes = append(codes, chance)
		code := trouble.MisfireOn(cyl)
		branches = append(branches, branch{Outcome{ID: "code-" + code.String(), Words: code.String(),
			Record: evidence.Entry{Codes: &evidence.Codes{Read: []trouble.Reading{{Code: code, State: trouble.Stored}}}}}, chance})
	}
	branches = append(branches, branch{Outcome{ID: "no-code", Words: "No misfire code",
		Record: evidence.Entry{Codes: &evidence.Codes{}}}, rest(codes)})
	c.weigh(a, branches)
	return c
}

// rest is the chance that none of the others happens.
func rest(others []likelihood) likelihood {
	return func(w diagnose.World) float64 {
		p := 1.0
		for _, o := range others {
			p -= o(w)
		}
		return max(0, p)
	}
}

// where makes the branches of a run: the misfire on one cylinder or nowhere
// clear.
func where(a *diagnose.Assessment, at func(diagnose.World) (engine.Cylinder, float64)) []branch {
	var branches []branch
	var others []likelihood
	shown := a.Shown(runRevolutions)
	for _, cyl := range a.Engine.All() {
		chance := func(w diagnose.World) float64 {
			if c, p := at(w); c == cyl {
				return p * shown(w)
			}
			return 0
		}
		others = append(others, chance)
		branches = append(branches, branch{Outcome{ID: "on-" + string(engine.At(cyl)), Words: fmt.Sprintf("Misfire on cylinder %d", cyl),
			Record: evidence.Entry{Watch: &evidence.Watch{Cylinders: []engine.Cylinder{cyl}}}}, chance})
	}
	return append(branches, branch{Outcome{ID: "nowhere", Words: "Ran clean",
		Record: evidence.Entry{Watch: &evidence.Watch{}}}, rest(others)})
}

func now(a *diagnose.Assessment) func(diagnose.World) (engine.Cylinder, float64) {
	return func(w diagnose.World) (engine.Cylinder, float64) {
		c, _ := a.Afflicts(w, a.Now)
		return c, 1
	}
}

// inCondition says in which condition to run.
func inCondition(a *diagnose.Assessment) string {
	if a.FailsWhen == evidence.AnyCondition {
		return "in the condition where it fails"
	}
	return "in the condition where it fails: " + a.FailsWhen.Words()
}

func countMisfires(a *diagnose.Assessment) Card {
	c := Card{Step: Find(CountMisfires), Title: "Count the misfires of each cylinder", Target: string(engine.Whole),
		Do:  fmt.Sprintf("Zero the misfire counters and run the engine for five minutes %s. Then write down the count of each cylinder.", inCondition(a)),
		Why: "Counts show which cylinder it is and how strong the misfire is, so that a later run can be compared with this one."}
	c.weigh(a, where(a, now(a)))
	return c
}

// swap makes an exchange of the parts of some kinds with the best partner.
func swap(a *diagnose.Assessment, id string, from engine.Cylinder, kinds ...part.Kind) Card {
	p := partner(a, from)
	c := Card{Step: Find(id), Target: a.Now.In(kinds[0], from).Words(), Cylinder: from, Partner: p,
		Parts: a.Now.Swap(from, p.Cylinder, kinds...)}
	what := a.Now.In(kinds[0], from).Words()
	if len(kinds) > 1 {
		what += " with " + a.Now.In(kinds[1], from).Words()
	}
	c.Title = fmt.Sprintf("Move %s to cylinder %d", a.Now.In(kinds[0], from).Words(), p.Cylinder)
	c.Do = fmt.Sprintf("Tag both. Move %s to cylinder %d; %s comes to cylinder %d. Clear the codes, zero the counters, run it %s.",
		what, p.Cylinder, a.Now.In(kinds[0], p.Cylinder).Words(), from, inCondition(a))
	c.Why = fmt.Sprintf("A fault of the %s goes with it; any other stays on cylinder %d. Why cylinder %d: %s.",
		kinds[0], from, p.Cylinder, strings.Join(p.Why, "; "))
	after, err := a.Now.Move(c.Parts)
	if err != nil {
		return c // cannot be: a swap of two cylinders is always possible
	}
	touch := evidence.Moment{Entry: evidence.Entry{Move: &evidence.Move{Parts: c.Parts}}, Before: a.Now, At: after}
	at := func(w diagnose.World) (engine.Cylinder, float64) {
		c, _ := a.Afflicts(w, after)
		if diagnose.Touches(touch, w.Hypothesis) && w.CuredAfter < 0 {
			return c, 1 - w.Hypothesis.Mode.CuredByTouch
		}
		return c, 1
	}
	c.weigh(a, told(where(a, at), from, p.Cylinder, len(a.Engine.All())))
	return c
}

// told names the branches of a run after an exchange, and joins the cylinders
// that had no part in it.
func told(branches []branch, from, to engine.Cylinder, cylinders int) []branch {
	out := make([]branch, 4)
	var others []likelihood
	for i, b := range branches {
		switch cyl := engine.Cylinder(i + 1); {
		case cyl == to:
			b.outcome.ID, b.outcome.Words = string(diagnose.Followed), fmt.Sprintf("Followed: now on cylinder %d", to)
			out[0] = b
		case cyl == from:
			b.outcome.ID, b.outcome.Words = string(diagnose.Stayed), fmt.Sprintf("Stayed: still on cylinder %d", from)
			out[1] = b
		case i == cylinders:
			b.outcome.ID, b.outcome.Words = string(diagnose.Gone), "Gone: ran clean"
			b.outcome.Means = "proves nothing: run longer, look at connector and seat"
			out[2] = b
		default:
			others = append(others, b.chance)
		}
	}
	out[3] = branch{Outcome{ID: string(diagnose.Elsewhere), Words: "Elsewhere: on another cylinder",
		Means: "something else was disturbed in the work"}, func(w diagnose.World) float64 {
		p := 0.0
		for _, o := range others {
			p += o(w)
		}
		return p
	}}
	if cylinders == 2 {
		out = out[:3]
	}
	return out
}

func lookConnector(a *diagnose.Assessment, at engine.Cylinder) Card {
	item := evidence.Seen{Place: engine.At(at)}
	c := Card{Step: Find(LookConnector), Target: "connector " + string(engine.At(at)), Cylinder: at, Look: []evidence.Seen{item},
		Title: fmt.Sprintf("Look at the connector of cylinder %d", at),
		Do:    fmt.Sprintf("Ignition off. Unlatch the coil connector of cylinder %d, look at pins and lock, and push it home until it clicks.", at),
		Why:   "It costs little, and a poor contact is cured at once. A clean look clears it only in part."}
	var branches []branch
	for _, row := range evidence.FindingsOn(evidence.Connector) {
		branches = append(branches, finding(a, item, row))
	}
	c.weigh(a, branches)
	return c
}

func finding(a *diagnose.Assessment, item evidence.Seen, row evidence.FindingWords) branch {
	item.Finding = row.Finding
	return branch{Outcome{ID: string(row.Finding), Words: row.Words,
		Record: evidence.Entry{Look: &evidence.Look{Items: []evidence.Seen{item}}}},
		func(w diagnose.World) float64 { return a.Finding(w, item) }}
}

func lookPlugBoot(a *diagnose.Assessment, plug, boot part.Tag) Card {
	plugAt, bootAt := a.Now.Where(plug), a.Now.Where(boot)
	at := fmt.Sprintf("at %s and %s in cylinder %d", plug.Words(), boot.Words(), plugAt)
	if plugAt != bootAt {
		at = fmt.Sprintf("at %s in cylinder %d and at %s on the coil in cylinder %d", plug.Words(), plugAt, boot.Words(), bootAt)
	}
	p, b := evidence.Seen{Tag: plug}, evidence.Seen{Tag: boot}
	c := Card{Step: Find(LookPlugBoot), Target: plug.Words() + " and " + boot.Words(), Cylinder: plugAt, Look: []evidence.Seen{p, b},
		Title: fmt.Sprintf("Look at %s and %s", plug.Words(), boot.Words()),
		Do:    "Look " + at + ": gap, insulator and nose of the plug; inside of the boot and its spring.",
		Why:   "A crack, a track or a wide gap shows at once; a clean look clears only in part."}
	p.Finding, b.Finding = evidence.PlugNormal, evidence.BootSound
	bothSound := evidence.Entry{Look: &evidence.Look{Items: []evidence.Seen{p, b}}}
	sound := func(w diagnose.World) float64 { return a.Finding(w, b) }
	branches := []branch{{Outcome{ID: "both-sound", Words: "Both look sound", Record: bothSound},
		func(w diagnose.World) float64 { return sound(w) * a.Finding(w, p) }}}
	for _, row := range evidence.FindingsOn(part.Plug)[1:] {
		one := finding(a, p, row)
		chance := one.chance
		one.outcome.Words = "Plug " + row.Short + ", boot sound"
		one.outcome.Record.Look.Items = append(one.outcome.Record.Look.Items, b)
		one.chance = func(w diagnose.World) float64 { return sound(w) * chance(w) }
		branches = append(branches, one)
	}
	for _, row := range evidence.FindingsOn(part.Boot)[1:] {
		one := finding(a, b, row)
		one.outcome.Words = "Boot " + row.Short
		branches = append(branches, one)
	}
	c.weigh(a, branches)
	return c
}
