package trial

import (
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/plan"
	"glenmist/sim/simulator"
)

// measures maps tests made with an instrument to their measure. Each states whether all
// comparable items or one item is read, and whether that answers the whole test.
var measures = map[evidence.TestID]struct {
	of   []evidence.MeasureID
	each bool
	all  bool
}{
	evidence.Spark:           {nil, false, true},
	evidence.CoilResistance:  {[]evidence.MeasureID{evidence.CoilPrimary, evidence.CoilSecondary}, true, true},
	evidence.LeadResistance:  {[]evidence.MeasureID{evidence.LeadOhms}, true, true},
	evidence.TriggerPulse:    {[]evidence.MeasureID{evidence.FeedDrop, evidence.GroundDrop}, false, false},
	evidence.WireTest:        {[]evidence.MeasureID{evidence.WireOhms}, false, true},
	evidence.AirGapCheck:     {[]evidence.MeasureID{evidence.AirGapLegs}, true, true},
	evidence.InjectorTest:    {[]evidence.MeasureID{evidence.InjectorOhms}, true, false},
	evidence.CompressionTest: {[]evidence.MeasureID{evidence.StarterCurrent}, true, true},
	evidence.Kilovolts:       {[]evidence.MeasureID{evidence.KVSteady}, true, true},
	evidence.LeakDown:        {[]evidence.MeasureID{evidence.LeakDownLoss}, false, true},
	evidence.FuelPressure:    {[]evidence.MeasureID{evidence.FuelBar}, true, true},
}

// usualTester is an old plug, opened to the widest gap that a sound coil jumps while cranking.
var usualTester = evidence.Sparks{Tester: "opened-plug", GapMM: 7, From: engine.Boot, AirKPa: 94, AirCelsius: 15}

// measured takes the readings of a test with the simulated instruments. A wrong reading is
// taken at the next item.
func (s Setup) measured(b *simulator.Engine, a *diagnose.Assessment, c plan.Card, wrong func() bool) []evidence.Entry {
	if c.Test == evidence.Spark {
		test, err := b.Sparks(usualTester, []engine.Place{c.Place}, a.Now)
		if err != nil {
			return nil
		}
		if wrong() {
			test.Each[0].Seen = "weak"
		}
		return []evidence.Entry{{Body: &test}}
	}
	row := measures[c.Test]
	var out []evidence.Entry
	for _, id := range row.of {
		if id == evidence.StarterCurrent && s.Engine.Cylinders == 1 { // a hump has no siblings to compare with
			id = evidence.CompressionDry
		}
		m, _ := evidence.FindMeasure(id)
		if ok, _ := m.Sense(s.Engine); !ok || !m.There(s.Engine) {
			continue
		}
		var on []evidence.Reading
		for _, one := range m.Each(s.Engine, a.Now) {
			place := one.Place
			if one.Tag != "" {
				place = a.Now.Where(one.Tag)
			}
			if row.each && place != engine.Bench || place == c.Place {
				on = append(on, one)
			}
		}
		if len(on) == 0 {
			continue
		}
		set := b.Meter(id, on, a.Now)
		if len(set.Each) > 1 && wrong() { // recorded one item further on
			last := len(set.Each) - 1
			first := set.Each[0]
			for i := range last {
				set.Each[i].Figures, set.Each[i].Over, set.Each[i].Jumps = set.Each[i+1].Figures, set.Each[i+1].Over, set.Each[i+1].Jumps
			}
			set.Each[last].Figures, set.Each[last].Over, set.Each[last].Jumps = first.Figures, first.Over, first.Jumps
		}
		out = append(out, evidence.Entry{Body: &set})
	}
	return out
}
