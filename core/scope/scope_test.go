package scope

import (
	"bytes"
	"encoding/binary"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"strings"
	"testing"
	"time"

	"glenmist/core/engine"
)

// truth is one event as it was drawn.
var moment = time.Date(2026, 11, 2, 8, 0, 0, 0, time.UTC)

type truth struct {
	at, kV, burn, line, slope, hz float64 // seconds, kV, ms, kV, kV/ms, Hz
	open                          bool
}

// draw makes samples of some events out of simple pieces, not of any coil: a small jump 3 ms
// before, a peak of some microseconds, a straight line, a dying sine. It shares nothing with
// what reads them.
func draw(rate, length float64, events []truth, sign, noise, offset float64, r *rand.Rand) []float32 {
	v := make([]float32, int(rate*length))
	for i := range v {
		t := float64(i) / rate
		x := 0.0
		for _, e := range events {
			d := t - e.at
			switch {
			case d < -3.2e-3 || d > 7e-3:
			case d < -3e-3:
			case d < -5e-6 && d > -3e-3+2e-4:
			case d <= -3e-3+2e-4:
				x -= 0.5 * math.Exp(-(d+3e-3)/8e-5) * math.Cos(2*math.Pi*9000*(d+3e-3))
			case d < 0:
				x += e.kV * (1 + d/5e-6)
			case d < 15e-6:
				if to := e.line; e.open {
					x += e.kV * (1 - d/15e-6)
				} else {
					x += to + (e.kV-to)*(1-d/15e-6)
				}
			case !e.open && d < e.burn/1000:
				x += e.line + e.slope*1000*d
			default:
				after := d - e.burn/1000
				if e.open {
					after = d
				}
				if after > 0 {
					x += 0.8 * e.line * math.Exp(-after/3e-4) * math.Sin(2*math.Pi*e.hz*after)
				}
			}
		}
		v[i] = float32(sign*x + offset + noise*r.NormFloat64())
	}
	return v
}

// sample is a run of a four-cylinder engine at idle, all cylinders on one trace.
func sample(n int, r *rand.Rand) []truth {
	var all []truth
	for k := range n {
		all = append(all, truth{at: 0.008 + 0.0375*float64(k), kV: 9 * math.Exp(0.1*r.NormFloat64()), burn: 1.4 + 0.1*r.NormFloat64(), line: 1.3, slope: 0.15, hz: 8000})
	}
	return all
}

// Every event is found and none besides, in noise, with an offset, upside down and at slow and
// fast sampling; each figure is near what was drawn, and those that the sampling does not
// carry are not given or marked.
func TestEvents(t *testing.T) {
	r := rand.New(rand.NewPCG(1, 2))
	for name, c := range map[string]struct{ rate, sign, noise, offset float64 }{
		"clean": {500e3, 1, 0.005, 0}, "noisy": {500e3, 1, 0.12, 0}, "upside down": {400e3, -1, 0.02, 0}, "offset": {250e3, 1, 0.02, 2.4}, "slow": {20e3, 1, 0.02, 0}, "fast": {2e6, -1, 0.02, -1},
	} {
		events := sample(16, r)
		tr := Trace{Rate: c.rate, Channels: []Channel{{Samples: Halves(draw(c.rate, 0.62, events, c.sign, c.noise, c.offset, r))}}}
		got := tr.Events(0)
		if len(got) != len(events) {
			t.Errorf("%s: %d events of %d", name, len(got), len(events))
			continue
		}
		for i, e := range got {
			want := events[i]
			if math.Abs(e.At-want.at) > 1e-4 || e.Negative != (c.sign < 0) || e.Open {
				t.Errorf("%s, event %d: %+v, want %+v", name, i, e, want)
			}
			if math.Abs(e.Burn-want.burn) > 0.12 {
				t.Errorf("%s, event %d: burn %.2f, want %.2f", name, i, e.Burn, want.burn)
			}
			if c.rate < rateForFiring {
				if !e.AtLeast || e.Rings != 0 {
					t.Errorf("%s: figures that the sampling does not carry: %+v", name, e)
				}
				continue
			}
			if math.Abs(e.Firing/want.kV-1) > 0.05+4*c.noise/want.kV || e.AtLeast {
				t.Errorf("%s, event %d: %.2f kV, want %.2f", name, i, e.Firing, want.kV)
			}
			if math.Abs(e.Line-want.line-want.slope*want.burn*0.45) > 0.12 || math.Abs(e.Slope-want.slope) > 0.1+c.noise {
				t.Errorf("%s, event %d: line %.2f kV, slope %.2f, want about %.2f and %.2f", name, i, e.Line, e.Slope, want.line, want.slope)
			}
			if c.noise < 0.1 && (e.Rings < 3 || math.Abs(e.RingHz/want.hz-1) > 0.1) {
				t.Errorf("%s, event %d: %d half waves of %.0f Hz, want %.0f", name, i, e.Rings, e.RingHz, want.hz)
			}
			if c.noise < 0.05 && math.Abs(e.Dwell-3) > 0.3 {
				t.Errorf("%s, event %d: dwell %.2f", name, i, e.Dwell)
			}
		}
	}
}

