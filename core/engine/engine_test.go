package engine_test

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/enginetest"
	"glenmist/core/invalid"
)

func shelf(t testing.TB, id string) engine.Engine {
	t.Helper()
	p, ok := engine.FindPattern(id)
	if !ok {
		t.Fatalf("no pattern %s", id)
	}
	return p.Engine()
}

// Firing orders and companions: textbook orders, M (from memory); companions
// stand half the order apart by definition.
func TestCompanions(t *testing.T) {
	for order, want := range map[string]string{
		"1-3-4-2": "1·4 2·3", "1-5-3-6-2-4": "1·6 2·5 3·4", "1-2-3-4-5-6": "1·4 2·5 3·6",
		"1-8-4-3-6-5-7-2": "1·6 2·3 4·7 5·8", "1-3-2-4": "1·2 3·4", "1-3-2": "", "1-2-4-5-3": "",
	} {
		e := engine.Engine{}
		var err error
		if e.FiringOrder, err = engine.ParseOrder(order); err != nil {
			t.Fatal(err)
		}
		e.Cylinders = len(e.FiringOrder)
		var pairs []string
		for _, c := range e.All() {
			if mate, ok := e.Companion(c); ok && c < mate {
				pairs = append(pairs, fmt.Sprintf("%d·%d", c, mate))
			}
		}
		if got := strings.Join(pairs, " "); got != want {
			t.Errorf("companions of %s are %q, want %q", order, got, want)
		}
		e.Uneven = true
		if _, ok := e.Companion(1); ok {
			t.Errorf("%s fired unevenly has companions", order)
		}
	}
}

// Whatever the engine: the firing order is a permutation, companions are mutual,
// each cylinder has one coil and each coil's cylinders are its own, every item is
// at a place that exists and feeds what that place feeds, and what is in series
// ends at the cylinder's own plug.
func TestRandomEngines(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 1000 {
		e := enginetest.Random(r.IntN)
		if got := slices.Sorted(slices.Values(e.FiringOrder)); !slices.Equal(got, e.All()) {
			t.Fatalf("%s fires %v", e.Describe(), e.FiringOrder)
		}
		if both := slices.Concat(e.Bank(1), e.Bank(2)); len(both) != e.Cylinders {
			t.Fatalf("%s: banks %v", e.Describe(), both)
		}
		var fed engine.Set
		for i, coil := range e.Coils() {
			mine := engine.SetOf(coil.Cylinders...)
			if int(coil.Letter) != i || fed&mine != 0 || mine == 0 {
				t.Fatalf("%s: coils %v", e.Describe(), e.Coils())
			}
			fed |= mine
			if got, ok := e.Feeds(coil.Place); !ok || got != mine {
				t.Fatalf("%s: %s feeds %s, want %s", e.Describe(), coil.Place, got, mine)
			}
		}
		if fed != e.Everything() {
			t.Fatalf("%s: coils feed %s", e.Describe(), fed)
		}
		for _, c := range e.All() {
			if mate, ok := e.Companion(c); ok {
				if back, _ := e.Companion(mate); back != c || mate == c && e.Cylinders > 1 {
					t.Fatalf("%s: companion of %d is %d, whose companion is %d", e.Describe(), c, mate, back)
				}
			}
			for _, n := range e.Neighbours(c) {
				if e.BankOf(n) != e.BankOf(c) || e.Apart(n, c) != 1 || !slices.Contains(e.Neighbours(n), c) {
					t.Fatalf("%s: %d is beside %d", e.Describe(), n, c)
				}
			}
			chain := e.Series(c)
			last := chain[len(chain)-1]
			if last.Kind != engine.Plug || last.Place != engine.At(c) || last.Feeds != engine.SetOf(c) {
				t.Fatalf("%s: what feeds %d ends at %+v", e.Describe(), c, last)
			}
		}
		type where struct {
			engine.Kind
			engine.Place
		}
		seen := map[where]bool{}
		for _, item := range e.Items() {
			feeds, ok := e.Feeds(item.Place)
			if !ok || item.Feeds == 0 || item.Feeds != feeds || seen[where{item.Kind, item.Place}] {
				t.Fatalf("%s: item %+v, its place feeds %s, %v", e.Describe(), item, feeds, ok)
			}
			seen[where{item.Kind, item.Place}] = true
		}
		for _, c := range e.All() {
			covers, minutes := e.Access(engine.At(c), nil)
			sum := 0.0
			for i, cover := range covers {
				sum += cover.Off + cover.On
				for _, under := range cover.Over {
					if k := slices.IndexFunc(covers, func(c engine.Cover) bool { return c.Name == under }); k >= 0 && k < i {
						t.Fatalf("%s comes off after %s, which lies below it", cover.Name, under)
					}
				}
			}
			if sum != minutes {
				t.Fatalf("access takes %v minutes, its covers %v", minutes, sum)
			}
		}
	}
}

