// Package spark computes the voltage to jump a gap: breakdown of air by gap and density, and
// density of the charge at the moment of the spark.
package spark

import (
	"fmt"
	"math"

	"glenmist/core/invalid"
)

// Valid range in centimetres of gap times relative density. Paschen's minimum, about 327 V,
// lies below it. Values above it are not checked here.
const (
	least = 0.01
	most  = 2.0
)

// Reference air: 101.3 kPa and 293 K have the relative density 1.
const (
	referenceKPa = 101.3
	referenceK   = 293.0
)

// Breakdown returns the peak voltage in kilovolts at which air of a relative density breaks
// down in a near-uniform field: U = 24.22·δd + 6.08·√(δd), d in centimetres (P: Kuffel, Zaengl
// and Kuffel, High Voltage Engineering, from memory). Points and edges break down at lower
// voltage. gapMM is in millimetres. Outside the valid range it returns an error.
func Breakdown(gapMM, density float64) (kV float64, err error) {
	dd := gapMM / 10 * density
	if !(dd >= least && dd <= most) {
		return 0, invalid.Error{Expected: fmt.Sprintf("a gap and a density whose product is %g to %g cm", least, most), Got: fmt.Sprintf("%.3g cm", dd)}
	}
	return 24.22*dd + 6.08*math.Sqrt(dd), nil
}

// Density returns the relative density of a charge at the spark, from the manifold pressure in
// kilopascals, the charge temperature in kelvin and the effective volume ratio r at the spark
// angle. Along a polytrope p = p₁·rⁿ and T = T₁·rⁿ⁻¹, so density rises by r for any n
// (textbook).
func Density(manifoldKPa, chargeK, ratio float64) float64 {
	return manifoldKPa / referenceKPa * referenceK / chargeK * ratio
}