// A clipped peak is at least what it shows, an event without a spark is open, and a drift that
// is slow bears on nothing.
func TestClippedOpenAndDrift(t *testing.T) {
	r := rand.New(rand.NewPCG(3, 4))
	events := sample(12, r)
	for i := range events {
		events[i].kV = 12
		events[i].open = i == 5
	}
	events[5].kV = 30
	const rate = 500e3
	v := draw(rate, 0.47, events, 1, 0.01, 0, r)
	for i := range v {
		v[i] += float32(1.5 * float64(i) / float64(len(v)))
		v[i] = min(v[i], 10.5)
	}
	got := (&Trace{Rate: rate, Channels: []Channel{{Samples: Halves(v)}}}).Events(0)
	if len(got) != 12 {
		t.Fatalf("%d events", len(got))
	}
	for i, e := range got {
		if !e.AtLeast || e.Open != (i == 5) || !e.Open && math.Abs(e.Burn-events[i].burn) > 0.12 {
			t.Errorf("event %d: %+v", i, e)
		}
	}
	if got := (&Trace{Rate: rate, Channels: []Channel{{Samples: Halves(draw(rate, 0.3, nil, 1, 0.01, 0, r))}}}).Events(0); len(got) > 3 {
		t.Errorf("%d events in noise alone", len(got))
	}
}

// The ringing behind a weak event can be louder than its peak: it is found where it began, and
// once.
func TestWeakEventThatRings(t *testing.T) {
	r := rand.New(rand.NewPCG(11, 12))
	events := sample(12, r)
	for i := range events {
		if i%2 == 1 { // the idle one of a pair
			events[i].kV, events[i].line, events[i].slope, events[i].burn = 1.9, 1.25, 0, 0.8
		}
	}
	const rate = 250e3
	v := draw(rate, 0.47, events, 1, 0.03, 0, r)
	for i := 1; i < len(events); i += 2 { // which lets go of what is left of its coil
		from := int((events[i].at + 0.8e-3) * rate)
		for k := range int(1e-3 * rate) {
			d := float64(k) / rate
			v[from+k] -= float32(2.6 * math.Exp(-d/3e-4) * math.Sin(2*math.Pi*4200*d))
		}
	}
	got := (&Trace{Rate: rate, Channels: []Channel{{Samples: Halves(v)}}}).Events(0)
	if len(got) != len(events) {
		t.Fatalf("%d events of %d: %+v", len(got), len(events), got)
	}
	for i, e := range got {
		if math.Abs(e.At-events[i].at) > 1e-4 || i%2 == 1 && e.Firing > 2.3 {
			t.Errorf("event %d at %.4f with %.2f kV, drawn at %.4f with %.2f", i, e.At, e.Firing, events[i].at, events[i].kV)
		}
	}
}

