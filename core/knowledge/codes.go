package knowledge

import (
	"glenmist/core/fault"
)

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
var StrayCode = map[string]float64{"coil circuit": 0.004, "injector circuit": 0.004, "bank lean": 0.03, "bank rich": 0.02}

// RowID names the row of a code.
func (r CodeRow) RowID() string {
	mode := r.Mode
	if mode == "" {
		mode = "misfire"
	}
	return "code:" + r.Code + "/" + mode
}

// codeChances is CodeRows by code and mode.
var CodeChances = codesBy(CodeRows)

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
			if _, stated := m[row.Code][mode.ID]; !stated && Matches([]string{row.Mode}, mode.ID) {
				m[row.Code][mode.ID] = row.Chance
			}
		}
	}
	return m
}

// goneCode is a misfire code that an engine without a fault can have.
const GoneCode = "misfire that has gone"
