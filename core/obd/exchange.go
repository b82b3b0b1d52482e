package obd

import (
	"errors"
	"fmt"
	"slices"
	"time"
)

// Service is a diagnostic service (SAE J1979).
type Service byte

// The services.
const (
	LiveData       Service = 0x01
	FreezeFrame    Service = 0x02
	StoredCodes    Service = 0x03
	Clear          Service = 0x04
	MonitorResults Service = 0x06
	PendingCodes   Service = 0x07
	Information    Service = 0x09
	PermanentCodes Service = 0x0A
)

// services are their words.
var services = map[Service]string{LiveData: "live data", FreezeFrame: "freeze frame", StoredCodes: "stored codes", Clear: "clear", MonitorResults: "monitor results",
	PendingCodes: "pending codes", Information: "information", PermanentCodes: "permanent codes"}

// String is the service as the trade writes it: "$03 stored codes".
func (s Service) String() string {
	if words := services[s]; words != "" {
		return fmt.Sprintf("$%02X %s", byte(s), words)
	}
	return fmt.Sprintf("$%02X", byte(s))
}

// Timing of an exchange (ISO 15765-4, from memory).
const (
	// AnswerTime is how long a unit may take to answer. The standard gives it 50 ms; twice that lets a gateway stand between.
	AnswerTime = 100 * time.Millisecond
	// PendingTime is how long it may take after it has asked for more time.
	PendingTime = 5 * time.Second
	// FrameTime is how long the next frame of a message may take.
	FrameTime = time.Second
	// mostPending bounds how often a unit may ask for more time.
	mostPending = 24
)

// Codes of negative answers (ISO 14229-1, from memory).
const (
	negative = 0x7F
	pending  = 0x78
)

var negatives = map[byte]string{
	0x10: "general reject", 0x11: "service not supported", 0x12: "sub-function not supported", 0x13: "wrong length of the request", 0x21: "busy, repeat the request",
	0x22: "conditions not correct: mostly the engine must be off, the ignition on", 0x31: "request out of range", 0x33: "access denied", pending: "answer pending",
}

// Refusal is a negative answer.
type Refusal struct {
	Service Service
	Code    byte
}

// Error names the service and the reason.
func (r Refusal) Error() string {
	words := negatives[r.Code]
	if words == "" {
		words = "unknown reason"
	}
	return fmt.Sprintf("%s is refused: %s (%02X)", r.Service, words, r.Code)
}

// ErrSilent means that a unit began an answer, or asked for more time, and then sent nothing.
var ErrSilent = errors.New("the unit stopped answering")

// Answer holds the bytes that one unit sent after the service, or an error.
type Answer struct {
	Unit Unit
	Data []byte
	Err  error // a Refusal, ErrSilent, or an error of the transport
}

// Request asks all units for a service, or one.
type Request struct {
	Service Service
	Params  []byte // up to six
	// To is the unit that is asked; 0 asks all. An exchange with one unit ends with its answer.
	To Unit
}

func ask(s Service, params ...byte) Request { return Request{Service: s, Params: params} }

// String is the request as bytes: "01 0C".
func (q Request) String() string {
	return fmt.Sprintf("% X", append([]byte{byte(q.Service)}, q.Params...))
}

// Frame is the frame that carries the request. extended chooses the ids for all units; one unit has its own.
func (q Request) Frame(extended bool) Frame {
	message := append([]byte{byte(q.Service)}, q.Params[:min(len(q.Params), 6)]...)
	id := uint32(toAll)
	switch {
	case q.To != 0:
		id, extended = q.To.request(), q.To.Extended()
	case extended:
		id = toAllExtended
	}
	return padded(id, extended, append([]byte{byte(len(message))}, message...))
}

// Exchange is one request with its answers. Times are durations since a moment that is the same for all calls.
type Exchange struct {
	Request Request
	until   time.Duration
	units   []*unitState
}

// unitState is the progress of one unit that has sent a frame.
type unitState struct {
	unit     Unit
	receiver Receiver
	until    time.Duration // 0: nothing more is expected
	pendings int
	answer   *Answer
}

// Begin returns the exchange of a request that was sent at a time.
func Begin(q Request, at time.Duration) *Exchange {
	return &Exchange{Request: q, until: at + AnswerTime}
}

// Take reads a frame from the bus. It returns the flow control to send, or nil. It ignores frames that are no answers.
func (x *Exchange) Take(at time.Duration, f Frame) (send *Frame) {
	u, ok := From(f)
	if !ok || x.Request.To != 0 && u != x.Request.To {
		return nil
	}
	i := slices.IndexFunc(x.units, func(s *unitState) bool { return s.unit == u })
	if i < 0 {
		i = len(x.units)
		x.units = append(x.units, &unitState{unit: u})
	}
	s := x.units[i]
	if s.answer != nil && s.answer.Err == nil {
		return nil // its answer is complete
	}
	message, more, err := s.receiver.Take(f)
	switch {
	case err != nil:
		s.end(nil, err)
	case more:
		s.answer, s.until = nil, at+FrameTime
		c := ContinueFrame(u)
		return &c
	case message == nil:
		if s.receiver.Busy() {
			s.until = at + FrameTime
		}
	default:
		s.take(x.Request.Service, message, at)
	}
	return nil
}

func (s *unitState) end(data []byte, err error) {
	s.answer, s.until = &Answer{s.unit, data, err}, 0
}

func (s *unitState) take(q Service, message []byte, at time.Duration) {
	switch {
	case message[0] == negative && len(message) >= 3 && message[1] == byte(q):
		if message[2] == pending && s.pendings < mostPending {
			s.pendings++
			s.until = at + PendingTime
			return
		}
		s.end(nil, Refusal{q, message[2]})
	case message[0] == byte(q)+0x40:
		s.end(message[1:], nil)
	}
}

// Until returns the time at which the exchange ends. A frame can move it.
func (x *Exchange) Until() time.Duration {
	until := x.until
	for _, s := range x.units {
		until = max(until, s.until)
	}
	return until
}

// Over reports whether the time for answers has passed, or the only unit that was asked has answered.
func (x *Exchange) Over(at time.Duration) bool {
	if x.Request.To != 0 && len(x.units) > 0 && x.units[0].answer != nil {
		return true
	}
	return at >= x.Until()
}

// Answers lists the answers by unit. Call it when the exchange is over: an incomplete answer then fails with ErrSilent.
func (x *Exchange) Answers() (all []Answer) {
	for _, s := range x.units {
		switch {
		case s.answer != nil:
			all = append(all, *s.answer)
		case s.until > 0:
			all = append(all, Answer{Unit: s.unit, Err: ErrSilent})
		}
	}
	slices.SortFunc(all, func(a, b Answer) int { return int(int64(a.Unit) - int64(b.Unit)) })
	return all
}
