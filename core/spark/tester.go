package spark

import (
	"fmt"
	"math"

	"glenmist/core/invalid"
)

// Shape is the shape of the electrodes of a gap in open air. The law is for near-uniform
// fields; points and edges break down lower, so that a gap proves a range of kilovolts.
type Shape struct {
	// ID is a stable word; Words says it.
	ID, Words string
	// Low and High are the ends of the range as shares of the law's voltage.
	Low, High float64
	Source    string
}

// Shapes lists them. The ranges are judgement, put about two facts: the law lies within
// 10 % of sphere gaps (P: IEC 60052, from memory), and needle gaps of some millimetres
// break down at well under half of it (C).
var Shapes = []Shape{
	{"plug", "a plug, as it is or opened wide", 0.70, 1.00, "C; judgement: edges and a short flat face"},
	{"points", "points, screw tips, a wire end", 0.40, 0.90, "C; judgement: clearly less from points"},
	{"smooth", "smooth, rounded faces", 0.90, 1.10, "P: IEC 60052 (from memory): the law within 10 % of sphere gaps"},
}

// FindShape is the shape of an id.
func FindShape(id string) (Shape, bool) {
	for _, s := range Shapes {
		if s.ID == id {
			return s, true
		}
	}
	return Shape{}, false
}

// Range is an interval of kilovolts.
type Range struct{ Low, High float64 }

// Proof is the kilovolts that a spark over an open gap of some millimetres proves: at
// least Low is proven, High may have been. density is that of the open air.
func (s Shape) Proof(gapMM, density float64) (Range, error) {
	v, err := Breakdown(gapMM, density)
	return Range{s.Low * v, s.High * v}, err
}

// GapFor is the gap in millimetres whose low end proves some kilovolts in open air of a
// density, or an error where that lies outside the law.
func (s Shape) GapFor(kV, density float64) (gapMM float64, err error) {
	u := kV / s.Low
	root := (-6.08 + math.Sqrt(6.08*6.08+4*24.22*u)) / (2 * 24.22)
	gapMM = 10 * root * root / density
	if _, err := Breakdown(gapMM, density); err != nil {
		return 0, invalid.Error{Expected: fmt.Sprintf("kilovolts that some gap within the law proves (product of gap and density %g to %g cm)", least, most), Got: fmt.Sprintf("%.1f kV", kV)}
	}
	return gapMM, nil
}

// AirKPa is the pressure of the standard atmosphere at an altitude in metres, up to
// 11 000 (P: ISO 2533, from memory): 101.325 kPa at sea level, 89.9 at 1000 m.
func AirKPa(altitude float64) float64 {
	return 101.325 * math.Pow(1-2.25577e-5*altitude, 5.25588)
}

// AirDensity is the relative density of open air.
func AirDensity(kPa, celsius float64) float64 { return Density(kPa, celsius+273.15, 1) }

// Condition is how the engine runs, in what it asks of the spark.
type Condition struct {
	ID, Words string
	// Throttle is the manifold's pressure as a share of the air's: 0.97 is wide open.
	// ChargeK is the charge's temperature in kelvin.
	Throttle, ChargeK float64
	Source            string
}

// Conditions are those that a test is held against (C; the pressures of a warm engine,
// judgement; at sea level 35, 60 and 98 kPa).
var Conditions = []Condition{
	{"idle", "warm idle", 0.345, 330, "C"},
	{"cruise", "steady cruise", 0.59, 330, "C"},
	{"load", "full load", 0.97, 330, "C"},
}

// Need is what one condition asks for, in kilovolts, and whether a test clears it.
type Need struct {
	Condition Condition
	KV        float64
	Cleared   bool
}

// Scale is a test in one picture: what it proves beside what each condition needs.
type Scale struct {
	Proof Range
	Needs []Need
}

// Needs is what an engine asks for in each condition: its plug gap in millimetres, its
// effective volume ratio at the spark and the air's pressure; proven is the low end of
// what a test has proven, in kilovolts.
func Needs(gapMM, ratio, airKPa, proven float64) ([]Need, error) {
	var all []Need
	for _, c := range Conditions {
		v, err := Breakdown(gapMM, Density(c.Throttle*airKPa, c.ChargeK, ratio))
		if err != nil {
			return nil, err
		}
		all = append(all, Need{c, v, v <= proven})
	}
	return all, nil
}

// Factors lists what raises and lowers the need beside gap and density (C; judgement).
var Factors = []struct {
	ID, Words string
	Factor    float64
	Source    string
}{
	{"worn", "worn, rounded electrodes", 1.25, "C"},
	{"lean", "lean mixture", 1.20, "C"},
	{"polarity", "wrong polarity", 1.25, "C"},
	{"rich", "rich mixture", 0.90, "C"},
	{"sharp", "new, sharp, hot electrodes", 0.85, "C"},
}
