package jobs

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/invalid"
	"glenmist/core/spark"
	"glenmist/core/unit"
	"glenmist/web/draw"
	"glenmist/web/page"
)

// SparkView records a spark test, and shows what it proves.
var SparkView = View{
	Name: "spark", Title: "Spark test", Tab: "Spark", Key: "S", Does: "Enter a spark test, and see what it proves",
	Phases: []course.Phase{course.Trace}, Group: Measuring, Kind: evidence.KindSparks,
	conditioned: true, Witnessed: true,
	Blank: blankSpark,
	Read:  readSpark,
	Field: func(it Loaded, typed url.Values, path string) string {
		var i int
		if _, err := fmt.Sscanf(path, "sparks.each[%d]", &i); err == nil {
			var names []string
			for _, c := range it.Assessment().Engine.All() {
				names = append(names, seenField(engine.At(c)))
			}
			return filled(typed, names, i)
		}
		switch path {
		case "sparks.tester", "sparks.from":
			return strings.TrimPrefix(path, "sparks.")
		case "sparks.gap_mm":
			return "gap"
		case "sparks.air_kpa":
			return "altitude"
		case "sparks.air_celsius":
			return "air"
		case "sparks.each":
			return seenField(engine.At(1))
		}
		return ""
	},
	Kept: func(_ Loaded, _ evidence.Entry, typed url.Values) []engine.Spec {
		var specs []engine.Spec
		if gap, err := unit.Gap.Parse(typed.Get("plug-gap")); err == nil && gap <= mostPlugGap {
			specs = append(specs, engine.Spec{Of: engine.PlugGap, Low: gap, High: gap})
		}
		if ratio, ok := unit.Figure(typed.Get("ratio")); ok && ratio >= 1 && ratio <= 20 {
			specs = append(specs, engine.Spec{Of: engine.SparkRatio, Low: ratio, High: ratio})
		}
		return specs
	},
	Model: func(it Loaded, f page.Form) any { return newSparkModel(it, f) },
}

// Defaults for unknown values (C: values of common engines).
const (
	UsualPlugGap = 1.0 // mm
	UsualRatio   = 7.0
	mostPlugGap  = 5.0
)

type sparkModel struct {
	Testers []evidence.Tester
	Ends    []placeChosen
	Lines   []sparkLine
	Results []evidence.Result
	Caution string
	Standin bool
	// The proof of the gap, with its picture.
	Lamp    bool
	Scale   *draw.Scale
	Growth  *draw.Growth
	Says    []string
	Wrong   string // why the formula does not apply
	Clears  string // gap that proves full load
	Worths  []worthView
	Need    string // inputs of the needs
	Stopped bool   // it must not be stopped with the key
}

type sparkLine struct {
	Place, Words, Field, Known string
}

func seenField(p engine.Place) string { return "seen-" + string(p) }

func blankSpark(it Loaded, query url.Values) url.Values {
	v := url.Values{"tester": {"opened-plug"}, "from": {string(engine.Boot)}}
	if s, ok := it.Assessment().Engine.Spec(engine.PlugGap); ok {
		v.Set("plug-gap", unit.Decimal(s.High))
	}
	if s, ok := it.Assessment().Engine.Spec(engine.SparkRatio); ok {
		v.Set("ratio", unit.Decimal(s.High))
	}
	for _, m := range it.Assessment().Moments { // tester and weather stay the same
		s := m.Entry.Sparks()
		if s == nil {
			continue
		}
		v.Set("tester", string(s.Tester))
		v.Set("from", string(s.From))
		if s.GapMM > 0 {
			v.Set("gap", unit.Decimal(s.GapMM)+" mm")
			v.Set("altitude", unit.Decimal(math.Round(10*s.AirKPa)/10)+" kPa")
			v.Set("air", unit.Decimal(s.AirCelsius))
		}
	}
	for name, values := range query {
		if slices.Contains([]string{"tester", "gap", "from", "running", "altitude", "air", "plug-gap", "ratio", "on"}, name) || strings.HasPrefix(name, "seen-") && len(name) < 20 {
			v[name] = values
		}
	}
	return v
}

