package jobs

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/invalid"
	"glenmist/core/meter"
	"glenmist/core/readings"
	"glenmist/core/spark"
	"glenmist/core/unit"
	"glenmist/web/draw"
	"glenmist/web/page"
)

// MeterView records readings of a meter, gauge or clamp.
var MeterView = View{
	Name: "meter", Title: "Readings", Tab: "Meter", Key: "M", Does: "Enter what meter, gauge or clamp show",
	Phases: []course.Phase{course.Trace}, Group: Measuring, Kind: evidence.KindReadings,
	conditioned: true, Witnessed: true,
	Blank: blankMeter,
	Read:  readMeter,
	Field: meterField,
	Model: func(it Loaded, f page.Form) any { return newMeterModel(it, f) },
	Kept: func(_ Loaded, e evidence.Entry, _ url.Values) []engine.Spec {
		if e.Readings().Maker == nil {
			return nil
		}
		return []engine.Spec{{Of: string(e.Readings().Measure), Low: e.Readings().Maker.Low, High: e.Readings().Maker.High}}
	},
}

// meterModel is the view of one measure.
type meterModel struct {
	Measures []measureChoice
	Measure  evidence.Measure
	Why      string // why it cannot be measured here
	Lines    []meterLine
	Figures  []meterFigure
	Makes    []meter.Rule
	Heard    []evidence.Result
	Firing   bool // lines in firing order
	Orders   bool // there is more than one order
	Caution  string
	Sheet    *readings.Sheet
	Strip    *draw.Strip
	Entry    int // the recorded set of the sheet; 0 for typed values
	Warm     []string
	Worths   []worthView
	Standin  bool
	Unread   []string
	Captures bool
	Need     string // demand of this engine's plugs by the formula
	CSV      string
}

type measureChoice struct {
	ID, Words, Short string
	Current, Beyond  bool
	Can              bool
}

// meterLine is a part or place with its field names.
type meterLine struct {
	Key, Words                 string
	Fields                     []string
	Length, Jumps, Heard, Seen string
}

type meterFigure struct{ Words, Unit, Hint string }

// readingKey identifies a reading in its field names.
func readingKey(r evidence.Reading) string { return string(r.Tag) + string(r.Place) }

// meterFields returns the names of the n fields of a reading.
func meterFields(key string, n int) []string {
	names := []string{"f-" + key}
	for k := 2; k <= n; k++ {
		names = append(names, fmt.Sprintf("f%d-%s", k, key))
	}
	return names
}

// measureOf returns the measure of a form: the requested one, that of the next step, or the
// first that applies.
func measureOf(it Loaded, asked string) evidence.Measure {
	e := it.Assessment().Engine
	if m, err := evidence.ParseMeasure(e, asked); err == nil {
		return m
	}
	var first evidence.Measure
	for _, m := range evidence.Measures {
		if can, _ := m.Sense(e); !can || !m.There(e) {
			continue
		}
		if first.ID == "" {
			first = m
		}
		if m.Test != "" && m.Test == it.Plan().Next.Test {
			return m
		}
	}
	return first
}

// meterLines lists the items of a measure, in plan or firing order.
func meterLines(it Loaded, m evidence.Measure, firing bool) []evidence.Reading {
	all := m.Each(it.Assessment().Engine, it.Assessment().Now)
	if !firing {
		return all
	}
	rank := func(r evidence.Reading) int {
		place := r.Place
		if r.Tag != "" {
			place = it.Assessment().Now.Where(r.Tag)
		}
		feeds, _ := it.Assessment().Engine.Feeds(place)
		for i, c := range it.Assessment().Engine.FiringOrder {
			if feeds.Has(c) {
				return i
			}
		}
		return engine.MaxCylinders
	}
	slices.SortStableFunc(all, func(a, b evidence.Reading) int { return rank(a) - rank(b) })
	return all
}

func blankMeter(it Loaded, query url.Values) url.Values {
	m := measureOf(it, query.Get("measure"))
	v := url.Values{"measure": {string(m.ID)}}
	if s, ok := it.Assessment().Engine.Spec(string(m.ID)); ok {
		v.Set("low", unit.Decimal(s.Low))
		v.Set("high", unit.Decimal(s.High))
	}
	for _, moment := range it.Assessment().Moments { // values that stay the same between readings
		r := moment.Entry.Readings()
		if r == nil {
			continue
		}
		if other, _ := evidence.FindMeasure(r.Measure); other.Leads && m.Leads && r.Leads > 0 {
			v.Set("leads", unit.Decimal(r.Leads))
		}
		if r.Measure == m.ID && m.Length {
			v.Set("make", string(r.Make))
			for _, one := range r.Each {
				if one.Millimetres > 0 {
					v.Set("mm-"+readingKey(one), unit.Decimal(one.Millimetres))
				}
			}
		}
	}
	for name, values := range query { // as typed so far, for the sheet beside the form
		if meterName(name) {
			v[name] = values
		}
	}
	return v
}

