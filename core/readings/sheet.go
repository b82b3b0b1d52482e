// Package readings judges a set of readings in three ways: against the maker's range, a rule
// of thumb, and its siblings. It reads and writes readings as CSV. Package diagnose evaluates
// them as evidence.
package readings

import (
	"fmt"
	"math"
	"strings"

	"glenmist/core/evidence"
	"glenmist/core/meter"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// Thumb is a rule of thumb for a measure other than resistance, in its unit.
type Thumb struct {
	Measure evidence.MeasureID
	Range   evidence.Range
	Words   string
	Source  string
}

// Thumbs lists the rules. They warn and never condemn.
var Thumbs = []Thumb{
	{evidence.FeedDrop, evidence.Range{Low: 0, High: 0.5}, "a feed loses at most some tenths of a volt under load", "C"},
	{evidence.GroundDrop, evidence.Range{Low: 0, High: 0.2}, "a ground drops a tenth of a volt or two at most", "C"},
	{evidence.AirGapLegs, evidence.Range{Low: 0.15, High: 0.5}, "by maker; both legs alike", "C"},
	{evidence.KVSteady, evidence.Range{Low: 5, High: 15}, "firing kV at warm idle, mostly 8 to 12, cylinders within 3 kV of each other", "C"},
	{evidence.LeakDownLoss, evidence.Range{Low: 0, High: 20}, "some loss past the rings is normal; where it goes counts more", "C; judgement"},
}

// Line is one reading with its judgement.
type Line struct {
	Reading evidence.Reading
	Name    string
	// Shown is the reading as entered. Value is the converted reading: at 20 °C, without the
	// meter's leads, per metre of lead, or the lost volts. Known is false over range.
	Shown string
	Value float64
	Known bool
	// Told is Value with its unit, if it differs from the entered reading.
	Told         string
	Maker, Thumb meter.Says
	// Abnormal is true if its siblings agree and it does not; Z is how far off it lies, in robust
	// standard deviations.
	Abnormal bool
	Z        float64
	// Loose is true if the figure jumps when what is measured is bent.
	Loose bool
}

// Sheet is a set of readings, judged.
type Sheet struct {
	Measure evidence.Measure
	Lines   []Line
	// Unit is that of the values; Median and Spread are of the siblings.
	Unit           string
	Median, Spread float64
	// Siblings, Maker and Thumb describe the basis of each judgement; "" means none.
	Siblings, Maker, Thumb string
	// Caveat states what weakens the whole set.
	Caveat string
}

// resolution is the smallest step of a plain instrument, by unit (C).
var resolution = map[string]float64{"Ω": 0.1, "V": 0.01, "mm": 0.02, "bar": 0.1, "A": 0.2, "%": 1, "kV": 0.5, "×": 0.1, "Ω/m": 100}

// Judge judges a set of readings that has been validated.
func Judge(r evidence.Readings) Sheet {
	m, _ := evidence.FindMeasure(r.Measure)
	s := Sheet{Measure: m, Unit: m.Figures[0].Unit()}
	perMetre := r.PerMetre()
	switch {
	case perMetre:
		s.Unit = "Ω/m"
	case m.Snap():
		s.Unit = "×" // the ratio of the rise
	}
	var of []meter.Sibling
	for _, one := range r.Each {
		l := Line{Reading: one, Name: m.Name(one), Shown: m.Said(one), Loose: one.Jumps, Maker: meter.NotKnown, Thumb: meter.NotKnown}
		l.Value, l.Known = r.Compared(one)
		if l.Known && (m.Copper || m.Leads && r.Leads > 0 || perMetre || m.ID == evidence.FeedDrop || m.Snap()) {
			l.Told = Figure(l.Value, s.Unit)
		}
		whole, known := r.True(one) // of a lead for all of it
		if !m.Length {
			whole, known = l.Value, l.Known
		}
		if r.Maker != nil {
			l.Maker = against(whole, known, *r.Maker)
		}
		if by, words := thumb(r, m, one); words != "" {
			l.Thumb = against(whole, known, by)
			s.Thumb = words
		}
		of = append(of, meter.Sibling{Name: l.Name, Value: l.Value, Over: !l.Known})
		s.Lines = append(s.Lines, l)
	}
	if r.Maker != nil {
		s.Maker = fmt.Sprintf("maker: %s to %s", Figure(r.Maker.Low, m.Figures[0].Unit()), Figure(r.Maker.High, m.Figures[0].Unit()))
	}
	set := meter.CompareSiblings(of, resolution[s.Unit])
	s.Median, s.Spread, s.Siblings = set.Median, set.Spread, set.Words
	for i, j := range set.Each {
		s.Lines[i].Abnormal, s.Lines[i].Z = j.Abnormal, j.Z
	}
	switch {
	case r.Unloaded:
		s.Caveat = "Read without a load it proves little: a bad joint carries a meter’s current and not a coil’s."
	case m.Length && !perMetre:
		s.Caveat = "Without the length of each lead the long one reads high: give the lengths, and they are compared by the metre."
	}
	return s
}

func against(v float64, known bool, r evidence.Range) meter.Says {
	return meter.Against(unit.Ohms{Value: v, Over: !known}, meter.Range(r))
}

// thumb returns the rule of thumb of a reading, or no words.
func thumb(r evidence.Readings, m evidence.Measure, one evidence.Reading) (evidence.Range, string) {
	for _, t := range Thumbs {
		if t.Measure == m.ID {
			return t.Range, t.Words + " (" + t.Source + ")"
		}
	}
	rule, known := meter.RuleOf(m.Item, r.Make)
	if !known || m.Item == "" || m.Length && one.Millimetres == 0 {
		return evidence.Range{}, ""
	}
	of := rule.For(one.Millimetres / 1000)
	words := fmt.Sprintf("%s: %s to %s", rule.Words, Figure(rule.Low, "Ω"), Figure(rule.High, "Ω"))
	if rule.PerMetre {
		words += " a metre"
	}
	return evidence.Range(of), words + " (" + rule.Source + ")"
}

// Figure formats a value with three significant digits and its unit.
func Figure(v float64, of string) string {
	switch of {
	case "Ω":
		return unit.Ohms{Value: v}.String()
	case "Ω/m":
		return unit.Ohms{Value: v}.String() + "/m"
	}
	digits := 2
	if a := math.Abs(v); a >= 99.95 {
		digits = 0
	} else if a >= 9.995 {
		digits = 1
	}
	s := fmt.Sprintf("%.*f", digits, v)
	if strings.Contains(s, ".") {
		s = strings.TrimRight(strings.TrimRight(s, "0"), ".")
	}
	return s + " " + of
}

// Warmer is the same part read at two temperatures.
type Warmer struct {
	Tag       part.Tag
	Cold, Hot float64 // °C
	// At20 holds both readings converted to 20 °C, in ohms; 0 for a hot reading over range.
	At20 [2]float64
	Over bool
	// Abnormal is true if the hot one differs by more than copper explains.
	Abnormal bool
}

// apart is the largest normal difference of one winding at 20 °C, and the least difference of
// two temperatures in degrees (C; judgement: meter and thermometer).
const (
	apart        = 0.08
	otherDegrees = 15
)

// HotAgainstCold pairs the last hot and the last cold reading of each part, if the
// temperatures differ enough.
func HotAgainstCold(sets []evidence.Readings, id evidence.MeasureID) []Warmer {
	type at struct {
		celsius, value float64
		over           bool
	}
	of := map[part.Tag][]at{}
	var order []part.Tag
	for _, r := range sets {
		m, _ := evidence.FindMeasure(r.Measure)
		if r.Measure != id || !m.Copper {
			continue
		}
		for _, one := range r.Each {
			v, known := r.True(one)
			if of[one.Tag] == nil {
				order = append(order, one.Tag)
			}
			of[one.Tag] = append(of[one.Tag], at{r.At(), v, !known})
		}
	}
	var all []Warmer
	for _, t := range order {
		cold, hot := of[t][0], of[t][0]
		for _, r := range of[t] {
			if r.celsius <= cold.celsius {
				cold = r
			}
			if r.celsius >= hot.celsius {
				hot = r
			}
		}
		if hot.celsius-cold.celsius < otherDegrees || cold.over {
			continue
		}
		w := Warmer{Tag: t, Cold: cold.celsius, Hot: hot.celsius, At20: [2]float64{cold.value, hot.value}, Over: hot.over}
		w.Abnormal = hot.over || math.Abs(hot.value-cold.value) > apart*cold.value
		all = append(all, w)
	}
	return all
}

// Words returns the comparison in a sentence.
func (w Warmer) Words() string {
	hot := "over range"
	if !w.Over {
		hot = unit.Ohms{Value: w.At20[1]}.String()
	}
	s := fmt.Sprintf("%s, converted to 20 °C: %s read at %g °C, %s read at %g °C", w.Tag.Words(), unit.Ohms{Value: w.At20[0]}, w.Cold, hot, w.Hot)
	if w.Abnormal {
		return s + ": the change is larger than that of copper. A break opens when warm, or turns touch."
	}
	return s + ": the change is that of copper."
}
