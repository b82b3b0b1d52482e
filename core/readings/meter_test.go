package readings

import (
	"bytes"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/meter"
	"glenmist/core/part"
	"glenmist/core/unit"
)

func shelf(t testing.TB, id string) engine.Engine {
	t.Helper()
	p, ok := engine.FindPattern(id)
	if !ok {
		t.Fatal(id)
	}
	return p.Engine().Derive()
}

// leads is a set of leads with their ohms and millimetres.
func leads(figures ...float64) evidence.Readings {
	r := evidence.Readings{Measure: evidence.LeadOhms, Make: meter.CarbonCore}
	for i := 0; i < len(figures); i += 2 {
		one := evidence.Reading{Tag: part.Tag("L" + string(rune('1'+i/2))), Millimetres: figures[i+1]}
		if one.Figures = []float64{figures[i]}; figures[i] < 0 {
			one.Figures, one.Over = nil, true
		}
		r.Each = append(r.Each, one)
	}
	return r
}

// Leads of a set differ in length and are alike by the metre: the one that reads highest is
// sound, and the one that is abnormal reads no more than the others (job of the trade: kilohms by
// length; carbon core 10 to 40 kΩ a metre, C).
func TestLeadsByTheMetre(t *testing.T) {
	s := Judge(leads(9000, 600, 6000, 400, 4500, 300, 9000, 250))
	for i, want := range []bool{false, false, false, true} {
		if s.Lines[i].Abnormal != want {
			t.Errorf("%s: odd %v, z %.1f", s.Lines[i].Name, s.Lines[i].Abnormal, s.Lines[i].Z)
		}
	}
	if s.Lines[0].Told != "15 kΩ/m" || s.Lines[0].Thumb != meter.Within || s.Lines[3].Thumb != meter.Within {
		t.Errorf("%+v", s.Lines[0])
	}
	without := leads(9000, 600, 6000, 400, 4500, 300, 9000, 250)
	without.Each[1].Millimetres = 0
	if s := Judge(without); s.Caveat == "" || s.Unit != "Ω" {
		t.Errorf("no word on the missing length: %+v", s)
	}
	if s := Judge(leads(6000, 400, -1, 400, 6100, 400, 5900, 400)); !s.Lines[1].Abnormal || s.Lines[1].Thumb != meter.Open {
		t.Errorf("an open lead: %+v", s.Lines[1])
	}
}

// Three ways side by side: the maker's range holds at 20 °C and without the meter's leads; a
// winding at 75 °C reads 1.216 times its 20 °C value (P: IEC 60028, from memory).
func TestReadingAgainstRangeRuleAndSiblings(t *testing.T) {
	hot := 75.0
	r := evidence.Readings{Measure: evidence.CoilPrimary, Leads: 0.2, Celsius: &hot, Maker: &evidence.Range{Low: 0.6, High: 0.8},
		Each: []evidence.Reading{{Tag: "C1", Figures: []float64{0.7*1.21615 + 0.2}}, {Tag: "C2", Figures: []float64{0.7*1.21615 + 0.22}}, {Tag: "C3", Figures: []float64{1.9}}, {Tag: "C4", Figures: []float64{1.06}}}}
	s := Judge(r)
	if got := s.Lines[0]; got.Value < 0.699 || got.Value > 0.701 || got.Maker != meter.Within || got.Thumb != meter.Within || got.Abnormal {
		t.Errorf("%+v", got)
	}
	if got := s.Lines[2]; got.Maker != meter.Above || got.Thumb != meter.Within || !got.Abnormal {
		t.Errorf("within the rule of thumb, above the maker's range, odd among its siblings: %+v", got)
	}
	if few := Judge(evidence.Readings{Measure: evidence.CoilPrimary, Each: r.Each[:1]}); !strings.Contains(few.Siblings, "no other") {
		t.Errorf("one reading is compared: %q", few.Siblings)
	}
	drop := evidence.Readings{Measure: evidence.FeedDrop, Unloaded: true, Each: []evidence.Reading{{Place: "cyl-1", Figures: []float64{12.4, 11.6}}}}
	if s := Judge(drop); s.Lines[0].Told != "0.8 V" || s.Lines[0].Thumb != meter.Above || !strings.Contains(s.Caveat, "without a load") {
		t.Errorf("%+v %q", s.Lines[0], s.Caveat)
	}
}

// The same winding cold and hot: copper explains 21.6 % of 55 K, and no more.
func TestHotAgainstCold(t *testing.T) {
	at := func(celsius, c1, c2 float64) evidence.Readings {
		return evidence.Readings{Measure: evidence.CoilPrimary, Celsius: &celsius, Each: []evidence.Reading{{Tag: "C1", Figures: []float64{c1}}, {Tag: "C2", Figures: []float64{c2}}}}
	}
	got := HotAgainstCold([]evidence.Readings{at(20, 0.70, 0.70), at(75, 0.70*1.216, 1.4), at(25, 0.71, 0.71)}, evidence.CoilPrimary)
	if len(got) != 2 || got[0].Abnormal || !got[1].Abnormal || got[0].Cold != 20 || got[0].Hot != 75 {
		t.Errorf("%+v", got)
	}
	if got := HotAgainstCold([]evidence.Readings{at(20, 0.7, 0.7), at(28, 0.7, 0.7)}, evidence.CoilPrimary); len(got) > 0 {
		t.Errorf("eight degrees are no other temperature: %+v", got)
	}
}