// meterName reports whether a form of readings has a field of this name.
func meterName(name string) bool {
	switch name {
	case "leads", "celsius", "make", "unloaded", "low", "high", "order":
		return true
	}
	for _, start := range []string{"f-", "f2-", "f3-", "mm-", "j-", "h-"} {
		if strings.HasPrefix(name, start) && len(name) < 40 {
			return true
		}
	}
	return false
}

// readMeter converts the form of the readings into an entry.
func readMeter(it Loaded, typed url.Values) (evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	m, err := evidence.ParseMeasure(it.Assessment().Engine, typed.Get("measure"))
	if err != nil {
		bad.Under("measure", err)
		return evidence.Entry{}, bad
	}
	f := meterForm{m: m, typed: typed}
	r := f.conditions()
	each := m.Each(it.Assessment().Engine, it.Assessment().Now)
	for _, on := range each {
		if one, ok := f.reading(on); ok {
			r.Each = append(r.Each, one)
		}
	}
	if len(r.Each) == 0 && len(f.bad) == 0 {
		first := ""
		if len(each) > 0 {
			first = meterFields(readingKey(each[0]), 1)[0]
		}
		f.bad.Add(first, "at least one reading", "none")
	}
	return evidence.Entry{Body: r}, f.bad
}

// meterForm is the form of the readings of one measure.
type meterForm struct {
	m     evidence.Measure
	typed url.Values
	bad   invalid.Errors
}

// number reads a field into to, and reports whether it holds a valid number.
func (f *meterForm) number(field string, parse func(string) (float64, error), to *float64) bool {
	text := strings.TrimSpace(f.typed.Get(field))
	if text == "" {
		return false
	}
	v, err := parse(text)
	f.bad.Under(field, err)
	*to = v
	return err == nil
}

// conditions reads what applies to all readings: temperature, the meter's leads, the make of
// the leads, and the maker's range.
func (f *meterForm) conditions() *evidence.Readings {
	r := &evidence.Readings{Measure: f.m.ID, Unloaded: f.typed.Get("unloaded") != ""}
	if f.m.Length {
		r.Make = meter.Make(f.typed.Get("make"))
	}
	if f.m.Leads {
		f.number("leads", func(s string) (float64, error) {
			o, err := unit.ParseOhms(s)
			return o.Value, err
		}, &r.Leads)
	}
	var celsius float64
	if f.m.Copper && f.number("celsius", unit.Temperature.Parse, &celsius) {
		r.Celsius = &celsius
	}
	inRange := func(text string) (float64, error) {
		v, over, err := f.m.Figures[0].Parse(text)
		if over {
			err = invalid.Error{Expected: f.m.Figures[0].Expected(), Got: invalid.Quote(text)}
		}
		return v, err
	}
	var maker evidence.Range
	low, high := f.number("low", inRange, &maker.Low), f.number("high", inRange, &maker.High)
	switch {
	case low && high:
		r.Maker = &maker
	case low != high && len(f.bad) == 0:
		f.bad.Add(map[bool]string{true: "high", false: "low"}[low], "both ends of the maker's range, or neither", "one")
	}
	return r
}

// reading reads the fields of one part or place; ok is false if none is filled in.
func (f *meterForm) reading(on evidence.Reading) (r evidence.Reading, ok bool) {
	key := readingKey(on)
	f.figures(&on)
	if len(on.Figures) == 0 && !on.Over {
		return on, false
	}
	if f.m.Length {
		f.number("mm-"+key, unit.Length.Parse, &on.Millimetres)
	}
	on.Jumps = f.typed.Get("j-"+key) != ""
	if f.m.ID == evidence.LeakDownLoss {
		on.Heard = evidence.ResultID(f.typed.Get("h-" + key))
	}
	return on, true
}

// figures reads the figures of a reading, up to the first empty field.
func (f *meterForm) figures(on *evidence.Reading) {
	key := readingKey(*on)
	fields := meterFields(key, len(f.m.Figures))
	for k, figure := range f.m.Figures {
		text := strings.TrimSpace(f.typed.Get(fields[k]))
		if text == "" {
			if k == 0 && (filled(f.typed, fields[1:], 0) != "" || f.typed.Get("j-"+key) != "" || f.typed.Get("h-"+key) != "") {
				f.bad.Add(fields[0], figure.Expected(), "none")
			}
			return
		}
		v, over, err := figure.Parse(text)
		if err != nil || over {
			f.bad.Under(fields[k], err)
			on.Over = over
			return
		}
		on.Figures = append(on.Figures, v)
	}
}

func meterField(it Loaded, typed url.Values, path string) string {
	switch path {
	case "readings.leads_ohm":
		return "leads"
	case "readings.celsius":
		return "celsius"
	case "readings.maker.low", "readings.maker":
		return "low"
	case "readings.maker.high":
		return "high"
	case "readings.make":
		return "make"
	}
	var i int
	if _, err := fmt.Sscanf(path, "readings.each[%d]", &i); err != nil {
		return ""
	}
	m := measureOf(it, typed.Get("measure"))
	for _, on := range m.Each(it.Assessment().Engine, it.Assessment().Now) {
		key := readingKey(on)
		if strings.TrimSpace(typed.Get("f-"+key)) == "" {
			continue
		}
		if i == 0 {
			if strings.HasSuffix(path, ".mm") {
				return "mm-" + key
			}
			return "f-" + key
		}
		i--
	}
	return ""
}

