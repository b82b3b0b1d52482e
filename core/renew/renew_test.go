package renew

import (
	"fmt"
	"math"
	"testing"

	"gonum.org/v1/gonum/stat/distuv"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Against gonum's Weibull distribution, row by row: what lasts, what fails of what has lasted, and
// the share that has failed at the maker's life.
func TestAgainstGonum(t *testing.T) {
	for _, w := range Wears {
		ref := distuv.Weibull{K: w.Shape, Lambda: w.Eta(w.Life)}
		if got := ref.CDF(float64(w.Life)); math.Abs(got-w.Gone) > 1e-12 {
			t.Errorf("%s: %v have failed at the end of its life, want %v", w.Kind, got, w.Gone)
		}
		for _, km := range []float64{0, 1000, 25_000, 80_000, 400_000} {
			if got, want := w.Survives(km, w.Life), ref.Survival(km); math.Abs(got-want) > 1e-12 {
				t.Errorf("%s, %v km: %v last, want %v", w.Kind, km, got, want)
			}
			for _, h := range []float64{0, 5000, 60_000} {
				want := 1 - math.Exp(ref.LogSurvival(km+h)-ref.LogSurvival(km))
				if got := w.Fails(km, h, w.Life); math.Abs(got-want) > 1e-9 {
					t.Errorf("%s, %v km and %v further: %v fail, want %v", w.Kind, km, h, got, want)
				}
			}
		}
	}
}

// six is the worked case: six plugs of a bus with 60 000 km of life, all 70 000 km old, one of
// them failed; 12 a piece, 12 minutes each behind 30 of covers, 60 an hour, 80 for a second visit,
// 30 000 km ahead.
func six() Case {
	w, _ := WearOf(engine.Plug)
	c := Case{Wear: w, Life: 60_000, Price: 12, Minutes: 12, Access: 30, Visit: 80, HourlyRate: 60, Horizon: 30_000}
	for range 5 {
		c.Ages = append(c.Ages, 70_000)
	}
	return c
}

// Worked by hand with a table calculator. η = 60 000/(−ln 0.9)^⅓ = 127 034 km. Of those of
// 70 000 km, R(100 000)/R(70 000) = exp(−0.48780 + 0.16732) = 0.72580: 27.42 % fail within 30 000
// km; of new ones 1.3084 %. One visit later is 12 + 42 + 80 = 134. One: 54 now, 134·(5·0.27420 +
// 0.013084) = 185.47 later. Set: 72 + 102 = 174 now, 134·6·0.013084 = 10.52 later.
func TestWorkedByHand(t *testing.T) {
	c := six()
	if eta := c.Wear.Eta(c.Life); math.Abs(eta-127_034) > 50 {
		t.Errorf("η = %.0f km", eta)
	}
	o := c.Over(30_000)
	for name, pair := range map[string][2]float64{
		"one now": {o.OneNow, 54}, "one later": {o.OneLater, 185.47}, "set now": {o.SetNow, 174}, "set later": {o.SetLater, 10.52},
	} {
		if math.Abs(pair[0]-pair[1]) > 0.15 {
			t.Errorf("%s: %.2f, by hand %.2f", name, pair[0], pair[1])
		}
	}
	even, ok := c.Even(200_000)
	at := c.Over(even)
	if !ok || even < 15_000 || even > 30_000 || math.Abs(at.One()-at.Set()) > 0.05 {
		t.Errorf("even at %.0f km (%v): %.2f and %.2f", even, ok, at.One(), at.Set())
	}
	c.Price = c.EvenPrice()
	if o := c.Over(30_000); c.Price < 12 || math.Abs(o.One()-o.Set()) > 1e-9 {
		t.Errorf("at the even price %.2f: %.4f and %.4f", c.Price, o.One(), o.Set())
	}
}

// What must be so: new siblings speak for the one, old ones and a dear visit for the set; nothing
// ahead, and the one is always the cheaper; costs only grow with the horizon.
func TestOneOrSetFollowsAgeAndCost(t *testing.T) {
	c := six()
	young := c
	young.Ages = []unit.Kilometres{0, 0, 0, 0, 0}
	if o := young.Over(30_000); o.One() >= o.Set() {
		t.Error("new siblings are renewed")
	}
	if o := c.Over(0); o.One() >= o.Set() || o.OneLater != 0 {
		t.Error("with nothing ahead the set is cheaper")
	}
	if _, ok := young.Even(20_000); ok {
		t.Error("new siblings are worth renewing within 20 000 km")
	}
	dear := c
	dear.Visit = 400
	a, _ := c.Even(200_000)
	b, ok := dear.Even(200_000)
	if !ok || b >= a {
		t.Errorf("a dear visit: even at %.0f km, else %.0f", b, a)
	}
	last := c.Over(0)
	for km := 5000.0; km < 300_000; km += 5000 {
		o := c.Over(km)
		if o.One() < last.One() || o.Set() < last.Set() {
			t.Fatalf("%v km cost less than less: %+v", km, o)
		}
		last = o
	}
	if limit := 54 + 6*134.0; last.One() > limit || last.Set() > 174+6*134 {
		t.Errorf("more than every part once more: %+v", last)
	}
}

func TestBadCases(t *testing.T) {
	if err := six().Validate(); err != nil {
		t.Fatal(err)
	}
	for field, change := range map[string]func(*Case){
		"life": func(c *Case) { c.Life = 10 }, "price": func(c *Case) { c.Price = -1 }, "minutes": func(c *Case) { c.Minutes = math.NaN() }, "access": func(c *Case) { c.Access = 1e5 },
		"visit": func(c *Case) { c.Visit = math.Inf(1) }, "rate": func(c *Case) { c.HourlyRate = 0 }, "horizon": func(c *Case) { c.Horizon = 1e9 }, "ages": func(c *Case) { c.Ages = nil },
	} {
		c := six()
		change(&c)
		if bad := invalid.From(c.Validate()); len(bad) != 1 || bad[0].Field != field {
			t.Errorf("%s: %v", field, bad)
		}
	}
}

func ExampleCase_Over() {
	w, _ := WearOf(engine.Coil)
	c := Case{Wear: w, Life: 200_000, Ages: []unit.Kilometres{120_000, 120_000, 120_000}, Price: 60, Minutes: 10, Visit: 90, HourlyRate: 60, Horizon: 40_000}
	o := c.Over(float64(c.Horizon))
	fmt.Printf("one %.0f, the set %.0f\n", o.One(), o.Set())
	// Output: one 84, the set 284
}
