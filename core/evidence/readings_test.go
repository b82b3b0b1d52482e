package evidence

import (
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// What no meter can have shown is refused, each with its own field, and a good set is not.
func TestBadReadings(t *testing.T) {
	hot, scorched := 60.0, 900.0
	ohms := func(tag part.Tag, v float64) Reading { return Reading{Tag: tag, Figures: []float64{v}} }
	good := func() Readings {
		return Readings{Measure: CoilPrimary, Leads: 0.2, Celsius: &hot, Maker: &Range{0.5, 0.9}, Each: []Reading{ohms("C1", 0.9), {Tag: "C2", Over: true}}}
	}
	if _, err := (Ledger{}).Add(four, entry(1, func(e *Entry) { r := good(); e.Body = &r })); err != nil {
		t.Fatalf("a good set: %v", err)
	}
	for name, c := range map[string]struct {
		change func(*Readings)
		field  string
	}{
		"no such measure":      {func(r *Readings) { r.Measure = "mood" }, "measure"},
		"no lead on it":        {func(r *Readings) { r.Measure = LeadOhms }, "measure"},
		"nothing read":         {func(r *Readings) { r.Each = nil }, "each"},
		"900 °C":               {func(r *Readings) { r.Celsius = &scorched }, "celsius"},
		"meter leads of 1 kΩ":  {func(r *Readings) { r.Leads = 1000 }, "leads_ohm"},
		"low above high":       {func(r *Readings) { r.Maker = &Range{0.9, 0.5} }, "maker.high"},
		"negative ohms":        {func(r *Readings) { r.Each[0] = ohms("C1", -1) }, "each[0].figures[0]"},
		"10 GΩ":                {func(r *Readings) { r.Each[0] = ohms("C1", 1e10) }, "each[0].figures[0]"},
		"another kind":         {func(r *Readings) { r.Each[0] = ohms("P1", 1) }, "each[0].tag"},
		"a place, not a tag":   {func(r *Readings) { r.Each[0] = Reading{Place: "cyl-1", Figures: []float64{1}} }, "each[0].tag"},
		"twice the same":       {func(r *Readings) { r.Each[1] = r.Each[0] }, "each[1]"},
		"over and a figure":    {func(r *Readings) { r.Each[1].Figures = []float64{1} }, "each[1].over"},
		"no figure":            {func(r *Readings) { r.Each[1].Over = false }, "each[1].figures"},
		"the length of a coil": {func(r *Readings) { r.Each[0].Millimetres = 400 }, "each[0].mm"},
		"a make of coil":       {func(r *Readings) { r.Make = "carbon-core" }, "make"},
		"a load that is none":  {func(r *Readings) { r.Unloaded = true }, "unloaded"},
		"lowest above usual": {func(r *Readings) {
			*r = Readings{Measure: KVSteady, Each: []Reading{{Place: "cyl-1", Figures: []float64{9, 11, 12}}}}
		}, "each[0].figures[1]"},
		"a cylinder that bends": {func(r *Readings) {
			*r = Readings{Measure: CompressionDry, Each: []Reading{{Place: "cyl-1", Figures: []float64{9}, Jumps: true}}}
		}, "each[0].jumps"},
		"heard from a coil": {func(r *Readings) { r.Each[0].Heard = "rings" }, "each[0].heard"},
	} {
		r := good()
		c.change(&r)
		_, err := (Ledger{}).Add(four, entry(1, func(e *Entry) { e.Body = &r }))
		if errs := invalid.From(err); len(errs) == 0 || errs[0].Field != "readings."+c.field || errs[0].Expected == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
}

func TestBadSparks(t *testing.T) {
	good := func() Sparks {
		return Sparks{Tester: "opened-plug", GapMM: 7, From: engine.Boot, AirKPa: 92, AirCelsius: 12, Each: []Sparked{{"cyl-1", "strong"}}}
	}
	s := good()
	e := entry(1, func(e *Entry) { e.Body = &s })
	if _, err := (Ledger{}).Add(four, e); err != nil {
		t.Fatalf("a good test: %v", err)
	}
	if words := s.Words(); !strings.Contains(words, "at 7 mm, which proves 14.") {
		t.Error(words)
	}
	for name, c := range map[string]struct {
		change func(*Sparks)
		field  string
	}{
		"no such tester":   {func(s *Sparks) { s.Tester = "finger" }, "tester"},
		"no such end":      {func(s *Sparks) { s.From = engine.Injector }, "from"},
		"no gap":           {func(s *Sparks) { s.GapMM = 0 }, "gap_mm"},
		"outside the law":  {func(s *Sparks) { s.GapMM = 25 }, "gap_mm"},
		"a lamp with gap":  {func(s *Sparks) { s.Tester = "lamp" }, "gap_mm"},
		"air of the moon":  {func(s *Sparks) { s.AirKPa = 0 }, "air_kpa"},
		"air of a furnace": {func(s *Sparks) { s.AirCelsius = 300 }, "air_celsius"},
		"nothing seen":     {func(s *Sparks) { s.Each = nil }, "each"},
		"cylinder 9":       {func(s *Sparks) { s.Each[0].Place = "cyl-9" }, "each[0].place"},
		"pink":             {func(s *Sparks) { s.Each[0].Seen = "pink" }, "each[0].seen"},
	} {
		s := good()
		c.change(&s)
		_, err := (Ledger{}).Add(four, entry(1, func(e *Entry) { e.Body = &s }))
		if errs := invalid.From(err); len(errs) == 0 || errs[0].Field != "sparks."+c.field || errs[0].Expected == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// What no capture can have shown is refused by its field; a dead cylinder and a peak that was cut
// off are no errors; and each is said in short.
func TestCaptureReadings(t *testing.T) {
	good := func() Readings {
		return Readings{Measure: KVWave, Capture: 2, Each: []Reading{
			{Place: "cyl-1", Figures: []float64{9, 7.5, 10.5, 1.4, 1.2, -0.1, 100, 8}},
			{Place: "cyl-2", Figures: []float64{0, 0, 0, 0, 0, 0, 0}},
			{Place: "cyl-3", Figures: []float64{24, 20, 28, 0, 0, 0, 0, 10}, AtLeast: true},
			{Place: "cyl-4", Figures: []float64{9, 8, 10}},
		}}
	}
	r := good()
	if _, err := (Ledger{}).Add(four, entry(1, func(e *Entry) { e.Body = &r })); err != nil {
		t.Fatalf("a good set: %v", err)
	}
	if words, want := r.Words(), "secondary kilovolts, out of a capture: cylinder 1 9.0 kV (7.5 to 10.5), cylinder 2 no event, cylinder 3 at least 24.0 kV (20.0 to 28.0) and no arc, fired in 0 %, cylinder 4 9.0 kV (8.0 to 10.0)"; words != want {
		t.Errorf("%s\n%s", words, want)
	}
	for name, c := range map[string]struct {
		change func(*Readings)
		field  string
	}{
		"lowest above usual":   {func(r *Readings) { r.Each[0].Figures[1] = 9.5 }, "each[0].figures[1]"},
		"highest below usual":  {func(r *Readings) { r.Each[0].Figures[2] = 8 }, "each[0].figures[1]"},
		"100 kV":               {func(r *Readings) { r.Each[0].Figures[0], r.Each[0].Figures[2] = 100, 100 }, "each[0].figures[0]"},
		"burns for a second":   {func(r *Readings) { r.Each[0].Figures[3] = 1000 }, "each[0].figures[3]"},
		"fires more than ever": {func(r *Readings) { r.Each[0].Figures[6] = 120 }, "each[0].figures[6]"},
		"nine figures":         {func(r *Readings) { r.Each[0].Figures = append(r.Each[0].Figures, 1) }, "each[0].figures"},
		"a part, not a place":  {func(r *Readings) { r.Each[0].Place, r.Each[0].Tag = "", "P1" }, "each[0].place"},
		"capture 41":           {func(r *Readings) { r.Capture = 41 }, "capture"},
		"capture -1":           {func(r *Readings) { r.Capture = -1 }, "capture"},
		"a capture of ohms": {func(r *Readings) {
			*r = Readings{Measure: CoilPrimary, Capture: 1, Each: []Reading{{Tag: "C1", Figures: []float64{0.7}}}}
		}, "capture"},
		"ohms cut off": {func(r *Readings) {
			*r = Readings{Measure: CoilPrimary, Each: []Reading{{Tag: "C1", Figures: []float64{0.7}, AtLeast: true}}}
		}, "each[0].at_least"},
	} {
		r := good()
		c.change(&r)
		_, err := (Ledger{}).Add(four, entry(1, func(e *Entry) { e.Body = &r }))
		if errs := invalid.From(err); len(errs) == 0 || errs[0].Field != "readings."+c.field || errs[0].Expected == "" {
			t.Errorf("%s: %v", name, err)
		}
	}
	snap := Readings{Measure: KVSnap, Each: []Reading{{Place: "cyl-1", Figures: []float64{9, 26}, AtLeast: true}}}
	if words := snap.Words(); !strings.Contains(words, "steady 9 kV / on snap at least 26 kV") {
		t.Error(words)
	}
}

// Where parts sat at a time goes by when moves were done, however they were entered, and without
// those that were withdrawn.
func TestPositionsAt(t *testing.T) {
	move := func(minute int, tag part.Tag, to engine.Place) Entry {
		other := part.Tag("C" + strings.TrimPrefix(string(to), "cyl-"))
		return entry(minute, func(e *Entry) {
			e.Body = &Move{Parts: []part.Relocation{{Tag: tag, To: to}, {Tag: other, To: tag.Home()}}}
		})
	}
	var l Ledger
	for _, e := range []Entry{move(10, "C1", "cyl-2"), move(30, "C3", "cyl-4")} {
		longer, err := l.Add(four, e)
		if err != nil {
			t.Fatal(err)
		}
		l = longer
	}
	first, last := l[0].Done, l[1].Done
	for _, c := range []struct {
		at     time.Time
		c1, c3 engine.Place
	}{
		{first.Add(-time.Second), "cyl-1", "cyl-3"}, {first, "cyl-2", "cyl-3"}, {last.Add(-time.Second), "cyl-2", "cyl-3"}, {last.Add(time.Hour), "cyl-2", "cyl-4"},
	} {
		at := l.PositionsAt(four, c.at)
		if at.Where("C1") != c.c1 || at.Where("C3") != c.c3 {
			t.Errorf("at %s: C1 is at %s, C3 at %s; want %s and %s", c.at, at.Where("C1"), at.Where("C3"), c.c1, c.c3)
		}
	}
	withdrawn, err := l.Add(four, entry(40, func(e *Entry) { e.Body = &Withdraw{Entry: 2, Reason: "it was another"} }))
	if err != nil {
		t.Fatal(err)
	}
	if at := withdrawn.PositionsAt(four, last.Add(time.Hour)); at.Where("C3") != "cyl-3" {
		t.Errorf("withdrawn, and C3 is at %s", at.Where("C3"))
	}
}
