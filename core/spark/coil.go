package spark

import "math"

// Charge is the state of a coil's primary at the end of a dwell.
type Charge struct {
	Amperes float64 // at the end
	Final   float64 // final current in amperes
	MJ      float64 // stored, in millijoules
	Tau     float64 // time constant, in milliseconds
}

// Charging returns the charge of a primary with resistance in ohms and inductance in
// millihenries on a voltage, after a dwell in milliseconds: i = V/R·(1 − e^(−tR/L)), E =
// ½·L·i² (textbook). All arguments are above 0.
func Charging(volts, ohms, mH, ms float64) Charge {
	c := Charge{Final: volts / ohms, Tau: mH / ohms}
	c.Amperes = c.Final * -math.Expm1(-ms/c.Tau)
	c.MJ = 0.5 * mH * c.Amperes * c.Amperes
	return c
}
