package calc

import (
	"fmt"
	"math"
	"net/url"
	"slices"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

// P: Hanley and Lippman-Hand, JAMA 1983 (from memory), and what follows from it.
func TestCleanRuns(t *testing.T) {
	if got := UpperBound(100); math.Abs(got-0.0295) > 5e-5 {
		t.Errorf("no event in 100: %v, want 0.0295", got)
	}
	for _, n := range []float64{30, 100, 1000} {
		if got := UpperBound(n); math.Abs(got-3/n) > 0.06*3/n {
			t.Errorf("no event in %v: %v, far from the rule of three", n, got)
		}
	}
	for p, want := range map[float64]float64{0.01: 299, 0.001: 2995} {
		if got := TrialsToRuleOut(p); got != want {
			t.Errorf("to rule out %v: %v trials, want %v", p, got, want)
		}
	}
}

func answer(t *testing.T, name string, pairs ...string) (map[string]float64, error) {
	t.Helper()
	c, ok := Find(name)
	if !ok {
		t.Fatalf("no calculator %s", name)
	}
	v := url.Values{}
	for i := 0; i < len(pairs); i += 2 {
		v.Set(pairs[i], pairs[i+1])
	}
	a, err := c.Answer(v)
	out := map[string]float64{}
	for _, r := range a.Result {
		if out[r.Name] = r.Value; r.Text != "" {
			out[r.Name+": "+r.Text] = 1
		}
	}
	return out, err
}

// Facts of the trade and of textbooks, each with its source.
func TestAgainstSources(t *testing.T) {
	for name, c := range map[string]struct {
		calculator string
		pairs      []string
		want       map[string]float64
		source     string
	}{
		"an inch":           {"length", []string{"length", "1 in"}, map[string]float64{"millimetres": 25.4, "thousandths": 1000}, "P: international inch"},
		"a plug's gap":      {"length", []string{"length", "39 thou"}, map[string]float64{"millimetres": 0.9906}, "P: international inch"},
		"a foot-pound":      {"torque", []string{"torque", "1 lbf·ft"}, map[string]float64{"newton metres": 1.355818, "inch-pounds": 12}, "P: NIST SP 811, from memory"},
		"an inch-pound":     {"torque", []string{"torque", "1 in-lb"}, map[string]float64{"newton metres": 0.1129848}, "P: NIST SP 811, from memory"},
		"ten degrees":       {"rim-degrees", []string{"diameter", "150", "degrees", "10"}, map[string]float64{"along the rim": 13.09}, "definition"},
		"and back":          {"rim-degrees", []string{"diameter", "150", "along", "13.09"}, map[string]float64{"degrees": 10}, "definition"},
		"a tooth of 13":     {"tooth-off", []string{"teeth", "13"}, map[string]float64{"at the distributor": 360.0 / 13, "at the crank": 720.0 / 13}, "definition"},
		"a warm winding":    {"winding-temperature", []string{"reading", "1216", "temperature", "75"}, map[string]float64{"at 20 °C": 1000, "warm against 20 °C": 1.21615}, "P: IEC 60028, from memory"},
		"meter's leads":     {"winding-temperature", []string{"reading", "0.8", "leads", "0.2", "temperature", "20"}, map[string]float64{"at 20 °C": 0.6}, "definition"},
		"idle":              {"gap-kv", []string{"gap", "1.0", "manifold", "35", "charge", "330 K"}, map[string]float64{"needed": 8.0}, "the two laws of values"},
		"wide open":         {"gap-kv", []string{"gap", "1.0", "manifold", "98", "charge", "330 K"}, map[string]float64{"needed": 19.3}, "the two laws of values"},
		"open air":          {"tester-gap", []string{"tester", "5", "shape", "smooth", "gap", "1"}, map[string]float64{"proves at least": 0.9 * 16.4}, "the law"},
		"a long dwell":      {"dwell", []string{"volts", "12", "resistance", "0.6", "inductance", "3", "dwell", "1 s"}, map[string]float64{"current": 20, "energy": 600, "time constant": 5}, "textbook"},
		"one time constant": {"dwell", []string{"volts", "12", "resistance", "0.6", "inductance", "3", "dwell", "5"}, map[string]float64{"current": 20 * 0.632121}, "textbook"},
		"a block":           {"misfire-percentage", []string{"counts", "0 20 0 0", "revolutions", "1000"}, map[string]float64{"percentage": 1, "against the least emissions threshold: at or over 1 %": 1, "against the least catalyst threshold: under 5 %": 1}, "P: 13 CCR 1968.2(e)(3), from memory"},
		"a secondary":       {"resistance", []string{"reading", "12k4"}, map[string]float64{"told at 20 °C: 12.4 kΩ": 1, "against the rule of thumb, 5 kΩ to 20 kΩ: within": 1, "verdict: it does not condemn": 1}, "C: values of the trade"},
		"a shorted one":     {"resistance", []string{"reading", "5k2", "low", "11k", "high", "15k"}, map[string]float64{"against the maker's range: below": 1, "verdict: a clear fail": 1}, "C"},
		"an open lead":      {"resistance", []string{"item", "lead", "reading", "OL", "length", "60 cm"}, map[string]float64{"told at 20 °C: over range": 1, "verdict: a clear fail": 1}, "C"},
		"the odd one":       {"siblings", []string{"readings", "12k4 12k6 OL 12k5"}, map[string]float64{"verdict: out of line: number 3": 1}, "median and MAD"},
		"in by wires":       {"gauge-wires", []string{"wires", "0.9+ 1.0- 1.1", "low", "0.9", "high", "1.0"}, map[string]float64{"verdict: in": 1}, "definition"},
		"out by wires":      {"gauge-wires", []string{"wires", "1.1+ 1.2-", "low", "0.9", "high", "1.0"}, map[string]float64{"verdict: out": 1}, "definition"},
		"the next wire":     {"gauge-wires", []string{"wires", "0.8+ 0.9 1.0 1.1-", "low", "0.9", "high", "1.0"}, map[string]float64{"verdict: cannot tell": 1, "try the wire": 0.9}, "brute force in core/gap"},
	} {
		got, err := answer(t, c.calculator, c.pairs...)
		if err != nil {
			t.Errorf("%s (%s): %v", name, c.source, err)
		}
		for k, want := range c.want {
			if v, ok := got[k]; !ok || math.Abs(v-want) > 0.005*math.Max(1, math.Abs(want)) {
				t.Errorf("%s (%s): %s is %v, want %v; all %v", name, c.source, k, v, want, got)
			}
		}
	}
}

// A tester clears a condition only where the low end of what it proves reaches the need,
// and the gap that is named for full load does clear it; thin air needs and proves less.
func TestTester(t *testing.T) {
	got, err := answer(t, "tester-gap", "tester", "4", "gap", "0.9")
	if err != nil || got["proves at least"] >= got["full load needs"] || got["full load: not cleared"] != 1 {
		t.Fatalf("%v, %v", got, err)
	}
	clears := got["gap that clears full load"]
	for _, c := range []struct {
		mm   float64
		said string
	}{{clears, "full load: cleared"}, {clears - 0.11, "full load: not cleared"}} {
		if again, err := answer(t, "tester-gap", "tester", fmt.Sprintf("%.3f mm", c.mm), "gap", "0.9"); err != nil || again[c.said] != 1 {
			t.Errorf("%.2f mm: want %s: %v, %v", c.mm, c.said, again, err)
		}
	}
	if high, err := answer(t, "tester-gap", "tester", "4", "gap", "0.9", "altitude", "1500"); err != nil || high["proves at least"] >= got["proves at least"] || high["full load needs"] >= got["full load needs"] {
		t.Errorf("at 1500 m: %v, %v", high, err)
	}
}

func TestAnswers(t *testing.T) {
	// 2995 events are ten minutes at 600 rpm, 300 firings a minute (definition).
	if got, err := answer(t, "clean-run", "rate", "0.1", "speed", "600"); err != nil || math.Abs(got["minutes"]-10) > 0.02 || got["events"] != 2995 {
		t.Errorf("clean run: %v, %v", got, err)
	}
	if got, err := answer(t, "misfire-rate", "count", "23", "revolutions", "5 min at 600 rpm"); err != nil || got["opportunities"] != 1500 || math.Abs(got["rate"]-100*23.0/1500) > 1e-12 {
		t.Errorf("misfire rate: %v, %v", got, err)
	}
	if got, err := answer(t, "rate-bound", "revolutions", "200"); err != nil || math.Abs(got["upper bound"]-2.95) > 0.005 {
		t.Errorf("bound: %v, %v", got, err)
	}
	if got, err := answer(t, "winding-temperature", "reading", "50", "leads", "10", "temperature", "20"); err != nil {
		t.Errorf("leads of 10 Ω, the most: %v, %v", got, err)
	}
	for name, c := range map[string]struct {
		calculator string
		pairs      []string
		field      string
	}{
		"nothing":         {"misfire-rate", nil, "count"},
		"count too high":  {"misfire-rate", []string{"count", "51", "revolutions", "100"}, "count"},
		"half a count":    {"misfire-rate", []string{"count", "1.5", "revolutions", "100"}, "count"},
		"negative":        {"misfire-rate", []string{"count", "-1", "revolutions", "100"}, "count"},
		"no number":       {"clean-run", []string{"rate", "NaN", "speed", "600"}, "rate"},
		"standing engine": {"clean-run", []string{"rate", "1", "speed", "0"}, "speed"},
		"no revolutions":  {"rate-bound", []string{"revolutions", "1"}, "revolutions"},
		"gap 25 times":    {"gap-kv", []string{"gap", "39", "manifold", "35"}, "gap"},
		"gap in inches":   {"gap-kv", []string{"gap", "0.039", "manifold", "35"}, "gap"},
		"a hot winding":   {"winding-temperature", []string{"reading", "5", "temperature", "900"}, "temperature"},
		"negative ohms":   {"winding-temperature", []string{"reading", "-5", "temperature", "20"}, "reading"},
		"ten gigohms":     {"winding-temperature", []string{"reading", "10000 M", "temperature", "20"}, "reading"},
		"over range":      {"winding-temperature", []string{"reading", "OL", "temperature", "20"}, "reading"},
		"leads of 11 Ω":   {"winding-temperature", []string{"reading", "50", "leads", "11", "temperature", "20"}, "leads"},
		"leads open":      {"winding-temperature", []string{"reading", "50", "leads", "OL", "temperature", "20"}, "leads"},
		"leads above it":  {"winding-temperature", []string{"reading", "0.1", "leads", "0.3", "temperature", "20"}, "leads"},
		"half a range":    {"resistance", []string{"reading", "5k", "low", "11k"}, "high"},
		"range reversed":  {"resistance", []string{"reading", "5k", "low", "15k", "high", "11k"}, "high"},
		"no reading":      {"resistance", nil, "reading"},
		"rim of neither":  {"rim-degrees", []string{"diameter", "150"}, "along"},
		"once round":      {"rim-degrees", []string{"diameter", "150", "along", "500"}, "along"},
		"one sibling":     {"siblings", []string{"readings", "12k4"}, "readings"},
		"a letter":        {"siblings", []string{"readings", "12k4 x"}, "readings"},
		"one wire":        {"gauge-wires", []string{"wires", "0.9+", "low", "0.8", "high", "1"}, "wires"},
		"low above high":  {"gauge-wires", []string{"wires", "0.9+ 1.0", "low", "1.1", "high", "1"}, "high"},
		"wires disagree":  {"gauge-wires", []string{"wires", "1.0+ 0.9-", "low", "0.8", "high", "1"}, "wires"},
		"unknown shape":   {"tester-gap", []string{"tester", "5", "gap", "1", "shape", "star"}, "shape"},
		"outside the law": {"gap-kv", []string{"gap", "5", "manifold", "350", "ratio", "20"}, "gap"},
		"13 cylinders":    {"misfire-percentage", []string{"counts", "0 0 0 0 0 0 0 0 0 0 0 0 0", "revolutions", "200"}, "counts"},
		"half a tooth":    {"tooth-off", []string{"teeth", "12.5"}, "teeth"},
	} {
		if got, err := answer(t, c.calculator, c.pairs...); err == nil || invalid.From(err)[0].Field != c.field {
			t.Errorf("%s: %v, %v, want an error at %s", name, got, err, c.field)
		}
	}
}

func TestTable(t *testing.T) {
	for _, c := range Calculators {
		v := url.Values{}
		for _, in := range c.Inputs {
			v.Set(in.Name, strings.Split(in.Default, " or ")[0])
			if in.Example != "" && in.Name != "along" {
				v.Set(in.Name, strings.Split(in.Example, " or ")[0])
			}
		}
		if a, err := c.Answer(v); err != nil || len(a.Result) == 0 || a.Formula == "" || a.Source == "" || a.Limits == "" {
			t.Errorf("%s with its own examples: %+v, %v", c.Name, a, err)
		}
	}
}

// Whatever is typed, a calculator answers with figures that can be shown, or says which input is
// wrong.
func FuzzAnswer(f *testing.F) {
	for i := range Calculators {
		f.Add(i, "1", "2.5 mm", "600", "")
		f.Add(i, "-1", "1e308", "0", "OL")
	}
	f.Fuzz(func(t *testing.T, which int, a, b, c, d string) {
		calculator := Calculators[(which%len(Calculators)+len(Calculators))%len(Calculators)]
		typed := url.Values{}
		for i, input := range calculator.Inputs {
			typed.Set(input.Name, []string{a, b, c, d}[i%4])
		}
		answer, err := calculator.Answer(typed)
		if err != nil {
			for _, wrong := range invalid.From(err) {
				if !slices.ContainsFunc(calculator.Inputs, func(i Input) bool { return i.Name == wrong.Field }) {
					t.Fatalf("%s: %v names no input", calculator.Name, wrong)
				}
			}
			return
		}
		for _, r := range answer.Result {
			if v := r.Value; math.IsNaN(v) || math.IsInf(v, 0) {
				t.Fatalf("%s of %v: %s is %g", calculator.Name, typed, r.Name, v)
			}
		}
	})
}
