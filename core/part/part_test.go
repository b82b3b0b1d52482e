package part

import (
	"fmt"
	"math/rand/v2"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

func inline(n int) engine.Engine {
	return engine.Engine{Cylinders: n, Arrangement: engine.Inline, Mounting: engine.Crossways, BeltEnd: engine.Left,
		Ignition: engine.CoilOnPlug, FiringOrder: engine.UsualOrder(n)}
}

// After any moves every part is in exactly one place and every place holds
// exactly one part of each kind, as a history replayed on plain maps has it.
func TestPartsAreNeitherLostNorDoubled(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for range 300 {
		e := inline(engine.MinInline + r.IntN(engine.MaxInline-engine.MinInline+1))
		at := Home(e)
		where := map[Tag]engine.Cylinder{}
		for _, k := range Kinds {
			for _, c := range e.All() {
				where[Of(k, c)] = c
			}
		}
		for range 1 + r.IntN(12) {
			moves := randomMove(r, e, at)
			next, err := at.Move(moves)
			if err != nil {
				t.Fatalf("%v: %v", moves, err)
			}
			for _, m := range moves {
				where[m.Tag], _ = m.To.Cylinder()
			}
			at = next
		}
		seen := map[Tag]bool{}
		for _, k := range Kinds {
			for _, c := range e.All() {
				tag := at.In(k, c)
				if seen[tag] || where[tag] != c || at.Where(tag) != c {
					t.Fatalf("%s is in cylinder %d; the history has it in %d, Where in %d, seen before: %v", tag, c, where[tag], at.Where(tag), seen[tag])
				}
				seen[tag] = true
			}
		}
		if len(seen) != len(Kinds)*e.Cylinders {
			t.Fatalf("%d parts, want %d", len(seen), len(Kinds)*e.Cylinders)
		}
	}
}

// randomMove sends some parts of one kind round in a cycle.
func randomMove(r *rand.Rand, e engine.Engine, at Positions) []Relocation {
	k := Kinds[r.IntN(len(Kinds))]
	order := r.Perm(e.Cylinders)[:2+r.IntN(e.Cylinders-1)]
	var moves []Relocation
	for i, c := range order {
		to := order[(i+1)%len(order)]
		moves = append(moves, Relocation{at.In(k, engine.Cylinder(c+1)), engine.At(engine.Cylinder(to + 1))})
	}
	return moves
}

func TestMovesThatCannotBe(t *testing.T) {
	at := Home(inline(4))
	for name, c := range map[string]struct {
		parts    []Relocation
		field    string
		expected string
	}{
		"nothing":          {nil, "", "at least one part"},
		"unknown tag":      {[]Relocation{{"C9", "cyl-2"}}, "[0].tag", "a tag of this engine"},
		"no tag":           {[]Relocation{{"coil", "cyl-2"}}, "[0].tag", "a tag of this engine"},
		"unknown place":    {[]Relocation{{"C2", "cyl-7"}}, "[0].to", "1 to 4"},
		"where it is":      {[]Relocation{{"C2", "cyl-2"}}, "[0].to", "C2 is in cylinder 2 already"},
		"occupied":         {[]Relocation{{"C2", "cyl-4"}}, "[0].to", "where coil C4 goes"},
		"half a cycle":     {[]Relocation{{"C2", "cyl-4"}, {"C4", "cyl-1"}}, "[1].to", "where coil C1 goes"},
		"two to one place": {[]Relocation{{"C2", "cyl-4"}, {"C1", "cyl-4"}}, "[0].to", "one coil a cylinder"},
		"named twice":      {[]Relocation{{"C2", "cyl-4"}, {"C2", "cyl-1"}}, "[1].tag", "named once"},
	} {
		after, err := at.Move(c.parts)
		got := invalid.From(err)
		if len(got) == 0 || got[0].Field != c.field || !strings.Contains(got[0].Expected, c.expected) {
			t.Errorf("%s: %v, want %q expected at %q", name, got, c.expected, c.field)
		}
		if !after.Equal(at) {
			t.Errorf("%s: something moved", name)
		}
	}
}

func TestSwapAndBack(t *testing.T) {
	home := Home(inline(4))
	swap := home.Swap(2, 4, Coil, Boot)
	there, err := home.Move(swap)
	if err != nil || there.In(Coil, 4) != "C2" || there.In(Boot, 2) != "B4" || there.In(Plug, 2) != "P2" {
		t.Fatalf("after %s: %v, %v", Describe(swap), there, err)
	}
	back, err := there.Move(there.Swap(2, 4, Coil, Boot))
	if err != nil || !back.Equal(home) {
		t.Errorf("not back home: %v, %v", back, err)
	}
}

func FuzzParseTag(f *testing.F) {
	for _, s := range []string{"C2", "P4", "B0", "C04", "c2", "C99999999999999999999", "Ć2"} {
		f.Add(s)
	}
	e := inline(4)
	f.Fuzz(func(t *testing.T, s string) {
		tag, err := ParseTag(e, s)
		if err != nil {
			return
		}
		k, c, ok := tag.Split()
		if !ok || c < 1 || c > 4 || Of(k, c) != tag || string(tag) != s {
			t.Errorf("%q reads as %s: %s of cylinder %d", s, tag, k, c)
		}
	})
}

func ExamplePositions_Move() {
	home := Home(inline(4))
	after, err := home.Move([]Relocation{{"C2", "cyl-4"}, {"C4", "cyl-2"}})
	fmt.Println(after.In(Coil, 4), after.Where("C2"), err)
	_, err = home.Move([]Relocation{{"C2", "cyl-4"}})
	fmt.Println(err)
	// Output:
	// C2 4 <nil>
	// [0].to: expected where coil C4 goes that sits in cylinder 4 now: say so in the same move (a swap), got an occupied place
}