// Facts of the layouts (C), on the patterns of the shelf.
func TestLayouts(t *testing.T) {
	for id, want := range map[string]struct {
		coils, chain, cap string
		bank              string
	}{
		"four-across":     {"A:1 B:2 C:3 D:4", "feed@cyl-2 ground@cyl-2 driver@cyl-2 trigger wire@cyl-2 connector@cyl-2 coil@cyl-2 seat@cyl-2 plug well@cyl-2 boot@cyl-2 plug@cyl-2", "", "1-2-3-4"},
		"six-pairs":       {"A:1-6 B:2-5 C:3-4", "feed@coil-B driver@coil-B trigger wire@coil-B connector@coil-B module contact@coil-B coil@coil-B lead order@engine seat@cyl-2 plug well@cyl-2 lead@cyl-2 plug@cyl-2", "", "1-2-3-4-5-6"},
		"six-distributor": {"A:1-2-3-4-5-6", "pickup@engine feed@engine driver@engine trigger wire@engine connector@coil-A coil@coil-A coil lead@coil-A rotor@coil-A cap@coil-A base timing@engine lead order@engine seat@cyl-2 plug well@cyl-2 lead@cyl-2 plug@cyl-2", "1-5-3-6-2-4", "1-2-3-4-5-6"},
		"v8-leads":        {"A:1 B:2 C:3 D:4 E:5 F:6 G:7 H:8", "feed@cyl-2 ground@cyl-2 driver@cyl-2 trigger wire@cyl-2 connector@cyl-2 coil@cyl-2 seat@cyl-2 plug well@cyl-2 lead@cyl-2 plug@cyl-2", "", "1-3-5-7"},
		"v6-across":       {"A:1 B:2 C:3 D:4 E:5 F:6", "feed@cyl-2 ground@cyl-2 driver@cyl-2 trigger wire@cyl-2 connector@cyl-2 coil@cyl-2 seat@cyl-2 plug well@cyl-2 boot@cyl-2 plug@cyl-2", "", "1-2-3"},
		"flat-four":       {"A:1 B:2 C:3 D:4", "feed@cyl-2 ground@cyl-2 driver@cyl-2 trigger wire@cyl-2 connector@cyl-2 coil@cyl-2 seat@cyl-2 plug well@cyl-2 boot@cyl-2 plug@cyl-2", "", "1-3"},
		"twin-pairs":      {"A:1-2", "feed@coil-A ground@coil-A driver@coil-A trigger wire@coil-A connector@coil-A coil@coil-A lead order@engine seat@cyl-2 plug well@cyl-2 lead@cyl-2 plug@cyl-2", "", "1-2"},
		"single-magneto":  {"A:1", "", "", "1"},
	} {
		e := shelf(t, id)
		var coils, chain []string
		for _, c := range e.Coils() {
			coils = append(coils, c.Letter.String()+":"+engine.OrderString(c.Cylinders))
		}
		if e.Cylinders > 1 {
			for _, item := range e.Series(2) {
				chain = append(chain, string(item.Kind)+"@"+string(item.Place))
			}
		}
		if got := strings.Join(coils, " "); got != want.coils {
			t.Errorf("%s: coils %s, want %s", id, got, want.coils)
		}
		if got := strings.Join(chain, " "); got != want.chain {
			t.Errorf("%s: in series %s, want %s", id, got, want.chain)
		}
		if got := engine.OrderString(e.CapOrder()); got != want.cap {
			t.Errorf("%s: cap order %s, want %s", id, got, want.cap)
		}
		if got := engine.OrderString(e.Bank(1)); got != want.bank {
			t.Errorf("%s: bank 1 is %s, want %s", id, got, want.bank)
		}
	}
	for _, p := range engine.Shelf {
		if err := p.Engine().Validate(); err != nil {
			t.Errorf("pattern %s: %v", p.ID, err)
		}
	}
	e := shelf(t, "six-pairs")
	e.CoilOrder = []engine.Cylinder{4, 1, 2} // letters by the vehicle's own record
	if c := e.CoilOf(3); c.Letter.String() != "A" || e.Validate() != nil || e.Tower(4) != "A2" || e.Tower(6) != "B2" {
		t.Errorf("coil of cylinder 3 is %s, towers %s and %s, %v", c.Letter, e.Tower(4), e.Tower(6), e.Validate())
	}
}

