package scope

import (
	"errors"
	"fmt"
	"math"
	"strings"
	"testing"
	"unicode/utf16"

	"glenmist/core/invalid"
)

// saw is the value of sample i: a tooth that repeats no value within 50 samples, in kilovolts.
func saw(i int) float64 { return 0.1 * float64(i%50) }

// lines writes n samples at 100 000 a second by a format of its own.
func lines(head string, n int, line func(i int) string) string {
	var b strings.Builder
	b.WriteString(head)
	for i := range n {
		b.WriteString(line(i) + "\n")
	}
	return b.String()
}

// in16 encodes a text as UTF-16 with its mark.
func in16(text string, big bool) string {
	var b strings.Builder
	for _, u := range utf16.Encode([]rune("\uFEFF" + text)) {
		if big {
			b.Write([]byte{byte(u >> 8), byte(u)}) //nolint:gosec // the two halves
		} else {
			b.Write([]byte{byte(u), byte(u >> 8)}) //nolint:gosec // likewise
		}
	}
	return b.String()
}

// How recorders write a time, or none: each is the same second of samples.
func TestTimesOfRecorders(t *testing.T) {
	const n = 3000
	plain := func(scale float64) func(i int) string {
		return func(i int) string { return fmt.Sprintf("%.7g,%.1f", float64(i)*1e-5*scale, saw(i)) }
	}
	for name, c := range map[string]struct {
		text    string
		rate    float64
		guessed string
		gaps    int
	}{
		"msec":                            {text: lines("Time (msec),A (kV)\n", n, plain(1e3))},
		"usec":                            {text: lines("Time,A\nusec,kV\n", n, plain(1e6))},
		"seconds in full":                 {text: lines("Time [seconds],A [KV]\n", n, plain(1))},
		"milliseconds in full":            {text: lines("Time (milliseconds),A (kV)\n", n, plain(1e3))},
		"micro sign in Latin-1":           {text: lines("Time (\xb5s),A (kV)\n", n, plain(1e6))},
		"UTF-16, little end first":        {text: in16(lines("Time (µs),A (kV)\r\n", n, plain(1e6)), false)},
		"UTF-16, big end first":           {text: in16(lines("Time (ms),A (kV)\n", n, plain(1e3)), true)},
		"milliseconds without a unit":     {text: lines("time,A (kV)\n", n, plain(1e3)), guessed: "milliseconds"},
		"microseconds without a unit":     {text: lines("", n, plain(1e6)), guessed: ""},
		"no time, one channel":            {text: lines("A (kV)\n", n, func(i int) string { return fmt.Sprintf("%.1f", saw(i)) }), rate: 100e3},
		"no time, no header":              {text: lines("", n, func(i int) string { return fmt.Sprintf("%.1f;%.1f", saw(i), 5-saw(i)) }), rate: 100e3},
		"numbers of samples":              {text: lines("Sample,A (kV)\n", n, func(i int) string { return fmt.Sprintf("%d,%.1f", i, saw(i)) }), rate: 100e3},
		"numbers of samples from 1":       {text: lines("", n, func(i int) string { return fmt.Sprintf("%d\t%.1f", i+1, saw(i)) }), rate: 100e3},
		"stamps rounded to 0.1 ms":        {text: lines("time (ms),A (kV)\n", n, func(i int) string { return fmt.Sprintf("%.1f,%.1f", float64(i)*0.01, saw(i)) })},
		"stamps rounded to three digits":  {text: lines("time (s),A (kV)\n", n, func(i int) string { return fmt.Sprintf("%.3f,%.1f", float64(i)*1e-5, saw(i)) })},
		"a blank channel":                 {text: lines("time (s),A (kV),B (kV)\n", n, func(i int) string { return plain(1)(i) + "," })},
		"a blank cell":                    {text: lines("time (s),A (kV),B (kV)\n", n, func(i int) string { return plain(1)(i) + []string{",1", ","}[i%2] })},
		"a separator at the end of lines": {text: lines("time (s);A (kV);\n", n, func(i int) string { return strings.Replace(plain(1)(i), ",", ";", 1) + ";" })},
		"a gap of 5 ms": {gaps: 1, text: lines("time (s),A (kV)\n", n, func(i int) string {
			if i >= 1000 {
				return fmt.Sprintf("%.6f,%.1f", float64(i+500)*1e-5, saw(i))
			}
			return fmt.Sprintf("%.6f,%.1f", float64(i)*1e-5, saw(i))
		})},
	} {
		got, err := Read(strings.NewReader(c.text), Options{Rate: c.rate})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		v := got.Channels[0].Samples
		if want := n + 500*c.gaps; math.Abs(got.Rate/100e3-1) > 0.01 || math.Abs(float64(len(v)-want)) > 2 || got.Gaps != c.gaps || got.Skipped > 0 {
			t.Errorf("%s: %.0f samples a second, %d samples, %d gaps, %d lines skipped %v", name, got.Rate, len(v), got.Gaps, got.Skipped, got.Bad)
			continue
		}
		if c.guessed != "" && got.TimeGuessed != c.guessed {
			t.Errorf("%s: taken for %q", name, got.TimeGuessed)
		}
		for _, i := range []int{0, 7, 999, n - 1} {
			at := i
			if i >= 1000 {
				at = len(v) - n + i
			}
			if !near(v[at], float32(saw(i))) {
				t.Errorf("%s: sample %d is %v, want %v", name, i, v[at].Float(), saw(i))
			}
		}
	}
}

// What a file does not say is asked for at its field, and kilovolts that no spark has are not taken.
func TestFilesThatAreAskedAbout(t *testing.T) {
	field := func(err error) string {
		var one invalid.Error
		if errors.As(err, &one) {
			return one.Field
		}
		return fmt.Sprint(err)
	}
	for name, text := range map[string]string{
		"no time":            lines("A (kV)\n", 500, func(i int) string { return fmt.Sprintf("%.1f", saw(i)) }),
		"numbers of samples": lines("n,A (kV)\n", 500, func(i int) string { return fmt.Sprintf("%d,%.1f", i, saw(i)) }),
	} {
		if _, err := Read(strings.NewReader(text), Options{}); field(err) != "rate" {
			t.Errorf("%s: %v", name, err)
		}
	}
	for name, c := range map[string]struct {
		unit string
		bad  bool
	}{"kilovolts": {"kV", false}, "volts behind a probe": {"V", true}} {
		got, err := Read(strings.NewReader(lines("time (s),A ("+c.unit+")\n", 500, func(i int) string { return fmt.Sprintf("%.6f,%.1f", float64(i)*1e-5, saw(i)) })), Options{})
		if err != nil {
			t.Fatal(err)
		}
		if bad := field(got.Scale()) == "factor"; bad != c.bad {
			t.Errorf("%s: asked %v", name, bad)
		}
	}
	cut := wavOf(16, 1, 1, 40_000, make([]byte, 10_000))
	for i := len(cut) - 10_000; i < len(cut); i += 7 {
		cut[i] = byte(i)
	}
	if got, err := Read(strings.NewReader(string(cut)), Options{Factor: 40}); err != nil || math.Abs(got.Missing-0.75) > 0.01 {
		t.Errorf("a WAV cut short: %+v, %v", got, err)
	}
}
