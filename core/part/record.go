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

// Record is what is known of the parts of one kind, or of one part: since when it
// is there, its number and design, and how long it is meant to last.
type Record struct {
	Kind Kind `json:"kind"`
	// Place is where it is; empty means all parts of the kind.
	Place engine.Place `json:"place,omitzero"`
	// Number is the part number as it is written on it.
	Number string `json:"number,omitzero"`
	// FittedKm and FittedOn are the vehicle's distance and the day when it was
	// fitted; FittedOn is "2024-05-31", and either may be unknown.
	FittedKm *unit.Kilometres `json:"fitted_km,omitzero"`
	FittedOn string           `json:"fitted_on,omitzero"`
	// LifeKm and LifeYears are when it falls due, whichever comes first; 0 is not
	// known.
	LifeKm    unit.Kilometres `json:"life_km,omitzero"`
	LifeYears float64         `json:"life_years,omitzero"`
	// Pins is how many pins a coil has.
	Pins int `json:"pins,omitzero"`
	// Plug is the design of a plug.
	Plug *PlugDesign `json:"plug,omitzero"`
}

// PlugDesign is what has to be alike for a plug to fit in another's place. Empty
// fields are not known.
type PlugDesign struct {
	// Electrode is the design of the electrodes.
	Electrode Electrode `json:"electrode,omitzero"`
	// Seat is what seals it.
	Seat PlugSeat `json:"seat,omitzero"`
	// ThreadMM and ReachMM are the diameter and the length of the thread.
	ThreadMM float64 `json:"thread_mm,omitzero"`
	ReachMM  float64 `json:"reach_mm,omitzero"`
	// HeatRange is as the maker writes it.
	HeatRange string `json:"heat_range,omitzero"`
	// Resistor says whether it has one: "yes" or "no".
	Resistor string `json:"resistor,omitzero"`
	// HexMM is the width of its hexagon across the flats.
	HexMM float64 `json:"hex_mm,omitzero"`
	// Terminal is what its connector takes hold of.
	Terminal PlugTerminal `json:"terminal,omitzero"`
	// Lettering is what is written on it.
	Lettering string `json:"lettering,omitzero"`
}

// PlugTerminal is the end of a plug that its connector takes hold of.
type PlugTerminal string

// CoilDesign is what has to be alike for a coil to fit in another's place. Empty fields are not
// known.
type CoilDesign struct {
	// Pins is how many pins its connector has, Tab on which side of that the tab locks.
	Pins int     `json:"pins,omitzero"`
	Tab  CoilTab `json:"tab,omitzero"`
	// StemMM is its length from flange to mouth.
	StemMM float64 `json:"stem_mm,omitzero"`
	// Lettering is what is written on it.
	Lettering string `json:"lettering,omitzero"`
}

// CoilTab is the side on which a connector locks.
type CoilTab string

// CoilTabs lists the sides, seen into the connector with the flange below.
var CoilTabs = []CoilTab{"top", "bottom", "left", "right", "none"}

// Check says what of a design cannot be.
func (d CoilDesign) Check() error {
	var bad invalid.Errors
	if d.Pins != 0 && (d.Pins < 2 || d.Pins > 8) {
		bad.Add("pins", "2 to 8 pins", fmt.Sprint(d.Pins))
	}
	if d.Tab != "" && !slices.Contains(CoilTabs, d.Tab) {
		bad.Add("tab", fmt.Sprintf("one of %v", CoilTabs), invalid.Quote(string(d.Tab)))
	}
	if d.StemMM != 0 && !(d.StemMM >= 10 && d.StemMM <= 400) {
		bad.Add("stem_mm", "10 to 400 mm", fmt.Sprint(d.StemMM))
	}
	bad.Under("", invalid.Text("lettering", d.Lettering, "the lettering of a coil", MaxNumber, true))
	return bad.Err()
}

// Electrode is a design of plug electrodes.
type Electrode string

// PlugSeat is what seals a plug.
type PlugSeat string

// Electrodes and PlugSeats list the designs.
var (
	Electrodes = []Electrode{"nickel", "fine-wire", "multi-ground", "surface-gap"}
	PlugSeats  = []PlugSeat{"gasket", "taper"}
	// PlugTerminals: a nut that is part of it or screwed on, the bare thread, or a flat cup.
	PlugTerminals = []PlugTerminal{"nut", "thread", "cup"}
)

// Bounds of records.
const (
	MaxRecords = 60
	MaxNumber  = 40
	maxYears   = 40
	day        = "2006-01-02"
)

