package obd

import (
	"bytes"
	"math"
	"slices"
	"testing"

	"glenmist/core/trouble"
)

// Figures by the formulas of SAE J1979 (M): rpm = (256A + B)/4, coolant = A − 40 °C, load = A·100/255 %, trim = (A − 128)·100/128 %,
// manifold = A kPa, speed = A km/h, advance = A/2 − 64 °, air flow = (256A + B)/100 g/s.
func TestLiveData(t *testing.T) {
	for _, c := range []struct {
		data []byte
		want float64
		unit string
	}{
		{[]byte{0x0C, 0x1A, 0xF8}, 1726, "rpm"}, {[]byte{0x0C, 0xFF, 0xFF}, 16383.75, "rpm"},
		{[]byte{0x05, 0x7B}, 83, "°C"}, {[]byte{0x05, 0x00}, -40, "°C"}, {[]byte{0x04, 0xFF}, 100, "%"}, {[]byte{0x04, 0x33}, 20, "%"},
		{[]byte{0x06, 0x80}, 0, "%"}, {[]byte{0x07, 0x00}, -100, "%"}, {[]byte{0x08, 0xFF}, 99.21875, "%"}, {[]byte{0x09, 0x90}, 12.5, "%"},
		{[]byte{0x0B, 0x65}, 101, "kPa"}, {[]byte{0x0D, 0x32}, 50, "km/h"}, {[]byte{0x0E, 0x80}, 0, "°"}, {[]byte{0x0E, 0x94}, 10, "°"},
		{[]byte{0x10, 0x0F, 0xA0}, 40, "g/s"}, {[]byte{0x42, 0x36, 0xB0}, 14, "V"},
	} {
		got, err := ReadValues(c.data)
		if err != nil || len(got) != 1 || math.Abs(got[0].Value-c.want) > 1e-9 || got[0].Row().Unit != c.unit {
			t.Errorf("% X: %+v, %v, want %g %s", c.data, got, err, c.want, c.unit)
		}
	}
	several, err := ReadValues([]byte{0x0C, 0x0B, 0xB8, 0x01, 0, 7, 0, 0, 0x0D, 0x00})
	if err != nil || len(several) != 2 || several[0].Value != 750 || several[1].PID != Speed {
		t.Errorf("several at once: %+v, %v", several, err)
	}
	frame, err := ReadFrameValues([]byte{0x0C, 0, 0x1F, 0x40, 0x05, 0, 0x5A})
	if err != nil || len(frame) != 2 || frame[0].Value != 2000 || frame[1].Value != 50 {
		t.Errorf("a freeze frame: %+v, %v", frame, err)
	}
	for _, bad := range [][]byte{{0x0C, 0x1A}, {0xEE, 1}, {0x0C}} {
		if got, err := ReadValues(bad); err == nil {
			t.Errorf("% X is read as %v", bad, got)
		}
	}
}

// BE 1F A8 13 is the example that textbooks take for the supported PIDs 01 to 20 (from memory).
func TestSupported(t *testing.T) {
	got, err := ReadSupported([]byte{0x00, 0xBE, 0x1F, 0xA8, 0x13})
	want := []byte{0x01, 0x03, 0x04, 0x05, 0x06, 0x07, 0x0C, 0x0D, 0x0E, 0x0F, 0x10, 0x11, 0x13, 0x15, 0x1C, 0x1F, 0x20}
	if err != nil || !slices.Equal(got, want) {
		t.Errorf("% X, %v", got, err)
	}
	for _, bad := range [][]byte{nil, {0x01, 0, 0, 0, 0}, {0x20, 1, 2}} {
		if _, err := ReadSupported(bad); err == nil {
			t.Errorf("% X is taken", bad)
		}
	}
}

// The two-byte form of SAE J2012 (M): 0x0301 is P0301, 0x4123 C0123, 0xC100 U0100.
func TestCodes(t *testing.T) {
	got, err := ReadCodes([]byte{3, 0x03, 0x01, 0x41, 0x23, 0xC1, 0x00})
	if err != nil || len(got) != 3 || got[0].String() != "P0301" || got[1].String() != "C0123" || got[2].String() != "U0100" {
		t.Errorf("%v, %v", got, err)
	}
	if none, err := ReadCodes([]byte{0}); err != nil || len(none) != 0 {
		t.Errorf("%v, %v", none, err)
	}
	for _, bad := range [][]byte{nil, {2, 3, 1}} {
		if _, err := ReadCodes(bad); err == nil {
			t.Errorf("% X is taken", bad)
		}
	}
}

