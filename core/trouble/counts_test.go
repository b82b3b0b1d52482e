package trouble

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"gonum.org/v1/gonum/stat/combin"

	"glenmist/core/engine"
)

// Fisher's own tea: 4 and 0 against 0 and 4 is 1/70, 3 and 1 against 1 and 3 is
// 17/70 (P: The Design of Experiments, 1935, from memory).
func TestFisher(t *testing.T) {
	for _, c := range []struct {
		a, n, b, m int
		want       float64
	}{{4, 4, 0, 4, 1.0 / 70}, {3, 4, 1, 4, 17.0 / 70}, {0, 4, 4, 4, 1}, {0, 9, 0, 9, 1}, {9, 9, 9, 9, 1}} {
		if got := FisherGreater(c.a, c.n, c.b, c.m); math.Abs(got-c.want) > 1e-12 {
			t.Errorf("%d of %d against %d of %d: %v, want %v", c.a, c.n, c.b, c.m, got, c.want)
		}
	}
}

// Against the hypergeometric distribution summed up from gonum's binomial
// coefficients, over all of small tables and some of large ones.
func TestFisherAgainstGonum(t *testing.T) {
	direct := func(a, n, b, m int) float64 {
		sum := 0.0
		for x := a; x <= min(a+b, n); x++ {
			if a+b-x <= m {
				sum += math.Exp(combin.LogGeneralizedBinomial(float64(n), float64(x)) + combin.LogGeneralizedBinomial(float64(m), float64(a+b-x)) -
					combin.LogGeneralizedBinomial(float64(n+m), float64(a+b)))
			}
		}
		return sum
	}
	r := rand.New(rand.NewPCG(2, 3))
	for range 500 {
		n, m := 1+r.IntN(60), 1+r.IntN(300)
		a, b := r.IntN(n+1), r.IntN(m+1)
		if got, want := FisherGreater(a, n, b, m), direct(a, n, b, m); math.Abs(got-want) > 1e-9 {
			t.Fatalf("%d of %d against %d of %d: %v, want %v", a, n, b, m, got, want)
		}
	}
	if got, want := FisherGreater(23, 1500, 6, 4500), direct(23, 1500, 6, 4500); math.Abs(got/want-1) > 1e-6 {
		t.Errorf("23 of 1500 against 6 of 4500: %v, want %v", got, want)
	}
}

// What is chance and what is not, in the trade's own example: 23 of 1 500 where the
// others have 2 each is not; a lone count of 2 is no evidence (C).
func TestCountsAgainstChance(t *testing.T) {
	for name, c := range map[string]struct {
		counts   []int
		abnormal engine.Set
		words    string // of the first cylinder
	}{
		"one of four":   {[]int{23, 2, 2, 2}, engine.SetOf(1), "23 of 1\u202f500, the others 2 each: not chance (p < 0.001)"},
		"a lone two":    {[]int{2, 0, 0, 0}, 0, "a lone count or two is no evidence"},
		"all alike":     {[]int{20, 22, 19, 21}, 0, "no sign of more than chance"},
		"two of six":    {[]int{90, 0, 85, 1, 0, 0}, engine.SetOf(1, 3), "not chance"},
		"nothing":       {[]int{0, 0, 0, 0}, 0, "no sign of more than chance"},
		"one cylinder":  {[]int{40}, 0, "no other cylinder to compare with"},
		"perhaps three": {[]int{7, 1, 2, 1}, 0, "may be more than chance"},
	} {
		var abnormal engine.Set
		all := Standings(c.counts, 3000)
		for _, s := range all {
			if s.Abnormal() {
				abnormal |= engine.SetOf(s.Cylinder)
			}
			if len(c.counts) > 1 && !(s.P >= 0 && s.P <= 1 && s.Adjusted >= s.P-1e-15 && s.Adjusted <= 1) {
				t.Errorf("%s: p %v, adjusted %v", name, s.P, s.Adjusted)
			}
		}
		if abnormal != c.abnormal || !strings.Contains(all[0].Words(), c.words) {
			t.Errorf("%s: odd are %s, %q; want %s, %q", name, abnormal, all[0].Words(), c.abnormal, c.words)
		}
	}
}