// sparksTyped reads the test without its results.
func sparksTyped(typed url.Values, bad *invalid.Errors) evidence.Sparks {
	s := evidence.Sparks{Tester: evidence.TesterID(typed.Get("tester")), From: engine.Kind(typed.Get("from")), Running: typed.Get("running") != ""}
	if t, ok := evidence.FindTester(s.Tester); ok && t.Shape == "" {
		return s
	}
	var err error
	if s.GapMM, err = unit.Gap.Parse(typed.Get("gap")); err != nil {
		bad.Under("gap", err)
	}
	s.AirKPa, s.AirCelsius = spark.AirKPa(0), 20
	if text := strings.TrimSpace(typed.Get("altitude")); text != "" {
		if s.AirKPa, err = airTyped(text); err != nil {
			bad.Under("altitude", err)
		}
	}
	if text := strings.TrimSpace(typed.Get("air")); text != "" {
		if s.AirCelsius, err = unit.Temperature.Parse(text); err != nil {
			bad.Under("air", err)
		}
	}
	return s
}

// airTyped reads the air pressure from a pressure with unit or an altitude.
func airTyped(text string) (float64, error) {
	if kPa, err := unit.Pressure.Parse(text); err == nil && strings.ContainsAny(text, "aAbBqQ") { // kPa, hPa, mbar, bar, inHg
		return kPa, nil
	}
	metres, err := unit.Altitude.Parse(text)
	if err != nil {
		return 0, invalid.Error{Expected: "an altitude such as 840 m or 2750 ft, or the day's pressure such as 918 hPa", Got: invalid.Quote(text)}
	}
	return spark.AirKPa(metres), nil
}

func readSpark(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	s := sparksTyped(typed, &bad)
	for _, c := range it.Assessment().Engine.All() {
		if seen := typed.Get(seenField(engine.At(c))); seen != "" {
			s.Each = append(s.Each, evidence.Sparked{Place: engine.At(c), Seen: evidence.ResultID(seen)})
		}
	}
	if len(s.Each) == 0 {
		bad.Add(seenField(engine.At(1)), "what was seen for at least one cylinder", "none")
	}
	for _, name := range []string{"plug-gap", "ratio"} {
		text := strings.TrimSpace(typed.Get(name))
		if text == "" {
			continue
		}
		if name == "ratio" {
			if v, ok := unit.Figure(text); !ok || v < 1 || v > 20 {
				bad.Add(name, "an effective volume ratio from 1 to 20, mostly 5.5 to 7.5", invalid.Quote(text))
			}
		} else if _, err := unit.Gap.Parse(text); err != nil {
			bad.Under(name, err)
		}
	}
	return evidence.Entry{Body: &s}, bad
}

func newSparkModel(it Loaded, f page.Form) sparkModel {
	test, _ := evidence.FindTest(evidence.Spark)
	m := sparkModel{Testers: evidence.Testers, Results: test.Results, Caution: test.Caution, Standin: it.instruments}
	for _, item := range it.Assessment().Engine.Items() {
		m.Stopped = m.Stopped || item.Kind == engine.StopWire
	}
	for _, e := range evidence.Ends {
		m.Ends = append(m.Ends, placeChosen{string(e.From), unit.Capital(e.Words), f.Is("from", string(e.From))})
	}
	for _, c := range it.Assessment().Engine.All() {
		p := engine.At(c)
		l := sparkLine{string(p), fmt.Sprintf("Cylinder %d", c), seenField(p), ""}
		for _, checked := range it.Assessment().Checks {
			if checked.Check.Test == evidence.Spark && checked.Check.Place == p {
				r, _ := test.Result(checked.Check.Result)
				l.Known = "last: " + r.Words
			}
		}
		m.Lines = append(m.Lines, l)
	}
	// The selected or affected cylinder comes first.
	first := engine.Place(f.Get("on"))
	if first == "" {
		first = engine.At(it.Assessment().Worst())
	}
	slices.SortStableFunc(m.Lines, func(a, b sparkLine) int {
		return map[bool]int{true: 1}[a.Place != string(first)] - map[bool]int{true: 1}[b.Place != string(first)]
	})
	m.proves(it, f)
	return m
}

