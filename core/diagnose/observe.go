package diagnose

import (
	"math"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/fault"
	"glenmist/core/part"
	"glenmist/core/trouble"
)

// Level is one way in which a fault can show in a condition: at its own rate, weaker
// by some steps of the grid of rates, or not at all.
type Level struct {
	Words string
	// Steps of the grid down from the rate; -1 is not at all.
	Steps int
	// In the condition where the vehicle fails, in one when that is not known, and in
	// another than where it fails.
	There, Unknown, Elsewhere float64
	Source                    string
}

// tenth is the steps of the grid that make a rate about ten times lower.
const tenth = 9

// Levels is what is believed of faults in the conditions. It is one hidden answer for
// each condition, however many runs are made in it (C; judgement).
var Levels = []Level{
	{"at its full rate", 0, 0.86, 0.60, 0.35, "C; judgement"},
	{"about a tenth of it", tenth, 0.08, 0.15, 0.25, "C: slighter when little is asked of the spark; judgement"},
	{"not at all", -1, 0.06, 0.25, 0.40, "C: a clean run in the wrong condition counts for little; judgement"},
}

// levels are the chances of Levels in one condition.
type levels [3]float64

// showing is how a fault shows in a run, by how the run's condition fits the one in
// which the vehicle fails.
func showing(failsWhen, run evidence.Condition) (l levels) {
	for i, row := range Levels {
		switch {
		case failsWhen == evidence.AnyCondition, run == evidence.AnyCondition:
			l[i] = row.Unknown
		case run == failsWhen:
			l[i] = row.There
		default:
			l[i] = row.Elsewhere
		}
	}
	return l
}

// shows takes the log ratio of the runs in one condition, at each rate that the fault
// may have there, to that at the rate it has where it fails.
func (l levels) shows(group *perRate) {
	var out perRate
	for r := range group {
		var logs [len(l)]float64
		for i, row := range Levels {
			x := 0.0
			if row.Steps >= 0 {
				x = group[max(0, r-row.Steps)]
			}
			logs[i] = math.Log(l[i]) + x
		}
		out[r] = logSum(logs[:])
	}
	*group = out
}

// runTable holds the log probability of what one run showed on each cylinder,
// sound and sick: the run's likelihood for any set of sick cylinders is a sum.
type runTable struct {
	sound [engine.MaxCylinders + 1]float64
	sick  [engine.MaxCylinders + 1]perRate
	n     int // cylinders
}

// ratio is the log probability for a set of sick cylinders, against an engine without a
// misfire.
func (t *runTable) ratio(sick engine.Set) (out perRate) {
	for _, c := range sick.List() {
		for r, x := range t.sick[c] {
			out[r] += x - t.sound[c]
		}
	}
	return out
}

