package part

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
	"glenmist/core/enginetest"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

func shelf(t testing.TB, id string) engine.Engine {
	t.Helper()
	p, ok := engine.FindPattern(id)
	if !ok {
		t.Fatalf("no pattern %s", id)
	}
	return p.Engine()
}

// On any engine, after any moves, with spares coming in and parts going to the
// bench, every part is in exactly one place and every place holds exactly one part
// of its kind, as a history replayed on a plain map has it; and putting everything
// back is one move that leaves all at home.
func TestPartsAreNeitherLostNorDoubled(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 11))
	for range 500 {
		e := enginetest.Random(r.IntN)
		at := Home(e)
		where := map[Tag]engine.Place{}
		for _, slot := range Slots(e) {
			where[Of(slot.Kind, slot.Place)] = slot.Place
		}
		for range 1 + r.IntN(12) {
			moves := randomMove(r, e, at)
			next, err := at.Move(moves)
			if err != nil {
				t.Fatalf("%s: %v: %v", e.Describe(), moves, err)
			}
			for _, m := range moves {
				where[m.Tag] = m.To
			}
			at = next
		}
		filled := map[spot]int{}
		for tag, place := range where {
			if at.Where(tag) != place {
				t.Fatalf("%s: %s is at %s; the history has it at %s", e.Describe(), tag, at.Where(tag), place)
			}
			if place != engine.Bench {
				filled[spot{tag.Kind(), place}]++
				if at.In(tag.Kind(), place) != tag {
					t.Fatalf("%s holds %s, want %s", place, at.In(tag.Kind(), place), tag)
				}
			}
		}
		for _, slot := range Slots(e) {
			if filled[spot{slot.Kind, slot.Place}] != 1 {
				t.Fatalf("%s at %s holds %d", slot.Kind, slot.Place, filled[spot{slot.Kind, slot.Place}])
			}
			for _, c := range slot.Feeds {
				if at.Serving(slot.Kind, c) == "" {
					t.Fatalf("no %s serves cylinder %d", slot.Kind, c)
				}
			}
		}
		var back []Relocation
		last := 0
		for _, g := range at.PutBack() {
			if len(g) < last {
				t.Fatalf("put back in groups of %d after %d", len(g), last)
			}
			last = len(g)
			if _, err := at.Move(g); err != nil {
				t.Fatalf("group %v alone: %v", g, err)
			}
			back = append(back, g...)
		}
		if len(back) == 0 {
			if !at.Equal(Home(e)) {
				t.Fatal("nothing to put back, and not at home")
			}
			continue
		}
		if home, err := at.Move(back); err != nil || !home.Equal(Home(e)) || len(home.Away()) != 0 {
			t.Fatalf("put back by %v: %v, away %v", back, err, home.Away())
		}
	}
}

// spot is a kind at a place.
type spot struct {
	Kind
	engine.Place
}

// randomMove sends some parts of one kind round in a cycle, or a part out for a
// spare or for what lies on the bench.
func randomMove(r *rand.Rand, e engine.Engine, at Positions) []Relocation {
	all := Slots(e)
	k := all[r.IntN(len(all))].Kind
	var of []Slot
	for _, slot := range all {
		if slot.Kind == k {
			of = append(of, slot)
		}
	}
	if len(of) == 1 || r.IntN(4) == 0 {
		out := at.In(k, of[r.IntN(len(of))].Place)
		for _, on := range at.All() {
			if on.Kind == k && on.At == engine.Bench && r.IntN(2) == 0 {
				return at.Replace(out, on.Tag)
			}
		}
		if in, ok := at.FreeSpare(k, func(Tag) bool { return false }); ok {
			return at.Replace(out, in)
		}
	}
	if len(of) == 1 {
		for n := 1; n <= MaxSpares; n++ {
			if at.Where(Spare(k, n)) == engine.Bench {
				return at.Replace(at.In(k, of[0].Place), Spare(k, n))
			}
		}
	}
	order := r.Perm(len(of))[:2+r.IntN(len(of)-1)]
	var moves []Relocation
	for i, s := range order {
		moves = append(moves, Relocation{at.In(k, of[s].Place), of[order[(i+1)%len(order)]].Place})
	}
	return moves
}

