package obd

import (
	"errors"
	"fmt"
	"time"
)

// MaxMessage is the longest message of classic ISO-TP, in bytes.
const MaxMessage = 4095

// Kinds of frames, in the high four bits of the first byte (ISO 15765-2).
const (
	single      = 0x0
	first       = 0x1
	consecutive = 0x2
	flowControl = 0x3
)

// padding fills frames that are sent up to eight bytes.
const padding = 0x00

// Errors of the transport.
var (
	// ErrSequence means that a frame is missing, doubled or out of order. The message is lost.
	ErrSequence = errors.New("a frame of the message is missing, doubled or out of order")
	// ErrFrame means that the bytes are no frame of ISO-TP.
	ErrFrame = errors.New("not a frame of ISO-TP")
	// ErrLength means that a message is empty or too long.
	ErrLength = fmt.Errorf("expected a message of 1 to %d bytes", MaxMessage)
	// ErrOverflow means that the receiver has no room for the message.
	ErrOverflow = errors.New("the receiver has no room for the message")
)

// Receiver puts the frames of one sender together. The zero value is ready.
type Receiver struct {
	data []byte
	want int
	next byte // sequence number that is expected
}

// Busy reports whether a message is under way.
func (r *Receiver) Busy() bool { return r.want > 0 }

// Take reads a frame. message is not nil once a message is whole. answer is true if the sender waits for flow control. After an
// error the message that was under way is lost; a first frame begins another one in its place.
func (r *Receiver) Take(f Frame) (message []byte, answer bool, err error) {
	b := f.Data[:min(f.Len, 8)]
	if len(b) == 0 {
		return nil, false, ErrFrame
	}
	switch b[0] >> 4 {
	case single:
		n := int(b[0] & 0xF)
		if n == 0 || n > len(b)-1 {
			return nil, false, ErrFrame
		}
		r.want = 0
		return append([]byte(nil), b[1:1+n]...), false, nil
	case first:
		if len(b) < 8 {
			return nil, false, ErrFrame
		}
		n := int(b[0]&0xF)<<8 | int(b[1])
		if n < 8 { // it would be a single frame; 0 announces a longer form that no service of these needs
			return nil, false, ErrFrame
		}
		r.want, r.next, r.data = n, 1, append(make([]byte, 0, n), b[2:]...)
		return nil, true, nil
	case consecutive:
		if r.want == 0 {
			return nil, false, nil // the rest of a message that was abandoned
		}
		rest := min(7, r.want-len(r.data))
		if b[0]&0xF != r.next || len(b)-1 < rest {
			r.want = 0
			return nil, false, ErrSequence
		}
		r.data = append(r.data, b[1:1+rest]...)
		r.next = (r.next + 1) & 0xF
		if len(r.data) < r.want {
			return nil, false, nil
		}
		r.want = 0
		return r.data, false, nil
	}
	return nil, false, nil // flow control is for senders
}

// ContinueFrame is the flow control that lets a sender go on without a pause: to the unit, from the tester.
func ContinueFrame(u Unit) Frame {
	return padded(u.request(), u.Extended(), []byte{flowControl << 4, 0, 0})
}

func padded(id uint32, extended bool, data []byte) Frame {
	f := NewFrame(id, extended, data...)
	for i := int(f.Len); i < 8; i++ {
		f.Data[i] = padding
	}
	f.Len = 8
	return f
}

// Sender cuts a message into frames.
type Sender struct {
	id       uint32
	extended bool
	rest     []byte
	next     byte
}

// NewSender returns the first frame of a message, and a sender for the others. It fails with ErrLength.
func NewSender(id uint32, extended bool, message []byte) (*Sender, Frame, error) {
	s := &Sender{id: id, extended: extended, next: 1}
	switch n := len(message); {
	case n == 0 || n > MaxMessage:
		return nil, Frame{}, ErrLength
	case n < 8:
		return s, padded(id, extended, append([]byte{byte(n)}, message...)), nil
	default:
		s.rest = append([]byte(nil), message[6:]...)
		return s, padded(id, extended, append([]byte{first<<4 | byte(n>>8), byte(n)}, message[:6]...)), nil //nolint:gosec // 12 bits
	}
}

// Done reports whether Take has returned the last frame.
func (s *Sender) Done() bool { return len(s.rest) == 0 }

// Take reads a flow control and returns the frames that may be sent now, with the pause between two of them. wait is true if the
// receiver asks to wait for another flow control. It fails with ErrOverflow or ErrFrame, and the message is then abandoned.
func (s *Sender) Take(f Frame) (frames []Frame, pause time.Duration, wait bool, err error) {
	b := f.Data[:min(f.Len, 8)]
	if len(b) < 3 || b[0]>>4 != flowControl {
		return nil, 0, false, ErrFrame
	}
	switch b[0] & 0xF {
	case 1:
		return nil, 0, true, nil
	case 2:
		s.rest = nil
		return nil, 0, false, ErrOverflow
	case 0:
	default:
		return nil, 0, false, ErrFrame
	}
	for block := int(b[1]); len(s.rest) > 0; { // a block of 0 has no end
		n := min(7, len(s.rest))
		frames = append(frames, padded(s.id, s.extended, append([]byte{consecutive<<4 | s.next}, s.rest[:n]...)))
		s.rest, s.next = s.rest[n:], (s.next+1)&0xF
		if block--; block == 0 {
			break
		}
	}
	return frames, separation(b[2]), false, nil
}

// separation is the least time between two consecutive frames: 0 to 127 ms, or 100 to 900 µs for F1 to F9; the other
// values are reserved and mean 127 ms (ISO 15765-2, from memory).
func separation(b byte) time.Duration {
	switch {
	case b <= 0x7F:
		return time.Duration(b) * time.Millisecond
	case b >= 0xF1 && b <= 0xF9:
		return time.Duration(b-0xF0) * 100 * time.Microsecond
	}
	return 127 * time.Millisecond
}
