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
	"glenmist/core/plug"
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
	c.behind()
}

// behind asks for what lies behind a plug that is fouled: a new plug fouls again. Oil comes past rings or guides, fuel
// from an injector, soot from the mixture. In a two-stroke engine, or where the mixture is not regulated, it is not asked.
func (c *collector) behind() {
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
		c.made(evidence.CompressionTest, tight(), "the compression or leak-down of "+c.s.Place.String()+": the oil comes from somewhere, and a new plug fouls again")
	case c.s.Mode.ID == fault.PlugFuelFouled && Found(a, c.s.Tag, "", evidence.PlugFuel):
		if injector, _ := evidence.FindTest(evidence.InjectorTest); TestPlace(a, injector, cylinderOf(c.s.Place)) != "" {
			c.made(evidence.InjectorTest, tight(), "the injector of "+c.s.Place.String()+" tested, or its compression: a plug is wet because it did not fire, or because it was flooded")
		}
	}
}

func cylinderOf(p engine.Place) engine.Cylinder {
	c, _ := p.Cylinder()
	return c
}

// ofSet is how many parts of a set have to be condemned by themselves: one alone is no set.
const ofSet = 2

// set asks for two parts of the set, each condemned by itself. Those that lie open come first.
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
	needs := fmt.Sprintf("two %ss of the set, each found at fault by a look or a test: one alone is no set", kind)
	if kind == engine.Coil {
		c.move(n >= ofSet, "two coils of the set, each found at fault by a test or by a misfire that follows it: one alone is no set")
		c.or(evidence.CoilResistance)
		return
	}
	c.add(n >= ofSet, needs, left...)
}

// condemnedOf reports whether a part is condemned by a look, a test or a move.
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
		if found := checkFound(c.a, longer.ID); found || !met && Tested(c.a, t, engine.Whole) { // what has met it, or what is left
			met, t = met || found, longer
		}
	}
	c.gates = append(c.gates, Gate{Target: c.s.Key(), Met: met, Needs: fmt.Sprintf("a test that finds it: %s", lower(t.Words)), Test: t.ID})
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

func lower(s string) string {
	if s == "" {
		return s
	}
	return string(s[0]|0x20) + s[1:]
}

func ignitionNeeds(a *diagnose.Assessment, p engine.Place) string {
	return fmt.Sprintf("the ignition of %s cleared: %s moved, and the misfire stayed", p, sparkParts(a, p))
}

// AllMet reports whether every gate is met.
func AllMet(gates []Gate) bool {
	return len(gates) > 0 && !slices.ContainsFunc(gates, func(g Gate) bool { return !g.Met })
}

// curedByHandling reports whether the suspect, if faulty, was cured by handling, and the
// engine has run without misfire at least twice since.
func curedByHandling(a *diagnose.Assessment, s diagnose.Suspect) bool {
	p, last := Cured(a, s)
	if last < 0 || p < 0.9*s.P {
		return false
	}
	clean := 0
	for _, m := range a.Moments[last+1:] {
		switch {
		case m.Entry.Watch() != nil && len(m.Entry.Watch().Cylinders) == 0, m.Entry.Counters() != nil && slices.Max(m.Entry.Counters().Counts) < 2*evidence.Enough:
			clean++
		}
	}
	return clean >= 2
}

// eliminated reports whether all else in the circuit of a coil is proven: its parts by moves;
// feed, ground, trigger and wire by tests; the connector by a look.
func eliminated(a *diagnose.Assessment, place engine.Place) bool {
	sound := func(id evidence.TestID) bool {
		t, _ := evidence.FindTest(id)
		return Tested(a, t, place) && !abnormalAt(a, id, place)
	}
	return ignitionCleared(a, place) && len(Findings(a, "", place)) > 0 && sound(evidence.TriggerPulse) &&
		(sound(evidence.WireTest) || answeredAt(a, evidence.TriggerWatch, place, "there")) // a watch without misfire is no proof
}

// toEliminate returns the first missing test of the elimination that leaves only a connector
// or a contact.
func toEliminate(a *diagnose.Assessment, place engine.Place) evidence.TestID {
	if len(Findings(a, "", place)) == 0 {
		return ""
	}
	for _, id := range []evidence.TestID{evidence.Wiggle, evidence.TriggerPulse, evidence.TriggerWatch} {
		t, _ := evidence.FindTest(id)
		if feeds, ok := a.Engine.Feeds(place); ok && TestPlace(a, t, feeds.First()) == place && !Tested(a, t, place) {
			return id
		}
	}
	return ""
}

// Cured returns the part of a suspect's probability in which handling cured it, and the latest
// entry that can have done so, or -1.
func Cured(a *diagnose.Assessment, s diagnose.Suspect) (p float64, last int) {
	last = -1
	for i := range a.Faults {
		f := &a.Faults[i]
		if f.Suspect < len(a.Suspects) && a.Suspects[f.Suspect].Key() == s.Key() && f.CuredAfter >= 0 && a.Moments[f.CuredAfter].Entry.Fit() == nil {
			p += f.P
			last = max(last, f.CuredAfter)
		}
	}
	return p, last
}

