// Package renew weighs “this one or the set”: what it costs to renew the part that failed alone,
// and to wait for its siblings, against renewing all of them now, while one visit is paid for.
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
	// Shape is β: above 1 it fails the more often the older it is. Gone is the share that has
	// failed when the maker's life has passed; it sets η.
	Shape, Gone float64
	// Life is assumed where the maker's is not known.
	Life   unit.Kilometres
	Source string
}

// Wears lists the kinds of which an engine has several alike (lives C: nickel plugs 30 to 60, by
// maker; shapes and shares are judgement: plugs wear by their edges, insulation ages with more
// scatter).
var Wears = []Wear{
	{engine.Plug, 3, 0.10, 60_000, "C: nickel 30 to 60, fine wire 80 to 160 thousand km; shape: judgement"},
	{engine.Coil, 1.8, 0.10, 200_000, "C: insulation ages; judgement"},
	{engine.Lead, 2.2, 0.10, 120_000, "C: insulation ages; judgement"},
	{engine.Boot, 2, 0.10, 150_000, "C: rubber ages; judgement"},
}

// WearOf is the row of a kind.
func WearOf(k engine.Kind) (Wear, bool) {
	for _, w := range Wears {
		if w.Kind == k {
			return w, true
		}
	}
	return Wear{}, false
}

// Eta is the characteristic life η for a maker's life: by then 1 − 1/e have failed.
func (w Wear) Eta(life unit.Kilometres) float64 {
	return float64(life) / math.Pow(-math.Log1p(-w.Gone), 1/w.Shape)
}

// Survives is R(t), the share that lasts a distance.
func (w Wear) Survives(km float64, life unit.Kilometres) float64 {
	return math.Exp(-w.spent(km, life))
}

// spent is (t/η)^β.
func (w Wear) spent(km float64, life unit.Kilometres) float64 {
	return math.Pow(max(0, km)/w.Eta(life), w.Shape)
}

// Fails is the chance that a part which has lasted to an age fails within a further distance:
// 1 − R(a + h)/R(a).
func (w Wear) Fails(age, within float64, life unit.Kilometres) float64 {
	return -math.Expm1(w.spent(age, life) - w.spent(age+within, life))
}

// Case is one decision. Money is in the workshop's; minutes become money by the hourly rate.
type Case struct {
	Wear Wear
	Life unit.Kilometres
	// Ages of the siblings that still work, in kilometres.
	Ages []unit.Kilometres
	// Price of one part; Minutes to renew one with nothing in the way, Access those for what
	// stands before it, once a visit.
	Price, Minutes, Access float64
	// Visit is what a second visit costs beside that work: the way there, the stop, a tow.
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

// Costs is what each way is expected to cost over a distance: what is paid now, and what is
// expected later.
type Costs struct{ OneNow, OneLater, SetNow, SetLater float64 }

// One and Set are the sums.
func (c Costs) One() float64 { return c.OneNow + c.OneLater }

// Set is the sum of the set.
func (c Costs) Set() float64 { return c.SetNow + c.SetLater }

// Over works out both ways over a distance. A part that fails later is renewed alone, on a visit
// of its own, once: that it could fail twice within the horizon is left out on either side.
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

// Even is the distance from which the set is the cheaper, up to the greatest horizon that is
// looked at; ok is false where it never is. It is found by halving, to a kilometre.
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

// EvenPrice is the price of one part below which the set is the cheaper over the horizon; 0 is
// none.
func (c Case) EvenPrice() float64 {
	at := func(price float64) float64 {
		c.Price = price
		o := c.Over(float64(c.Horizon))
		return o.Set() - o.One()
	}
	// Both ways are linear in the price.
	zero, one := at(0), at(1)
	if one <= zero {
		return 0
	}
	return max(0, -zero/(one-zero))
}
