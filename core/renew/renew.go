// Package renew compares “this one or the set”: the cost of renewing only the failed part and
// waiting for its siblings, against renewing all of them in one visit.
package renew

import (
	"fmt"
	"math"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Wear is how a kind of part wears out: a Weibull law R(t) = exp(−(t/η)^β) of the distance.
type Wear struct {
	Kind engine.Kind
	// Shape is β: above 1 the failure rate rises with age. Gone is the share that has failed
	// at the end of the maker's life; it determines η.
	Shape, Gone float64
	// Life is assumed if the maker's is unknown.
	Life   unit.Kilometres
	Source string
}

// Wears lists the kinds with several equal parts on an engine (lives C: nickel plugs 30 to 60,
// by maker; shapes and shares are judgement: plugs wear at their edges, insulation ages with
// more scatter).
var Wears = []Wear{
	{engine.Plug, 3, 0.10, 60_000, "C: nickel 30 to 60, fine wire 80 to 160 thousand km; shape: judgement"},
	{engine.Coil, 1.8, 0.10, 200_000, "C: insulation ages; judgement"},
	{engine.Lead, 2.2, 0.10, 120_000, "C: insulation ages; judgement"},
	{engine.Boot, 2, 0.10, 150_000, "C: rubber ages; judgement"},
}

// WearOf returns the row of a kind.
func WearOf(k engine.Kind) (Wear, bool) {
	for _, w := range Wears {
		if w.Kind == k {
			return w, true
		}
	}
	return Wear{}, false
}

// Eta returns the characteristic life η for a maker's life: by then 1 − 1/e have failed.
func (w Wear) Eta(life unit.Kilometres) float64 {
	return float64(life) / math.Pow(-math.Log1p(-w.Gone), 1/w.Shape)
}

// Survives returns R(t), the share that lasts a distance.
func (w Wear) Survives(km float64, life unit.Kilometres) float64 {
	return math.Exp(-w.spent(km, life))
}

// spent is (t/η)^β.
func (w Wear) spent(km float64, life unit.Kilometres) float64 {
	return math.Pow(max(0, km)/w.Eta(life), w.Shape)
}

// Fails returns the probability that a part of some age fails within a further distance: 1 −
// R(a + h)/R(a).
func (w Wear) Fails(age, within float64, life unit.Kilometres) float64 {
	return -math.Expm1(w.spent(age, life) - w.spent(age+within, life))
}

// Case is one decision. Money is in the workshop's currency; minutes cost the hourly rate.
type Case struct {
	Wear Wear
	Life unit.Kilometres
	// Ages of the siblings that still work, in kilometres.
	Ages []unit.Kilometres
	// Price of one part; Minutes to renew one with free access; Access minutes for the covers,
	// once a visit.
	Price, Minutes, Access float64
	// Visit is the additional cost of a second visit: the journey, the stop, a tow.
	Visit      float64
	HourlyRate float64
	Horizon    unit.Kilometres
}

// Bounds of a case.
const (
	MostMoney   = 1e6
	MostMinutes = 2000.0
	MostHorizon = 1_000_000.0
)

// Validate checks a case; errors are [invalid.Errors] with the fields life, ages, price,
// minutes, access, visit, rate and horizon.
func (c Case) Validate() error {
	var bad invalid.Errors
	within := func(field string, v, low, high float64, what string) {
		if !(v >= low && v <= high) {
			bad.Add(field, fmt.Sprintf("%s, %g to %g", what, low, high), fmt.Sprint(v))
		}
	}
	within("life", float64(c.Life), 1000, MostHorizon, "the life of the part in km")
	within("price", c.Price, 0, MostMoney, "the price of one part")
	within("minutes", c.Minutes, 0, MostMinutes, "the minutes to renew one")
	within("access", c.Access, 0, MostMinutes, "the minutes for what stands before it")
	within("visit", c.Visit, 0, MostMoney, "what a second visit costs beside the work")
	within("rate", c.HourlyRate, 1, MostMoney, "what an hour of work costs")
	within("horizon", float64(c.Horizon), 0, MostHorizon, "how far to look ahead in km")
	for _, age := range c.Ages {
		within("ages", float64(age), 0, MostHorizon, "the age of the others in km")
	}
	if len(c.Ages) == 0 || len(c.Ages) > engine.MaxCylinders {
		bad.Add("ages", fmt.Sprintf("1 to %d others", engine.MaxCylinders), fmt.Sprint(len(c.Ages)))
	}
	return bad.Err()
}

// Costs is the expected cost of each choice over a distance: paid now, and expected later.
type Costs struct{ OneNow, OneLater, SetNow, SetLater float64 }

// One and Set are the sums.
func (c Costs) One() float64 { return c.OneNow + c.OneLater }

// Set is the sum of the set.
func (c Costs) Set() float64 { return c.SetNow + c.SetLater }

// Over returns the costs over a distance. A part that fails later is renewed alone, on its own
// visit, once. A second failure within the horizon is ignored for both choices.
func (c Case) Over(km float64) Costs {
	work := func(minutes float64) float64 { return minutes / 60 * c.HourlyRate }
	later := c.Price + work(c.Minutes+c.Access) + c.Visit
	n := float64(len(c.Ages) + 1)
	out := Costs{OneNow: c.Price + work(c.Minutes+c.Access), SetNow: n*c.Price + work(n*c.Minutes+c.Access)}
	fresh := c.Wear.Fails(0, km, c.Life) * later
	out.OneLater, out.SetLater = fresh, n*fresh
	for _, age := range c.Ages {
		out.OneLater += c.Wear.Fails(float64(age), km, c.Life) * later
	}
	return out
}

// Even returns the distance from which the set is cheaper, up to a maximum; ok is false if it
// never is. It is found by bisection to a kilometre.
func (c Case) Even(most float64) (km float64, ok bool) {
	dearer := func(km float64) bool { o := c.Over(km); return o.Set() > o.One() }
	if !dearer(0) {
		return 0, true
	}
	const looks = 200
	low, high := 0.0, -1.0
	for i := 1; i <= looks; i++ {
		at := most * float64(i) / looks
		if !dearer(at) {
			high = at
			break
		}
		low = at
	}
	if high < 0 {
		return 0, false
	}
	for high-low > 1 {
		if middle := (low + high) / 2; dearer(middle) {
			low = middle
		} else {
			high = middle
		}
	}
	return high, true
}

// EvenPrice returns the price of one part below which the set is cheaper over the horizon; 0
// means none.
func (c Case) EvenPrice() float64 {
	at := func(price float64) float64 {
		c.Price = price
		o := c.Over(float64(c.Horizon))
		return o.Set() - o.One()
	}
	// Both costs are linear in the price.
	zero, one := at(0), at(1)
	if one <= zero {
		return 0
	}
	return max(0, -zero/(one-zero))
}
