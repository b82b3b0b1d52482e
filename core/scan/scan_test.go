package scan

import (
	"fmt"
	"math"
	"strings"
	"testing"
	"unicode/utf8"

	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

func words(r Result) string {
	var all []string
	for _, read := range r.Read {
		s := read.Code.String() + " " + string(read.State)
		if read.Text != "" {
			s += " " + read.Text
		}
		all = append(all, s)
	}
	return strings.Join(all, "; ")
}

// A whole scan as one pastes it: headings, codes with their words, a freeze frame,
// trims, other systems, a misprint.
const report = `Scan of 23.11., 09:12
Stored codes
P0302  Cylinder 2 misfire detected
P0352 - Ignition coil B primary/secondary circuit
P1399 maker's text kept
Pending codes:
P0300 Random misfire
P03O2
U0121 (permanent)
Freeze frame P0302
Engine speed: 742 rpm
Calculated load 38.4 %
Coolant temperature: 194 °F
Vehicle speed = 0 km/h
Short term fuel trim bank 1: +4.7 %
Long term fuel trim bank 1: 9,4 %
Battery looked weak
`

func TestText(t *testing.T) {
	r, err := Text(report)
	if err != nil {
		t.Fatal(err)
	}
	want := "P0352 stored Ignition coil B primary/secondary circuit; P0302 stored Cylinder 2 misfire detected; P0300 pending Random misfire; P1399 stored maker's text kept; U0121 permanent"
	if got := words(r); got != want {
		t.Errorf("read\n%s, want\n%s", got, want)
	}
	if len(r.Unread) != 1 || r.Unread[0] != "P03O2" {
		t.Errorf("not understood: %q", r.Unread)
	}
	for _, line := range []string{"Battery looked weak", "Scan of 23.11., 09:12", "P03O2"} {
		if !strings.Contains(r.Note, line) {
			t.Errorf("the note lacks %q: %q", line, r.Note)
		}
	}
	f := r.Frame
	if f == nil || f.Code.String() != "P0302" || *f.RPM != 742 || *f.Load != 38.4 || math.Abs(*f.Coolant-90) > 1e-9 || *f.Speed != 0 {
		t.Fatalf("frame %+v", f)
	}
	if len(f.Trims) != 1 || f.Trims[0] != (trouble.Trim{Bank: 1, Short: 4.7, Long: 9.4}) || f.Trims[0].Mixture() != trouble.Lean {
		t.Errorf("trims %+v", f.Trims)
	}
}

func TestLines(t *testing.T) {
	for text, want := range map[string]string{
		"p0301 pending p0304 pending":           "P0301 pending; P0304 pending",
		"Permanent DTCs\nP0303":                 "P0303 permanent",
		"P0303 confirmed\nP0303 pending\nP0303": "P0303 stored; P0303 pending",
		"$07: P0171, P0174":                     "P0171 pending; P0174 pending",
		"no codes found":                        "",
		"valve P2 removed, P032 ok":             "",
		"P0301 inactive relay":                  "P0301 stored inactive relay",
	} {
		r, err := Text(text)
		if got := words(r); err != nil || got != want {
			t.Errorf("%q reads as %q, %v; want %q", text, got, err, want)
		}
	}
}

func TestCSV(t *testing.T) {
	for name, c := range map[string]struct{ text, want, unread string }{
		"with heading": {"Code,Status,Description\nP0302,Confirmed,\"Cylinder 2, misfire\"\nP0300,Pending,Random\n", "P0302 stored Cylinder 2, misfire; P0300 pending Random", ""},
		"semicolons":   {"\uFEFFStatus;DTC;Text\npermanent;P0354;coil D\n", "P0354 permanent coil D", ""},
		"no heading":   {"P0302\tstored\tcylinder 2\nRPM\t812\n", "P0302 stored cylinder 2", ""},
		"not a code":   {"code,state\nP03X2,stored\nP0301,stored\n", "P0301 stored", "P03X2"},
		"open quote":   {"code,state\n\"P0301,stored\nP0302,stored", "", "P0301,stored P0302,stored"},
	} {
		r, err := CSV(c.text)
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if got := words(r); got != c.want {
			t.Errorf("%s: %q, want %q", name, got, c.want)
		}
		if got := strings.Join(strings.Fields(strings.Join(r.Unread, " ")), " "); got != c.unread {
			t.Errorf("%s: not understood %q, want %q", name, got, c.unread)
		}
	}
	r, _ := CSV("name,value,unit\ncoolant,88,°C\nSTFT B2,-12.5,%\nLTFT B2,-3,%\n")
	if r.Frame == nil || *r.Frame.Coolant != 88 || len(r.Frame.Trims) != 1 || r.Frame.Trims[0] != (trouble.Trim{Bank: 2, Short: -12.5, Long: -3}) {
		t.Errorf("figures: %+v", r)
	}
}

func TestBounds(t *testing.T) {
	many := ""
	for i := range 80 {
		many += fmt.Sprintf("P1%03d\n", i)
	}
	for name, text := range map[string]string{"long": strings.Repeat("x", MaxBytes+1), "lines": strings.Repeat("\n", MaxLines), "binary": "P0301\x00", "codes": many} {
		if _, err := Text(text); len(invalid.From(err)) != 1 {
			t.Errorf("%s: %v", name, err)
		}
		if _, err := CSV(text); err == nil {
			t.Errorf("%s as CSV is taken", name)
		}
	}
	if r, err := Text("STFT B1: 300 %"); err != nil || len(r.Unread) != 1 || r.Frame != nil {
		t.Errorf("an impossible trim: %+v, %v", r, err)
	}
	r, err := Text("coolant: 900 °C\nrpm: 700 bananas")
	if err != nil || len(r.Unread) != 2 || r.Frame != nil {
		t.Errorf("impossible figures: %+v, %v", r, err)
	}
}

// Whatever is read holds within the bounds, and its codes can be found in the text.
func fuzz(f *testing.F, read func(string) (Result, error)) {
	for _, s := range []string{report, "code;state\nP0301;pending", "", "freeze frame P0300", "STFT: −5 %", "P0301 P0301\tpermanent", "load 1,5 %"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		r, err := read(s)
		if err != nil {
			return
		}
		if len(r.Read) > MaxCodes || len(r.Note) > maxNote+8 || !utf8.ValidString(r.Note) {
			t.Errorf("%d codes, a note of %d bytes", len(r.Read), len(r.Note))
		}
		flat := strings.NewReplacer(" ", "", "-", "").Replace(strings.ToUpper(s))
		for _, read := range r.Read {
			if !strings.Contains(flat, read.Code.String()) || !utf8.ValidString(read.Text) || len(read.Text) > maxText {
				t.Errorf("%+v is not in the text", read)
			}
		}
		if r.Frame != nil && r.Frame.Check(2) != nil {
			t.Errorf("frame %+v: %v", r.Frame, r.Frame.Check(2))
		}
	})
}

