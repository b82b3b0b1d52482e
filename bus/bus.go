// Package bus connects to the CAN bus of a vehicle and asks its control units. A bus is reached by SocketCAN, over TCP as the
// lines of a log, or it is that of the simulated vehicle.
package bus

import (
	"context"
	"errors"
	"fmt"
	"strings"

	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/obd"
)

// Bus is the diagnostic bus of one vehicle.
type Bus interface {
	// Send sends a frame.
	Send(f obd.Frame) error
	// Frames returns the answers of control units, with the time of the vehicle. It is closed when the connection ends.
	Frames() <-chan obd.Stamped
	// Close ends the connection.
	Close() error
}

// Drivable is a bus whose vehicle is driven from here: that of the simulated vehicle.
type Drivable interface {
	Bus
	// Command sends a command of the simulated vehicle and returns its state afterwards.
	Command(ctx context.Context, text string) (State, error)
	// Become makes the vehicle that of a job as it now stands.
	Become(ctx context.Context, j job.Job) error
}

// State is that of the simulated vehicle.
type State struct {
	Doing  string  `json:"doing"`
	Wet    bool    `json:"wet"`
	Pace   float64 `json:"pace"`
	Silent string  `json:"silent,omitzero"` // the unit that does not answer
}

// ErrLost means that the connection to the bus ended.
var ErrLost = errors.New("the connection to the vehicle's bus ended")

// Address says how the vehicles of a workshop are reached.
type Address struct{ kind, at string }

// The kinds of address.
const (
	kindCAN = "can"
	kindTCP = "tcp"
	kindSim = "sim"
)

// ParseAddress reads can:INTERFACE, tcp:HOST:PORT or sim:HOST:PORT.
func ParseAddress(s string) (Address, error) {
	kind, at, ok := strings.Cut(s, ":")
	known := kind == kindCAN || kind == kindTCP || kind == kindSim
	if !ok || at == "" || !known {
		return Address{}, invalid.Error{Field: "vehicle", Expected: "can:can0, tcp:HOST:PORT, or sim:HOST:PORT for the simulated vehicle", Got: invalid.Quote(s)}
	}
	return Address{kind, at}, nil
}

// String returns the address as it is written.
func (a Address) String() string { return a.kind + ":" + a.at }

// Shared reports whether all jobs have the same bus: one cable goes to one vehicle. The simulated vehicle is another one for
// each job.
func (a Address) Shared() bool { return a.kind != kindSim }

// Connect connects to the vehicle of a job.
func (a Address) Connect(ctx context.Context, j job.Job) (Bus, error) {
	switch a.kind {
	case kindCAN:
		return openCAN(ctx, a.at)
	}
	b, err := dial(ctx, a.at)
	if err != nil {
		return nil, err
	}
	if a.kind == kindTCP {
		return plain{b}, nil
	}
	if err := b.Become(ctx, j); err != nil {
		return nil, errors.Join(fmt.Errorf("the simulated vehicle: %w", err), b.Close())
	}
	return b, nil
}

// plain is a bus over TCP whose vehicle takes no commands.
type plain struct{ Bus }

// waiting is how many answers wait to be read before further ones are dropped.
const waiting = 1024

// heard passes on the frames that are answers of control units.
type heard struct{ frames chan obd.Stamped }

func newHeard() heard { return heard{make(chan obd.Stamped, waiting)} }

func (h heard) hear(f obd.Stamped) {
	if _, ok := obd.From(f.Frame); !ok {
		return
	}
	select {
	case h.frames <- f:
	default: // nobody has read a thousand answers: nobody asked
	}
}

// Frames returns the answers.
func (h heard) Frames() <-chan obd.Stamped { return h.frames }