// A place can lie behind several covers; what is off counts no more (C).
func TestAccess(t *testing.T) {
	e := shelf(t, "v6-across")
	for _, c := range []struct {
		place   engine.Place
		off     []string
		covers  string
		minutes float64
	}{
		{"cyl-1", nil, "engine cover, intake plenum", 77},
		{"cyl-1", []string{"engine cover"}, "intake plenum", 75},
		{"cyl-2", []string{"engine cover", "intake plenum"}, "", 0},
		{"cyl-5", nil, "engine cover", 2},
	} {
		var names []string
		covers, minutes := e.Access(c.place, c.off)
		for _, cover := range covers {
			names = append(names, cover.Name)
		}
		if got := strings.Join(names, ", "); got != c.covers || minutes != c.minutes {
			t.Errorf("%s with %v off: %s, %v min; want %s, %v", c.place, c.off, got, minutes, c.covers, c.minutes)
		}
	}
}

func TestValidate(t *testing.T) {
	for name, c := range map[string]struct {
		from   string
		change func(*engine.Engine)
		field  string
	}{
		"too many":           {"four-across", func(e *engine.Engine) { e.Cylinders = 13 }, "cylinders"},
		"none":               {"four-across", func(e *engine.Engine) { e.Cylinders = 0 }, "cylinders"},
		"five in a V":        {"v6-across", func(e *engine.Engine) { e.Cylinders = 5 }, "cylinders"},
		"missing in order":   {"four-across", func(e *engine.Engine) { e.FiringOrder = []engine.Cylinder{1, 3, 4} }, "firing_order"},
		"doubled in order":   {"four-across", func(e *engine.Engine) { e.FiringOrder = []engine.Cylinder{1, 3, 3, 2} }, "firing_order"},
		"foreign in order":   {"four-across", func(e *engine.Engine) { e.FiringOrder = []engine.Cylinder{1, 3, 5, 2} }, "firing_order"},
		"belt end aside":     {"four-across", func(e *engine.Engine) { e.BeltEnd = engine.Front }, "belt_end"},
		"no mounting":        {"four-across", func(e *engine.Engine) { e.Mounting = "" }, "mounting"},
		"other ignition":     {"four-across", func(e *engine.Engine) { e.Ignition = "glow" }, "ignition"},
		"other row":          {"four-across", func(e *engine.Engine) { e.Arrangement = "w" }, "arrangement"},
		"five with pairs":    {"four-across", func(e *engine.Engine) { *e = five(engine.WastedSpark) }, "ignition"},
		"uneven with pairs":  {"twin-pairs", func(e *engine.Engine) { e.Uneven = true }, "ignition"},
		"three on magneto":   {"four-across", func(e *engine.Engine) { *e = five(engine.Magneto) }, "ignition"},
		"bank one nowhere":   {"v6-across", func(e *engine.Engine) { e.BankOne = engine.Left }, "bank_one"},
		"bank one in a row":  {"four-across", func(e *engine.Engine) { e.BankOne = engine.Front }, "bank_one"},
		"numbered in a row":  {"four-across", func(e *engine.Engine) { e.Numbering = engine.Along }, "numbering"},
		"no numbering":       {"v6-across", func(e *engine.Engine) { e.Numbering = "" }, "numbering"},
		"five wires":         {"four-across", func(e *engine.Engine) { e.Wires = 5 }, "wires"},
		"module on a plug":   {"four-across", func(e *engine.Engine) { e.Module = true }, "module"},
		"rotor on a plug":    {"four-across", func(e *engine.Engine) { e.Rotor = engine.Clockwise }, "rotor"},
		"coil letter twice":  {"six-pairs", func(e *engine.Engine) { e.CoilOrder = []engine.Cylinder{1, 6, 2} }, "coil_order"},
		"negative minutes":   {"v6-across", func(e *engine.Engine) { e.Covers[1].Off = -1 }, "covers[1].off"},
		"hides itself":       {"v6-across", func(e *engine.Engine) { e.Covers[1].Over = []string{"intake plenum"} }, "covers[1].over"},
		"hide each other":    {"v6-across", func(e *engine.Engine) { e.Covers[1].Over = []string{"engine cover"} }, "covers[0].over"},
		"over the unknown":   {"v6-across", func(e *engine.Engine) { e.Covers[1].Over = []string{"bonnet"} }, "covers[1].over[0]"},
		"hides nothing":      {"v6-across", func(e *engine.Engine) { e.Covers[1].Hides = nil }, "covers[1].hides"},
		"hides cylinder 9":   {"v6-across", func(e *engine.Engine) { e.Covers[1].Hides = []engine.Place{"cyl-9"} }, "covers[1].hides[0]"},
		"two of one name":    {"v6-across", func(e *engine.Engine) { e.Covers[1].Name = "engine cover" }, "covers[1].name"},
		"counted from aside": {"four-across", func(e *engine.Engine) { e.CountFrom = "left" }, "count_from"},
	} {
		e := shelf(t, c.from)
		c.change(&e)
		if got := invalid.From(e.Validate()); !slices.ContainsFunc(got, func(e invalid.Error) bool { return e.Field == c.field && e.Expected != "" }) {
			t.Errorf("%s: errors %v, want one at %s", name, got, c.field)
		}
	}
}

