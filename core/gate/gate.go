// Package gate lists what must be shown before a part is condemned: a look, a test, or a
// misfire that moved with the part. The gates are independent of the suspect's probability.
package gate

import (
	"cmp"
	"fmt"
	"slices"

	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Gate is one requirement before a suspect may be condemned.
type Gate struct {
	// Target is the key of the suspect, such as "coil C2".
	Target string
	Met    bool
	// Needs states the requirement in words.
	Needs string
	// Look lists the items whose inspection meets the gate; Test is the test that does.
	Look []evidence.Seen
	Test evidence.TestID
	// Again is a test to repeat if the workshop cannot make Test.
	Again evidence.TestID
	// Follows is true if a move can meet the gate. Or lists tests that can meet it too.
	Follows bool
	Or      []evidence.TestID
}

// siteTests maps each kind of site to the test that meets its gate.
var siteTests = map[engine.Kind]evidence.TestID{
	engine.AirLeak: evidence.Smoke, engine.FuelSupply: evidence.FuelPressure, engine.StopWire: evidence.StopWireOff,
	engine.AirGap: evidence.AirGapCheck, engine.LeadOrder: evidence.LeadRouting, engine.Timing: evidence.TimingLamp,
}

// plainFindings lists the findings that condemn a part without a move.
var plainFindings = map[engine.Kind][]evidence.Finding{
	engine.Boot: {evidence.BootTracked, evidence.BootTorn, evidence.BootSpring}, engine.Lead: {evidence.LeadBurnt},
	engine.Plug: {evidence.PlugWorn, evidence.PlugCracked, evidence.PlugClosed, evidence.PlugWrong, evidence.PlugLoose}, engine.Cap: {evidence.CapTracked, evidence.CapCorroded},
	engine.Rotor: {evidence.RotorBurnt}, engine.CoilLead: {evidence.CoilLeadBurnt},
}

// Of lists the gates of a suspect.
func Of(a *diagnose.Assessment, s diagnose.Suspect) []Gate {
	c := &collector{a: a, s: s}
	switch rule := rules[s.Unit]; {
	case rule != nil:
		rule(c)
	case plainFindings[s.Unit] != nil:
		c.burntOrTracked()
	case siteTests[s.Unit] != "":
		c.siteTest()
	}
	return c.gates
}

// collector builds the list of gates of one suspect.
type collector struct {
	a     *diagnose.Assessment
	s     diagnose.Suspect
	gates []Gate
}

// rules holds the gates of each kind of unit. A unit without a rule has the gates of
// plainFindings or siteTests, or none.
var rules = map[engine.Kind]func(*collector){
	engine.Coil: (*collector).coil, engine.Lead: (*collector).lead, engine.Boot: (*collector).boot, engine.Plug: (*collector).plug,
	engine.Connector: (*collector).contact, engine.Module: (*collector).contact, engine.Seat: (*collector).seat, engine.Well: (*collector).well,
	engine.Feed: (*collector).supply, engine.Ground: (*collector).supply,
	engine.Trigger: (*collector).trigger, engine.Driver: (*collector).trigger, engine.Pickup: (*collector).trigger,
	engine.Injector: (*collector).injector, engine.Compression: (*collector).compression,
	engine.Plugs: (*collector).set, engine.Leads: (*collector).set, engine.Boots: (*collector).set, engine.SetOfCoils: (*collector).set,
}

// add adds a gate that a look at the given items can meet.
func (c *collector) add(met bool, needs string, look ...evidence.Seen) {
	c.gates = append(c.gates, Gate{Target: c.s.Key(), Met: met, Needs: needs, Look: look})
}

// move adds a gate that a move, or one of the given tests, can meet.
func (c *collector) move(met bool, needs string, look ...evidence.Seen) {
	c.gates = append(c.gates, Gate{Target: c.s.Key(), Met: met, Needs: needs, Look: look, Follows: true})
}

func (c *collector) or(tests ...evidence.TestID) { c.gates[len(c.gates)-1].Or = tests }

// lookAt adds a gate that any look at the part meets.
func (c *collector) lookAt(t part.Tag, why string) {
	c.add(len(Findings(c.a, t, "")) > 0, fmt.Sprintf("a look at %s%s", t.Words(), why), evidence.Seen{Tag: t})
}

// made adds a gate that any result of a test at the suspect's place meets.
func (c *collector) made(id evidence.TestID, direct bool, needs string) {
	t, _ := evidence.FindTest(id)
	c.gates = append(c.gates, Gate{Target: c.s.Key(), Met: direct || Tested(c.a, t, c.s.Place), Needs: needs, Test: id})
}

// condemned reports whether handling, a move or a look has condemned the part.
func (c *collector) condemned() bool {
	return curedByHandling(c.a, c.s) || followed(c.a, c.s.Tag) || Found(c.a, c.s.Tag, "", plainFindings[c.s.Unit]...)
}

func (c *collector) coil() {
	a, tag := c.a, c.s.Tag
	needs := "the misfire follows %s to another place, or a clear open or short, or no spark with feed, ground and trigger proven"
	if Lone(a, engine.Coil) {
		needs = "the misfire goes with %s: gone with a known-good spare, and back with it; or a clear open or short, or no spark with feed, ground and trigger proven"
	}
	c.move(followed(a, tag) || abnormalTest(a, evidence.CoilResistance, tag) || Sparkless(a, tag), fmt.Sprintf(needs, tag.Words()))
	c.or(evidence.CoilResistance)
	at := Where(a, tag)
	for _, t := range downstream(a, at, tag) {
		if HasCleared(a, t) {
			continue
		}
		why := ""
		if t.Kind() == engine.Plug {
			why = ", which it fired while it failed (a wide gap overworks a coil)"
		}
		c.lookAt(t, why)
	}
	if a.Engine.Module {
		place := at.Where(tag)
		c.add(len(Findings(a, "", place)) > 0, fmt.Sprintf("a look at the contacts of %s to its module", place), evidence.Seen{Place: place})
	}
}

func (c *collector) lead() {
	tag := c.s.Tag
	c.move(c.condemned() || abnormalTest(c.a, evidence.LeadResistance, tag) || abnormalKV(c.a, tag),
		fmt.Sprintf("the misfire follows %s, or ohms, kilovolts or a look condemn it; a clean look is no proof", tag.Words()), evidence.Seen{Tag: tag})
	c.or(evidence.LeadResistance, evidence.Kilovolts)
}

func (c *collector) boot() {
	tag := c.s.Tag
	c.move(c.condemned(), fmt.Sprintf("the misfire follows %s, or a look finds it tracked, torn or swollen", tag.Words()), evidence.Seen{Tag: tag})
	for _, cylinder := range c.a.Now.Feeds(tag) {
		c.lookAt(c.a.Now.Serving(engine.Plug, cylinder), " (it can carry the other half of a track)")
	}
}

func (c *collector) plug() {
	tag := c.s.Tag
	c.move(c.condemned() || abnormalKV(c.a, tag) || goneWithout(c.a, tag),
		fmt.Sprintf("a second sign on %s besides its colour: gap, crack, kilovolts, or a misfire that follows it, goes with a spare, or stays away after a refit", tag.Words()), evidence.Seen{Tag: tag})
	c.or(evidence.Kilovolts)
	if !followed(c.a, tag) { // its gap and insulator are inspected free of cost when it is removed
		c.lookAt(tag, ", which comes out to be renewed anyway (kilovolts alone do not condemn it: a lean mixture asks for more too)")
	}
	c.causeOfFouling()
}

// causeOfFouling adds a gate for the cause of a fouled plug, because a new plug would foul again: compression for oil, the
// injector for fuel. Carbon has no gate. A plug with a fault of its own has none either.
func (c *collector) causeOfFouling() {
	a := c.a
	tight := func() bool {
		compression, _ := evidence.FindTest(evidence.CompressionTest)
		leak, _ := evidence.FindTest(evidence.LeakDown)
		return Tested(a, compression, c.s.Place) || Tested(a, leak, c.s.Place)
	}
	if Found(a, c.s.Tag, "", plainFindings[engine.Plug]...) { // it is at fault by itself
		return
	}
	switch {
	case c.s.Mode.ID == fault.PlugOilFouled && Found(a, c.s.Tag, "", evidence.PlugOil):
		c.made(evidence.CompressionTest, tight(), "a compression or leak-down test of "+c.s.Place.String()+": the oil has a cause, and a new plug would foul again")
	case c.s.Mode.ID == fault.PlugFuelFouled && Found(a, c.s.Tag, "", evidence.PlugFuel):
		if injector, _ := evidence.FindTest(evidence.InjectorTest); TestPlace(a, injector, cylinderOf(c.s.Place)) != "" {
			c.made(evidence.InjectorTest, tight(), "a test of the injector of "+c.s.Place.String()+", or of its compression: a plug is wet if it did not fire, or if it was flooded")
		}
	}
}

func cylinderOf(p engine.Place) engine.Cylinder {
	c, _ := p.Cylinder()
	return c
}

// leastOfSet is the number of parts of a set that must each be condemned. One faulty part is not a faulty set.
const leastOfSet = 2

// set adds the gate that two parts of the set are condemned, each by its own evidence. The most accessible come first.
func (c *collector) set() {
	a := c.a
	var left []evidence.Seen
	n := 0
	for _, tag := range c.s.With {
		switch {
		case c.condemnedOf(tag):
			n++
		case len(Findings(a, tag, "")) == 0 && a.Now.Where(tag) != engine.Bench:
			left = append(left, evidence.Seen{Tag: tag})
		}
	}
	slices.SortStableFunc(left, func(x, y evidence.Seen) int {
		_, mx := a.Engine.Access(a.Now.Where(x.Tag), a.Off)
		_, my := a.Engine.Access(a.Now.Where(y.Tag), a.Off)
		return cmp.Compare(mx, my)
	})
	kind, _ := fault.MemberKind(c.s.Unit)
	needs := fmt.Sprintf("two %ss of the set, each found faulty by a look or a test (one alone is not a faulty set)", kind)
	if kind == engine.Coil {
		c.move(n >= leastOfSet, "two coils of the set, each found faulty by a test or by a misfire that follows it (one alone is not a faulty set)")
		c.or(evidence.CoilResistance)
		return
	}
	c.add(n >= leastOfSet, needs, left...)
}

// condemnedOf reports whether a look, a test or a move has condemned one part of the set.
func (c *collector) condemnedOf(t part.Tag) bool {
	a := c.a
	switch t.Kind() {
	case engine.Coil:
		return followed(a, t) || abnormalTest(a, evidence.CoilResistance, t) || Sparkless(a, t)
	case engine.Lead:
		return followed(a, t) || abnormalTest(a, evidence.LeadResistance, t) || Found(a, t, "", plainFindings[engine.Lead]...)
	}
	return followed(a, t) || Found(a, t, "", plainFindings[t.Kind()]...)
}

func (c *collector) burntOrTracked() {
	tag := c.s.Tag
	c.move(c.condemned(), fmt.Sprintf("a look that finds %s burnt or tracked, or a misfire that goes with it", tag.Words()), evidence.Seen{Tag: tag})
}

func (c *collector) contact() {
	a, place := c.a, c.s.Place
	c.add(curedByHandling(a, c.s) || abnormalAt(a, evidence.Wiggle, place) || eliminated(a, place) || Found(a, "", place, evidence.ConnectorLoose, evidence.ConnectorBad),
		fmt.Sprintf("a look that finds the %s of %s loose or corroded, a wiggle that changes it, that it has run clean again and again since it was handled, or that all else on the way to it is proven", c.s.Unit, place), evidence.Seen{Place: place})
	c.gates[len(c.gates)-1].Test = toEliminate(a, place)
}

// upon returns the cylinder of the suspect and the boot or lead on its plug.
func (c *collector) upon() (engine.Cylinder, part.Tag) {
	cylinder, _ := c.s.Place.Cylinder()
	boot := c.a.Now.Serving(engine.Boot, cylinder)
	if boot == "" {
		boot = c.a.Now.Serving(engine.Lead, cylinder)
	}
	return cylinder, boot
}

func (c *collector) seat() {
	_, boot := c.upon()
	c.add(curedByHandling(c.a, c.s) || Found(c.a, boot, "", evidence.BootNotHome, evidence.LeadNotHome),
		fmt.Sprintf("a look that finds the coil, boot or lead of %s not home, or several clean runs since it was handled", c.s.Place), evidence.Seen{Tag: boot})
}

func (c *collector) well() {
	cylinder, boot := c.upon()
	c.add(curedByHandling(c.a, c.s) || Found(c.a, boot, "", evidence.BootWet, evidence.LeadWet) || WellWet(c.a, cylinder),
		fmt.Sprintf("a look into the well of %s that finds oil or water", c.s.Place), evidence.Seen{Tag: boot})
}

func (c *collector) siteTest() {
	t, _ := evidence.FindTest(siteTests[c.s.Unit])
	met := checkFound(c.a, t.ID) || curedByHandling(c.a, c.s)
	if longer, ok := evidence.FindTest(running[t.ID]); ok { // the misfire may not show while cranking
		if found := checkFound(c.a, longer.ID); found || !met && Tested(c.a, t, engine.Whole) { // name the test that met the gate, or else the next one
			met, t = met || found, longer
		}
	}
	c.gates = append(c.gates, Gate{Target: c.s.Key(), Met: met, Needs: fmt.Sprintf("a test that finds it: %s", unit.Lower(t.Words)), Test: t.ID})
}

func (c *collector) supply() {
	place, want := c.s.Place, evidence.ResultID("feed")
	if c.s.Unit == engine.Ground {
		want = "ground"
	}
	g := Gate{Target: c.s.Key(), Met: answeredAt(c.a, evidence.TriggerPulse, place, want) || answeredAt(c.a, evidence.Overlay, place, want),
		Needs: fmt.Sprintf("the %s read under load at %s and found poor, or a clean run with another laid over it", c.s.Unit, place), Test: evidence.TriggerPulse}
	if t, _ := evidence.FindTest(g.Test); Tested(c.a, t, place) {
		g.Test, g.Again = evidence.Overlay, evidence.TriggerPulse
	}
	c.gates = append(c.gates, g)
}

func (c *collector) trigger() { c.gates = triggerGates(c.a, c.s) }

func (c *collector) injector() {
	a, place := c.a, c.s.Place
	direct := circuitCode(a, place) || abnormalAt(a, evidence.InjectorTest, place) || abnormalAt(a, evidence.InjectorExchange, place)
	c.move(direct || ignitionCleared(a, place), ignitionNeeds(a, place)+", or direct evidence")
	c.made(evidence.InjectorTest, circuitCode(a, place), "the injector tested, or a circuit code of it")
}

func (c *collector) compression() {
	a, place := c.a, c.s.Place
	c.move(abnormalAt(a, evidence.CompressionTest, place) || abnormalAt(a, evidence.LeakDown, place) || ignitionCleared(a, place), ignitionNeeds(a, place)+", or direct evidence")
	c.made(evidence.CompressionTest, false, "the compression read")
}

func ignitionNeeds(a *diagnose.Assessment, p engine.Place) string {
	return fmt.Sprintf("the ignition of %s cleared: %s moved, and the misfire stayed", p, sparkParts(a, p))
}

// AllMet reports whether every gate is met.
func AllMet(gates []Gate) bool {
	return len(gates) > 0 && !slices.ContainsFunc(gates, func(g Gate) bool { return !g.Met })
}