// A clamp on a lead of a wasted-spark pair gives a pulse with each turn of the engine: the
// working event is the one that asks for more.
func TestPairPulsesEveryTurn(t *testing.T) {
	p, _ := engine.FindPattern("six-pairs")
	e := p.Engine()
	var events []Event
	var syncs []float64
	for turn := range 24 {
		syncs = append(syncs, 0.06*float64(turn))
		for k := range 3 {
			c := e.FiringOrder[(3*turn+k+3)%6] // the first pulse is of the idle stroke
			kV := 9.0
			if c == e.FiringOrder[0] {
				kV = 16
			}
			events = append(events, Event{At: 0.06*float64(turn) + 0.02*float64(k), Firing: kV, Burn: 1, Line: 1})
		}
	}
	a := assign(e, events, syncs, 0)
	a.finish()
	for _, s := range (&Trace{}).Summaries(e, a) {
		if high := s.Usual == 16; high != (s.Cylinder == e.FiringOrder[0]) || s.Low != s.High {
			t.Error(s.Words())
		}
	}
}

// table writes samples of two channels as a scope might; it is written for the tests and
// shares nothing with the reader.
type table struct {
	sep, head, unitRow  string
	comma               bool
	timeScale, valScale float64
	digits              int
	crlf, quoted, bom   bool
}

func (d table) write(rate float64, channels ...[]float32) string {
	var b strings.Builder
	end := "\n"
	if d.crlf {
		end = "\r\n"
	}
	if d.bom {
		b.WriteString("\uFEFF")
	}
	if d.head != "" {
		b.WriteString(d.head + end)
	}
	if d.unitRow != "" {
		b.WriteString(d.unitRow + end)
	}
	figure := func(v float64) string {
		s := fmt.Sprintf("%.*g", d.digits, v)
		if d.comma {
			s = strings.Replace(s, ".", ",", 1)
		}
		if d.quoted {
			s = `"` + s + `"`
		}
		return s
	}
	for i := range channels[0] {
		b.WriteString(figure(float64(i) / rate * d.timeScale))
		for _, c := range channels {
			b.WriteString(d.sep + figure(float64(c[i])*d.valScale))
		}
		b.WriteString(end)
	}
	return b.String()
}

// Fourteen dialects of one capture read as the same capture.
func TestDialects(t *testing.T) {
	r := rand.New(rand.NewPCG(7, 8))
	const rate = 100e3
	v := draw(rate, 0.3, sample(7, r), 1, 0.01, 0, r)
	second := make([]float32, len(v))
	for i := range second {
		second[i] = float32(i % 5)
	}
	for name, d := range map[string]table{
		"plain":                 {sep: ",", head: "time,ch1,ch2", timeScale: 1, valScale: 1, digits: 9},
		"units in brackets":     {sep: ",", head: "Time (s),A (kV),B (kV)", timeScale: 1, valScale: 1, digits: 9},
		"milliseconds":          {sep: ",", head: "Time [ms],A [kV],B [kV]", timeScale: 1e3, valScale: 1, digits: 9},
		"microseconds":          {sep: ";", head: "time;a;b", unitRow: "µs;kV;kV", timeScale: 1e6, valScale: 1, digits: 9},
		"unit row, parentheses": {sep: ",", head: "Time,Channel A,Channel B", unitRow: "(ms),(V),(V)", timeScale: 1e3, valScale: 1e3, digits: 9},
		"semicolon and comma":   {sep: ";", comma: true, head: "Zeit;Kanal 1;Kanal 2", unitRow: "s;kV;kV", timeScale: 1, valScale: 1, digits: 9},
		"tabs":                  {sep: "\t", head: "t\tx\ty", timeScale: 1, valScale: 1, digits: 9},
		"tabs and comma":        {sep: "\t", comma: true, head: "t\tx\ty", unitRow: "ms\tkV\tkV", timeScale: 1e3, valScale: 1, digits: 9},
		"no header":             {sep: ",", timeScale: 1, valScale: 1, digits: 9},
		"volts, no unit":        {sep: ",", head: "time,a,b", timeScale: 1, valScale: 1e3, digits: 9},
		"preamble":              {sep: ",", head: "recorder 7\nmodel,unknown\nsamples,30000\n\ntime,a,b", timeScale: 1, valScale: 1, digits: 9},
		"exponents":             {sep: ",", head: "time,a,b", unitRow: "s,V,V", timeScale: 1, valScale: 1e3, digits: 4},
		"quoted, CRLF, BOM":     {sep: ",", head: "\"time\",\"a\",\"b\"", timeScale: 1, valScale: 1, digits: 9, crlf: true, quoted: true, bom: true},
		"blanks after commas":   {sep: ", ", head: "time, a, b", timeScale: 1, valScale: 1, digits: 9},
	} {
		if name == "exponents" { // four digits carry fewer samples
			d.digits = 7
		}
		got, err := ReadCSV(strings.NewReader(d.write(rate, v, second)), Options{})
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if math.Abs(got.Rate/rate-1) > 1e-4 || len(got.Channels) != 2 || len(got.Channels[0].Samples) != len(v) || got.Skipped > 0 {
			t.Errorf("%s: %.1f S/s, %d channels, %d samples of %d, %d skipped %v", name, got.Rate, len(got.Channels), len(got.Channels[0].Samples), len(v), got.Skipped, got.Bad)
			continue
		}
		for i := range v {
			if !near(got.Channels[0].Samples[i], v[i]) {
				t.Errorf("%s: sample %d is %v, want %v", name, i, got.Channels[0].Samples[i].Float(), v[i])
				break
			}
		}
	}
}

