package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/meter"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Readings is a set of readings of one quantity, taken with one instrument in one session.
type Readings struct {
	Measure MeasureID `json:"measure"`
	Each    []Reading `json:"each"`
	// Leads is the resistance of the meter's leads in ohms. It is subtracted.
	Leads float64 `json:"leads_ohm,omitzero"`
	// Celsius is the temperature of the measured items; nil means 20 °C.
	Celsius *float64 `json:"celsius,omitzero"`
	// Make is the construction of the leads.
	Make meter.Make `json:"make,omitzero"`
	// Unloaded is true if a voltage drop was read without load. It then proves little.
	Unloaded bool `json:"unloaded,omitzero"`
	// Maker is the maker's range as known at that time, at 20 °C, in the unit of the measure.
	// For a lead with a length it refers to the whole lead.
	Maker *Range `json:"maker,omitzero"`
	// Capture is the number of the job's capture that the readings come from; 0 means none.
	Capture int `json:"capture,omitzero"`
}

// Range is a maker's range.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Reading is the reading of one part, by its tag, or at one place.
type Reading struct {
	Tag   part.Tag     `json:"tag,omitzero"`
	Place engine.Place `json:"place,omitzero"`
	// Figures are in the order and units of the measure. Trailing figures can be missing. It
	// is empty if the meter was over range.
	Figures []float64 `json:"figures,omitzero"`
	Over    bool      `json:"over,omitzero"`
	// AtLeast is true if the peak was clipped or sampled too slowly, so that the true peak can
	// be higher.
	AtLeast bool `json:"at_least,omitzero"`
	// Millimetres is the length of a lead.
	Millimetres float64 `json:"mm,omitzero"`
	// Jumps is true if the reading jumps when the item is bent or pulled.
	Jumps bool `json:"jumps,omitzero"`
	// Heard is the place where the air of a leak-down test escapes: valve, rings or gasket.
	Heard ResultID `json:"heard,omitzero"`
}

// Bounds of a set of readings.
const (
	MaxReadings = 24
	MaxLeads    = 10.0   // ohms
	MaxLeadMM   = 5000.0 // length of a lead
	MaxCaptures = 40     // captures of one job
)

// At returns the temperature in °C.
func (r Readings) At() float64 {
	if r.Celsius == nil {
		return 20
	}
	return *r.Celsius
}

// True returns the first figure without the resistance of the meter's leads and, for copper,
// at 20 °C; ok is false if the meter was over range.
func (r Readings) True(one Reading) (value float64, ok bool) {
	m, _ := FindMeasure(r.Measure)
	if one.Over || len(one.Figures) == 0 {
		return 0, false
	}
	value = one.Figures[0]
	if m.Leads {
		value = max(0, value-r.Leads)
	}
	if m.Copper {
		value = unit.CopperAt20(value, r.At())
	}
	return value, true
}

// PerMetre reports whether all readings are of leads with known lengths, so that ohms per
// metre can be compared.
func (r Readings) PerMetre() bool {
	m, _ := FindMeasure(r.Measure)
	return m.Length && !slices.ContainsFunc(r.Each, func(one Reading) bool { return one.Millimetres == 0 && !one.Over })
}

// Compared returns the value by which siblings are compared. For most measures it is the
// figure of [Readings.True]. For leads of known length it is ohms per metre, for a feed the
// lost volts, for kilovolts on snap the ratio to the steady value. For an air gap it is the
// leg that lies farther outside the maker's range, otherwise the wider one; for fuel the pressure under load.
func (r Readings) Compared(one Reading) (value float64, ok bool) {
	m, _ := FindMeasure(r.Measure)
	value, ok = r.True(one)
	switch {
	case !ok:
		return 0, false
	case r.Measure == FeedDrop:
		if len(one.Figures) < 2 {
			return 0, false
		}
		return max(0, one.Figures[0]-one.Figures[1]), true
	case m.Snap():
		if len(one.Figures) < 2 || one.Figures[0] <= 0 {
			return 0, false
		}
		return one.Figures[1] / one.Figures[0], true
	case r.Measure == AirGapLegs:
		return r.worseLeg(one.Figures), true
	case r.Measure == FuelBar:
		return one.Figures[len(one.Figures)-1], true
	case r.PerMetre():
		return value / (one.Millimetres / 1000), true
	}
	return value, true
}

// Outside reports whether a reading is outside the maker's range. Compression, fuel pressure and starter current count
// only below the range, losses and voltage drops only above it. Kilovolts have no maker's range.
func (r Readings) Outside(one Reading) bool {
	m, _ := FindMeasure(r.Measure)
	value, ok := r.Compared(one)
	if m.Length {
		value, ok = r.True(one)
	}
	if r.Maker == nil || !ok {
		return false
	}
	low, high := value < r.Maker.Low, value > r.Maker.High
	switch r.Measure {
	case CompressionDry, FuelBar, StarterCurrent:
		return low
	case LeakDownLoss, FeedDrop, GroundDrop:
		return high
	case KVSteady, KVSnap, KVWave, KVSnapWave:
		return false
	}
	return low || high
}