func five(i engine.Ignition) engine.Engine {
	return engine.Engine{Cylinders: 5, Arrangement: engine.Inline, Mounting: engine.Crossways, BeltEnd: engine.Left, Ignition: i,
		FiringOrder: engine.UsualOrder(engine.Inline, 5, "")}
}

func TestParseCylinder(t *testing.T) {
	e := shelf(t, "four-across")
	for text, want := range map[string]engine.Cylinder{"2": 2, " cyl-4 ": 4, "0": 0, "5": 0, "cyl-9": 0, "cyl-02": 0, "": 0, "two": 0} {
		got, err := e.ParseCylinder(text)
		if (err == nil) != (want > 0) || err == nil && got != want {
			t.Errorf("ParseCylinder(%q) = %d, %v; want %d", text, got, err, want)
		}
	}
}

func FuzzParseOrder(f *testing.F) {
	for _, s := range []string{"1-3-4-2", "1, 2, 3", "1–8–4", "--", "99999999999999999999"} {
		f.Add(s)
	}
	f.Fuzz(func(t *testing.T, s string) {
		order, err := engine.ParseOrder(s)
		if err != nil {
			return
		}
		again, err := engine.ParseOrder(engine.OrderString(order))
		if err != nil || !slices.Equal(order, again) {
			t.Errorf("%q reads as %v, and that as %v, %v", s, order, again, err)
		}
	})
}

func FuzzParseCylinder(f *testing.F) {
	for _, s := range []string{"2", "cyl-4", " 3 ", "-1", "cyl-cyl-2", "٣"} {
		f.Add(s)
	}
	e := five(engine.CoilOnPlug)
	f.Fuzz(func(t *testing.T, s string) {
		c, err := e.ParseCylinder(s)
		if err != nil {
			return
		}
		if again, err := e.ParseCylinder(string(engine.At(c))); err != nil || again != c || c < 1 || c > 5 {
			t.Errorf("%q reads as %d, and its place as %d, %v", s, c, again, err)
		}
	})
}

func ExampleEngine_Companion() {
	e := engine.Engine{Cylinders: 4, FiringOrder: []engine.Cylinder{1, 3, 4, 2}}
	mate, ok := e.Companion(2)
	fmt.Println(mate, ok)
	// Output: 3 true
}

func ExampleEngine_Access() {
	p, _ := engine.FindPattern("v6-across")
	covers, minutes := p.Engine().Access("cyl-2", nil)
	for _, c := range covers {
		fmt.Println(c.Name, c.Gaskets)
	}
	fmt.Println(minutes, "min off and on")
	// Output:
	// engine cover []
	// intake plenum [plenum gasket throttle gasket]
	// 77 min off and on
}

func FuzzParseLetter(f *testing.F) {
	f.Add("A")
	f.Add("L")
	f.Add("M")
	f.Fuzz(func(t *testing.T, s string) {
		l, ok := engine.ParseLetter(s)
		if ok != (len(s) == 1 && s >= "A" && s <= "L") || ok && l.String() != s {
			t.Errorf("%q reads as %v, %v", s, l, ok)
		}
	})
}