// Byte A: lamp and number; B: 07 has all three continuous monitors, 17 with misfire not ready; C and D: 65 has catalyst,
// evaporation, oxygen sensors and heaters (SAE J1979, from memory).
func TestStatus(t *testing.T) {
	s, err := ReadStatus([]byte{0x01, 0x82, 0x17, 0x65, 0x05})
	if err != nil || !s.Lamp || s.Codes != 2 || !slices.Equal(s.Incomplete, []trouble.Monitor{"misfire", "catalyst", "evaporation"}) {
		t.Errorf("%+v, %v", s, err)
	}
	again, err := ReadStatus(AppendStatus(nil, s, []trouble.Monitor{"misfire", "catalyst", "evaporation", "components"}))
	if err != nil || again.Lamp != s.Lamp || again.Codes != s.Codes || !slices.Equal(again.Incomplete, s.Incomplete) {
		t.Errorf("%+v, %v", again, err)
	}
	if _, err := ReadStatus([]byte{0x01, 0x00, 0x0F, 0, 0}); err == nil {
		t.Error("an engine without sparks is taken")
	}
}

// Monitors A2 to AD are cylinders 1 to 12, test 0B the average over ten cycles, 0C the count, scaling 24 a count a bit; the new
// average is a tenth of the count and nine tenths of the old one (SAE J1979, M).
func TestMisfireCounts(t *testing.T) {
	var data []byte
	for _, r := range []Result{{0xA2, TestAverage, ScalingCount, 3, 0, 0xFFFF}, {0xA2, TestCount, ScalingCount, 0, 0, 0xFFFF}, {0xA5, TestCount, ScalingCount, 338, 0, 0xFFFF}, {0xA1, TestCount, ScalingCount, 338, 0, 0xFFFF}, {0x01, 0x80, 0x0A, 9, 0, 1}} {
		data = AppendResult(data, r)
	}
	results, err := ReadResults(data)
	if err != nil || len(results) != 5 || results[2].Value != 338 {
		t.Fatalf("%+v, %v", results, err)
	}
	want := []Misfires{{1, 0, 3}, {4, 338, -1}, {0, 338, -1}}
	if got := MisfiresOf(results); !slices.Equal(got, want) {
		t.Errorf("%+v", got)
	}
	if _, err := ReadResults(data[:10]); err == nil {
		t.Error("half a result is taken")
	}
	for _, c := range [][3]int{{0, 100, 10}, {10, 100, 19}, {100, 0, 90}, {50, 50, 50}} {
		if got := NextAverage(c[0], c[1]); got != c[2] {
			t.Errorf("average %d and count %d make %d, want %d", c[0], c[1], got, c[2])
		}
	}
}

func FuzzAnswers(f *testing.F) {
	for _, s := range []string{"\x0C\x1A\xF8", "\x00\xBE\x1F\xA8\x13", "\x03\x03\x01\x41\x23\xC1\x00", "\x01\x82\x17\x65\x05", "\x0A\x01ENGINE\x00"} {
		f.Add([]byte(s))
	}
	f.Fuzz(func(_ *testing.T, data []byte) {
		r := NewReader()
		for _, service := range []Service{LiveData, FreezeFrame, StoredCodes, MonitorResults, Information, PermanentCodes} {
			r.Take(ask(service), []Answer{{Unit: engineUnit, Data: data}})
		}
		_ = r.Scan()
		_, _ = r.Next()
	})
}

// What is written is read again, to the nearest step of the scaling; the bytes are those of the standard's formulas: 1 726 rpm is
// 1A F8, and −40 °C is 00.
func TestValuesAreWritten(t *testing.T) {
	if got := AppendValue(nil, RPM, 1726); !bytes.Equal(got, []byte{0x0C, 0x1A, 0xF8}) {
		t.Errorf("1 726 rpm is % X", got)
	}
	if got := AppendFrameValue(nil, Coolant, -40); !bytes.Equal(got, []byte{0x05, 0, 0}) {
		t.Errorf("−40 °C is % X", got)
	}
	for _, row := range Rows {
		for _, raw := range []float64{0, 1, 100, 255} {
			want := raw*row.factor - row.offset
			got, err := ReadValues(AppendValue(nil, row.PID, want+0.4*row.factor))
			if err != nil || len(got) != 1 || math.Abs(got[0].Value-want) > 1e-9 {
				t.Errorf("%s: %v becomes %v, %v", row.Words, want, got, err)
			}
		}
		if got, err := ReadValues(AppendValue(nil, row.PID, 1e12)); err != nil || got[0].Value != math.Pow(256, float64(row.Bytes))*row.factor-row.factor-row.offset {
			t.Errorf("%s: too much becomes %v, %v", row.Words, got, err)
		}
	}
	codes := []trouble.Code{0x0303, 0xC123}
	if got, err := ReadCodes(AppendCodes(nil, codes)); err != nil || !slices.Equal(got, codes) {
		t.Errorf("codes %v, %v", got, err)
	}
	if got, err := ReadSupported(AppendSupported(nil, 0xA0, func(id byte) bool { return id == 0xA2 || id == 0xC0 })); err != nil || !bytes.Equal(got, []byte{0xA2, 0xC0}) {
		t.Errorf("supported % X, %v", got, err)
	}
}