func TestMovesThatCannotBe(t *testing.T) {
	cop, pairs := Home(shelf(t, "four-across")), Home(shelf(t, "six-pairs"))
	for name, c := range map[string]struct {
		at       Positions
		parts    []Relocation
		field    string
		expected string
	}{
		"nothing":            {cop, nil, "", "at least one part"},
		"unknown tag":        {cop, []Relocation{{"C9", "cyl-2"}}, "[0].tag", "a tag of this engine"},
		"no tag":             {cop, []Relocation{{"coil", "cyl-2"}}, "[0].tag", "a tag of this engine"},
		"no lead here":       {cop, []Relocation{{"L2", "cyl-3"}}, "[0].tag", "a tag of this engine"},
		"unknown place":      {cop, []Relocation{{"C2", "cyl-7"}}, "[0].to", "cyl-1 to cyl-4"},
		"where it is":        {cop, []Relocation{{"C2", "cyl-2"}}, "[0].to", "C2 is in cylinder 2 already"},
		"occupied":           {cop, []Relocation{{"C2", "cyl-4"}}, "[0].to", "where coil C4 goes"},
		"half a cycle":       {cop, []Relocation{{"C2", "cyl-4"}, {"C4", "cyl-1"}}, "[1].to", "where coil C1 goes"},
		"two to one place":   {cop, []Relocation{{"C2", "cyl-4"}, {"C1", "cyl-4"}}, "[1].to", "one coil at a place"},
		"named twice":        {cop, []Relocation{{"C2", "cyl-4"}, {"C2", "cyl-1"}}, "[1].tag", "named once"},
		"out for nothing":    {cop, []Relocation{{"C2", "bench"}}, "[0].tag", "what comes into cylinder 2 in its place"},
		"spare onto another": {cop, []Relocation{{"CS1", "cyl-2"}}, "[0].to", "where coil C2 goes"},
		"coil to a cylinder": {pairs, []Relocation{{"CA", "cyl-2"}}, "[0].to", "coil-A to coil-C"},
		"letter too far":     {pairs, []Relocation{{"CD", "coil-A"}}, "[0].tag", "a tag of this engine"},
		"plug to a coil":     {pairs, []Relocation{{"P2", "coil-A"}}, "[0].to", "cyl-1 to cyl-6"},
	} {
		after, err := c.at.Move(c.parts)
		got := invalid.From(err)
		if len(got) == 0 || got[0].Field != c.field || !strings.Contains(got[0].Expected, c.expected) {
			t.Errorf("%s: %v, want %q expected at %q", name, got, c.expected, c.field)
		}
		if !after.Equal(c.at) {
			t.Errorf("%s: something moved", name)
		}
	}
}

// What serves whom after an exchange, by layout.
func TestPartsServingACylinder(t *testing.T) {
	at := Home(shelf(t, "six-pairs"))
	at, err := at.Move(at.Swap("coil-A", "coil-C", engine.Coil))
	if err != nil || at.Serving(engine.Coil, 1) != "CC" || at.Serving(engine.Coil, 4) != "CA" || fmt.Sprint(at.Feeds("CA")) != "[3 4]" {
		t.Errorf("%v: coil of 1 is %s, of 4 %s, CA serves %v", err, at.Serving(engine.Coil, 1), at.Serving(engine.Coil, 4), at.Feeds("CA"))
	}
	d := Home(shelf(t, "six-distributor"))
	d, err = d.Move(d.Replace("DA", "DS1"))
	if err != nil || d.Where("DA") != engine.Bench || d.Serving(engine.Cap, 6) != "DS1" || len(d.Feeds("DA")) != 0 {
		t.Errorf("%v: cap is %s, the old one %s", err, d.Serving(engine.Cap, 6), d.Where("DA"))
	}
	if got := Describe(d.PutBack()[0]); got != "cap DA to coil A; spare cap DS1 to the bench" {
		t.Errorf("put back: %s", got)
	}
}

func km(v float64) *unit.Kilometres { k := unit.Kilometres(v); return &k }

// A part falls due by distance or by years, whichever comes first (worked by hand).
func TestAge(t *testing.T) {
	now := time.Date(2026, 11, 23, 0, 0, 0, 0, time.UTC)
	for name, c := range map[string]struct {
		r    Record
		used float64
		by   string
	}{
		"by distance":  {Record{FittedKm: km(140_000), LifeKm: 60_000, FittedOn: "2025-11-23", LifeYears: 6}, 0.75, "distance"},
		"by years":     {Record{FittedKm: km(180_000), LifeKm: 60_000, FittedOn: "2020-11-23", LifeYears: 4}, 1.5, "years"},
		"years only":   {Record{FittedOn: "2023-11-23", LifeYears: 6}, 0.5, "years"},
		"not known":    {Record{FittedKm: km(10)}, math.NaN(), ""},
		"nothing said": {Record{}, math.NaN(), ""},
	} {
		a := c.r.AgeAt(185_000, now)
		if math.Abs(a.Used-c.used) > 0.01 && !(math.IsNaN(a.Used) && math.IsNaN(c.used)) || a.By != c.by {
			t.Errorf("%s: %v by %q, want %v by %q (%s)", name, a.Used, a.By, c.used, c.by, a.Words())
		}
	}
}

