package spark

import (
	"fmt"
	"math"

	"glenmist/core/invalid"
)

// Shape is the electrode shape of a gap in open air. The formula is for near-uniform fields.
// Points and edges break down at lower voltage, so a gap proves a range of kilovolts.
type Shape struct {
	// ID is a stable identifier.
	ID, Words string
	// Low and High are the ends of the range as fractions of the formula's voltage.
	Low, High float64
	Source    string
}

// Shapes lists the shapes. The ranges are judgement from two facts: the formula is within 10 %
// of sphere gaps (P: IEC 60052, from memory), and needle gaps of some millimetres break down
// at well under half of it (C).
var Shapes = []Shape{
	{"plug", "a plug, as it is or opened wide", 0.70, 1.00, "C; judgement: edges and a short flat face"},
	{"points", "points, screw tips, a wire end", 0.40, 0.90, "C; judgement: clearly less from points"},
	{"smooth", "smooth, rounded faces", 0.90, 1.10, "P: IEC 60052 (from memory): the law within 10 % of sphere gaps"},
}

// FindShape finds a shape by its id.
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

// Proof returns the kilovolts that a spark over an open gap proves: at least Low, at most
// High. density is that of the ambient air.
func (s Shape) Proof(gapMM, density float64) (Range, error) {
	v, err := Breakdown(gapMM, density)
	return Range{s.Low * v, s.High * v}, err
}

// GapFor returns the gap in millimetres whose low end proves some kilovolts in air of a
// density. It returns an error outside the valid range.
func (s Shape) GapFor(kV, density float64) (gapMM float64, err error) {
	u := kV / s.Low
	root := (-6.08 + math.Sqrt(6.08*6.08+4*24.22*u)) / (2 * 24.22)
	gapMM = 10 * root * root / density
	if _, err := Breakdown(gapMM, density); err != nil {
		return 0, invalid.Error{Expected: fmt.Sprintf("kilovolts that some gap within the law proves (product of gap and density %g to %g cm)", least, most), Got: fmt.Sprintf("%.1f kV", kV)}
	}
	return gapMM, nil
}

// AirKPa returns the pressure of the standard atmosphere at an altitude in metres, up to 11
// 000 (P: ISO 2533, from memory): 101.325 kPa at sea level, 89.9 at 1000 m.
func AirKPa(altitude float64) float64 {
	return 101.325 * math.Pow(1-2.25577e-5*altitude, 5.25588)
}

// AirDensity returns the relative density of ambient air.
func AirDensity(kPa, celsius float64) float64 { return Density(kPa, celsius+273.15, 1) }

// Condition is an operating point of the engine, by its demand on the spark.
type Condition struct {
	ID, Words string
	// Throttle is the ratio of manifold to ambient pressure: 0.97 is wide open. ChargeK is the
	// charge temperature in kelvin.
	Throttle, ChargeK float64
	Source            string
}

// Conditions lists the operating points that a test is compared with (C; pressures of a warm
// engine, judgement; at sea level 35, 60 and 98 kPa).
var Conditions = []Condition{
	{"idle", "warm idle", 0.345, 330, "C"},
	{"cruise", "steady cruise", 0.59, 330, "C"},
	{"load", "full load", 0.97, 330, "C"},
}

// Need is the demand of one condition in kilovolts, and whether a test exceeds it.
type Need struct {
	Condition Condition
	KV        float64
	Cleared   bool
}

// Scale compares the proof of a test with the demand of each condition.
type Scale struct {
	Proof Range
	Needs []Need
}

// Needs returns the demand in each condition, from the plug gap in millimetres, the effective
// volume ratio at the spark and the ambient pressure. proven is the low end of a test's proof
// in kilovolts.
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

// Factors lists what raises and lowers the demand besides gap and density (C; judgement).
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
