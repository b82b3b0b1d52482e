package trouble

import (
	"fmt"
	"slices"
	"testing"

	"glenmist/core/engine"
)

// Numbering after SAE J2012 / ISO 15031-6: M, from memory.
func TestNumbering(t *testing.T) {
	for text, bytes := range map[string]Code{"P0301": 0x0301, "C0123": 0x4123, "U0100": 0xC100, "P0300": 0x0300, "B1A2F": 0x9A2F, "p 0302": 0x0302} {
		got, err := Parse(text)
		if err != nil || got != bytes {
			t.Errorf("Parse(%q) = %04X, %v; want %04X", text, uint16(got), err, uint16(bytes))
		}
	}
	for n := engine.Cylinder(1); n <= 12; n++ {
		printed := fmt.Sprintf("P03%02d", n) // counted in decimal on the printed digits
		if got := MisfireOn(n).String(); got != printed {
			t.Errorf("misfire on cylinder %d is %s, want %s", n, got, printed)
		}
		code, _ := Parse(printed)
		if got, ok := code.MisfireCylinder(); !ok || got != n {
			t.Errorf("%s names cylinder %d, %v; want %d", printed, got, ok, n)
		}
	}
}

func TestOtherCodesNameNoCylinder(t *testing.T) {
	for _, text := range []string{"P0300", "P0313", "P030A", "P0316", "C0302", "P1302", "P0320"} {
		code, err := Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		if n, ok := code.MisfireCylinder(); ok {
			t.Errorf("%s names cylinder %d, want none", text, n)
		}
		if _, weighs := code.Meaning(); weighs != (text == "P0300") {
			t.Errorf("%s weighs: %v", text, weighs)
		}
	}
}

// The families of SAE J2012 / ISO 15031-6 (M, from memory) at their ends, where
// counting in the wrong base or by one too many shows.
func TestFamilies(t *testing.T) {
	for text, want := range map[string]string{
		"P0300": "misfire on several cylinders or at random", "P0301": "misfire on cylinder 1", "P0309": "misfire on cylinder 9",
		"P0310": "misfire on cylinder 10", "P0312": "misfire on cylinder 12", "P0313": "misfire with low fuel",
		"P0314": "misfire on one cylinder, not identified", "P0316": "misfire in the first 1000 revolutions after start",
		"P0351": "coil A, primary or secondary circuit", "P0360": "coil J, primary or secondary circuit", "P0362": "coil L, primary or secondary circuit",
		"P2300": "coil A: control circuit low", "P2301": "coil A: control circuit high", "P2302": "coil A: secondary circuit",
		"P2303": "coil B: control circuit low", "P2310": "coil D: control circuit high", "P2335": "coil L: secondary circuit",
		"P0201": "injector circuit, cylinder 1", "P0212": "injector circuit, cylinder 12",
		"P0261": "injector, cylinder 1: circuit low", "P0263": "injector, cylinder 1: contribution or balance",
		"P0270": "injector, cylinder 4: circuit low", "P0296": "injector, cylinder 12: contribution or balance",
		"P0171": "bank 1 lean", "P0174": "bank 2 lean", "P0172": "bank 1 rich", "P0175": "bank 2 rich",
		"P0325": "knock sensor", "P0334": "knock sensor", "P0335": "crankshaft position", "P0339": "crankshaft position",
		"P0340": "camshaft position, bank 1", "P0344": "camshaft position, bank 1", "P1234": "the maker's own code",
		"P0345": "another system's code", "P0363": "another system's code", "P2336": "another system's code", "P0213": "another system's code",
		"P030A": "another system's code", "P230A": "another system's code", "U0100": "another system's code", "C0301": "another system's code",
	} {
		code, err := Parse(text)
		if err != nil {
			t.Fatal(err)
		}
		if got, _ := code.Meaning(); got != want {
			t.Errorf("%s means %q, want %q", text, got, want)
		}
	}
}

func TestEveryCodeReadsBack(t *testing.T) {
	for n := range 1 << 16 {
		if got, err := Parse(Code(n).String()); err != nil || got != Code(n) {
			t.Fatalf("%04X prints as %s, which reads as %04X, %v", n, Code(n), uint16(got), err)
		}
	}
}

func TestTextsThatAreNoCode(t *testing.T) {
	for _, text := range []string{"", "misfire", "P030", "P03022", "X0302", "P4302", "P03G2", "0302", "P03\u0662"} {
		if got, err := Parse(text); err == nil {
			t.Errorf("Parse(%q) = %s, want an error", text, got)
		}
	}
}

func FuzzParse(f *testing.F) {
	f.Add("P0302")
	f.Add("u 0-100")
	f.Fuzz(func(t *testing.T, s string) {
		if c, err := Parse(s); err == nil {
			if again, err := Parse(c.String()); err != nil || again != c {
				t.Errorf("%q reads as %s, which does not read back", s, c)
			}
		}
	})
}

func ExampleCode_Meaning() {
	for _, text := range []string{"P0302", "P2303", "U0100"} {
		code, _ := Parse(text)
		words, weighs := code.Meaning()
		fmt.Println(code, words, weighs)
	}
	// Output:
	// P0302 misfire on cylinder 2 true
	// P2303 coil B: control circuit low true
	// U0100 another system's code false
}

func FuzzParseState(f *testing.F) {
	for _, s := range States {
		f.Add(string(s))
	}
	f.Add("")
	f.Add("STORED")
	f.Fuzz(func(t *testing.T, s string) {
		state, err := ParseState(s)
		if err == nil && !slices.Contains(States, state) {
			t.Errorf("%q reads as %q, which is no state", s, state)
		}
	})
}
