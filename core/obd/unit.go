package obd

import "fmt"

// Unit is a control unit, named by the id of its answers: 0x7E8 to 0x7EF with 11 bits, 0x18DAF1uu with 29 bits, where uu is its
// address and F1 that of the tester (ISO 15765-4, from memory).
type Unit uint32

// Ids of requests to all units.
const (
	toAll         = 0x7DF
	toAllExtended = 0x18DB33F1
)

// Masks of the other ids.
const (
	firstAnswer   = 0x7E8
	lastAnswer    = 0x7EF
	firstRequest  = 0x7E0
	answerMask    = 0x18DAF100
	requestMask   = 0x18DA00F1
	requestIsMask = 0x1FFF00FF
)

// String names the unit by the id of its answers: "unit 7E8".
func (u Unit) String() string { return fmt.Sprintf("unit %X", uint32(u)) }

// Extended reports whether the unit uses ids of 29 bits.
func (u Unit) Extended() bool { return u > maxID }

// request is the id of requests to this unit alone, which flow control uses.
func (u Unit) request() uint32 {
	if u.Extended() {
		return requestMask | uint32(u)&0xFF<<8
	}
	return uint32(u) - firstAnswer + firstRequest
}

// From returns the unit that answers with a frame; ok is false if the frame is no answer.
func From(f Frame) (u Unit, ok bool) {
	if f.Extended {
		return Unit(f.ID), f.ID&^0xFF == answerMask
	}
	return Unit(f.ID), f.ID >= firstAnswer && f.ID <= lastAnswer
}

// Asked reports whether a frame goes from a tester to units: to all of them, or to one, whose answers then have the id of one.
func Asked(f Frame) (all bool, one Unit, ok bool) {
	switch {
	case f.Extended && f.ID == toAllExtended, !f.Extended && f.ID == toAll:
		return true, 0, true
	case f.Extended && f.ID&requestIsMask == requestMask:
		return false, Unit(answerMask | f.ID>>8&0xFF), true
	case !f.Extended && f.ID >= firstRequest && f.ID < firstAnswer:
		return false, Unit(f.ID - firstRequest + firstAnswer), true
	}
	return false, 0, false
}

// AnswerFrames is how a unit sends a message: its first frame, and a sender for those after flow control. It fails with ErrLength.
func (u Unit) AnswerFrames(message []byte) (*Sender, Frame, error) {
	return NewSender(uint32(u), u.Extended(), message)
}