func newMeterModel(it Loaded, f page.Form) meterModel {
	e := it.Assessment().Engine
	m := measureOf(it, f.Get("measure"))
	v := meterModel{Measure: m, Firing: f.Get("order") == "firing", Standin: it.instruments, CSV: f.Get("csv"), Unread: f.Values["unread"], Captures: m.ID == evidence.KVSteady}
	for _, other := range evidence.Measures {
		if !other.There(e) || other.Scoped {
			continue
		}
		can, _ := other.Sense(e)
		v.Measures = append(v.Measures, measureChoice{string(other.ID), other.Words, unit.Capital(other.Short), other.ID == m.ID, other.Beyond, can})
	}
	if can, why := m.Sense(e); !can {
		v.Why = why
		return v
	}
	for _, of := range m.Figures {
		v.Figures = append(v.Figures, meterFigure{unit.Capital(of.Words), of.Unit(), strings.SplitAfter(of.Expected(), "such as ")[len(strings.SplitAfter(of.Expected(), "such as "))-1]})
	}
	if m.Figures[0].Of == nil {
		v.Figures[0].Hint = "12k4, OL"
	}
	if m.Length {
		for _, rule := range meter.Rules {
			if rule.Item == meter.Lead {
				v.Makes = append(v.Makes, rule)
			}
		}
	}
	if m.ID == evidence.LeakDownLoss {
		t, _ := evidence.FindTest(evidence.LeakDown)
		v.Heard = t.Results[1:]
	}
	if t, ok := evidence.FindTest(m.Test); ok {
		v.Caution = t.Caution
	}
	if m.ID == evidence.KVSteady || m.ID == evidence.KVSnap {
		v.Need = Needed(e)
	}
	lines := meterLines(it, m, v.Firing)
	v.Orders = len(lines) > 2 && !slices.EqualFunc(meterLines(it, m, true), meterLines(it, m, false), func(a, b evidence.Reading) bool { return readingKey(a) == readingKey(b) })
	for _, on := range lines {
		key := readingKey(on)
		l := meterLine{Key: key, Words: m.Name(on), Length: "mm-" + key, Jumps: "j-" + key, Heard: "h-" + key}
		l.Fields = meterFields(key, len(m.Figures))
		if on.Tag != "" {
			if at := it.Assessment().Now.Where(on.Tag); at != on.Tag.Home() {
				l.Seen = "now " + at.String()
			}
		}
		v.Lines = append(v.Lines, l)
	}
	v.judge(it, f)
	v.Worths = worths(explain.Measure(it.Assessment(), m.ID))
	return v
}

// Needed describes the demand of an engine's plugs at sea level, for the recorded gap.
func Needed(e engine.Engine) string {
	gap, ratio, known := UsualPlugGap, UsualRatio, "as nothing is known"
	if s, ok := e.Spec(engine.PlugGap); ok {
		gap, known = s.High, "on record"
	}
	if s, ok := e.Spec(engine.SparkRatio); ok {
		ratio = s.High
	}
	needs, err := spark.Needs(gap, ratio, spark.AirKPa(0), 0)
	if err != nil {
		return ""
	}
	return fmt.Sprintf("By the law a gap of %.3g mm (%s) asks for %.1f kV at %s and %.1f at %s; lean mixture and worn edges for more, a rich one for less.", gap, known, needs[0].KV, needs[0].Condition.Words, needs[2].KV, needs[2].Condition.Words)
}

// judge shows the sheet of the typed or the last recorded readings beside the form.
func (v *meterModel) judge(it Loaded, f page.Form) {
	var sets []evidence.Readings
	for _, moment := range it.Assessment().Moments {
		if r := moment.Entry.Readings(); r != nil {
			sets = append(sets, *r)
			if r.Measure == v.Measure.ID {
				sheet := readings.Judge(*r)
				v.Sheet, v.Entry = &sheet, moment.Entry.Seq
			}
		}
	}
	if entry, _ := readMeter(it, f.Values); entry.Readings() != nil && len(entry.Readings().Each) > 0 {
		if r := entry.Readings(); r.Maker == nil || r.Maker.High >= r.Maker.Low {
			sheet := readings.Judge(*r)
			v.Sheet, v.Entry = &sheet, 0
			sets = append(sets, *r)
		}
	}
	for _, w := range readings.HotAgainstCold(sets, v.Measure.ID) {
		v.Warm = append(v.Warm, w.Words())
	}
	if v.Sheet != nil {
		v.Strip = draw.NewStrip(*v.Sheet)
	}
}

// Idle reports that the view has nothing to record.
func (v meterModel) Idle() bool { return v.Why != "" }