func wavOf(bits, kind, channels int, claimed uint32, data []byte) []byte {
	const rate = uint32(48000)
	var b bytes.Buffer
	b.WriteString("RIFF\x00\x00\x00\x00WAVEfmt ")
	for _, x := range []any{uint32(16), uint16(kind), uint16(channels), rate, rate * uint32(channels*bits/8), uint16(channels * bits / 8), uint16(bits)} {
		_ = binary.Write(&b, binary.LittleEndian, x)
	}
	b.WriteString("LIST\x03\x00\x00\x00abc\x00data")
	_ = binary.Write(&b, binary.LittleEndian, claimed)
	b.Write(data)
	return b.Bytes()
}

// A recording of 16, 24 and 32 bits and of floating samples is the same trace, scaled by what
// its full scale means; a length that the header only claims is not waited for.
func TestWAV(t *testing.T) {
	r := rand.New(rand.NewPCG(9, 9))
	v := draw(48e3, 0.2, sample(5, r), 1, 0.01, 0, r)
	for _, c := range []struct{ bits, kind int }{{16, 1}, {24, 1}, {32, 1}, {32, 3}} {
		var data bytes.Buffer
		for _, x := range v {
			y := float64(x) / 20
			switch {
			case c.kind == 3:
				_ = binary.Write(&data, binary.LittleEndian, float32(y))
			case c.bits == 16:
				_ = binary.Write(&data, binary.LittleEndian, int16(y*(1<<15)))
			case c.bits == 24:
				n := int32(y * (1 << 23))
				data.Write([]byte{byte(n), byte(n >> 8), byte(n >> 16)})
			default:
				_ = binary.Write(&data, binary.LittleEndian, int32(y*(1<<31)))
			}
		}
		got, err := Read(bytes.NewReader(wavOf(c.bits, c.kind, 1, 3_000_000_000, data.Bytes())), Options{Factor: 20})
		if err != nil || got.Rate != 48000 || len(got.Channels) != 1 || len(got.Channels[0].Samples) != len(v) {
			t.Fatalf("%d bits of kind %d: %v", c.bits, c.kind, err)
		}
		for i := range v {
			if math.Abs(float64(got.Channels[0].Samples[i].Float()-v[i])) > 20.0/(1<<11) {
				t.Fatalf("%d bits of kind %d: sample %d is %v, want %v", c.bits, c.kind, i, got.Channels[0].Samples[i].Float(), v[i])
			}
		}
	}
}