// CheckRecords says what of the records cannot be, by path.
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
	bad.Under("", invalid.Text("number", r.Number, "a part number", MaxNumber, true))
	if r.FittedKm != nil && !(*r.FittedKm >= 0 && *r.FittedKm <= unit.MaxDistance) {
		bad.Add("fitted_km", "0 to 5 000 000 km", fmt.Sprint(float64(*r.FittedKm)))
	}
	if _, err := time.Parse(day, r.FittedOn); err != nil && r.FittedOn != "" {
		bad.Add("fitted_on", "a day such as 2024-05-31", invalid.Quote(r.FittedOn))
	}
	if !(r.LifeKm >= 0 && r.LifeKm <= unit.MaxDistance) {
		bad.Add("life_km", "0 to 5 000 000 km", fmt.Sprint(float64(r.LifeKm)))
	}
	if !(r.LifeYears >= 0 && r.LifeYears <= maxYears) {
		bad.Add("life_years", fmt.Sprintf("0 to %d years", maxYears), fmt.Sprint(r.LifeYears))
	}
	if r.Pins != 0 && (r.Kind != engine.Coil || r.Pins < 2 || r.Pins > 8) {
		bad.Add("pins", "2 to 8 pins, of a coil", fmt.Sprint(r.Pins))
	}
	if r.Plug == nil {
		return bad.Err()
	}
	if r.Kind != engine.Plug {
		bad.Add("plug", "the design of a plug only for a plug", "one for a "+string(r.Kind))
	}
	bad.Under("plug", r.Plug.Check())
	return bad.Err()
}

// Check says what of a design cannot be.
func (d PlugDesign) Check() error {
	var bad invalid.Errors
	if d.Electrode != "" && !slices.Contains(Electrodes, d.Electrode) {
		bad.Add("electrode", fmt.Sprintf("one of %v", Electrodes), invalid.Quote(string(d.Electrode)))
	}
	if d.Seat != "" && !slices.Contains(PlugSeats, d.Seat) {
		bad.Add("seat", "gasket or taper", invalid.Quote(string(d.Seat)))
	}
	if d.Resistor != "" && d.Resistor != "yes" && d.Resistor != "no" {
		bad.Add("resistor", "yes or no", invalid.Quote(d.Resistor))
	}
	if d.Terminal != "" && !slices.Contains(PlugTerminals, d.Terminal) {
		bad.Add("terminal", fmt.Sprintf("one of %v", PlugTerminals), invalid.Quote(string(d.Terminal)))
	}
	for _, row := range []struct {
		field           string
		mm, least, most float64
	}{{"thread_mm", d.ThreadMM, 8, 18}, {"reach_mm", d.ReachMM, 6, 40}, {"hex_mm", d.HexMM, 12, 27}} {
		if row.mm != 0 && !(row.mm >= row.least && row.mm <= row.most) {
			bad.Add(row.field, fmt.Sprintf("%g to %g mm", row.least, row.most), fmt.Sprint(row.mm))
		}
	}
	bad.Under("", invalid.Text("heat_range", d.HeatRange, "a heat range", MaxNumber, true))
	bad.Under("", invalid.Text("lettering", d.Lettering, "the lettering of a plug", MaxNumber, true))
	return bad.Err()
}

// For is what is known of the part of a kind at a place: its own record, else
// that of all of its kind.
func For(records []Record, k Kind, at engine.Place) (Record, bool) {
	best, ok := Record{}, false
	for _, r := range records {
		if r.Kind == k && (r.Place == at || r.Place == "" && !ok) {
			best, ok = r, true
		}
	}
	return best, ok
}

// Fits says whether two parts can take each other's places, as far as is known,
// and if not why.
func Fits(a, b Record) (bool, string) {
	if a.Number != "" && a.Number == b.Number {
		return true, ""
	}
	differ := func(what, x, y string) string {
		if x == "" || y == "" || x == y {
			return ""
		}
		return fmt.Sprintf("%s differs: %s and %s", what, x, y)
	}
	number := func(x float64, unit string) string {
		if x == 0 {
			return ""
		}
		return fmt.Sprintf("%g%s", x, unit)
	}
	why := differ("the number of pins", number(float64(a.Pins), ""), number(float64(b.Pins), ""))
	if a.Plug != nil && b.Plug != nil {
		for _, w := range []string{
			differ("the thread", number(a.Plug.ThreadMM, " mm"), number(b.Plug.ThreadMM, " mm")),
			differ("the reach", number(a.Plug.ReachMM, " mm"), number(b.Plug.ReachMM, " mm")),
			differ("the seat", string(a.Plug.Seat), string(b.Plug.Seat)),
			differ("the heat range", a.Plug.HeatRange, b.Plug.HeatRange),
			differ("the resistor", a.Plug.Resistor, b.Plug.Resistor),
		} {
			if why == "" {
				why = w
			}
		}
	}
	return why == "", why
}

// Age is how old a part is, as far as its record says.
type Age struct {
	// Km and Years are what has passed since it was fitted; NaN is not known.
	Km, Years float64
	// Used is the share of its life that has passed, by whichever of distance and
	// time is further on; NaN is not known.
	Used float64
	// By says which of the two that is: "distance" or "years".
	By string
	// DueKm and DueOn are when it falls due; 0 and the zero time are not known.
	DueKm unit.Kilometres
	DueOn time.Time
}

// Due says that its life has passed.
func (a Age) Due() bool { return a.Used >= 1 }

const daysPerYear = 365.25

// AgeAt is how old a part is at a distance and a moment.
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

// Words is the age in a few words: "62 000 km, 3.4 years; due at 200 000 km".
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
