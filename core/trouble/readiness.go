package trouble

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/invalid"
)

// Monitor is a self-test that a control unit runs while the vehicle is driven.
type Monitor string

// Monitors lists the monitors in the order of the readiness byte of service $01, PID $01 (SAE J1979, from
// memory).
var Monitors = []struct {
	Monitor Monitor
	Words   string
}{
	{"misfire", "misfire"},
	{"fuel-system", "fuel system"},
	{"components", "components"},
	{"catalyst", "catalyst"},
	{"heated-catalyst", "heated catalyst"},
	{"evaporation", "evaporative system"},
	{"secondary-air", "secondary air"},
	{"oxygen-sensor", "oxygen sensors"},
	{"oxygen-heater", "oxygen sensor heaters"},
	{"exhaust-recirculation", "exhaust recirculation or valve timing"},
}

// Words returns the monitor in words.
func (m Monitor) Words() string {
	for _, row := range Monitors {
		if row.Monitor == m {
			return row.Words
		}
	}
	return string(m)
}

// Readiness is which monitors have completed since the codes were last cleared.
type Readiness struct {
	// Incomplete lists those that have not.
	Incomplete []Monitor `json:"incomplete"`
}

// Check returns an error for monitors that are unknown or listed twice.
func (r Readiness) Check() error {
	var bad invalid.Errors
	for i, m := range r.Incomplete {
		known := slices.ContainsFunc(Monitors, func(row struct {
			Monitor Monitor
			Words   string
		}) bool {
			return row.Monitor == m
		})
		if !known || slices.Contains(r.Incomplete[:i], m) {
			bad.Add(fmt.Sprintf("incomplete[%d]", i), "a monitor such as misfire or catalyst, once", invalid.Quote(string(m)))
			break
		}
	}
	return bad.Err()
}

// Words returns the state after a semicolon: "; not ready: catalyst", or "" for nil.
func (r *Readiness) Words() string {
	if r == nil {
		return ""
	}
	if len(r.Incomplete) == 0 {
		return "; all monitors ready"
	}
	words := make([]string, len(r.Incomplete))
	for i, m := range r.Incomplete {
		words[i] = m.Words()
	}
	return "; not ready: " + strings.Join(words, ", ")
}