// What is no capture is refused with what was expected; a few bad lines are named and lose
// nothing else; cancelling ends the reading.
func TestBadCaptures(t *testing.T) {
	good := table{sep: ",", head: "time,a", timeScale: 1, valScale: 1, digits: 9}
	v := make([]float32, 4000)
	for i := range v {
		v[i] = float32(i % 7)
	}
	text := good.write(100e3, v)
	lines := strings.Split(text, "\n")
	change := func(do func(l []string)) string {
		l := append([]string{}, lines...)
		do(l)
		return strings.Join(l, "\n")
	}
	constant := make([]float32, 4000)
	many := make([][]float32, 17)
	for i := range many {
		many[i] = v
	}
	for name, c := range map[string]struct{ text, want string }{
		"empty":          {"", "an empty file"},
		"binary":         {"\x7fELF\x00\x01\x02" + strings.Repeat("\xff\x00", 200), "a binary file"},
		"prose":          {strings.Repeat("no numbers here\n", 100), "a column of time"},
		"one column":     {strings.Repeat("1.5\n", 200), "a column of time"},
		"time goes back": {change(func(l []string) { l[900] = "0.0001,3" }), "time that goes forward"},
		"constant":       {good.write(100e3, constant), "a constant line"},
		"17 channels":    {good.write(100e3, many...), "at most 16 channels"},
		"too slow":       {good.write(5e3, v), "20 000 to 5 000 000"},
		"too many bad": {change(func(l []string) {
			for i := 500; i < 700; i++ {
				l[i] = "0.1,NaN"
			}
		}), "the first in line 501"},
		"a handful":        {strings.Join(lines[:20], "\n"), "at least 100 samples"},
		"WAV of 3 GB":      {string(wavOf(16, 1, 1, 3_000_000_000, nil)), "at least 100 samples"},
		"WAV of 17":        {string(wavOf(16, 1, 17, 100, make([]byte, 100))), "17 channels"},
		"WAV of 8 bits":    {string(wavOf(8, 1, 1, 100, make([]byte, 100))), "8 bits"},
		"WAV of format 10": {strings.Replace(string(wavOf(16, 1, 1, 100, make([]byte, 100))), "fmt \x10", "fmt \x0a", 1), "a format of 10 bytes"},
		"WAV without data": {string(wavOf(16, 1, 1, 0, nil)[:50]), "no samples"},
	} {
		if _, err := Read(strings.NewReader(c.text), Options{}); err == nil || !strings.Contains(err.Error(), c.want) {
			t.Errorf("%s: %v", name, err)
		}
	}
	few, err := Read(strings.NewReader(change(func(l []string) { l[40], l[700] = "garbage", "0.1,NaN" })), Options{})
	if err != nil || few.Skipped != 2 || few.Bad[0].Line != 41 || len(few.Channels[0].Samples) != 3998 {
		t.Errorf("%+v, %v", few, err)
	}
	stop := errors.New("stop")
	if _, err := Read(strings.NewReader(strings.Repeat(strings.Join(lines[1:], "\n"), 1)+strings.Repeat("\n", 200_000)), Options{Progress: func(int64) error { return stop }}); !errors.Is(err, stop) {
		t.Errorf("cancelled: %v", err)
	}
}

func FuzzRead(f *testing.F) {
	f.Add([]byte("time,a\n0,1\n0.00001,2\n"))
	f.Add([]byte("t;x\nms;kV\n0,1;2,5\n0,2;3"))
	f.Add(wavOf(24, 1, 2, 50, make([]byte, 60)))
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := Read(bytes.NewReader(data), Options{})
		if err != nil {
			return
		}
		for _, c := range got.Channels {
			if len(c.Samples) != len(got.Channels[0].Samples) {
				t.Fatal("channels of unlike length")
			}
		}
		got.Events(0)
	})
}

// How fast a file is read, against a bare read of its fields.
func BenchmarkReadCSV(b *testing.B) {
	r := rand.New(rand.NewPCG(1, 1))
	text := table{sep: ",", head: "time,a", timeScale: 1, valScale: 1, digits: 7}.write(500e3, draw(500e3, 0.6, sample(15, r), 1, 0.01, 0, r))
	b.Run("capture", func(b *testing.B) {
		b.SetBytes(int64(len(text)))
		for b.Loop() {
			if _, err := ReadCSV(strings.NewReader(text), Options{}); err != nil {
				b.Fatal(err)
			}
		}
	})
	b.Run("fields", func(b *testing.B) {
		b.SetBytes(int64(len(text)))
		for b.Loop() {
			c := csv.NewReader(strings.NewReader(text))
			c.ReuseRecord = true
			for {
				if _, err := c.Read(); errors.Is(err, io.EOF) {
					break
				}
			}
		}
	})
}
