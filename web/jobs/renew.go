package jobs

import (
	"fmt"
	"math"
	"net/url"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/renew"
	"glenmist/core/unit"
	"glenmist/web/draw"
)

// renewView is the comparison “this one or the set” on the page of a verdict.
type renewView struct {
	One, Set string // "this plug", "all six plugs"
	Kind     string
	Fields   []renewField
	// Costs is the result if everything is known; Wrong lists invalid input.
	Costs   *renewCosts
	Picture *draw.Picture
	Says    []string
	Shown   string // assumed life and its source
}

type renewField struct {
	Name, Words, Unit, Value, Hint string
	Wrong                          *invalid.Error
}

type renewCosts struct {
	OneNow, OneLater, One, SetNow, SetLater, Set string
	SetWins                                      bool
}

// Defaults for unknown values (C; judgement): the distance to the bus's next service, and an
// hour to return to a stopped vehicle.
const (
	usualHorizon = 30_000.0
	visitMinutes = 60.0
)

// newRenew returns the comparison for a unit of a verdict, or nil without a set.
func newRenew(it Loaded, u string, typed url.Values) *renewView {
	tag := part.Tag(u[strings.LastIndexByte(u, ' ')+1:])
	kind := tag.Kind()
	wear, ok := renew.WearOf(kind)
	if !ok {
		return nil
	}
	n := 0
	for _, p := range it.Assessment().Now.All() {
		if p.Kind == kind && !p.Tag.IsSpare() {
			n++
		}
	}
	if n < 2 {
		return nil
	}
	j := it.Record.Job
	life, age, known := wear.Life, math.NaN(), ""
	for _, r := range j.Vehicle.Parts {
		if r.Kind != kind {
			continue
		}
		if r.LifeKm > 0 {
			life = r.LifeKm
		}
		if a := r.AgeAt(j.Distance, j.Opened); !math.IsNaN(a.Km) {
			age = a.Km
		}
	}
	if math.IsNaN(age) {
		age, known = math.Min(float64(j.Distance), float64(life)), fmt.Sprintf("The age of the others is not on record: %.0f km is a guess. ", math.Min(float64(j.Distance), float64(life)))
	}
	shop := it.Shop.Plan()
	repair := plan.RepairOf(it.Assessment().Beliefs, kind)
	_, access := it.Assessment().Engine.Access(tag.Home(), nil)
	c := renew.Case{Wear: wear, Minutes: repair.Minutes, Access: access, HourlyRate: shop.HourlyRate}
	v := &renewView{One: "this " + string(kind), Set: fmt.Sprintf("all %d %ss", n, kind), Kind: string(kind)}
	var bad invalid.Errors
	number := func(name, words, of string, usual float64) float64 {
		f := renewField{Name: name, Words: words, Unit: of, Value: typed.Get(name), Hint: unit.Decimal(math.Round(usual))}
		value := usual
		if text := strings.TrimSpace(f.Value); text != "" {
			got, ok := unit.Figure(text)
			if !ok || got < 0 {
				f.Wrong = &invalid.Error{Field: name, Expected: "a number, such as " + f.Hint, Got: invalid.Quote(text)}
				bad = append(bad, *f.Wrong)
			}
			value = got
		}
		v.Fields = append(v.Fields, f)
		return value
	}
	c.Horizon = unit.Kilometres(number("set-horizon", "Look ahead", "km", usualHorizon))
	years := number("set-age", "The others are", "km old", age)
	c.Life = unit.Kilometres(number("set-life", "They last", "km", float64(life)))
	c.Price = number("set-price", "One costs", "", repair.Price)
	c.Visit = number("set-visit", "A second visit", "beside work", visitMinutes/60*shop.HourlyRate)
	for range n - 1 {
		c.Ages = append(c.Ages, unit.Kilometres(years))
	}
	for _, e := range invalid.From(c.Validate()) {
		name := map[string]string{"horizon": "set-horizon", "ages": "set-age", "life": "set-life", "price": "set-price", "visit": "set-visit"}[e.Field]
		for i := range v.Fields {
			if v.Fields[i].Name == name && v.Fields[i].Wrong == nil {
				v.Fields[i].Wrong = &e
				bad = append(bad, e)
			}
		}
	}
	v.Shown = fmt.Sprintf("%sAssumed: %.0f minutes each and %.0f for covers, at %.0f an hour. A %s wears out by a Weibull law of shape %g, a tenth of them by the end of its life (%s).", known, c.Minutes, c.Access, c.HourlyRate, kind, wear.Shape, wear.Source)
	if len(bad) == 0 {
		v.sums(c)
	}
	return v
}

