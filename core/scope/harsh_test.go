package scope

import (
	"bytes"
	"fmt"
	"maps"
	"math"
	"math/rand/v2"
	"slices"
	"strings"
	"testing"

	"glenmist/core/engine"
)

// What workshops give a scope, one by one and together: the events are found, each once, at every
// rate that is taken, and the spark's end is where the spark goes out.
func TestHarshCaptures(t *testing.T) {
	cases := map[string]struct {
		rate, sign, noise, offset, drift, hum float64
	}{
		"slowest that is taken":   {rate: 20e3, sign: 1, noise: 0.02},
		"fastest that is taken":   {rate: 5e6, sign: 1, noise: 0.02},
		"20 dB of noise":          {rate: 250e3, sign: 1, noise: 0.9},
		"30 dB and upside down":   {rate: 250e3, sign: -1, noise: 0.28},
		"a drift of 4 kV":         {rate: 250e3, sign: 1, noise: 0.02, drift: 4},
		"hum of the mains":        {rate: 250e3, sign: 1, noise: 0.02, hum: 0.25},
		"an offset far below":     {rate: 250e3, sign: 1, noise: 0.02, offset: -15},
		"all of it at 30 dB":      {rate: 400e3, sign: -1, noise: 0.28, offset: 6, drift: -3, hum: 0.2},
		"two samples a peak":      {rate: 100e3, sign: 1, noise: 0.05},
		"a quick one, noisy":      {rate: 1e6, sign: 1, noise: 0.5},
		"slow and an offset down": {rate: 40e3, sign: -1, noise: 0.05, offset: -2},
	}
	for i, name := range slices.Sorted(maps.Keys(cases)) { // each draws the same, whichever comes first
		c, r := cases[name], rand.New(rand.NewPCG(21, uint64(i)))
		events := sample(14, r)
		v := draw(c.rate, 0.54, events, c.sign, c.noise, c.offset, r)
		for i := range v {
			at := float64(i) / c.rate
			v[i] += float32(c.drift*at/0.54 + c.hum*math.Sin(2*math.Pi*50*at))
		}
		tr := Trace{Rate: c.rate, Channels: []Channel{{Samples: Halves(v)}}}
		got := tr.Events(0)
		if missed := len(events) - len(got); missed < 0 || missed > 0 && c.noise < 0.5 || missed > 1 {
			t.Errorf("%s: %d events of %d", name, len(got), len(events))
			continue
		}
		for i, e := range got {
			want := events[int(math.Round((e.At-0.008)/0.0375))]
			if math.Abs(e.At-want.at) > 1.2e-4 || e.Negative != (c.sign < 0) {
				t.Errorf("%s, event %d: at %.5f, drawn at %.5f", name, i, e.At, want.at)
			}
			if lowest := want.kV * 0.4; e.Firing < lowest || e.Firing > want.kV+5*c.noise+c.hum+1 {
				t.Errorf("%s, event %d: %.2f kV, drawn %.2f", name, i, e.Firing, want.kV)
			}
			if !e.Open && math.Abs(e.Burn-want.burn) > 0.15+0.4*c.noise {
				t.Errorf("%s, event %d: burns %.2f ms, drawn %.2f", name, i, e.Burn, want.burn)
			}
			if c.noise < 0.5 && e.Open {
				t.Errorf("%s, event %d: no arc", name, i)
			}
		}
	}
}