// worseLeg returns the leg of an air gap that lies farther outside the maker's range, or the wider one.
func (r Readings) worseLeg(legs []float64) float64 {
	wide, narrow := slices.Max(legs), slices.Min(legs)
	if r.Maker != nil && narrow < r.Maker.Low && r.Maker.Low-narrow > wide-r.Maker.High {
		return narrow
	}
	return wide
}

// Name returns the measured item: "lead L3", "injector of cylinder 2".
func (m Measure) Name(r Reading) string {
	switch {
	case r.Tag != "":
		return r.Tag.Words()
	case r.Place == engine.Whole:
		return string(m.On)
	}
	return r.Place.String()
}

// KindReadings is the kind of a [Readings].
const KindReadings Kind = "readings"

func init() { register(KindReadings, func() Body { return new(Readings) }) }

// Readings returns the body of the entry, or nil if it is of another kind.
func (e Entry) Readings() *Readings { return body[Readings](e) }

// Kind returns KindReadings.
func (Readings) Kind() Kind { return KindReadings }

// Sentence returns the set in a sentence.
func (r Readings) Sentence() string { return r.Words() }

func (r Readings) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	m, err := ParseMeasure(eng, string(r.Measure))
	if err != nil {
		bad.Under("measure", err)
		return bad
	}
	if len(r.Each) == 0 || len(r.Each) > MaxReadings {
		bad.Add("each", fmt.Sprintf("1 to %d readings", MaxReadings), fmt.Sprint(len(r.Each)))
		return bad
	}
	within := func(field string, v, low, high float64, what string) {
		if !(v >= low && v <= high) {
			bad.Add(field, fmt.Sprintf("%s, %g to %g", what, low, high), fmt.Sprint(v))
		}
	}
	within("leads_ohm", r.Leads, 0, MaxLeads, "what the meter's leads show, in ohms")
	within("celsius", r.At(), unit.Temperature.Low, unit.Temperature.High, "the temperature in °C")
	if _, known := meter.RuleOf(meter.Lead, r.Make); r.Make != meter.AnyMake && (!known || !m.Length) {
		bad.Add("make", "carbon-core, wire-wound or solid-wire, of a lead, or none", invalid.Quote(string(r.Make)))
	}
	if r.Unloaded && !m.Loaded {
		bad.Add("unloaded", "nothing: only a drop of volts is read under load", "true")
	}
	if r.Capture < 0 || r.Capture > MaxCaptures || r.Capture > 0 && !m.Kilovolts() {
		bad.Add("capture", fmt.Sprintf("of kilovolts the number of a capture, 1 to %d, or nothing", MaxCaptures), fmt.Sprint(r.Capture))
	}
	if r.Maker != nil {
		shift := 0.0
		if r.Measure == BaseTiming {
			shift = -unit.Advance.Low // after top dead centre is below 0
		}
		bad.Under("maker", engine.CheckRange(r.Maker.Low+shift, r.Maker.High+shift, engine.MaxSpec))
	}
	seen := map[string]bool{}
	for i, one := range r.Each {
		path := fmt.Sprintf("each[%d]", i)
		if key := string(one.Tag) + " " + string(one.Place); seen[key] {
			bad.Add(path, "each part or place once", m.Name(one))
		} else {
			seen[key] = true
		}
		bad.Under(path, m.checkReading(one, eng))
	}
	return bad.Err()
}

// checkReading returns an error if a reading does not fit the measure or the engine.
func (m Measure) checkReading(r Reading, eng engine.Engine) error {
	var bad invalid.Errors
	m.checkOn(r, eng, &bad)
	m.checkFigures(r, &bad)
	if r.AtLeast && !m.Kilovolts() {
		bad.Add("at_least", "nothing: only the peaks of kilovolts are cut off", "true")
	}
	if r.Millimetres != 0 && (!m.Length || !(r.Millimetres > 0 && r.Millimetres <= MaxLeadMM)) {
		bad.Add("mm", fmt.Sprintf("the length of a lead, up to %g mm", MaxLeadMM), fmt.Sprint(r.Millimetres))
	}
	if r.Jumps && !m.Bends {
		bad.Add("jumps", "no jumps: they do not apply to this measurement", "true")
	}
	if r.Heard != "" {
		t, _ := FindTest(LeakDown)
		if answer, ok := t.Result(r.Heard); m.ID != LeakDownLoss || !ok || !answer.Abnormal {
			bad.Add("heard", "valve, rings or gasket, of a leak-down", invalid.Quote(string(r.Heard)))
		}
	}
	return bad.Err()
}