// counted is the table of a run's counters.
func counted(c evidence.Counters) *runTable {
	n, all := c.Revolutions/2, 0
	for _, k := range c.Counts {
		all += k
	}
	t := &runTable{n: len(c.Counts)}
	for i, k := range c.Counts {
		t.sound[i+1] = logStray(k, n, all-k)
		if same := slices.Index(c.Counts[:i], k); same >= 0 {
			t.sick[i+1] = t.sick[same+1]
			continue
		}
		for r := range rates {
			t.sick[i+1][r] = logBetaBinomial(k, n, hit[r])
			if float64(k) <= takenForTheirs*float64(all-k) {
				t.sick[i+1][r] = min(t.sick[i+1][r], t.sound[i+1])
			}
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
func watched(w evidence.Watch, e engine.Engine) *runTable {
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
			p := noticedWrong + (noticedMost-noticedWrong)*hit[r]/(hit[r]+noticedHalf)
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

// coded is the log ratio of the misfire codes of the cylinders that were found, when
// some are sick.
func coded(k codesKnown, sick engine.Set) (out perRate) {
	for r := range out {
		p := codeStray + (1-codeStray)*k.likely(hit[r])
		for _, c := range sick.List() {
			if k.set.Has(c) {
				out[r] += math.Log(p / codeStray)
			} else if !k.open {
				out[r] += math.Log1p(-p) - math.Log1p(-codeStray)
			}
		}
	}
	return out
}

// likely is the chance that a misfire sets a code.
func (k codesKnown) likely(rate float64) float64 {
	p := codeMost * rate / (rate + codeHalf)
	if k.cleared {
		p *= codeRunAgain
	}
	return p
}

// randomly is the log chance that no random misfire code came of some cylinders.
func randomly(k codesKnown, e engine.Engine, sick engine.Set) (out perRate) {
	several := randomOne
	switch {
	case sick == e.Everything():
		several = randomAll
	case sick.Len() > 1:
		several = randomSome
	}
	for r := range out {
		out[r] = math.Log1p(-several * k.likely(hit[r]))
	}
	return out
}

// CodeRow states how often a fault has a code of its own set, beside misfire.
type CodeRow struct {
	// Code is what is set: "coil circuit", "injector circuit", "bank lean" or "bank rich".
	Code string
	// Mode, an id or the first part of one, has it set at its own coil, injector or bank
	// with this chance; the first row that fits counts. "" is any fault that makes a
	// cylinder of that bank misfire.
	Mode   string
	Chance float64
	Source string
}

// CodeRows is what is believed of circuit and mixture codes (C; judgement).
var CodeRows = []CodeRow{
	{"coil circuit", "coil.primary-open", 0.60, "C: the monitor sees the primary; judgement"},
	{"coil circuit", "coil.primary-shorted", 0.30, "C; judgement"},
	{"coil circuit", "coil", 0.05, "C: a breakdown in the secondary is not seen; judgement"},
	{"coil circuit", "connector", 0.45, "C; judgement"},
	{"coil circuit", "feed", 0.45, "C; judgement"},
	{"coil circuit", "ground", 0.35, "C; judgement"},
	{"coil circuit", "trigger", 0.60, "C; judgement"},
	{"coil circuit", "driver", 0.60, "C; judgement"},
	{"coil circuit", "module", 0.30, "C; judgement"},
	{"coil circuit", "stop-wire", 0.20, "C; judgement"},
	{"injector circuit", "injector.electrical", 0.75, "C; judgement"},
	{"injector circuit", "injector", 0.02, "C: a clogged or leaking one sets none; judgement"},
	{"bank lean", "air.leak", 0.55, "C; judgement"},
	{"bank lean", "fuel.low", 0.50, "C; judgement"},
	{"bank lean", "injector.leaking", 0.01, "C; judgement"},
	{"bank lean", "injector", 0.22, "C; judgement"},
	{"bank rich", "injector.leaking", 0.30, "C; judgement"},
	{"bank lean", "", 0.08, "C: unburnt air at the sensor, the misfire's effect; judgement"},
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
		if row.Mode == "" {
			m[row.Code][""] = row.Chance
		}
		for _, mode := range fault.Catalogue {
			if _, stated := m[row.Code][mode.ID]; !stated && matches([]string{row.Mode}, mode.ID) {
				m[row.Code][mode.ID] = row.Chance
			}
		}
	}
	return m
}()

// circuitRows lists what is read of a unit's circuits and mixture: whose code, of
// which cylinders, and whether it was set.
func (k codesKnown) circuitRows(e engine.Engine, history bool) []circuitRead {
	if !e.Scanned() {
		return nil
	}
	var all []circuitRead
	add := func(code string, of engine.Set, set bool) {
		if set || !k.open {
			all = append(all, circuitRead{code, of, set})
		}
	}
	if history { // codes of a misfire that has gone
		for _, c := range e.All() {
			add(goneCode, engine.SetOf(c), k.set.Has(c))
		}
	}
	for _, coil := range e.Coils() {
		of := engine.SetOf(coil.Cylinders...)
		add("coil circuit", of, k.coils&of != 0)
	}
	for _, c := range e.All() {
		add("injector circuit", engine.SetOf(c), k.injectors.Has(c))
	}
	for b := 1; b <= e.Banks(); b++ {
		of := e.BankSet(b)
		add("bank lean", of, k.lean&(1<<b) != 0)
		add("bank rich", of, k.rich&(1<<b) != 0)
	}
	return all
}

// goneCode is a misfire code that an engine without a fault can have.
const goneCode = "misfire that has gone"

// circuitRead is one code of a circuit or of the mixture, set or not.
type circuitRead struct {
	code string
	of   engine.Set
	set  bool
}

// bears is what it says of a fault that depends on an item feeding fed, and makes
// sick misfire.
func (c circuitRead) bears(mode string, fed, sick engine.Set) (row asked, ok bool) {
	stray := strayCode[c.code]
	p := stray
	if c.code == goneCode {
		stray, p = codeStray, codeStray
		if mode == fault.NoFaultNow {
			p = codeHistory
		}
	}
	if q := codeChances[c.code][mode]; fed&c.of != 0 && sick != 0 {
		p = max(p, q)
	}
	if q := codeChances[c.code][""]; sick&c.of != 0 {
		p = max(p, q)
	}
	if p == stray {
		return row, false
	}
	if c.set {
		return asked{odds: p, sound: stray, seen: 1}, true
	}
	return asked{odds: 1 - p, sound: 1 - stray, seen: 1}, true
}

// TrimRow states what the sum of the fuel trims of a bank is when a fault bears on
// it: normally distributed, in per cent.
type TrimRow struct {
	// Mode is the fault, an id or the first part of one; Shared says whether it is of a bank or the whole engine
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
	{"fuel.low", true, 12, 10, "C: at idle a weak pump often keeps up; judgement"},
	{"injector.leaking", false, -9, 7, "C: one that stays open; judgement"},
	{"injector", false, 7, 7, "C; judgement"},
	{"", false, 5, 7, "C: unburnt air looks lean, so it weighs little; judgement"},
	{"none", false, 0, 5, "C: trims wander within a few per cent; judgement"},
}

// A trim read in error or in open loop is anywhere (C; judgement).
const (
	trimWrong   = 0.04
	trimWrongSD = 25
)

// trimmed is what the trims of one bank say of a fault; odd is how far it moves them.
func trimmed(t trouble.Trim, e engine.Engine, mode string, fed, sick engine.Set) (row asked, odd float64, ok bool) {
	r, ok := trimRow(e.BankSet(t.Bank), mode, fed, sick)
	if !ok {
		return row, 0, false
	}
	p := func(r TrimRow) float64 {
		return math.Exp(logMix(1-trimWrong, logNormal(t.Sum(), r.Mean, r.SD), trimWrong, logNormal(t.Sum(), 0, trimWrongSD)))
	}
	return asked{odds: p(r), sound: p(noTrim), seen: 1}, math.Abs(r.Mean), true
}

// noTrim is the row of trims with nothing behind them.
var noTrim = TrimRows[len(TrimRows)-1]

// trimRow is the row that holds for the trims of a bank when a fault feeds some cylinders
// and makes some sick; ok is false where nothing bears on them.
func trimRow(bank engine.Set, mode string, fed, sick engine.Set) (row TrimRow, ok bool) {
	for _, r := range TrimRows {
		if matches([]string{r.Mode}, mode) && r.Shared == (fed.Len() > 1) && fed&bank != 0 && sick != 0 || r.Mode == "" && sick&bank != 0 {
			return r, true
		}
	}
	return row, false
}

// within is the chance that trims of this row sum to more than low and at most high.
func (r TrimRow) within(low, high float64) float64 {
	share := func(mean, sd float64) float64 {
		below := func(x float64) float64 { return 0.5 * math.Erfc((mean-x)/(sd*math.Sqrt2)) }
		return below(high) - below(low)
	}
	return (1-trimWrong)*share(r.Mean, r.SD) + trimWrong*share(0, trimWrongSD)
}

func logNormal(x, mean, sd float64) float64 {
	z := (x - mean) / sd
	return -z*z/2 - math.Log(sd) - math.Log(2*math.Pi)/2
}

// CheckRow states how a test with a plain answer turns out on what is at fault, or,
// with no modes, on what is not.
type CheckRow struct {
	Test evidence.TestID
	// Modes are the faults that the row is for, by their ids or the first part of
	// them; none is any other fault.
	Modes []string
	// Chance of each answer, in the order of the test's results. They sum to 1.
	Chance []float64
	Source string
}

// CheckRows is what is believed of the tests (C; judgement). For a test of one
// item a row holds where the fault bears on that item's cylinder or coil; of a
// fault elsewhere the test says what it says of a sound one. The first row that
// fits counts.
var CheckRows = []CheckRow{
	//                                       strong weak  comes none
	{evidence.Spark, []string{"coil.primary-open"}, []float64{.28, .05, .35, .32}, "C"},
	{evidence.Spark, []string{"coil.primary-shorted", "coil.secondary-shorted", "coil.secondary-open"}, []float64{.30, .40, .12, .18}, "C: yellow and thin"},
	{evidence.Spark, []string{"coil.weak-hot", "coil.weak-load"}, []float64{.62, .25, .08, .05}, "C: a good idle spark does not clear a coil"},
	{evidence.Spark, []string{"coil.cracked"}, []float64{.42, .22, .24, .12}, "C: an open gap finds what an idling plug does not"},
	{evidence.Spark, []string{"connector", "module", "pickup"}, []float64{.35, .12, .33, .20}, "C"},
	{evidence.Spark, []string{"feed", "ground"}, []float64{.28, .34, .20, .18}, "C: few volts, a weak spark"},
	{evidence.Spark, []string{"trigger", "driver"}, []float64{.25, .05, .25, .45}, "C"},
	{evidence.Spark, []string{"lead.open", "lead.high-resistance", "coil-lead.open", "boot.spring", "rotor"}, []float64{.33, .27, .20, .20}, "C"},
	{evidence.Spark, []string{"lead.leaking", "coil-lead.leaking", "boot", "seat", "well", "cap"}, []float64{.48, .22, .20, .10}, "C: an open gap finds a leak that an idling plug does not"},
	{evidence.Spark, []string{"stop-wire"}, []float64{.10, .10, .30, .50}, "C"},
	{evidence.Spark, []string{"air-gap"}, []float64{.20, .50, .10, .20}, "C"},
	{evidence.Spark, nil, []float64{.93, .04, .02, .01}, "C"},

	//                                          in line high low jumps
	{evidence.Kilovolts, []string{"plug.worn-gap"}, []float64{.25, .65, .02, .08}, "C: one high, steady"},
	{evidence.Kilovolts, []string{"plug.closed-gap"}, []float64{.15, .02, .75, .08}, "C: one low, steady"},
	{evidence.Kilovolts, []string{"plug.wrong"}, []float64{.40, .35, .17, .08}, "C"},
	{evidence.Kilovolts, []string{"plug.loose"}, []float64{.50, .04, .40, .06}, "C: less charge"},
	{evidence.Kilovolts, []string{"lead.open", "lead.high-resistance", "coil-lead.open", "boot.spring", "rotor.worn", "seat"}, []float64{.15, .55, .03, .27}, "C: a gap in series"},
	{evidence.Kilovolts, []string{"plug.cracked", "boot", "lead.leaking", "coil-lead.leaking", "cap", "rotor", "well"}, []float64{.20, .04, .14, .62}, "C: a path that should not be there"},
	{evidence.Kilovolts, []string{"plug.carbon-fouled", "plug.fuel-fouled", "plug.oil-fouled"}, []float64{.15, .03, .70, .12}, "C: one low, steady"},
	{evidence.Kilovolts, []string{"coil.weak-hot", "coil.weak-load"}, []float64{.62, .05, .15, .18}, "C: enough at idle"},
	{evidence.Kilovolts, []string{"coil", "connector", "module", "feed", "ground", "trigger", "driver", "pickup", "stop-wire", "air-gap"}, []float64{.40, .04, .24, .32}, "C"},
	{evidence.Kilovolts, []string{"compression"}, []float64{.20, .02, .73, .05}, "C: little charge needs little"},
	{evidence.Kilovolts, []string{"injector.leaking"}, []float64{.62, .06, .22, .10}, "C: rich needs less"},
	{evidence.Kilovolts, []string{"injector", "air", "fuel"}, []float64{.38, .38, .04, .20}, "C: lean needs more"},
	{evidence.Kilovolts, nil, []float64{.90, .04, .03, .03}, "C: secondary side good in this condition"},

	{evidence.CoilResistance, []string{"coil.primary-open"}, []float64{.50, .47, .03}, "C: many open only when warm"},
	{evidence.CoilResistance, []string{"coil.secondary-open"}, []float64{.12, .86, .02}, "C"},
	{evidence.CoilResistance, []string{"coil.primary-shorted", "coil.secondary-shorted"}, []float64{.30, .03, .67}, "C: a few turns hide in the tolerance"},
	{evidence.CoilResistance, []string{"coil.weak-load"}, []float64{.84, .06, .10}, "C"},
	{evidence.CoilResistance, []string{"coil"}, []float64{.95, .03, .02}, "C: insulation fails at 20 kV, not at the meter's volt"},
	{evidence.CoilResistance, nil, []float64{.96, .02, .02}, "C"},
	{evidence.LeadResistance, []string{"lead.open", "lead.high-resistance"}, []float64{.12, .88}, "C: a fail is strong"},
	{evidence.LeadResistance, []string{"lead.leaking"}, []float64{.85, .15}, "C: a pass is weak"},
	{evidence.LeadResistance, nil, []float64{.96, .04}, "C"},
	//                                           there feed ground comes missing
	{evidence.TriggerPulse, []string{"feed"}, []float64{.08, .84, .02, .04, .02}, "C: loaded, a poor feed shows"},
	{evidence.TriggerPulse, []string{"ground"}, []float64{.10, .03, .82, .03, .02}, "C: as a voltage drop"},
	{evidence.TriggerPulse, []string{"trigger", "driver"}, []float64{.13, .01, .01, .32, .53}, "C"},
	{evidence.TriggerPulse, []string{"pickup"}, []float64{.28, .01, .01, .40, .30}, "C"},
	{evidence.TriggerPulse, nil, []float64{.95, .012, .013, .015, .01}, "C"},
	{evidence.WireTest, []string{"trigger"}, []float64{.15, .85}, "C: some breaks close when the wire lies still"},
	{evidence.WireTest, []string{"connector"}, []float64{.80, .20}, "C: the pin is part of the way"},
	{evidence.WireTest, nil, []float64{.97, .03}, "C"},
	{evidence.InjectorTest, []string{"injector"}, []float64{.12, .88}, "C"},
	{evidence.InjectorTest, nil, []float64{.95, .05}, "C"},
	{evidence.CompressionTest, []string{"compression"}, []float64{.08, .92}, "C"},
	{evidence.CompressionTest, []string{"plug.loose"}, []float64{.30, .70}, "C: it goes out past the plug"},
	{evidence.CompressionTest, nil, []float64{.96, .04}, "C"},

	{evidence.InjectorExchange, []string{"injector"}, []float64{.06, .94}, "C"},
	{evidence.InjectorExchange, nil, []float64{.97, .03}, "C"},
	{evidence.Wiggle, []string{"connector"}, []float64{.25, .75}, "C"},
	{evidence.Wiggle, []string{"module", "feed", "ground", "trigger", "seat"}, []float64{.75, .25}, "C"},
	{evidence.Wiggle, nil, []float64{.97, .03}, "C"},
	//                                       tight valve rings gasket
	{evidence.LeakDown, []string{"compression.valve"}, []float64{.06, .80, .08, .06}, "C: heard at intake or exhaust"},
	{evidence.LeakDown, []string{"compression.rings"}, []float64{.06, .08, .80, .06}, "C: heard at the filler"},
	{evidence.LeakDown, []string{"compression.gasket"}, []float64{.06, .10, .06, .78}, "C: bubbles, or the neighbour's plug hole"},
	{evidence.LeakDown, nil, []float64{.96, .015, .015, .01}, "C"},
	{evidence.CrankSignal, []string{"pickup"}, []float64{.12, .88}, "C"},
	{evidence.CrankSignal, nil, []float64{.97, .03}, "C"},

	{evidence.Smoke, []string{"air"}, []float64{.12, .88}, "C: finds most leaks on the intake side"},
	{evidence.Smoke, nil, []float64{.97, .03}, "C"},
	{evidence.FuelPressure, []string{"fuel"}, []float64{.15, .85}, "C: a pump can hold pressure and lack volume"},
	{evidence.FuelPressure, nil, []float64{.97, .03}, "C"},
	{evidence.StopWireOff, []string{"stop-wire"}, []float64{.05, .95}, "C"},
	{evidence.StopWireOff, nil, []float64{.98, .02}, "C"},
	{evidence.AirGapCheck, []string{"air-gap"}, []float64{.08, .92}, "C"},
	{evidence.AirGapCheck, nil, []float64{.96, .04}, "C"},
	{evidence.LeadRouting, []string{"lead-order"}, []float64{.05, .95}, "C: counted off against the firing order"},
	{evidence.LeadRouting, nil, []float64{.99, .01}, "C"},
	{evidence.TimingLamp, []string{"timing"}, []float64{.08, .92}, "C"},
	{evidence.TimingLamp, nil, []float64{.96, .04}, "C"},
}

// matches says whether a mode is among some ids or first parts of them.
func matches(modes []string, id string) bool {
	family, _, _ := strings.Cut(id, ".")
	return slices.Contains(modes, id) || slices.Contains(modes, family)
}

// checkedBy is what a test's answer says of a fault with the parts at some positions;
// more is a log ratio that goes with it, and odd how often the fault shows in it.
func (a *Assessment) checkedBy(c evidence.Check, h *fault.Hypothesis, at part.Positions) (k asked, more, odd float64, ok bool) {
	test, _ := evidence.FindTest(c.Test)
	answer := slices.IndexFunc(test.Results, func(r evidence.Result) bool { return r.ID == c.Result })
	if test.Of == evidence.OfItem && !a.bearsOn(test, c.Place, h, at) {
		return k, 0, 0, false
	}
	mine, sound := a.Beliefs.checks[c.Test][h.Mode.ID], a.Beliefs.checks[c.Test][""]
	if mine == nil {
		return k, 0, 0, false
	}
	k = asked{odds: mine.Chance[answer], sound: sound.Chance[answer], events: watchedIn[c.Test], seen: 1}
	if k.events > 0 && a.FailsWhen != evidence.AnyCondition && a.FailsWhen != evidence.Idle {
		k.seen = inTheShop
	}
	if test.Of == evidence.OfLeaks && test.Results[answer].Odd {
		more = math.Log(a.placed(c.Place, h) * float64(len(a.leaks)))
	}
	return k, more, 1 - mine.Chance[0], true
}

// checkRows is CheckRows by test and mode; "" is any other fault, and none.
var checkRows = func() map[evidence.TestID]map[string]*CheckRow {
	m := map[evidence.TestID]map[string]*CheckRow{}
	for i := range CheckRows {
		row := &CheckRows[i]
		if m[row.Test] == nil {
			m[row.Test] = map[string]*CheckRow{}
		}
		of := m[row.Test]
		if row.Modes == nil {
			of[""] = row
		}
		for _, mode := range fault.Catalogue {
			if of[mode.ID] == nil && matches(row.Modes, mode.ID) {
				of[mode.ID] = row
			}
		}
	}
	return m
}()

// watchedIn is how many firing events a test watches: a fault that misfires one time
// in a hundred is seldom caught in twenty (arithmetic; the numbers C). Tests of what
// stands still watch none.
var watchedIn = map[evidence.TestID]int{evidence.Spark: 20, evidence.Kilovolts: 30, evidence.TriggerPulse: 30, evidence.StopWireOff: 20, evidence.CrankSignal: 50}

// inTheShop is the chance that a fault which fails in a condition of its own shows in
// a test at idle or cranking (C; judgement).
const inTheShop = 0.6

// bearsOn says whether a fault bears on the item of a test: a part that is tested
// must be the one at fault, and of what cannot be tested alone the cylinder must be
// one that the fault troubles.
func (a *Assessment) bearsOn(t evidence.Test, place engine.Place, h *fault.Hypothesis, at part.Positions) bool {
	if t.ID == evidence.CoilResistance || t.ID == evidence.LeadResistance {
		return h.Tag != "" && h.Tag == at.In(t.On, place)
	}
	feeds, _ := a.Engine.Feeds(place)
	return h.Afflicted(at)&feeds != 0
}

// How a leak's place is told (C; judgement): these are shares of all places, which
// are then brought to a sum of 1.
const (
	leakThere  = 0.85 // where it is
	leakAround = 0.12 // at places that overlap it, the rest farther off
)

// placed is the chance that a leak is told at a place, of all the places it could
// be told at.
func (a *Assessment) placed(at engine.Place, h *fault.Hypothesis) float64 {
	places := a.leaks
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