// What is written is read again, in the dialects that people send.
func TestCSV(t *testing.T) {
	e := shelf(t, "six-distributor")
	m, _ := evidence.FindMeasure(evidence.LeadOhms)
	set := leads(6200, 400, -1, 350)
	set.Each[0].Jumps = true
	var file bytes.Buffer
	if err := WriteCSV(&file, []evidence.Readings{set}); err != nil {
		t.Fatal(err)
	}
	for name, text := range map[string]string{
		"our own":             file.String(),
		"semicolon, no head":  "L1; 6k2; ; ; \nL2; OL",
		"tab, bare cylinders": "1\t6,2 kΩ\n2\tOL\n",
		"head in other order": "figure;what;jumps\n6200;l1;yes\nOL;l2;\n",
		"BOM and blanks":      "\uFEFF L1 , 6200 \n\n L2 , open \n",
	} {
		rows, unread, err := ReadCSV(e, m, text)
		if err != nil || len(unread) > 0 || len(rows) != 2 {
			t.Errorf("%s: %+v, unread %q, %v", name, rows, unread, err)
			continue
		}
		first, err1 := unit.ParseOhms(rows[0].Figures[0])
		second, err2 := unit.ParseOhms(rows[1].Figures[0])
		if err1 != nil || err2 != nil || first.Value != 6200 || !second.Over || rows[0].Reading.Tag != "L1" || rows[1].Reading.Tag != "L2" {
			t.Errorf("%s: %+v, %v, %v", name, rows, err1, err2)
		}
	}
	if rows, unread, err := ReadCSV(e, m, "L1,6k2\nL9,5k\nnonsense\n"); err != nil || len(rows) != 1 || len(unread) != 2 {
		t.Errorf("%+v %q %v", rows, unread, err)
	}
	for _, text := range []string{"", strings.Repeat("L1,1\n", 300), strings.Repeat("x", MaxBytes+1)} {
		if rows, _, err := ReadCSV(e, m, text); err == nil {
			t.Errorf("%d bytes are read as %d rows", len(text), len(rows))
		}
	}
}

// sample is a set of readings of a measure on an engine, with figures from within its range.
func sample(m evidence.Measure, e engine.Engine, r *rand.Rand) evidence.Readings {
	set := evidence.Readings{Measure: m.ID}
	for _, one := range m.Each(e, part.Home(e)) {
		if len(set.Each) == evidence.MaxReadings {
			break
		}
		n := 1 + r.IntN(len(m.Figures))
		for range n {
			one.Figures = append(one.Figures, math.Round(r.Float64()*1e6)/1e3)
		}
		switch r.IntN(4) {
		case 0:
			if m.Figures[0].Of == nil {
				one.Figures, one.Over = nil, true
			}
		case 1:
			one.AtLeast = m.Scoped || m.ID == evidence.KVSnap
		}
		one.Jumps = m.Bends && r.IntN(3) == 0
		if m.Length {
			one.Millimetres = float64(r.IntN(900))
		}
		if m.ID == evidence.LeakDownLoss && r.IntN(2) == 0 {
			one.Heard = "rings"
		}
		set.Each = append(set.Each, one)
	}
	return set
}

// Whatever is read with any measure on any engine comes out of its CSV file as it went in.
func FuzzCSVRoundTrip(f *testing.F) {
	for n := range uint64(len(evidence.Measures)) {
		f.Add(n, n)
	}
	f.Fuzz(func(t *testing.T, which, seed uint64) {
		r := rand.New(rand.NewPCG(which, seed))
		e := engine.Shelf[seed%uint64(len(engine.Shelf))].Engine().Derive()
		m := evidence.Measures[which%uint64(len(evidence.Measures))]
		set := sample(m, e, r)
		if len(set.Each) == 0 {
			return
		}
		other := sample(evidence.Measures[0], e, r)
		var file bytes.Buffer
		if err := WriteCSV(&file, []evidence.Readings{other, set}); err != nil {
			t.Fatal(err)
		}
		rows, unread, err := ReadCSV(e, m, file.String())
		want := set.Each
		if m.ID == evidence.Measures[0].ID {
			want = slices.Concat(other.Each, want)
		}
		if err != nil || len(unread) > 0 || len(rows) != len(want) {
			t.Fatalf("%s: %d rows of %d, unread %q, %v\n%s", m.ID, len(rows), len(want), unread, err, file.String())
		}
		for i, row := range rows {
			got := evidence.Reading{Tag: row.Reading.Tag, Place: row.Reading.Place, Jumps: row.Jumps, Heard: evidence.ResultID(row.Heard), AtLeast: row.AtLeast}
			for _, text := range row.Figures {
				switch text {
				case "":
				case "OL":
					got.Over = true
				default:
					v, err := strconv.ParseFloat(text, 64)
					if err != nil {
						t.Fatal(err)
					}
					got.Figures = append(got.Figures, v)
				}
			}
			if row.Length != "" {
				got.Millimetres, _ = strconv.ParseFloat(row.Length, 64)
			}
			if !reflect.DeepEqual(got, want[i]) {
				t.Fatalf("%s: %+v comes back as %+v", m.ID, want[i], got)
			}
		}
	})
}

func FuzzReadCSV(f *testing.F) {
	f.Add("what;figure\nL1;6k2\n")
	f.Add("1,\"5\n\x00")
	e := shelf(f, "six-distributor")
	m, _ := evidence.FindMeasure(evidence.LeadOhms)
	f.Fuzz(func(t *testing.T, text string) {
		rows, _, err := ReadCSV(e, m, text)
		if err != nil {
			return
		}
		again, _, _ := ReadCSV(e, m, text)
		if !reflect.DeepEqual(rows, again) || len(rows) > maxLines {
			t.Fatal("read twice, it differs")
		}
		for _, r := range rows {
			if r.Reading.Tag.Kind() != engine.Lead {
				t.Fatalf("%+v is no lead", r)
			}
		}
	})
}
