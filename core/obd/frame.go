// Package obd speaks the diagnostic services of a vehicle: CAN frames, their transport, requests and answers, and what the
// answers hold. It is pure: bytes and times go in and come out, and no device is opened.
//
// Services and figures after SAE J1979, transport after ISO 15765-2 and -4 (from memory, as in the package's tables).
package obd

import (
	"encoding/hex"
	"fmt"
	"strconv"
	"strings"

	"glenmist/core/invalid"
)

// Frame is a classic CAN data frame: an id of 11 bits, or of 29 if Extended, and up to eight bytes.
type Frame struct {
	ID       uint32
	Extended bool
	Len      uint8
	Data     [8]byte
}

// Highest ids.
const (
	maxID         = 0x7FF
	maxExtendedID = 0x1FFFFFFF
)

// NewFrame returns a frame with up to eight bytes; more are left out.
func NewFrame(id uint32, extended bool, data ...byte) Frame {
	f := Frame{ID: id, Extended: extended}
	f.Len = uint8(copy(f.Data[:], data)) //nolint:gosec // at most 8
	return f
}

// Bytes returns the bytes of the frame.
func (f Frame) Bytes() []byte { return append([]byte(nil), f.Data[:min(f.Len, 8)]...) }

// String is the frame in the notation of candump logs: "7E8#064100BE1FA813".
func (f Frame) String() string {
	digits := 3
	if f.Extended {
		digits = 8
	}
	return fmt.Sprintf("%0*X#%X", digits, f.ID, f.Data[:min(f.Len, 8)])
}

// ParseFrame reads the notation of candump logs: three or eight hexadecimal digits of id, "#" and up to eight bytes.
func ParseFrame(s string) (Frame, error) {
	bad := invalid.Error{Expected: "a frame such as 7E8#064100BE1FA813: an id of 3 or 8 hexadecimal digits, # and up to 8 bytes", Got: invalid.Quote(s)}
	id, data, ok := strings.Cut(s, "#")
	if !ok || len(id) != 3 && len(id) != 8 || len(data) > 16 {
		return Frame{}, bad
	}
	n, err := strconv.ParseUint(id, 16, 32)
	bytes, err2 := hex.DecodeString(data)
	extended := len(id) == 8
	if err != nil || err2 != nil || !extended && n > maxID || n > maxExtendedID {
		return Frame{}, bad
	}
	return NewFrame(uint32(n), extended, bytes...), nil
}
