package bus

import (
	"net"
	"strings"
	"testing"

	"glenmist/core/job"
	"glenmist/core/obd"
)

func TestAddress(t *testing.T) {
	for _, c := range []struct {
		text   string
		ok     bool
		shared bool
	}{{"can:can0", true, true}, {"tcp:10.0.0.7:20000", true, true}, {"sim:127.0.0.1:20000", true, false}, {"can:", false, false}, {"can0", false, false}, {"usb:1", false, false}, {"", false, false}} {
		a, err := ParseAddress(c.text)
		if (err == nil) != c.ok || c.ok && (a.String() != c.text || a.Shared() != c.shared) {
			t.Errorf("%q: %v, %v", c.text, a, err)
		}
	}
	a, _ := ParseAddress("can:absent0")
	if _, err := a.Connect(t.Context(), job.Job{}); err == nil || !strings.Contains(err.Error(), "absent0") {
		t.Errorf("an interface that does not exist: %v", err)
	}
	a, _ = ParseAddress("tcp:127.0.0.1:1")
	if _, err := a.Connect(t.Context(), job.Job{}); err == nil || !strings.Contains(err.Error(), "127.0.0.1:1") {
		t.Errorf("nobody listens: %v", err)
	}
}

// Two ends of a pipe carry frames as SocketCAN does: 16 bytes, the id with the flag of 29 bits (Linux kernel documentation,
// networking/can, from memory). Only answers of control units are passed on.
func TestSocketFrames(t *testing.T) {
	here, there := net.Pipe()
	s, other := onSocket(here), onSocket(there)
	defer func() { _ = other.Close() }()
	want := []obd.Frame{obd.NewFrame(0x7E8, false, 3, 0x41, 5, 0x7B), obd.NewFrame(0x18DAF110, true, 1, 2)}
	for _, f := range append([]obd.Frame{obd.NewFrame(0x123, false, 1)}, want...) {
		if err := other.Send(f); err != nil {
			t.Fatal(err)
		}
	}
	last := obd.Stamped{}
	for _, f := range want {
		got := <-s.Frames()
		if got.Frame != f || got.At < last.At {
			t.Errorf("heard %v at %v, want %v", got.Frame, got.At, f)
		}
		last = got
	}
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	for range s.Frames() {
		t.Error("a frame after the end")
	}
}