// proves computes the proof of the typed tester and the demand of the engine.
func (m *sparkModel) proves(it Loaded, f page.Form) {
	var bad invalid.Errors
	s := sparksTyped(f.Values, &bad)
	tester, _ := evidence.FindTester(s.Tester)
	m.Lamp = tester.Shape == ""
	if m.Lamp {
		proof, _ := s.Proof()
		m.worth(it, proof)
		return
	}
	for _, e := range bad {
		if f.Get(e.Field) != "" {
			m.Wrong = "Expected " + e.Expected + "; got " + e.Got + "."
		}
	}
	if len(bad) > 0 {
		return
	}
	proof, err := s.Proof()
	if err != nil {
		m.Wrong = "The law does not answer here: expected " + invalid.From(err)[0].Expected + "; got " + invalid.From(err)[0].Got + "."
		return
	}
	gap, ratio := UsualPlugGap, UsualRatio
	known := "a plug gap of 1.0 mm and an effective ratio of 7, as nothing is known"
	if v, err := unit.Gap.Parse(f.Get("plug-gap")); err == nil {
		gap, known = v, fmt.Sprintf("a plug gap of %.3g mm", v)
		if r, ok := unit.Figure(f.Get("ratio")); ok && r >= 1 && r <= 20 {
			ratio = r
		}
		known += fmt.Sprintf(" and an effective ratio of %.3g", ratio)
	}
	needs, err := spark.Needs(gap, ratio, s.AirKPa, proof.Low)
	if err != nil {
		m.Wrong = "Expected " + invalid.From(err)[0].Expected + "; got " + invalid.From(err)[0].Got + "."
		return
	}
	m.Need = fmt.Sprintf("Assumed: %s, air of %.0f kPa; manifold %.0f, %.0f and %.0f kPa, charge at 57 °C.", known, s.AirKPa,
		spark.Conditions[0].Throttle*s.AirKPa, spark.Conditions[1].Throttle*s.AirKPa, spark.Conditions[2].Throttle*s.AirKPa)
	m.Scale = draw.NewScale(&spark.Scale{Proof: proof, Needs: needs})
	m.Growth = draw.NewGrowth(gap, ratio, s.AirKPa, proof.Low)
	cleared := ""
	for _, n := range needs {
		if n.Cleared {
			cleared = n.Condition.Words
		}
	}
	if cleared == "" {
		m.Says = append(m.Says, "A strong spark here clears the coil for nothing that this engine asks for, not even warm idle.")
	} else {
		m.Says = append(m.Says, fmt.Sprintf("A strong spark here clears the coil up to %s, as cold and dry as it is now.", cleared))
	}
	shape, _ := spark.FindShape(tester.Shape)
	last := needs[len(needs)-1]
	if clears, err := shape.GapFor(last.KV, spark.AirDensity(s.AirKPa, s.AirCelsius)); err != nil {
		m.Clears = fmt.Sprintf("No gap of this tester within the law clears %s.", last.Condition.Words)
	} else if clears = math.Ceil(10*clears) / 10; !last.Cleared {
		m.Clears = fmt.Sprintf("For %s open it to %.1f mm (%.2f in).", last.Condition.Words, clears, clears/unit.MillimetresPerInch)
	}
	m.worth(it, proof)
}

func (m *sparkModel) worth(it Loaded, proof spark.Range) {
	m.Worths = worths(explain.Spark(it.Assessment(), proof), m.Results[0].Words, m.Results[len(m.Results)-1].Words)
}
