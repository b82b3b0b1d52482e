package scope

import (
	"bufio"
	"encoding/binary"
	"errors"
	"fmt"
	"io"
	"math"

	"glenmist/core/invalid"
)

// Sample formats of a WAV file (P: RIFF WAVE, from memory).
const (
	wavPCM        = 1
	wavFloat      = 3
	wavExtensible = 0xFFFE
)

// ReadWAV reads a recording of 16, 24 or 32 bits, integer or float, with up to sixteen
// channels. Full scale is Options.Factor in kilovolts. The length in the header is not
// trusted: it reads what is there. Errors are [invalid.Error].
func ReadWAV(r io.Reader, opt Options) (*Trace, error) {
	in := bufio.NewReaderSize(r, 1<<20)
	bad := func(got string) error {
		return invalid.Error{Expected: "a WAV file of 16, 24 or 32 bits with up to 16 channels", Got: got}
	}
	var riff [12]byte
	if _, err := io.ReadFull(in, riff[:]); err != nil || string(riff[:4]) != "RIFF" || string(riff[8:]) != "WAVE" {
		return nil, bad("no RIFF header")
	}
	t := &Trace{}
	channels, bits, kind := 0, 0, 0
	for {
		var chunk [8]byte
		if _, err := io.ReadFull(in, chunk[:]); err != nil {
			return nil, bad("no samples")
		}
		size := int64(binary.LittleEndian.Uint32(chunk[4:]))
		switch string(chunk[:4]) {
		case "fmt ":
			if size < 16 || size > 64 {
				return nil, bad(fmt.Sprintf("a format of %d bytes", size))
			}
			f := make([]byte, size+size%2)
			if _, err := io.ReadFull(in, f); err != nil {
				return nil, bad("half a format")
			}
			kind, channels = int(binary.LittleEndian.Uint16(f)), int(binary.LittleEndian.Uint16(f[2:]))
			t.Rate, bits = float64(binary.LittleEndian.Uint32(f[4:])), int(binary.LittleEndian.Uint16(f[14:]))
			if kind == wavExtensible && size >= 26 {
				kind = int(binary.LittleEndian.Uint16(f[24:]))
			}
			if channels < 1 || channels > MaxChannels {
				return nil, bad(fmt.Sprintf("%d channels", channels))
			}
			whole := kind == wavPCM && (bits == 16 || bits == 24 || bits == 32)
			if !whole && (kind != wavFloat || bits != 32) {
				return nil, bad(fmt.Sprintf("%d bits of kind %d", bits, kind))
			}
		case "data":
			if channels == 0 {
				return nil, bad("samples before their format")
			}
			for c := range channels {
				t.Channels = append(t.Channels, Channel{Name: fmt.Sprintf("channel %d", c+1)})
			}
			if err := t.readSamples(in, size, bits, kind, opt); err != nil {
				return nil, err
			}
			return t, t.check()
		default:
			if _, err := io.CopyN(io.Discard, in, size+size%2); err != nil {
				return nil, bad("a chunk that is cut off")
			}
		}
	}
}

func (t *Trace) readSamples(in io.Reader, size int64, bits, kind int, opt Options) error {
	frame := make([]byte, bits/8*len(t.Channels))
	full := opt.factor()
	t.room(opt, len(frame))
	for read := int64(0); read+int64(len(frame)) <= size; {
		if _, err := io.ReadFull(in, frame); err != nil {
			if errors.Is(err, io.EOF) || errors.Is(err, io.ErrUnexpectedEOF) { // the header stated a larger size
				if promised := size / int64(len(frame)); promised < MaxSamples {
					t.Missing = 1 - float64(len(t.Channels[0].Samples))/float64(promised)
				}
				return nil
			}
			return err
		}
		if read += int64(len(frame)); read > MaxBytes || len(t.Channels[0].Samples)*len(t.Channels) >= MaxSamples {
			return invalid.Error{Expected: fmt.Sprintf("at most 200 MB and %d samples", MaxSamples), Got: "more"}
		}
		if opt.Progress != nil && read%(1<<22) < int64(len(frame)) {
			if err := opt.Progress(read); err != nil {
				return err
			}
		}
		for c := range t.Channels {
			b := frame[c*bits/8:]
			var v float64
			switch {
			case kind == wavFloat:
				if v = float64(math.Float32frombits(binary.LittleEndian.Uint32(b))); math.IsNaN(v) || math.IsInf(v, 0) {
					v = 0
					t.Skipped++
				}
			case bits == 16:
				v = float64(int16(binary.LittleEndian.Uint16(b))) / (1 << 15) //nolint:gosec // two's complement
			case bits == 24:
				v = float64(int32(uint32(b[0])<<8|uint32(b[1])<<16|uint32(b[2])<<24)) / (1 << 31) //nolint:gosec // likewise
			default:
				v = float64(int32(binary.LittleEndian.Uint32(b))) / (1 << 31) //nolint:gosec // likewise
			}
			t.Channels[c].Samples = append(t.Channels[c].Samples, ToHalf(float32(v*full)))
		}
	}
	return nil
}

// Read reads a capture of either format, detected by its first bytes.
func Read(r io.Reader, opt Options) (*Trace, error) {
	in := bufio.NewReaderSize(r, 64<<10)
	if head, _ := in.Peek(4); string(head) == "RIFF" {
		return ReadWAV(in, opt)
	}
	return ReadCSV(in, opt)
}