func TestRecordsThatCannotBe(t *testing.T) {
	e := shelf(t, "six-pairs")
	for name, c := range map[string]struct {
		r     Record
		field string
	}{
		"no boots here":     {Record{Kind: engine.Boot}, "[0].kind"},
		"plug at a coil":    {Record{Kind: engine.Plug, Place: "coil-A"}, "[0].place"},
		"day that is none":  {Record{Kind: engine.Plug, FittedOn: "2024-02-31"}, "[0].fitted_on"},
		"negative life":     {Record{Kind: engine.Plug, LifeKm: -1}, "[0].life_km"},
		"plug with pins":    {Record{Kind: engine.Plug, Pins: 3}, "[0].pins"},
		"coil with a reach": {Record{Kind: engine.Coil, Plug: &PlugDesign{ReachMM: 19}}, "[0].plug"},
		"odd electrode":     {Record{Kind: engine.Plug, Plug: &PlugDesign{Electrode: "gold"}}, "[0].plug.electrode"},
	} {
		got := invalid.From(CheckRecords(e, []Record{c.r}))
		if len(got) == 0 || got[0].Field != c.field {
			t.Errorf("%s: %v, want one at %s", name, got, c.field)
		}
	}
	twice := []Record{{Kind: engine.Plug}, {Kind: engine.Plug, Place: "cyl-2"}, {Kind: engine.Plug}}
	if got := invalid.From(CheckRecords(e, twice)); len(got) != 1 || got[0].Field != "[2].place" {
		t.Errorf("two records for all plugs: %v", got)
	}
	if r, _ := For(twice, engine.Plug, "cyl-2"); r.Place != "cyl-2" {
		t.Errorf("the record of plug 2 is %+v", r)
	}
	a, b := Record{Plug: &PlugDesign{ReachMM: 19}}, Record{Plug: &PlugDesign{ReachMM: 26.5}}
	if ok, why := Fits(a, b); ok || !strings.Contains(why, "19 mm and 26.5 mm") {
		t.Errorf("plugs of two reaches fit: %q", why)
	}
	// What is not known of one of them does not differ, and one part number is one part.
	for _, pair := range [][2]Record{{a, {}}, {a, {Plug: &PlugDesign{ThreadMM: 14}}}, {{Pins: 3}, {}}, {{Number: "A 7", Pins: 2}, {Number: "A 7", Pins: 3}}} {
		if ok, why := Fits(pair[0], pair[1]); !ok || why != "" {
			t.Errorf("%+v and %+v: %v, %q", pair[0], pair[1], ok, why)
		}
	}
	if ok, why := Fits(Record{Pins: 2}, Record{Pins: 3, Plug: &PlugDesign{}}); ok || why != "the number of pins differs: 2 and 3" {
		t.Errorf("coils of two plugs fit: %v, %q", ok, why)
	}
}

func FuzzParseTag(f *testing.F) {
	for _, s := range []string{"C2", "P4", "B0", "C04", "c2", "C99999999999999999999", "Ć2", "CA", "PS1", "LS0", "DA"} {
		f.Add(s)
	}
	engines := []engine.Engine{shelf(f, "four-across"), shelf(f, "six-pairs"), shelf(f, "six-distributor")}
	f.Fuzz(func(t *testing.T, s string) {
		for _, e := range engines {
			tag, err := ParseTag(e, s)
			if err != nil {
				continue
			}
			at := Home(e).Where(tag)
			if tag.IsSpare() != (at == engine.Bench) || at == "" || string(tag) != s || !tag.IsSpare() && Of(tag.Kind(), at) != tag {
				t.Errorf("%q reads as %s at %s", s, tag, at)
			}
		}
	})
}

func ExamplePositions_Move() {
	p, _ := engine.FindPattern("four-across")
	home := Home(p.Engine())
	after, err := home.Move([]Relocation{{"C2", "cyl-4"}, {"C4", "cyl-2"}})
	fmt.Println(after.In(engine.Coil, "cyl-4"), after.Where("C2"), err)
	_, err = home.Move([]Relocation{{"C2", "cyl-4"}})
	fmt.Println(err)
	// Output:
	// C2 cylinder 4 <nil>
	// [0].to: expected where coil C4 goes that is in cylinder 4 now: say so in the same move (a swap), got an occupied place
}