func FuzzText(f *testing.F) { fuzz(f, Text) }

func FuzzCSV(f *testing.F) { fuzz(f, CSV) }

func ExampleText() {
	r, _ := Text("Pending codes\nP0304 cylinder 4 misfire\nP0354 coil D circuit\nlamp on since Tuesday")
	for _, read := range r.Read {
		fmt.Println(read.Code, read.State, read.Text)
	}
	fmt.Println(r.Note)
	// Output:
	// P0354 pending coil D circuit
	// P0304 pending cylinder 4 misfire
	// Pending codes
	// lamp on since Tuesday
}

func TestLooksLikeCSV(t *testing.T) {
	for text, want := range map[string]bool{
		"":                                     false,
		"code;state\nP0301;pending":            true,
		"\uFEFFcode,state\r\nP0301,pending":    true,
		"code\nP0301":                          false, // a heading, and nothing apart
		"P0301 pending\nP0302 stored":          false,
		"P0301, pending\nP0302, stored":        false, // commas of a sentence
		"P0301;pending\nP0302;stored":          true,
		"P0301;pending\nP0302 stored\nP0303":   false,
		"engine\tcold\nP0301\tstored\nno more": true,
	} {
		if got := LooksLikeCSV(text); got != want {
			t.Errorf("%q: %v", text, got)
		}
	}
}