// checkOn checks the part or place of a reading.
func (m Measure) checkOn(r Reading, eng engine.Engine, bad *invalid.Errors) {
	got := invalid.Quote(string(r.Tag) + string(r.Place))
	if !m.Part(eng) {
		if r.Tag != "" || !has(eng, m.On, r.Place) {
			bad.Add("place", fmt.Sprintf("the place of the %s of this engine, and no tag", m.On), got)
		}
		return
	}
	if _, err := part.ParseTag(eng, string(r.Tag)); err != nil || r.Tag.Kind() != m.On || r.Place != "" {
		bad.Add("tag", fmt.Sprintf("the tag of a %s of this engine, and no place", m.On), got)
	}
}

// checkFigures checks the number of figures, their limits, and the order of kilovolts.
func (m Measure) checkFigures(r Reading, bad *invalid.Errors) {
	f := r.Figures
	switch {
	case r.Over && (len(f) > 0 || m.Figures[0].Of != nil):
		bad.Add("over", "nothing beside a figure, and only of a resistance", "true")
	case !r.Over && (len(f) == 0 || len(f) > len(m.Figures)):
		bad.Add("figures", fmt.Sprintf("1 to %d figures, or over range", len(m.Figures)), fmt.Sprint(len(f)))
	default:
		for k, v := range f {
			if !m.Figures[k].believed(v) {
				bad.Add(fmt.Sprintf("figures[%d]", k), m.Figures[k].Expected(), fmt.Sprint(v))
			}
		}
	}
	if m.Test == Kilovolts && (len(f) > 1 && f[1] > f[0] || len(f) > 2 && f[2] < f[0]) {
		bad.Add("figures[1]", "the lowest seen, then the highest, with the usual one between", fmt.Sprint(f[1:]))
	}
}

// Words returns the set in a sentence.
func (r Readings) Words() string {
	m, _ := FindMeasure(r.Measure)
	var each []string
	for _, one := range r.Each {
		each = append(each, m.Name(one)+" "+m.Said(one))
	}
	s := unit.Lower(m.Words) + ": " + strings.Join(each, ", ")
	if m.Copper && r.Celsius != nil {
		s += fmt.Sprintf(", at %g °C", *r.Celsius)
	}
	if r.Unloaded {
		s += ", without a load"
	}
	return s
}

// Said returns one reading as text.
func (m Measure) Said(r Reading) string {
	if m.Scoped {
		return m.scoped(r)
	}
	var words []string
	if r.Over {
		words = append(words, "over range")
	}
	for k, v := range r.Figures {
		f := m.Figures[k]
		text := fmt.Sprintf("%.3g %s", v, f.Unit())
		if f.Of == nil {
			text = unit.Ohms{Value: v}.String()
		}
		if r.AtLeast && k == m.peak() {
			text = "at least " + text
		}
		if len(m.Figures) > 1 {
			text = f.Words + " " + text
		}
		words = append(words, text)
	}
	s := strings.Join(words, " / ")
	if r.Jumps {
		s += " and jumps"
	}
	if r.Heard != "" {
		t, _ := FindTest(LeakDown)
		answer, _ := t.Result(r.Heard)
		s += " " + answer.Words
	}
	return s
}

// scoped returns a short text of a reading from a capture.
func (m Measure) scoped(r Reading) string {
	f := r.Figures
	if m.Snap() {
		return m.snapped(r)
	}
	if len(f) == 0 || f[0] == 0 {
		return "no event"
	}
	s := fmt.Sprintf("%.1f kV", f[0])
	if r.AtLeast {
		s = "at least " + s
	}
	if len(f) > 2 {
		s += fmt.Sprintf(" (%.1f to %.1f)", f[1], f[2])
	}
	if len(f) > 3 && f[3] == 0 {
		s += " and no arc"
	}
	if len(f) > 6 && f[6] < 100 {
		s += fmt.Sprintf(", fired in %.0f %%", f[6])
	}
	return s
}

// snapped returns a short text of a snap in a capture.
func (m Measure) snapped(r Reading) string {
	f := r.Figures
	if len(f) < 2 {
		return "no event"
	}
	least := ""
	if r.AtLeast {
		least = "at least "
	}
	s := fmt.Sprintf("%.1f kV steady, %s%.1f kV on snap", f[0], least, f[1])
	if len(f) > 2 && f[2] > 0 {
		s += fmt.Sprintf(", burns %.2f ms", f[2])
	}
	if len(f) > 3 && f[3] < 100 {
		s += fmt.Sprintf(", fired in %.0f %%", f[3])
	}
	return s
}

// peak returns the index of the figure that can be clipped.
func (m Measure) peak() int {
	if m.Snap() {
		return 1
	}
	return 0
}

// Each lists the items that a measure applies to, in order of place: tags of parts at their
// positions, or places.
func (m Measure) Each(eng engine.Engine, at part.Positions) []Reading {
	var all []Reading
	if m.Part(eng) {
		for _, p := range at.All() {
			if p.Kind == m.On {
				all = append(all, Reading{Tag: p.Tag})
			}
		}
		return all
	}
	for _, item := range eng.Items() {
		if item.Kind == m.On && !slices.ContainsFunc(all, func(r Reading) bool { return r.Place == item.Place }) {
			all = append(all, Reading{Place: item.Place})
		}
	}
	return all
}
