package engine

import (
	"fmt"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glenmist/core/invalid"
)

func inline(n int) Engine {
	return Engine{Cylinders: n, Arrangement: Inline, Mounting: Crossways, BeltEnd: Left, Ignition: CoilOnPlug, FiringOrder: UsualOrder(n)}
}

// Firing orders and companions: textbook orders, M (from memory); companions
// stand half the order apart by definition.
func TestCompanions(t *testing.T) {
	for order, want := range map[string]string{
		"1-3-4-2": "1·4 2·3", "1-5-3-6-2-4": "1·6 2·5 3·4", "1-2-3-4-5-6": "1·4 2·5 3·6",
		"1-8-4-3-6-5-7-2": "1·6 2·3 4·7 5·8", "1-3-2-4": "1·2 3·4", "1-3-2": "", "1-2-4-5-3": "",
	} {
		e := Engine{}
		var err error
		if e.FiringOrder, err = ParseOrder(order); err != nil {
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
	}
}

func TestCompanionsAreMutual(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for range 200 {
		e := inline(2 * (1 + r.IntN(3)))
		r.Shuffle(len(e.FiringOrder), func(i, j int) { e.FiringOrder[i], e.FiringOrder[j] = e.FiringOrder[j], e.FiringOrder[i] })
		if err := e.Validate(); err != nil {
			t.Fatal(err)
		}
		for _, c := range e.All() {
			mate, ok := e.Companion(c)
			back, _ := e.Companion(mate)
			if !ok || mate == c || back != c {
				t.Fatalf("order %v: companion of %d is %d, whose companion is %d", e.FiringOrder, c, mate, back)
			}
		}
	}
}

func TestNeighbours(t *testing.T) {
	e := inline(4)
	for c, want := range map[Cylinder][]Cylinder{1: {2}, 2: {1, 3}, 4: {3}} {
		if got := e.Neighbours(c); !slices.Equal(got, want) {
			t.Errorf("neighbours of %d are %v, want %v", c, got, want)
		}
	}
}

func TestValidate(t *testing.T) {
	for n := MinInline; n <= MaxInline; n++ {
		if err := inline(n).Validate(); err != nil {
			t.Errorf("the usual %d in line: %v", n, err)
		}
	}
	for name, c := range map[string]struct {
		change func(*Engine)
		field  string
	}{
		"too many":         {func(e *Engine) { e.Cylinders = 13 }, "cylinders"},
		"none":             {func(e *Engine) { e.Cylinders = 0 }, "cylinders"},
		"missing in order": {func(e *Engine) { e.FiringOrder = []Cylinder{1, 3, 4} }, "firing_order"},
		"doubled in order": {func(e *Engine) { e.FiringOrder = []Cylinder{1, 3, 3, 2} }, "firing_order"},
		"foreign in order": {func(e *Engine) { e.FiringOrder = []Cylinder{1, 3, 5, 2} }, "firing_order"},
		"belt end aside":   {func(e *Engine) { e.BeltEnd = Front }, "belt_end"},
		"no mounting":      {func(e *Engine) { e.Mounting = "" }, "mounting"},
		"other ignition":   {func(e *Engine) { e.Ignition = "distributor" }, "ignition"},
		"other row":        {func(e *Engine) { e.Arrangement = "v" }, "arrangement"},
	} {
		e := inline(4)
		c.change(&e)
		if got := invalid.From(e.Validate()); len(got) != 1 || got[0].Field != c.field {
			t.Errorf("%s: errors %v, want one at %s", name, got, c.field)
		}
	}
}

func TestParseCylinder(t *testing.T) {
	e := inline(4)
	for text, want := range map[string]Cylinder{"2": 2, " cyl-4 ": 4, "0": 0, "5": 0, "cyl-9": 0, "cyl-02": 0, "": 0, "two": 0} {
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
		order, err := ParseOrder(s)
		if err != nil {
			return
		}
		again, err := ParseOrder(OrderString(order))
		if err != nil || !slices.Equal(order, again) {
			t.Errorf("%q reads as %v, and that as %v, %v", s, order, again, err)
		}
	})
}

func ExampleEngine_Companion() {
	e := Engine{Cylinders: 4, FiringOrder: []Cylinder{1, 3, 4, 2}}
	mate, ok := e.Companion(2)
	fmt.Println(mate, ok)
	// Output: 3 true
}

func FuzzParseCylinder(f *testing.F) {
	for _, s := range []string{"2", "cyl-4", " 3 ", "-1", "cyl-cyl-2", "٣"} {
		f.Add(s)
	}
	e := inline(5)
	f.Fuzz(func(t *testing.T, s string) {
		c, err := e.ParseCylinder(s)
		if err != nil {
			return
		}
		if again, err := e.ParseCylinder(string(At(c))); err != nil || again != c || c < 1 || c > 5 {
			t.Errorf("%q reads as %d, and its place as %d, %v", s, c, again, err)
		}
	})
}
