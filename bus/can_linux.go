package bus

import (
	"context"
	"errors"
	"fmt"
	"net"
	"sync"
	"time"

	"go.einride.tech/can"
	"go.einride.tech/can/pkg/socketcan"

	"glenmist/core/obd"
)

// socket is a bus of SocketCAN. It has no time of the vehicle: frames get the time at which they arrived.
type socket struct {
	heard
	conn    net.Conn
	sending sync.Mutex
	out     *socketcan.Transmitter
	began   time.Time
}

func openCAN(ctx context.Context, name string) (Bus, error) {
	conn, err := socketcan.DialContext(ctx, "can", name)
	if err != nil {
		return nil, fmt.Errorf("expected a CAN interface %s that is up: %w", name, err)
	}
	return onSocket(conn), nil
}

func onSocket(conn net.Conn) *socket {
	s := &socket{heard: newHeard(), conn: conn, out: socketcan.NewTransmitter(conn), began: time.Now()}
	go s.read()
	return s
}

func (s *socket) read() {
	defer close(s.frames)
	for in := socketcan.NewReceiver(s.conn); in.Receive(); {
		if in.HasErrorFrame() {
			continue
		}
		if f := in.Frame(); !f.IsRemote {
			s.hear(obd.Stamped{At: time.Since(s.began), Frame: obd.Frame{ID: f.ID, Extended: f.IsExtended, Len: f.Length, Data: f.Data}})
		}
	}
}

// Send sends a frame.
func (s *socket) Send(f obd.Frame) error {
	s.sending.Lock()
	defer s.sending.Unlock()
	ctx, cancel := context.WithTimeout(context.Background(), writeTime)
	defer cancel()
	if err := s.out.TransmitFrame(ctx, can.Frame{ID: f.ID, IsExtended: f.Extended, Length: f.Len, Data: f.Data}); err != nil {
		return errors.Join(ErrLost, err)
	}
	return nil
}

// Close ends the connection.
func (s *socket) Close() error { return s.conn.Close() }
