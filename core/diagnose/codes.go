package diagnose

import (
	"math"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/infer"
)

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

// logCodeLikelihood is the log ratio of the misfire codes of the cylinders that were found, when
// some are affected.
func logCodeLikelihood(k codesKnown, affected engine.Set) (out infer.PerRate) {
	for r := range out {
		p := codeStray + (1-codeStray)*k.likely(infer.Grid[r])
		for _, c := range affected.List() {
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

// logRandomCode is the log chance that no random misfire code came of some cylinders.
func logRandomCode(k codesKnown, e engine.Engine, affected engine.Set) (out infer.PerRate) {
	several := randomOne
	switch {
	case affected == e.Everything():
		several = randomAll
	case affected.Len() > 1:
		several = randomSome
	}
	for r := range out {
		out[r] = math.Log1p(-several * k.likely(infer.Grid[r]))
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
	{"injector circuit", "injector.electrical", 0.40, "C: an open or a short is seen, a winding that has drifted is not; judgement"},
	{"injector circuit", "injector", 0.02, "C: a clogged or leaking one sets none; judgement"},
	{"bank lean", "air.leak", 0.35, "C: what one runner draws may stay within what the trims can do; judgement"},
	{"bank lean", "fuel.low", 0.40, "C: lean under load, where the trims hardly learn; judgement"},
	{"bank lean", "injector.leaking", 0.01, "C; judgement"},
	{"bank lean", "injector", 0.14, "C: one of the bank; judgement"},
	{"bank rich", "injector.leaking", 0.30, "C; judgement"},
	{"bank lean", "", 0.08, "C: unburnt air at the sensor, the misfire's effect; judgement"},
}

// Codes with no cause behind them (C; judgement).
var strayCode = map[string]float64{"coil circuit": 0.004, "injector circuit": 0.004, "bank lean": 0.03, "bank rich": 0.02}

// RowID names the row of a code.
func (r CodeRow) RowID() string {
	mode := r.Mode
	if mode == "" {
		mode = "misfire"
	}
	return "code:" + r.Code + "/" + mode
}

// codeChances is CodeRows by code and mode.
var codeChances = codesBy(CodeRows)

func codesBy(rows []CodeRow) map[string]map[string]float64 {
	m := map[string]map[string]float64{}
	for _, row := range rows {
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
}

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
// affected misfire.
func (c circuitRead) bears(chances map[string]map[string]float64, mode string, fed, affected engine.Set) (row likelihoodRow, ok bool) {
	stray := strayCode[c.code]
	p := stray
	if c.code == goneCode {
		stray, p = codeStray, codeStray
		if mode == fault.NoFaultNow {
			p = codeHistory
		}
	}
	if q := chances[c.code][mode]; fed&c.of != 0 && affected != 0 {
		p = max(p, q)
	}
	if q := chances[c.code][""]; affected&c.of != 0 {
		p = max(p, q)
	}
	if p == stray {
		return row, false
	}
	if c.set {
		return likelihoodRow{odds: p, sound: stray, seen: 1}, true
	}
	return likelihoodRow{odds: 1 - p, sound: 1 - stray, seen: 1}, true
}
