package fault

import (
	"fmt"
	"math"
	"math/rand/v2"
	"strings"
	"testing"

	"glenmist/core/engine"
	"glenmist/core/enginetest"
	"glenmist/core/evidence"
	"glenmist/core/part"
)

// On every pattern of the shelf and on random engines the priors sum to 1, each fault has a site or a
// part that exists, and each but "no fault now" troubles some cylinder.
func TestEveryFaultHasItsPlace(t *testing.T) {
	engines := map[string]engine.Engine{}
	for _, p := range engine.Shelf {
		engines[p.ID] = p.Engine()
	}
	r := rand.New(rand.NewPCG(4, 9))
	for i := range 200 {
		e := enginetest.Random(r.IntN)
		engines[fmt.Sprintf("%d: %s", i, e.Describe())] = e
	}
	for id, e := range engines {
		at := part.Home(e)
		sum := 0.0
		keys := map[string]float64{}
		units := map[engine.Kind]bool{}
		for _, h := range Enumerate(e, Complaint{}) {
			sum += h.Prior
			keys[h.Key()] += h.Prior
			units[h.Mode.Unit] = true
			if h.Prior <= 0 {
				t.Errorf("%s: %s has no prior", id, h.Key())
			}
			if h.Tag != "" {
				if where := at.Where(h.Tag); where == "" || where == engine.Bench {
					t.Errorf("%s: %s is on a part that is not there", id, h.Key())
				}
			} else if _, ok := e.Feeds(h.Place); !ok {
				t.Errorf("%s: %s is at a place that is not there", id, h.Key())
			}
			sick := h.Affected(at)
			if (sick == 0) != (h.Mode.ID == NoFaultNow) || sick&^e.Everything() != 0 {
				t.Errorf("%s: %s troubles %s", id, h.Key(), sick)
			}
		}
		if math.Abs(sum-1) > 1e-12 {
			t.Errorf("%s: priors sum to %v", id, sum)
		}
		for _, item := range e.Items() {
			if !units[item.Kind] {
				t.Errorf("%s: nothing can be wrong with %s", id, item.Kind)
			}
		}
	}
}

// On an engine that has all items of its layout the shares are those of the table.
func TestSharesSumToOne(t *testing.T) {
	for i, layout := range engine.Ignitions() {
		sum := 0.0
		for _, m := range Catalogue {
			sum += m.Prior[i]
			if m.Source == "" || m.Words == "" || m.CuredByTouch < 0 || m.CuredByTouch > 1 {
				t.Errorf("mode %s is not stated", m.ID)
			}
		}
		if math.Abs(sum-1) > 1e-9 {
			t.Errorf("%s: shares sum to %v", layout, sum)
		}
	}
}