// What is written as a table reads as it was: rate, channels and samples.
func FuzzWriteRead(f *testing.F) {
	f.Add(uint16(200), uint8(2), uint32(250_000), int64(1))
	f.Add(uint16(100), uint8(1), uint32(20_000), int64(7))
	f.Fuzz(func(t *testing.T, n uint16, channels uint8, rate uint32, seed int64) {
		if n < 100 || n > 2000 || channels < 1 || channels > MaxChannels || rate < 20_000 || rate > 5_000_000 {
			t.Skip()
		}
		r := rand.New(rand.NewPCG(uint64(seed), 1)) //nolint:gosec // any seed
		want := &Trace{Rate: float64(rate)}
		for c := range channels {
			v := make([]float32, n)
			for i := range v {
				v[i] = float32(math.Round(1000*20*r.NormFloat64()) / 1000)
			}
			want.Channels = append(want.Channels, Channel{Name: fmt.Sprintf("trace %c", 'A'+c), Samples: Halves(v)})
		}
		var file bytes.Buffer
		if err := WriteCSV(&file, want); err != nil {
			t.Fatal(err)
		}
		got, err := ReadCSV(&file, Options{})
		if err != nil {
			t.Fatal(err)
		}
		// The time is written to a ten-thousandth of a millisecond.
		if math.Abs(got.Rate/want.Rate-1) > 0.01 || len(got.Channels) != len(want.Channels) || got.Skipped > 0 {
			t.Fatalf("rate %v of %v, %d channels of %d, %d skipped", got.Rate, want.Rate, len(got.Channels), len(want.Channels), got.Skipped)
		}
		for c := range got.Channels {
			if got.Channels[c].Name != want.Channels[c].Name || len(got.Channels[c].Samples) != int(n) {
				t.Fatalf("%q with %d samples", got.Channels[c].Name, len(got.Channels[c].Samples))
			}
			for i, v := range got.Channels[c].Samples {
				if !near(v, want.Channels[c].Samples[i].Float()) {
					t.Fatalf("channel %d, sample %d: %v, wrote %v", c, i, v.Float(), want.Channels[c].Samples[i].Float())
				}
			}
		}
	})
}

// Joined and dropped, a trace is looked through anew.
func TestJoinAndDrop(t *testing.T) {
	r := rand.New(rand.NewPCG(31, 32))
	const rate = 250e3
	block := func() *Trace {
		return &Trace{Rate: rate, Channels: []Channel{{Name: "A", Samples: Halves(draw(rate, 0.16, sample(4, r), 1, 0.02, 0, r))}}}
	}
	whole := &Trace{}
	for n := 1; n <= 4; n++ {
		whole.Join(block())
		if got := len(whole.Events(0)); got != 4*n || whole.Rate != rate || whole.Channels[0].Name != "A" {
			t.Errorf("%d blocks: %d events", n, got)
		}
	}
	whole.Drop(int(0.16 * rate))
	if got := len(whole.Events(0)); got != 12 || math.Abs(whole.Seconds()-0.48) > 1e-3 {
		t.Errorf("%d events in %.2f s behind the drop", got, whole.Seconds())
	}
	whole.Drop(1 << 30)
	if got := whole.Events(0); len(got) != 0 {
		t.Errorf("%d events in nothing", len(got))
	}
}

func ExampleTrace_Assign() {
	p, _ := engine.FindPattern("four-across")
	e := p.Engine()
	// A dull line with a tall peak every 40 ms, one of the four twice as tall, and a sync.
	const rate = 250_000
	kV, sync := make([]float32, rate), make([]float32, rate)
	for k := range 24 {
		at := 5000 + 10_000*k
		for i := range 300 {
			kV[at+i] = 1.2
		}
		for i := range 3 {
			kV[at+i] = 9
			if e.FiringOrder[k%4] == 3 {
				kV[at+i] = 18
			}
		}
		if k%4 == 0 {
			for i := range 200 {
				sync[at+i] = 1
			}
		}
	}
	t := &Trace{Rate: rate, Channels: []Channel{{Name: "A", Samples: Halves(kV)}, {Name: SyncName, Samples: Halves(sync)}}}
	a := t.Assign(e, 0)
	fmt.Println(a.How(e))
	for _, s := range t.Summaries(e, a) {
		fmt.Printf("cylinder %d: %d events, %.0f kV\n", s.Cylinder, s.Events, s.Usual)
	}
	// Output:
	// Cylinders by the sync on cylinder 1: 100 % of the cycles are whole.
	// cylinder 1: 6 events, 9 kV
	// cylinder 2: 6 events, 9 kV
	// cylinder 3: 6 events, 18 kV
	// cylinder 4: 6 events, 9 kV
}

