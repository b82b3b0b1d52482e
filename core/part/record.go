package part

import (
	"fmt"
	"math"
	"slices"
	"time"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Record is what is known of one part, or of all parts of one kind: when it was fitted, its
// number and design, and its service life.
type Record struct {
	Kind Kind `json:"kind"`
	// Place is where it is; empty means all parts of the kind.
	Place engine.Place `json:"place,omitzero"`
	// Number is the part number as printed on it.
	Number string `json:"number,omitzero"`
	// FittedKm and FittedOn are the odometer and the date ("2024-05-31") of fitting. Either
	// may be unknown.
	FittedKm *unit.Kilometres `json:"fitted_km,omitzero"`
	FittedOn string           `json:"fitted_on,omitzero"`
	// LifeKm and LifeYears are the service life; the first limit that is reached counts. 0
	// means unknown.
	LifeKm    unit.Kilometres `json:"life_km,omitzero"`
	LifeYears float64         `json:"life_years,omitzero"`
	// Pins is how many pins a coil has.
	Pins int `json:"pins,omitzero"`
	// Plug, Coil, Lead and Cap are the design of a part of that kind.
	Plug *PlugDesign `json:"plug,omitzero"`
	Coil *CoilDesign `json:"coil,omitzero"`
	Lead *LeadDesign `json:"lead,omitzero"`
	Cap  *CapDesign  `json:"cap,omitzero"`
}

// Bounds of records.
const (
	MaxRecords = 60
	MaxNumber  = 40
	maxYears   = 40
	day        = "2006-01-02"
)

// CheckRecords returns an error for each invalid record, by path.
func CheckRecords(e engine.Engine, records []Record) error {
	var bad invalid.Errors
	if len(records) > MaxRecords {
		bad.Add("", fmt.Sprintf("at most %d records of parts", MaxRecords), fmt.Sprint(len(records)))
		return bad
	}
	type where struct {
		kind  Kind
		place engine.Place
	}
	seen := map[where]bool{}
	s := slotsOf(e)
	for i, r := range records {
		bad.Under(fmt.Sprintf("[%d]", i), r.check(s))
		if seen[where{r.Kind, r.Place}] {
			bad.Add(fmt.Sprintf("[%d].place", i), "one record for each part", "two for "+string(r.Kind)+" "+string(r.Place))
		}
		seen[where{r.Kind, r.Place}] = true
	}
	return bad.Err()
}

func (r Record) check(s *slots) error {
	var bad invalid.Errors
	if !slices.Contains(s.engine.PartKinds(), r.Kind) {
		bad.Add("kind", fmt.Sprintf("a kind of part that this engine has: %v", s.engine.PartKinds()), invalid.Quote(string(r.Kind)))
		return bad
	}
	if _, ok := s.find(r.Kind, r.Place); !ok && r.Place != "" {
		bad.Add("place", s.places(r.Kind), invalid.Quote(string(r.Place)))
	}
	if r.FittedKm != nil && !(*r.FittedKm >= 0 && *r.FittedKm <= unit.MaxDistance) {
		bad.Add("fitted_km", "0 to 5 000 000 km", fmt.Sprint(float64(*r.FittedKm)))
	}
	if _, err := time.Parse(day, r.FittedOn); err != nil && r.FittedOn != "" {
		bad.Add("fitted_on", "a day such as 2024-05-31", invalid.Quote(r.FittedOn))
	}
	if r.Pins != 0 && (r.Kind != engine.Coil || r.Pins < 2 || r.Pins > 8) {
		bad.Add("pins", "2 to 8 pins, of a coil", fmt.Sprint(r.Pins))
	}
	m := r.Make()
	if r.Coil == nil {
		m.Coil = nil // its pins have been checked
	}
	bad.Under("", m.Check(r.Kind))
	return bad.Err()
}

// For returns the record of the part of a kind at a place: its own, otherwise that of its
// kind.
func For(records []Record, k Kind, at engine.Place) (Record, bool) {
	best, ok := Record{}, false
	for _, r := range records {
		if r.Kind == k && (r.Place == at || r.Place == "" && !ok) {
			best, ok = r, true
		}
	}
	return best, ok
}

// Fits reports whether two parts can be exchanged, as far as is known, and if not, why.
func Fits(a, b Record) (bool, string) {
	if a.Number != "" && a.Number == b.Number {
		return true, ""
	}
	x, y := a.Make(), b.Make()
	for _, p := range Properties {
		if v, w := p.Show(x), p.Show(y); p.Swap != "" && v != "" && w != "" && v != w {
			if p.Unit != "" {
				v, w = v+" "+p.Unit, w+" "+p.Unit
			}
			return false, fmt.Sprintf("%s differs: %s and %s", p.Swap, v, w)
		}
	}
	return true, ""
}

// Age is the age of a part, as far as its record states it.
type Age struct {
	// Km and Years count from fitting; NaN means unknown.
	Km, Years float64
	// Used is the used fraction of its life, by distance or time, whichever is larger; NaN
	// means unknown.
	Used float64
	// By names the larger of the two: "distance" or "years".
	By string
	// DueKm and DueOn are the end of its life; 0 and the zero time mean unknown.
	DueKm unit.Kilometres
	DueOn time.Time
}

// Due reports whether its life is over.
func (a Age) Due() bool { return a.Used >= 1 }

const daysPerYear = 365.25

// AgeAt returns the age at an odometer reading and a time.
func (r Record) AgeAt(distance unit.Kilometres, now time.Time) Age {
	a := Age{Km: math.NaN(), Years: math.NaN(), Used: math.NaN()}
	take := func(used float64, by string) {
		if math.IsNaN(a.Used) || used > a.Used {
			a.Used, a.By = used, by
		}
	}
	if r.FittedKm != nil {
		a.Km = float64(distance - *r.FittedKm)
		if r.LifeKm > 0 {
			a.DueKm = *r.FittedKm + r.LifeKm
			take(a.Km/float64(r.LifeKm), "distance")
		}
	}
	if on, err := time.Parse(day, r.FittedOn); err == nil {
		a.Years = now.Sub(on).Hours() / 24 / daysPerYear
		if r.LifeYears > 0 {
			a.DueOn = on.Add(time.Duration(r.LifeYears * daysPerYear * 24 * float64(time.Hour)))
			take(a.Years/r.LifeYears, "years")
		}
	}
	return a
}

// Words returns the age in words: "62 000 km, 3.4 years; due at 200 000 km".
func (a Age) Words() string {
	s := ""
	add := func(words string) {
		if s != "" {
			s += ", "
		}
		s += words
	}
	if !math.IsNaN(a.Km) {
		add(unit.Thousands(int(math.Round(a.Km))) + " km")
	}
	if !math.IsNaN(a.Years) {
		add(fmt.Sprintf("%.1f years", a.Years))
	}
	switch {
	case math.IsNaN(a.Used):
	case a.Due():
		s += "; due by " + a.By
	case a.By == "distance":
		s += "; due at " + unit.Thousands(int(math.Round(float64(a.DueKm)))) + " km"
	default:
		s += "; due " + a.DueOn.Format("Jan 2006")
	}
	return s
}
