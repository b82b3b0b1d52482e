package obd

import (
	"fmt"

	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// ReadCodes reads an answer to stored, pending or permanent codes: their number, then two bytes each (on CAN).
func ReadCodes(data []byte) (all []trouble.Code, err error) {
	if len(data) == 0 {
		return nil, invalid.Error{Field: "codes", Expected: "how many there are", Got: "nothing"}
	}
	n := int(data[0])
	if len(data) < 1+2*n {
		return nil, invalid.Error{Field: "codes", Expected: fmt.Sprintf("%d bytes for %d codes", 2*n, n), Got: fmt.Sprint(len(data) - 1)}
	}
	for i := range n {
		if c := trouble.Code(data[1+2*i])<<8 | trouble.Code(data[2+2*i]); c != 0 { // 0 is padding
			all = append(all, c)
		}
	}
	return all, nil
}

// AppendCodes writes codes as [ReadCodes] reads them; those after the 255th are left out.
func AppendCodes(data []byte, codes []trouble.Code) []byte {
	codes = codes[:min(len(codes), 255)]
	data = append(data, byte(len(codes))) //nolint:gosec // at most 255
	for _, c := range codes {
		data = append(data, byte(c>>8), byte(c)) //nolint:gosec // the low byte is meant
	}
	return data
}

// Status is an answer to PID 01.
type Status struct {
	// Lamp is true if the lamp is commanded on; Codes is how many stored codes concern emissions.
	Lamp  bool
	Codes int
	trouble.Readiness
}

// readinessBits place each monitor in the bytes B, C and D (SAE J1979, from memory): the byte and bit that say that the unit has
// it, and those that say that it has not completed. Those of C and D are for spark ignition.
var readinessBits = []struct {
	monitor           trouble.Monitor
	byteOf, bit       int
	incomplete, incBt int
}{
	{"misfire", 1, 0, 1, 4}, {"fuel-system", 1, 1, 1, 5}, {"components", 1, 2, 1, 6},
	{"catalyst", 2, 0, 3, 0}, {"heated-catalyst", 2, 1, 3, 1}, {"evaporation", 2, 2, 3, 2}, {"secondary-air", 2, 3, 3, 3},
	{"oxygen-sensor", 2, 5, 3, 5}, {"oxygen-heater", 2, 6, 3, 6}, {"exhaust-recirculation", 2, 7, 3, 7},
}

// compression is the bit of byte B that marks an engine without sparks.
const compression = 1 << 3

// ReadStatus reads an answer to PID 01, with the PID before it. It fails for an engine without sparks.
func ReadStatus(data []byte) (s Status, err error) {
	if len(data) < 5 || PID(data[0]) != Readiness {
		return s, invalid.Error{Field: "readiness", Expected: "01 and four bytes", Got: fmt.Sprintf("% X", data)}
	}
	b := data[1:5]
	if b[1]&compression != 0 {
		return s, invalid.Error{Field: "readiness", Expected: "an engine with sparks", Got: "one with compression ignition"}
	}
	s.Lamp, s.Codes = b[0]&0x80 != 0, int(b[0]&0x7F)
	for _, m := range readinessBits {
		if b[m.byteOf]&(1<<m.bit) != 0 && b[m.incomplete]&(1<<m.incBt) != 0 {
			s.Incomplete = append(s.Incomplete, m.monitor)
		}
	}
	return s, nil
}

// AppendStatus writes PID 01 for an engine that has the given monitors, some of them incomplete.
func AppendStatus(data []byte, s Status, has []trouble.Monitor) []byte {
	var b [4]byte
	b[0] = byte(min(s.Codes, 0x7F)) //nolint:gosec // at most 127
	if s.Lamp {
		b[0] |= 0x80
	}
	in := func(list []trouble.Monitor, m trouble.Monitor) bool {
		for _, x := range list {
			if x == m {
				return true
			}
		}
		return false
	}
	for _, m := range readinessBits {
		if in(has, m.monitor) {
			b[m.byteOf] |= 1 << m.bit
			if in(s.Incomplete, m.monitor) {
				b[m.incomplete] |= 1 << m.incBt
			}
		}
	}
	return append(append(data, byte(Readiness)), b[:]...)
}