// Who is troubled follows from the layout and from where the parts sit (facts of
// the trade, C).
func TestAffectedCylindersFollowLayoutAndPlaces(t *testing.T) {
	shelf := func(id string) engine.Engine { p, _ := engine.FindPattern(id); return p.Engine() }
	pairs, cap6, cop := shelf("six-pairs"), shelf("six-distributor"), shelf("four-across")
	swap := func(e engine.Engine, a, b engine.Place, k engine.Kind) part.Positions {
		at := part.Home(e)
		next, err := at.Move(at.Swap(a, b, k))
		if err != nil {
			t.Fatal(err)
		}
		return next
	}
	for name, c := range map[string]struct {
		e    engine.Engine
		key  string
		at   part.Positions
		want []engine.Set // of each reach
	}{
		"coil of a pair":       {pairs, "coil.cracked@CA", part.Home(pairs), []engine.Set{engine.SetOf(1, 6), engine.SetOf(1), engine.SetOf(6)}},
		"coil of a pair moved": {pairs, "coil.cracked@CA", swap(pairs, "coil-A", "coil-B", engine.Coil), []engine.Set{engine.SetOf(2, 5), engine.SetOf(2), engine.SetOf(5)}},
		"open lead of a pair":  {pairs, "lead.open@L2", part.Home(pairs), []engine.Set{engine.SetOf(2), engine.SetOf(2, 5)}},
		"open lead moved":      {pairs, "lead.open@L2", swap(pairs, "cyl-2", "cyl-3", engine.Lead), []engine.Set{engine.SetOf(3), engine.SetOf(3, 4)}},
		"leaking lead":         {pairs, "lead.leaking@L2", part.Home(pairs), []engine.Set{engine.SetOf(2)}},
		"coil for all":         {cap6, "coil.cracked@CA", part.Home(cap6), []engine.Set{cap6.Everything()}},
		"open lead on a cap":   {cap6, "lead.open@L5", part.Home(cap6), []engine.Set{engine.SetOf(5)}},
		"cap neighbours":       {cap6, "cap.tracked@DA:1-5", part.Home(cap6), []engine.Set{engine.SetOf(1, 5)}},
		"leads exchanged":      {cap6, "lead-order.exchanged@engine:2-6", part.Home(cap6), []engine.Set{engine.SetOf(2, 6)}},
		"plug on the spot":     {cop, "plug.worn-gap@P3", swap(cop, "cyl-3", "cyl-1", engine.Plug), []engine.Set{engine.SetOf(1)}},
		"trigger stays":        {cop, "trigger.wire@cyl-3", swap(cop, "cyl-3", "cyl-1", engine.Coil), []engine.Set{engine.SetOf(3)}},
		"gasket of neighbours": {cop, "compression.gasket@cyl-2:2-3", part.Home(cop), nil},
	} {
		var got []engine.Set
		for _, h := range Enumerate(c.e, Complaint{}) {
			if h.Key() == c.key {
				got = append(got, h.Affected(c.at))
			}
		}
		if c.want == nil {
			continue
		}
		if len(got) != len(c.want) {
			t.Errorf("%s: %v, want %v", name, got, c.want)
			continue
		}
		for i := range got {
			if got[i] != c.want[i] {
				t.Errorf("%s: %v, want %v", name, got, c.want)
			}
		}
	}
	// A part on the bench troubles nobody.
	at := part.Home(cop)
	out, err := at.Move(at.Replace("P3", "PS1"))
	if err != nil {
		t.Fatal(err)
	}
	for _, h := range Enumerate(cop, Complaint{}) {
		if h.Tag == "P3" && h.Affected(out) != 0 {
			t.Errorf("%s troubles %s from the bench", h.Key(), h.Affected(out))
		}
	}
}

// Each circumstance shifts what it is said to shift, within bounds, and nothing
// else but by the sum that stays 1.
func TestShifts(t *testing.T) {
	p, _ := engine.FindPattern("six-distributor")
	e := p.Engine()
	share := func(c Complaint, prefix string) float64 {
		sum := 0.0
		for _, h := range Enumerate(e, c) {
			if strings.HasPrefix(string(h.Mode.ID), prefix) {
				sum += h.Prior
			}
		}
		return sum
	}
	plain := Complaint{}
	for _, s := range Shifts {
		if s.Source == "" || s.Factor <= 0 {
			t.Errorf("shift %+v is not stated", s)
		}
		known := false
		for _, m := range Catalogue {
			known = known || s.bears(m)
		}
		c := Complaint{Signs: []evidence.Sign{s.When}}
		if !known || !c.holds(s) {
			t.Errorf("shift %+v bears on nothing", s)
		}
	}
	touched := Complaint{Signs: []evidence.Sign{evidence.TouchedLeads}}
	if share(touched, "lead-order") <= share(plain, "lead-order") || share(touched, "compression") >= share(plain, "compression") {
		t.Error("leads that were off do not point at their order")
	}
	all := Complaint{}
	for _, row := range evidence.Signs {
		all.Signs = append(all.Signs, row.Sign)
	}
	for _, m := range Catalogue {
		if f := all.factor(m); f > MostShift || f < 1.0/MostShift {
			t.Errorf("%s is shifted by %v", m.ID, f)
		}
	}
}
