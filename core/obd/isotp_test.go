package obd

import (
	"bytes"
	"errors"
	"math/rand/v2"
	"slices"
	"testing"
	"time"
)

const engineUnit Unit = 0x7E8

// sent cuts a message into frames, with a flow control after each block.
func sent(t *testing.T, message []byte, block byte) (frames []Frame) {
	t.Helper()
	s, f, err := NewSender(uint32(engineUnit), false, message)
	if err != nil {
		t.Fatal(err)
	}
	for frames = append(frames, f); !s.Done(); {
		more, pause, wait, err := s.Take(NewFrame(0x7E0, false, 0x30, block, 0))
		if err != nil || wait || pause != 0 || block > 0 && len(more) > int(block) {
			t.Fatalf("%d frames in a block of %d, %v", len(more), block, err)
		}
		frames = append(frames, more...)
	}
	return frames
}

func received(frames []Frame) (messages [][]byte, failed error) {
	var r Receiver
	for _, f := range frames {
		m, _, err := r.Take(f)
		if failed = errors.Join(failed, err); m != nil {
			messages = append(messages, m)
		}
	}
	return messages, failed
}

func numbered(n int) []byte {
	b := make([]byte, n)
	for i := range b {
		b[i] = byte(i * 7)
	}
	return b
}

// Messages of every length come together again. The frames have the kinds and numbers of ISO 15765-2 (in values of the trade:
// single 0n, first 1nnn, consecutive 21 … 2F, 20, 21 …).
func TestSegmentation(t *testing.T) {
	for _, n := range []int{1, 6, 7, 8, 13, 14, 20, 62, 111, 118, 119, 500, MaxMessage} {
		for _, block := range []byte{0, 1, 8} {
			frames := sent(t, numbered(n), block)
			got, err := received(frames)
			if err != nil || len(got) != 1 || !bytes.Equal(got[0], numbered(n)) {
				t.Errorf("%d bytes in blocks of %d: %d messages, %v", n, block, len(got), err)
			}
			switch {
			case n < 8 && (len(frames) != 1 || frames[0].Data[0] != byte(n)):
				t.Errorf("%d bytes begin with %v", n, frames[0])
			case n >= 8 && (frames[0].Data[0] != 0x10|byte(n>>8) || frames[0].Data[1] != byte(n)):
				t.Errorf("%d bytes begin with %v", n, frames[0])
			}
			for i, f := range frames[1:] {
				if f.Data[0] != 0x20|byte(i+1)&0xF {
					t.Fatalf("frame %d of %d bytes is %v", i+1, n, f)
				}
			}
		}
	}
	for _, n := range []int{0, MaxMessage + 1} {
		if _, _, err := NewSender(1, false, make([]byte, n)); !errors.Is(err, ErrLength) {
			t.Errorf("%d bytes: %v", n, err)
		}
	}
}

// Whatever is lost, doubled or swapped on the way: no message comes out that was not sent.
func TestDisturbedSegmentation(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	message := numbered(150)
	good := sent(t, message, 0)
	for name, disturb := range map[string]func([]Frame, int) []Frame{
		"lost":    func(f []Frame, i int) []Frame { return slices.Delete(f, i, i+1) },
		"doubled": func(f []Frame, i int) []Frame { return slices.Insert(f, i, f[i]) },
		"swapped": func(f []Frame, i int) []Frame { f[i], f[i+1] = f[i+1], f[i]; return f },
		"short":   func(f []Frame, i int) []Frame { f[i].Len = 3; return f },
	} {
		for range 40 {
			i := 1 + rng.IntN(len(good)-2)
			got, err := received(disturb(slices.Clone(good), i))
			if len(got) > 0 || err == nil && i < len(good)-2 {
				t.Errorf("%s frame %d: %d messages, %v", name, i, len(got), err)
			}
			// The next message is read again.
			got, _ = received(append(disturb(slices.Clone(good), i), good...))
			if len(got) != 1 || !bytes.Equal(got[0], message) {
				t.Errorf("%s frame %d: the next message is %v", name, i, got)
			}
		}
	}
	cut := slices.Concat(good[:5], sent(t, numbered(30), 0))
	if got, _ := received(cut); len(got) != 1 || len(got[0]) != 30 {
		t.Errorf("a message in place of another: %v", got)
	}
}

// Pauses after ISO 15765-2 (from memory): 00–7F are milliseconds, F1–F9 hundreds of microseconds, the rest is taken for 127 ms.
func TestFlowControl(t *testing.T) {
	for _, c := range []struct {
		frame Frame
		pause time.Duration
		wait  bool
		err   error
	}{
		{NewFrame(0x7E0, false, 0x30, 0, 0x0A), 10 * time.Millisecond, false, nil},
		{NewFrame(0x7E0, false, 0x30, 0, 0xF3), 300 * time.Microsecond, false, nil},
		{NewFrame(0x7E0, false, 0x30, 0, 0x80), 127 * time.Millisecond, false, nil},
		{NewFrame(0x7E0, false, 0x31, 0, 0), 0, true, nil},
		{NewFrame(0x7E0, false, 0x32, 0, 0), 0, false, ErrOverflow},
		{NewFrame(0x7E0, false, 0x33, 0, 0), 0, false, ErrFrame},
		{NewFrame(0x7E0, false, 0x30), 0, false, ErrFrame},
	} {
		s, _, err := NewSender(uint32(engineUnit), false, numbered(20))
		if err != nil {
			t.Fatal(err)
		}
		if _, pause, wait, err := s.Take(c.frame); pause != c.pause || wait != c.wait || !errors.Is(err, c.err) {
			t.Errorf("%v: %v, %v, %v", c.frame, pause, wait, err)
		}
	}
	// Flow control goes to the unit's own address: the id of its answers less 8; with 29 bits the addresses change places.
	if f := ContinueFrame(0x7EA); f.String() != "7E2#3000000000000000" {
		t.Error(f)
	}
	if f := ContinueFrame(0x18DAF110); f.String() != "18DA10F1#3000000000000000" || !f.Extended {
		t.Error(f)
	}
}

func FuzzReceiver(f *testing.F) {
	f.Add([]byte{0x10, 0x14, 0x49, 0x0A, 1, 2, 3, 4, 0x21, 1, 2, 3, 4, 5, 6, 7})
	f.Add([]byte{0x03, 0x41, 0x05, 0x7B, 0, 0, 0, 0})
	f.Fuzz(func(t *testing.T, data []byte) {
		var r Receiver
		for chunk := range slices.Chunk(data, 8) {
			m, _, err := r.Take(NewFrame(uint32(engineUnit), false, chunk...))
			if m != nil && (err != nil || len(m) == 0 || len(m) > MaxMessage || r.Busy()) {
				t.Fatalf("%d bytes, %v", len(m), err)
			}
		}
	})
}