// sums computes, describes and draws the comparison.
func (v *renewView) sums(c renew.Case) {
	o := c.Over(float64(c.Horizon))
	money := func(x float64) string { return unit.Thousands(int(math.Round(x))) }
	v.Costs = &renewCosts{money(o.OneNow), money(o.OneLater), money(o.One()), money(o.SetNow), money(o.SetLater), money(o.Set()), o.Set() < o.One()}
	km := func(x float64) string { return unit.Thousands(int(math.Round(x/100)*100)) + " km" }
	cheaper, by := v.One, o.Set()-o.One()
	if v.Costs.SetWins {
		cheaper, by = v.Set, -by
	}
	v.Says = append(v.Says, fmt.Sprintf("Over %s renewing %s is the cheaper, by %s on average.", km(float64(c.Horizon)), cheaper, money(by)))
	most := math.Max(3*float64(c.Horizon), 60_000)
	even, ok := c.Even(most)
	switch {
	case !ok:
		v.Says = append(v.Says, fmt.Sprintf("Within %s the set never pays.", km(most)))
	case even > 0:
		v.Says = append(v.Says, fmt.Sprintf("The set pays from %s on.", km(even)))
	}
	if price := c.EvenPrice(); price > 0 {
		v.Says = append(v.Says, fmt.Sprintf("At this horizon it pays below %s a piece.", unit.Decimal(math.Round(10*price)/10)))
	}
	v.Picture = drawRenew(c, most, even, ok)
}

// drawRenew plots the cost of both choices over the distance ahead.
func drawRenew(c renew.Case, most, even float64, pays bool) *draw.Picture {
	p := &draw.Picture{Title: "This one or the set", W: 620, H: 250}
	end := c.Over(most)
	top := 1.1 * math.Max(end.One(), end.Set())
	a := p.Plot(60, 24, 430, 180, 0, top)
	a.ScaleOf("cost")
	x := func(km float64) float64 { return a.Left + a.Wide*km/most }
	line := func(class string, of func(renew.Costs) float64) {
		var d strings.Builder
		for i := range 61 {
			km := most * float64(i) / 60
			fmt.Fprintf(&d, "%s%.1f %.1f", map[bool]string{true: "M", false: "L"}[i == 0], x(km), a.At(of(c.Over(km))))
		}
		p.Line(class, d.String())
	}
	line("mid", renew.Costs.One)
	line("whisk", renew.Costs.Set)
	begin := c.Over(0)
	p.Text("text", a.Left+8, a.At(begin.One())-8, "start", "this one")
	p.Text("text", a.Left+8, a.At(begin.Set())-8, "start", "the set")
	p.Line("part", fmt.Sprintf("M%.1f %.1fv%.1f", x(float64(c.Horizon)), a.Top, a.Tall))
	p.Text("label", x(float64(c.Horizon))+4, a.Top+12, "start", "ahead")
	if pays && even > 0 {
		p.Line("odd", fmt.Sprintf("M%.1f %.1fl-6 11h12z", x(even), a.At(c.Over(even).Set())+2))
	}
	step := draw.Step(most, 6)
	for km := 0.0; km <= most+1; km += step {
		p.Line("axis", fmt.Sprintf("M%.1f %.1fv5", x(km), a.Top+a.Tall))
		p.Text("small", x(km), a.Top+a.Tall+19, "middle", unit.Thousands(int(km)))
	}
	p.Text("small", a.Left+a.Wide+6, a.Top+a.Tall+19, "start", "km")
	p.Words = fmt.Sprintf("Expected cost over the distance ahead: this one alone from %.0f to %.0f, the set from %.0f to %.0f.", c.Over(0).One(), end.One(), c.Over(0).Set(), end.Set())
	return p
}