// Total misfires over total opportunities, in blocks of 200 and 1000 revolutions
// (13 CCR 1968.2(e)(3), from memory), worked by hand: a four at 3 000 revolutions
// has 6 000 opportunities, a block of 200 has 400.
func TestPercentages(t *testing.T) {
	p := Percentages([]int{0, 60, 0, 0}, 3000)
	if len(p) != 2 || p[0].Block != 200 || p[1].Block != 1000 || p[0].Mean != 1 || p[0].Worst != 15 || p[1].Worst != 3 {
		t.Errorf("60 of 6000: %+v", p)
	}
	if w := p[0].Words(); !strings.Contains(w, "if they came in bursts, above 5 %") {
		t.Errorf("catalyst: %s", w)
	}
	if w := p[1].Words(); !strings.Contains(w, "above 1 %, the lowest that the emissions threshold may be") {
		t.Errorf("emissions: %s", w)
	}
	if short := Percentages([]int{5, 0}, 100); short[1].Worst != short[1].Mean || short[0].Mean != 5 {
		t.Errorf("a run shorter than a block: %+v", short)
	}
}

// Letters go through the layout: coil B is cylinders 2 and 5 of a wasted-spark six,
// cylinder 2 of a coil-on-plug four, and no coil of a distributor (C).
func TestCircuitThroughTheLayout(t *testing.T) {
	shelf := func(id string) engine.Engine { p, _ := engine.FindPattern(id); return p.Engine() }
	for _, c := range []struct {
		engine, code string
		kind         engine.Kind
		feeds        engine.Set
		rank         int
	}{
		{"six-pairs", "P0352", engine.Coil, engine.SetOf(2, 5), 0}, {"six-pairs", "P2301", engine.Coil, engine.SetOf(1, 6), 0},
		{"four-across", "P0352", engine.Coil, engine.SetOf(2), 0}, {"four-across", "P2309", engine.Coil, engine.SetOf(4), 0},
		{"six-pairs", "P0354", engine.Coil, 0, 0}, {"six-pairs", "P0206", engine.Injector, engine.SetOf(6), 0},
		{"four-across", "P0264", engine.Injector, engine.SetOf(2), 0}, {"four-across", "P0302", "", 0, 1},
		{"four-across", "P0171", "", 0, 2}, {"four-across", "U0100", "", 0, 3},
	} {
		code, err := Parse(c.code)
		if err != nil {
			t.Fatal(err)
		}
		kind, feeds, known := code.Circuit(shelf(c.engine))
		if kind != c.kind || feeds != c.feeds || known != (c.kind != "") || code.Rank() != c.rank {
			t.Errorf("%s on %s: %s of %s, %v, rank %d", c.code, c.engine, kind, feeds, known, code.Rank())
		}
	}
	code, _ := Parse("P0352")
	if got := code.In(shelf("six-pairs")); got != "coil B, primary or secondary circuit, which serves cylinders 2 and 5" {
		t.Errorf("%s", got)
	}
	for text, want := range map[string]string{"P0171": "1 true", "P0174": "2 true", "P0172": "1 false", "P0175": "2 false"} {
		code, _ := Parse(text)
		bank, lean, ok := code.Mixture()
		if got := fmt.Sprint(bank, lean); got != want || !ok {
			t.Errorf("%s: %s, %v", text, got, ok)
		}
	}
}

func ExampleStandings() {
	for _, s := range Standings([]int{1, 23, 3, 2}, 3000) {
		if s.Abnormal() {
			fmt.Printf("cylinder %d: %s\n", s.Cylinder, strings.ReplaceAll(s.Words(), "\u202f", " "))
		}
	}
	// Output: cylinder 2: 23 of 1 500, the others 2 each: not chance (p < 0.001)
}