// Lone reports whether the engine has only one place for a kind of part.
func Lone(a *diagnose.Assessment, k engine.Kind) bool {
	n := 0
	for _, slot := range a.Now.Slots() {
		if slot.Kind == k {
			n++
		}
	}
	return n == 1
}

// followed reports whether the misfire moved with the part.
func followed(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return d.Outcome == diagnose.Followed && slices.Contains(d.Tags, t)
	})
}

// goneWithout reports whether the misfire disappeared with a known-good spare in place and the
// removed part looks abnormal. Either observation alone proves little.
func goneWithout(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(Findings(a, t, ""), evidence.Finding.Abnormal) && slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return d.Outcome == diagnose.Gone && d.OnBench() && slices.Contains(d.Tags, t)
	})
}

// Stayed reports whether a part of a kind was moved away from a cylinder and the misfire
// stayed.
func Stayed(a *diagnose.Assessment, k engine.Kind, c engine.Cylinder) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		if !d.From.Has(c) {
			return false
		}
		return slices.ContainsFunc(d.Ways, func(w diagnose.Way) bool {
			with := slices.ContainsFunc(w.Tags, func(t part.Tag) bool { return t.Kind() == k })
			// A split move also clears the part that the misfire did not follow.
			return with && (d.Outcome == diagnose.Stayed || d.Outcome == diagnose.Followed && w.To != d.To)
		})
	})
}

// HasCleared reports whether the part was moved away and the misfire did not follow.
func HasCleared(a *diagnose.Assessment, t part.Tag) bool {
	return slices.ContainsFunc(a.Decodes, func(d diagnose.Decode) bool {
		return slices.ContainsFunc(d.Ways, func(w diagnose.Way) bool {
			return slices.Contains(w.Tags, t) && (d.Outcome == diagnose.Stayed || d.Outcome == diagnose.Followed && w.To != d.To)
		})
	})
}

// SparkKinds lists the kinds of part whose exchange clears the ignition of a place: those that
// the place has for itself.
func SparkKinds(a *diagnose.Assessment, p engine.Place) []engine.Kind {
	var kinds []engine.Kind
	of, _ := a.Engine.Feeds(p)
	for _, slot := range a.Now.Slots() {
		if slot.Kind != engine.Boot && (slot.Place == p || of.Len() > 2 && engine.SetOf(slot.Feeds...) == of) {
			kinds = append(kinds, slot.Kind)
		}
	}
	if len(kinds) == 0 {
		return []engine.Kind{engine.Coil, engine.Plug}
	}
	return kinds
}

func sparkParts(a *diagnose.Assessment, p engine.Place) string {
	var words []string
	for _, k := range SparkKinds(a, p) {
		words = append(words, string(k))
	}
	return unit.List(words) + " of " + p.String()
}

func ignitionCleared(a *diagnose.Assessment, at engine.Place) bool {
	feeds, ok := a.Engine.Feeds(at)
	if !ok {
		return false
	}
	for _, k := range SparkKinds(a, at) {
		if !slices.ContainsFunc(feeds.List(), func(c engine.Cylinder) bool { return Stayed(a, k, c) }) {
			return false
		}
	}
	return true
}

// Where returns the positions when the coil's misfire was first observed: before the coil was
// moved, unless the misfire stayed; otherwise the current positions.
func Where(a *diagnose.Assessment, coil part.Tag) part.Positions {
	for _, d := range a.Decodes {
		if d.Outcome == diagnose.Stayed || !slices.Contains(d.Tags, coil) || d.Back() {
			continue
		}
		for _, m := range a.Moments {
			if m.Entry.Seq == d.Move {
				return m.Before
			}
		}
	}
	return a.Now
}

// downstream lists the parts after the coil whose condition can overload it: plugs with boots
// and leads. For a coil that serves more than two cylinders it is what leads to the cap.
func downstream(a *diagnose.Assessment, at part.Positions, coil part.Tag) []part.Tag {
	feeds := at.Feeds(coil)
	var tags []part.Tag
	add := func(k engine.Kind, c engine.Cylinder) {
		t := at.Serving(k, c)
		if k == engine.Boot { // at its current position on the coil
			t = a.Now.In(k, a.Now.Where(coil))
			if t == "" {
				t = at.Serving(k, c)
			}
		}
		if t != "" && !slices.Contains(tags, t) {
			tags = append(tags, t)
		}
	}
	for _, c := range feeds {
		if len(feeds) > 2 {
			add(engine.CoilLead, c)
			add(engine.Rotor, c)
			add(engine.Cap, c)
			continue
		}
		add(engine.Plug, c)
		add(engine.Boot, c)
		add(engine.Lead, c)
	}
	return tags
}

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
