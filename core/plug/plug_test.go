package plug

import (
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

// The table of looks, row by row as the trade reads it (C): what is seen, what it is called, and a
// word that its meaning must hold.
func TestTableOfLooks(t *testing.T) {
	for _, c := range []struct {
		saw      Look
		row      string
		means    string
		harmless bool
	}{
		{Look{Nose: Tan, Deposit: Clean, Wet: Dry, Edges: Sharp}, "normal", "normal", true},
		{Look{Nose: Grey}, "normal", "normal", true},
		{Look{Nose: Pale}, "pale", "healthy", true},
		{Look{Nose: White}, "hot", "lean", false},
		{Look{Deposit: Blisters}, "hot", "too early", false},
		{Look{Nose: Black, Deposit: Soot, Wet: Dry}, "soot", "short trips", false},
		{Look{Wet: Fuel}, "fuel", "did not fire", false},
		{Look{Wet: Oil}, "oil-low", "rings", false},
		{Look{High: Oil, Wet: Dry}, "oil-high", "seal", false},
		{Look{Deposit: Ash}, "ash", "additives", false},
		{Look{Deposit: Glaze}, "ash", "oil burning", false},
		{Look{Edges: Rounded}, "worn", "overworks the coil", false},
		{Look{Edges: Eaten}, "worn", "more kilovolts", false},
		{Look{Insulator: Cracked}, "cracked", "over-torqued", false},
		{Look{Insulator: Tracked}, "tracked", "boot", false},
		{Look{Ring: Ring}, "ring", "harmless", true},
		{Look{Strap: Bent}, "strap", "wrong reach", false},
		{Look{Strap: Closed}, "strap", "dropped", false},
		{Look{Edges: Bruised}, "bruised", "debris", false},
		{Look{Gasket: Uncrushed}, "uncrushed", "never tight", false},
		{Look{High: Water}, "rust", "rain", false},
		{Look{Tip: Missing}, "copy", "copy", false},
		{Look{Lettering: Wrong}, "copy", "wrong part", false},
	} {
		means := c.saw.Means()
		i := slices.IndexFunc(means, func(m Meaning) bool { return m.ID == c.row })
		switch {
		case i < 0:
			t.Errorf("%s: no row %q among %v", c.saw.Text(), c.row, means)
		case !strings.Contains(means[i].Means, c.means) || means[i].Harmless != c.harmless:
			t.Errorf("%s means %q (harmless %t), want %q", c.saw.Text(), means[i].Means, means[i].Harmless, c.means)
		}
		if abnormal := len(c.saw.Abnormal()) > 0; abnormal == c.harmless {
			t.Errorf("%s: odd %t", c.saw.Text(), abnormal)
		}
	}
	// Every row that is no mere remark points somewhere when one, a bank or all show it.
	for _, m := range Meanings {
		if p := pointing[m.ID]; !m.Harmless && (p.one == "" || p.bank == "" || p.all == "") {
			t.Errorf("%s points at %+v", m.ID, p)
		}
	}
}

func TestSetReading(t *testing.T) {
	set := func(looks ...Look) []Laid {
		var all []Laid
		for i, l := range looks {
			all = append(all, Laid{i + 1, 1 + i*2/len(looks), fmt.Sprintf("plug P%d", i+1), Sound.Over(l)})
		}
		return all
	}
	none := Look{}
	white, soot, oil := Look{Nose: White}, Look{Nose: Black, Deposit: Soot}, Look{Wet: Oil}
	for name, c := range map[string]struct {
		plugs  []Laid
		trait  string
		spread Spread
		on     []int
		points string
	}{
		"one":               {set(none, none, none, oil, none, none), "oil-low", OfOne, []int{4}, "that cylinder"},
		"a bank":            {set(none, none, none, white, white, white), "hot", OfBank, []int{4, 5, 6}, "not the plugs"},
		"all":               {set(soot, soot, soot, soot, soot, soot), "soot", OfAll, []int{1, 2, 3, 4, 5, 6}, "not the plugs"},
		"all but one":       {set(soot, soot, soot, soot, none, soot), "soot", OfAll, []int{1, 2, 3, 4, 6}, "mixture"},
		"two of both banks": {set(none, white, none, none, white, none), "hot", OfSome, []int{2, 5}, "that cylinder"},
	} {
		got := ReadSet(c.plugs)
		if len(got) != 1 || got[0].Trait.ID != c.trait || got[0].Spread != c.spread || !slices.Equal(got[0].On, c.on) || !strings.Contains(got[0].Points, c.points) {
			t.Errorf("%s: %+v", name, got)
		}
	}
	if got := ReadSet(set(none, none, none, none)); len(got) != 0 {
		t.Errorf("nothing odd reads as %+v", got)
	}
	if got := ReadSet(set(white)[:1]); got != nil {
		t.Errorf("one plug is a set: %+v", got)
	}
}

func TestGaps(t *testing.T) {
	spec := Range{0.8, 0.9}
	for mm, want := range map[float64]GapSays{0.8: GapIn, 0.9: GapIn, 0.95: GapWide, 1.2: GapWorn, 0.7: GapNarrow, 0.4: GapClosed, 0: GapUnknown} {
		if got := spec.Judge(mm); got != want {
			t.Errorf("%g mm is %q, want %q", mm, got, want)
		}
	}
	if got := (Range{}).Judge(0.9); got != GapUnknown {
		t.Errorf("without a range: %q", got)
	}
	if got := Siblings([]Look{{GapMM: 0.9}, {GapMM: 1.4}, {}, {GapMM: 1.0}}, 1); math.Abs(got-0.95) > 1e-9 {
		t.Errorf("the others lie at %g", got)
	}
	// By hand: 0.85 set, 0.97 after 48 000 km: 0.12 mm, 0.025 mm in 10 000 km; to 1.0 mm 12 000 km more.
	w, ok := Worn(0.97, 0.85, 48_000, Range{0.8, 1.0})
	if !ok || math.Abs(w.Grown-0.12) > 1e-9 || math.Abs(w.Rate-0.025) > 1e-9 || math.Abs(w.LeftKm-12_000) > 1e-6 {
		t.Errorf("%+v", w)
	}
	if w, _ := Worn(1.0, 1.0, 48_000, Range{0.8, 1.0}); w.LeftKm != 0 { // at the end, though it has not grown
		t.Errorf("%+v", w)
	}
	if w, _ := Worn(0.85, 0.85, 48_000, Range{0.8, 1.0}); !math.IsInf(w.LeftKm, 1) {
		t.Errorf("%+v", w)
	}
	if w, _ := Worn(1.1, 0.85, 48_000, Range{0.8, 1.0}); w.LeftKm != 0 {
		t.Errorf("past its end: %+v", w)
	}
	if _, ok := Worn(0.9, 0.85, math.NaN(), spec); ok {
		t.Error("a wear without a distance")
	}
}

func ExampleLook_Words() {
	l := Look{Nose: Black, Deposit: Soot, Insulator: Tracked, GapMM: 1.1}
	fmt.Println(l.Words())
	for _, m := range l.Means() {
		fmt.Println("-", m.Means)
	}
	// Output:
	// nose black, dry soot on it, burnt track on the insulator, gap 1.10 mm
	// - rich, a weak spark, short trips, or a heat range too cold
	// - carbon tracking: the spark has found a way outside; its boot carries the other half, so both go
}

func FuzzParse(f *testing.F) {
	for _, s := range []string{"", "nose=tan wet=dry gap=0.95", Sound.Text(), "nose=blue", "gap=-1", "gap=NaN", "nose", "=", strings.Repeat("nose=tan ", 80)} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		l, err := Parse(s)
		if err != nil {
			if len(invalid.From(err)) == 0 || !l.Empty() {
				t.Fatalf("%q: %v, %+v", s, err, l)
			}
			return
		}
		if err := l.Check(); err != nil {
			t.Fatalf("%q reads as %+v: %v", s, l, err)
		}
		again, err := Parse(l.Text())
		if err != nil || again != l {
			t.Fatalf("%q: %+v, again %+v, %v", s, l, again, err)
		}
	})
}
