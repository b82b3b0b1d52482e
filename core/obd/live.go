package obd

import (
	"fmt"
	"math"

	"glenmist/core/invalid"
)

// PID is a value of live data or of a freeze frame.
type PID byte

// The values that Glenmist uses by name.
const (
	Supported   PID = 0x00
	Readiness   PID = 0x01
	FrameCode   PID = 0x02
	Load        PID = 0x04
	Coolant     PID = 0x05
	ShortTrim1  PID = 0x06
	LongTrim1   PID = 0x07
	ShortTrim2  PID = 0x08
	LongTrim2   PID = 0x09
	Manifold    PID = 0x0B
	RPM         PID = 0x0C
	Speed       PID = 0x0D
	Advance     PID = 0x0E
	IntakeAir   PID = 0x0F
	AirFlow     PID = 0x10
	Throttle    PID = 0x11
	SinceStart  PID = 0x1F
	SinceClear  PID = 0x31
	Barometer   PID = 0x33
	UnitVoltage PID = 0x42
	Ambient     PID = 0x46
)

// Row describes a PID: its length, and how the number in its bytes becomes a figure: number × factor − offset.
type Row struct {
	PID            PID
	Words          string
	Unit           string
	Bytes          int
	factor, offset float64
}

func (r Row) read(b []byte) float64 {
	n := 0
	for _, x := range b {
		n = n<<8 | int(x)
	}
	return float64(n)*r.factor - r.offset
}

// AppendValue writes a PID and its figure: the nearest that its bytes can hold. A PID that is no figure is left out.
func AppendValue(data []byte, pid PID, value float64) []byte {
	row, known := rowOf[pid]
	if !known {
		return data
	}
	return row.append(append(data, byte(pid)), value)
}

// AppendFrameValue is [AppendValue] for freeze frame 0.
func AppendFrameValue(data []byte, pid PID, value float64) []byte {
	row, known := rowOf[pid]
	if !known {
		return data
	}
	return row.append(append(data, byte(pid), 0), value)
}

func (r Row) append(data []byte, value float64) []byte {
	most := float64(int(1)<<(8*r.Bytes) - 1)
	n := int(min(max(math.Round((value+r.offset)/r.factor), 0), most))
	for i := r.Bytes - 1; i >= 0; i-- {
		data = append(data, byte(n>>(8*i))) //nolint:gosec // the low byte is meant
	}
	return data
}

// Rows lists the PIDs that can be read as one figure (SAE J1979, appendix B, from memory). Bits and texts have other readers.
var Rows = []Row{
	{Load, "calculated load", "%", 1, 100.0 / 255, 0},
	{Coolant, "coolant", "°C", 1, 1, 40},
	{ShortTrim1, "short trim, bank 1", "%", 1, 100.0 / 128, 100},
	{LongTrim1, "long trim, bank 1", "%", 1, 100.0 / 128, 100},
	{ShortTrim2, "short trim, bank 2", "%", 1, 100.0 / 128, 100},
	{LongTrim2, "long trim, bank 2", "%", 1, 100.0 / 128, 100},
	{Manifold, "manifold pressure", "kPa", 1, 1, 0},
	{RPM, "engine speed", "rpm", 2, 1.0 / 4, 0},
	{Speed, "vehicle speed", "km/h", 1, 1, 0},
	{Advance, "spark advance, cylinder 1", "°", 1, 1.0 / 2, 64},
	{IntakeAir, "intake air", "°C", 1, 1, 40},
	{AirFlow, "air flow", "g/s", 2, 1.0 / 100, 0},
	{Throttle, "throttle", "%", 1, 100.0 / 255, 0},
	{SinceStart, "time since start", "s", 2, 1, 0},
	{SinceClear, "distance since cleared", "km", 2, 1, 0},
	{Barometer, "barometer", "kPa", 1, 1, 0},
	{UnitVoltage, "control unit's supply", "V", 2, 1.0 / 1000, 0},
	{Ambient, "outside air", "°C", 1, 1, 40},
}

var rowOf = func() map[PID]Row {
	all := map[PID]Row{}
	for _, r := range Rows {
		all[r.PID] = r
	}
	return all
}()

// lengths are those of PIDs that are no figure, in bytes.
var lengths = map[PID]int{Readiness: 4, FrameCode: 2, 0x20: 4, 0x40: 4, 0x60: 4, Supported: 4}

// Value is a figure that a unit told.
type Value struct {
	PID   PID
	Value float64
}

// Row returns what is known of its PID.
func (v Value) Row() Row { return rowOf[v.PID] }

// ReadValues reads an answer to live data: one PID or several, each with its bytes. PIDs that are no figure are left out.
func ReadValues(data []byte) (all []Value, err error) {
	return readValues(data, 0)
}

// ReadFrameValues reads an answer to a freeze frame: as live data, with the number of the frame after each PID.
func ReadFrameValues(data []byte) (all []Value, err error) {
	return readValues(data, 1)
}

func readValues(data []byte, between int) (all []Value, err error) {
	for len(data) > 0 {
		pid := PID(data[0])
		row, figure := rowOf[pid]
		n := row.Bytes
		if !figure {
			n = lengths[pid]
		}
		if n == 0 {
			return all, invalid.Error{Field: "pid", Expected: "a PID of a known length", Got: fmt.Sprintf("%02X", byte(pid))}
		}
		if len(data) < 1+between+n {
			return all, invalid.Error{Field: fmt.Sprintf("pid %02X", byte(pid)), Expected: fmt.Sprintf("%d bytes", n), Got: fmt.Sprint(max(0, len(data)-1-between))}
		}
		if bytes := data[1+between : 1+between+n]; figure {
			all = append(all, Value{pid, row.read(bytes)})
		}
		data = data[1+between+n:]
	}
	return all, nil
}

// ReadSupported reads which of the 32 ids after a base a unit has, from an answer to one of 00, 20, 40 and so on. It serves PIDs,
// monitors and kinds of information alike. data begins with the base.
func ReadSupported(data []byte) (all []byte, err error) {
	if len(data) < 5 || data[0]%0x20 != 0 {
		return nil, invalid.Error{Field: "supported", Expected: "an id that 20 divides, and four bytes", Got: fmt.Sprintf("% X", data)}
	}
	for i := range 32 {
		if data[1+i/8]&(0x80>>(i%8)) != 0 {
			all = append(all, data[0]+byte(i)+1) //nolint:gosec // i is below 32, and E0+20 is the last
		}
	}
	return all, nil
}

// AppendSupported writes which ids after a base a unit has, as [ReadSupported] reads them.
func AppendSupported(data []byte, base byte, has func(id byte) bool) []byte {
	var bits [4]byte
	for i := range 32 {
		if has(base + byte(i) + 1) { //nolint:gosec // a base is at most E0
			bits[i/8] |= 0x80 >> (i % 8)
		}
	}
	return append(append(data, base), bits[:]...)
}
