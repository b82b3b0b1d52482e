package spark

import "math"

// Charge is what a coil's primary has taken up at the end of a dwell.
type Charge struct {
	Amperes float64 // at the end
	Final   float64 // amperes that it would settle at
	MJ      float64 // stored, in millijoules
	Tau     float64 // time constant, in milliseconds
}

// Charging is a primary of some ohms and millihenries on some volts after a dwell in
// milliseconds: i = V/R·(1 − e^(−tR/L)), ½·L·i² (textbook). All are above 0.
func Charging(volts, ohms, mH, ms float64) Charge {
	c := Charge{Final: volts / ohms, Tau: mH / ohms}
	c.Amperes = c.Final * -math.Expm1(-ms/c.Tau)
	c.MJ = 0.5 * mH * c.Amperes * c.Amperes
	return c
}