// A channel is known by its name. Where names and content do not say it, nothing is assigned.
func TestRolesByName(t *testing.T) {
	set := engine.SetOf
	sync := Role{Sync: true}
	one := func(c ...engine.Cylinder) Role { return Role{Cylinders: set(c...)} }
	for pattern, cases := range map[string][]struct {
		names []string
		want  []Role
		known bool
	}{
		"four-across": {
			{[]string{"cylinder 1", "cylinder 2", "cylinder 3", "cylinder 4"}, []Role{one(1), one(2), one(3), one(4)}, true},
			{[]string{"Cyl 1", "Cyl 3", "Cyl 4", "Cyl 2"}, []Role{one(1), one(3), one(4), one(2)}, true},
			{[]string{"Cyl 1,3,4,2", "Sync"}, []Role{one(1, 2, 3, 4), sync}, true},
			{[]string{"Sync", "#3"}, []Role{sync, one(3)}, true},
			{[]string{"kV cyl3", "TRIG"}, []Role{one(3), sync}, true},
			{[]string{"Plug 2"}, []Role{one(2)}, true},
			{[]string{"A", "B", "C", "D"}, []Role{{}, {}, {}, {}}, false},
			{[]string{"channel 1", "channel 2"}, []Role{{}, {}}, false},
			{[]string{"Cyl 9", "Sync"}, []Role{{}, sync}, false},
			{[]string{"King lead", "Sync"}, []Role{one(1, 2, 3, 4), sync}, true},
		},
		"v6-across": {
			{[]string{"Bank 1", "Bank 2", "Sync"}, []Role{{Cylinders: bank("v6-across", 1)}, {Cylinders: bank("v6-across", 2)}, sync}, true},
			{[]string{"bank B", "Cyl 1"}, []Role{{Cylinders: bank("v6-across", 2)}, one(1)}, true},
		},
		"single-magneto": {{[]string{"A"}, []Role{one(1)}, true}},
	} {
		p, _ := engine.FindPattern(pattern)
		e := p.Engine().Derive()
		for _, c := range cases {
			tr := &Trace{Rate: 250e3}
			for _, n := range c.names {
				v := make([]float32, 1000) // nothing but a step: the content tells nothing
				v[500] = 0.001
				tr.Channels = append(tr.Channels, Channel{Name: n, Samples: Halves(v)})
			}
			got, known := tr.Roles(e)
			if !slices.Equal(got, c.want) || known != c.known {
				t.Errorf("%s %v: %+v, known %v; want %+v, %v", pattern, c.names, got, known, c.want, c.known)
			}
			if a := tr.Assign(e, 0); (a.By == ByUnknown) == c.known && !strings.HasPrefix(c.names[0], "Bank") && !strings.HasPrefix(c.names[0], "bank") {
				t.Errorf("%s %v: assigned by %s", pattern, c.names, a.By)
			}
		}
	}
}

func bank(pattern string, n int) engine.Set {
	p, _ := engine.FindPattern(pattern)
	return p.Engine().Derive().BankSet(n)
}

// A sync is read once a cycle, though its clamp rings; a flat channel has no pulse.
func TestSyncHasADeadTime(t *testing.T) {
	const rate = 100e3
	flat := &Trace{Rate: rate, Channels: []Channel{{Samples: make([]Half, 500)}}}
	if got := flat.Syncs(0); len(got) != 0 {
		t.Errorf("%d pulses of a flat channel", len(got))
	}
	for _, sign := range []float64{1, -1} {
		v := make([]float32, int(0.9*rate))
		for k := range 5 {
			at := int((0.05 + 0.16*float64(k)) * rate)
			for i := range int(0.01 * rate) {
				s := float64(i) / rate
				v[at+i] = float32(sign * 5 * math.Exp(-s/1e-3) * math.Cos(2*math.Pi*8000*s))
			}
		}
		got := (&Trace{Rate: rate, Channels: []Channel{{Samples: Halves(v)}}}).Syncs(0)
		if len(got) != 5 || math.Abs(got[1]-0.21) > 5e-4 {
			t.Errorf("direction %v: pulses at %v", sign, got)
		}
	}
}

// What is written as roles reads as it was, and nothing else is read.
func FuzzParseRoles(f *testing.F) {
	for _, s := range []string{"cyl-1,cyl-3,sync", "engine,off", "bank-1,bank-2,sync", "cyl-1+3", "cyl-01", "cyl-1,cyl-1", ",", "cyl-9"} {
		f.Add(s, uint8(0))
		f.Add(s, uint8(7))
	}
	f.Fuzz(func(t *testing.T, s string, which uint8) {
		e := engine.Shelf[int(which)%len(engine.Shelf)].Engine().Derive()
		roles, err := ParseRoles(e, s)
		if err != nil || roles == nil {
			return
		}
		again, err := ParseRoles(e, RolesText(e, roles))
		if err != nil || !slices.Equal(roles, again) {
			t.Fatalf("%q: %+v, then %+v, %v", s, roles, again, err)
		}
	})
}
