package diagnose

import (
	"math"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// perRate holds one figure for each rate of the grid.
type perRate [rates]float64

// showing is the chance that a fault shows at all in a run, by how the run's
// condition fits the one in which the vehicle fails (C; judgement). A clean run
// in the wrong condition counts for little.
func showing(failsWhen, run evidence.Condition) float64 {
	switch {
	case failsWhen == evidence.AnyCondition:
		return 0.90
	case run == failsWhen:
		return 0.93
	case run == evidence.AnyCondition:
		return 0.85
	default:
		return 0.60
	}
}

// runTable holds the log probability of what one run showed on each cylinder,
// sound and sick: the run's likelihood for any set of sick cylinders is a sum.
type runTable struct {
	sound [engine.MaxCylinders + 1]float64
	sick  [engine.MaxCylinders + 1]perRate
	n     int // cylinders
}

func (t *runTable) of(sick engine.Set) (out perRate) {
	flat := 0.0
	for c := engine.Cylinder(1); int(c) <= t.n; c++ {
		if sick.Has(c) {
			addTo(&out, t.sick[c], 1)
		} else {
			flat += t.sound[c]
		}
	}
	for r := range out {
		out[r] += flat
	}
	return out
}

// counted is the table of a run's counters. shows is the chance that a fault shows
// at all; it holds for each cylinder by itself.
func counted(c evidence.Counters, shows float64) *runTable {
	n := c.Revolutions / 2
	t := &runTable{n: len(c.Counts)}
	for i, k := range c.Counts {
		stray := logStray(k, n)
		t.sound[i+1] = stray
		for r := range rates {
			t.sick[i+1][r] = logMix(shows, logBetaBinomial(k, n, hit[r]), 1-shows, stray)
		}
	}
	return t
}

// What is followed without numbers: half of the misfires at one in two hundred
// are noticed, hardly any are seen where there are none (C; judgement).
const (
	noticedHalf  = 0.005
	noticedMost  = 0.92
	noticedWrong = 0.03
)

// watched is the table of a misfire followed without numbers.
func watched(w evidence.Watch, e engine.Engine, shows float64) *runTable {
	seen := engine.SetOf(w.Cylinders...)
	t := &runTable{n: e.Cylinders}
	say := func(p float64, was bool) float64 {
		if !was {
			p = 1 - p
		}
		return math.Log(p)
	}
	for _, c := range e.All() {
		t.sound[c] = say(noticedWrong, seen.Has(c))
		for r := range rates {
			p := noticedWrong + (noticedMost-noticedWrong)*shows*hit[r]/(hit[r]+noticedHalf)
			t.sick[c][r] = say(p, seen.Has(c))
		}
	}
	return t
}

// What a control unit makes of misfires (C; judgement, on the emissions
// threshold of 13 CCR 1968.2(e)(3), from memory: not below 1 %). A cylinder that
// misfires one time in a hundred has its code set half of the time.
const (
	codeHalf     = 0.01
	codeMost     = 0.96
	codeStray    = 0.01 // a code on a cylinder that does not misfire
	codeHistory  = 0.10 // a code left by a misfire that has gone
	randomStray  = 0.03 // P0300 with no misfire at all
	randomOne    = 0.15 // P0300 beside the code of one cylinder
	randomSome   = 0.45 // P0300 beside the codes of several
	randomAll    = 0.80 // P0300 when all cylinders misfire
	codeRunAgain = 0.70 // that the drive after clearing was long enough to set it
)

// codesKnown is what is known of the codes at one moment.
type codesKnown struct {
	random bool
	set    engine.Set
	// coils and injectors have a circuit code, by the cylinders they feed; lean and
	// rich banks have a code, bit b for bank b.
	coils, injectors engine.Set
	lean, rich       uint8
	// cleared says that the codes were cleared before the run that this speaks
	// of: then a code that is absent counts, but a short drive may not set one.
	cleared bool
	// open says that absence counts for nothing, since the unit was not read in
	// full since the last move or still held older codes.
	open bool
}

// any says that some code is known to be set.
func (k codesKnown) any() bool {
	return k.random || k.set|k.coils|k.injectors != 0 || k.lean|k.rich != 0
}

// coded is the log probability of the misfire codes that were found.
func coded(k codesKnown, e engine.Engine, sick engine.Set, history bool) (out perRate) {
	again := 1.0
	if k.cleared {
		again = codeRunAgain
	}
	add := func(r int, p float64, set bool) {
		if set {
			out[r] += math.Log(p)
		} else if !k.open {
			out[r] += math.Log1p(-p)
		}
	}
	several := randomOne
	switch {
	case sick == e.Everything() && e.Cylinders > 1:
		several = randomAll
	case sick.Len() > 1:
		several = randomSome
	}
	for r := range out {
		seen := codeMost * hit[r] / (hit[r] + codeHalf) * again
		for _, c := range e.All() {
			p := codeStray
			switch {
			case sick.Has(c):
				p += (1 - codeStray) * seen
			case sick == 0 && history && !k.cleared:
				p = codeHistory
			}
			add(r, p, k.set.Has(c))
		}
		p := randomStray
		if sick != 0 {
			p += (several - randomStray) * seen
		}
		add(r, p, k.random)
	}
	return out
}

// CodeRow states how often a fault has a code of its own set, beside misfire.
type CodeRow struct {
	// Code is what is set: "coil circuit", "injector circuit", "bank lean" or "bank rich".
	Code string
	// Mode has it set at its own coil, injector or bank with this chance; "" is any
	// fault that makes a cylinder of that bank misfire.
	Mode   string
	Chance float64
	Source string
}

// CodeRows is what is believed of circuit and mixture codes (C; judgement).
var CodeRows = []CodeRow{
	{"coil circuit", "coil.breakdown", 0.10, "C: the monitor sees the primary, a breakdown is in the secondary; judgement"},
	{"coil circuit", "connector.poor-contact", 0.45, "C; judgement"},
	{"coil circuit", "trigger.missing", 0.60, "C; judgement"},
	{"coil circuit", "module.poor-contact", 0.30, "C; judgement"},
	{"coil circuit", "stop-wire.shorted", 0.20, "C; judgement"},
	{"injector circuit", "injector.not-delivering", 0.35, "C: a clogged one sets none; judgement"},
	{"bank lean", "air.leak", 0.55, "C; judgement"},
	{"bank lean", "fuel.low", 0.50, "C; judgement"},
	{"bank lean", "injector.not-delivering", 0.20, "C; judgement"},
	{"bank lean", "", 0.08, "C: unburnt air at the sensor, the misfire's effect; judgement"},
	{"bank rich", "injector.not-delivering", 0.04, "C: a leaking one; judgement"},
}

// Codes with no cause behind them (C; judgement).
var strayCode = map[string]float64{"coil circuit": 0.004, "injector circuit": 0.004, "bank lean": 0.03, "bank rich": 0.02}

// codeChances is CodeRows by code and mode.
var codeChances = func() map[string]map[string]float64 {
	m := map[string]map[string]float64{}
	for _, row := range CodeRows {
		if m[row.Code] == nil {
			m[row.Code] = map[string]float64{}
		}
		m[row.Code][row.Mode] = row.Chance
	}
	return m
}()

// circuits is the log probability of the circuit and mixture codes in a world
// whose fault depends on an item that feeds fed, and makes sick misfire.
func circuits(k codesKnown, e engine.Engine, mode string, fed, sick engine.Set) float64 {
	log := 0.0
	ask := func(code string, of engine.Set, set bool) {
		p := strayCode[code]
		if c := codeChances[code][mode]; fed&of != 0 && sick != 0 {
			p = max(p, c)
		}
		if c := codeChances[code][""]; sick&of != 0 {
			p = max(p, c)
		}
		switch {
		case set:
			log += math.Log(p)
		case !k.open:
			log += math.Log1p(-p)
		}
	}
	if !e.Scanned() {
		return 0
	}
	for _, coil := range e.Coils() {
		of := engine.SetOf(coil.Cylinders...)
		ask("coil circuit", of, k.coils&of != 0)
	}
	for _, c := range e.All() {
		ask("injector circuit", engine.SetOf(c), k.injectors.Has(c))
	}
	for b := 1; b <= e.Banks(); b++ {
		of := e.BankSet(b)
		ask("bank lean", of, k.lean&(1<<b) != 0)
		ask("bank rich", of, k.rich&(1<<b) != 0)
	}
	return log
}

// TrimRow states what the sum of the fuel trims of a bank is when a fault bears on
// it: normally distributed, in per cent.
type TrimRow struct {
	// Mode is the fault; Shared says whether it is of a bank or the whole engine
	// and not of one cylinder. "" is any misfire of that bank.
	Mode     string
	Shared   bool
	Mean, SD float64
	Source   string
}

// TrimRows is what is believed of fuel trims (C; judgement).
var TrimRows = []TrimRow{
	{"air.leak", true, 20, 9, "C: several cylinders' worth of air; judgement"},
	{"air.leak", false, 9, 6, "C: one runner's worth; judgement"},
	{"fuel.low", true, 16, 9, "C; judgement"},
	{"injector.not-delivering", false, 7, 7, "C; judgement"},
	{"", false, 5, 7, "C: unburnt air looks lean, so it weighs little; judgement"},
	{"none", false, 0, 5, "C: trims wander within a few per cent; judgement"},
}

// A trim read in error or in open loop is anywhere (C; judgement).
const (
	trimWrong   = 0.04
	trimWrongSD = 25
)

// trimmed is the log probability of the trims of one bank in a world.
func trimmed(t trouble.Trim, e engine.Engine, mode string, fed, sick engine.Set) float64 {
	bank := e.BankSet(t.Bank)
	row := TrimRows[len(TrimRows)-1]
	for _, r := range TrimRows {
		if r.Mode == mode && r.Shared == (fed.Len() > 1) && fed&bank != 0 && sick != 0 || r.Mode == "" && sick&bank != 0 {
			row = r
			break
		}
	}
	return logMix(1-trimWrong, logNormal(t.Sum(), row.Mean, row.SD), trimWrong, logNormal(t.Sum(), 0, trimWrongSD))
}

func logNormal(x, mean, sd float64) float64 {
	z := (x - mean) / sd
	return -z*z/2 - math.Log(sd) - math.Log(2*math.Pi)/2
}

// CheckRow states how a test with a plain answer turns out.
type CheckRow struct {
	Test evidence.TestID
	// Modes are the faults that it finds, by the first part of their ids.
	Modes []string
	// Hit is the chance that it finds one, Wrong that it finds one that is not there.
	Hit, Wrong float64
	Source     string
}

// CheckRows is what is believed of the tests (C; judgement).
var CheckRows = []CheckRow{
	{evidence.Smoke, []string{"air"}, 0.88, 0.03, "C: finds most leaks on the intake side; judgement"},
	{evidence.FuelPressure, []string{"fuel"}, 0.85, 0.03, "C: a pump can hold pressure and lack volume; judgement"},
	{evidence.StopWireOff, []string{"stop-wire"}, 0.95, 0.02, "C; judgement"},
	{evidence.AirGapCheck, []string{"air-gap"}, 0.92, 0.04, "C; judgement"},
	{evidence.LeadRouting, []string{"lead-order"}, 0.95, 0.01, "C: counted off against the firing order; judgement"},
	{evidence.TimingLamp, []string{"timing"}, 0.92, 0.04, "C; judgement"},
}

// checked is the log probability of a test's answer in a world.
func (a *Assessment) checked(c evidence.Check, h *fault.Hypothesis, cured bool) float64 {
	for _, row := range CheckRows {
		if row.Test != c.Test {
			continue
		}
		p := row.Wrong
		family, _, _ := strings.Cut(h.Mode.ID, ".")
		found := false
		for _, m := range row.Modes {
			found = found || m == family && !cured
		}
		if found {
			p = row.Hit
		}
		test, _ := evidence.FindTest(c.Test)
		if r, _ := test.Result(c.Result); !r.Odd {
			return math.Log1p(-p)
		}
		if !test.Anywhere {
			return math.Log(p)
		}
		return math.Log(p) + math.Log(a.placed(c.Place, h, found))
	}
	return 0
}

// How a leak's place is told (C; judgement): these are shares of all places, which
// are then brought to a sum of 1.
const (
	leakThere  = 0.85 // where it is
	leakAround = 0.12 // at places that overlap it, the rest farther off
)

// placed is the chance that a leak is told at a place, of all the places it could
// be told at.
func (a *Assessment) placed(at engine.Place, h *fault.Hypothesis, real bool) float64 {
	places := a.leaks
	if !real {
		return 1 / float64(len(places))
	}
	of, _ := a.Engine.Feeds(h.Place)
	sum, mine := 0.0, 0.0
	weigh := func(i engine.Item) float64 {
		switch {
		case i.Place == h.Place:
			return leakThere
		case i.Feeds&of != 0:
			return leakAround / float64(len(places))
		}
		return (1 - leakThere - leakAround) / float64(len(places))
	}
	for _, i := range places {
		sum += weigh(i)
		if i.Place == at {
			mine = weigh(i)
		}
	}
	return mine / sum
}

// fedBy is the cylinders that depend on what is at fault, where it sits.
func fedBy(h fault.Hypothesis, e engine.Engine, at part.Positions) engine.Set {
	if h.Tag != "" {
		return engine.SetOf(at.Feeds(h.Tag)...)
	}
	feeds, _ := e.Feeds(h.Place)
	return feeds
}
