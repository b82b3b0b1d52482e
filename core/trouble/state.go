package trouble

import (
	"glenmist/core/invalid"
)

// State is how a control unit holds a code.
type State string

// The three states. A pending code was seen once; a stored one is confirmed; a
// permanent one cannot be cleared with a tool and goes by itself after its
// monitor has run and passed (SAE J1979 services $07, $03 and $0A, from memory).
const (
	Pending   State = "pending"
	Stored    State = "stored"
	Permanent State = "permanent"
)

// States lists the states in the order in which a code passes through them.
var States = []State{Pending, Stored, Permanent}

// ParseState reads a state; an empty word means stored.
func ParseState(s string) (State, error) {
	if s == "" {
		return Stored, nil
	}
	for _, state := range States {
		if s == string(state) {
			return state, nil
		}
	}
	return "", invalid.Error{Expected: "stored, pending or permanent", Got: invalid.Quote(s)}
}

// Reading is one code as it was read from the control unit.
type Reading struct {
	Code  Code  `json:"code"`
	State State `json:"state"`
	// Text is what the scan tool printed beside it, if it was kept.
	Text string `json:"text,omitzero"`
}
