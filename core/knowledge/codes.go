package knowledge

import (
	"fmt"

	"glenmist/core/fault"
	"glenmist/core/unit"
)

// CodeKind is a kind of trouble code other than a misfire code.
type CodeKind string

// The kinds. An engine without a fault can have a code of an earlier misfire.
const (
	CoilCircuit     CodeKind = "coil circuit"
	InjectorCircuit CodeKind = "injector circuit"
	BankLean        CodeKind = "bank lean"
	BankRich        CodeKind = "bank rich"
	GoneCode        CodeKind = "misfire that has gone"
)

// CodeRow is the probability that a fault sets a code other than a misfire code.
type CodeRow struct {
	Code CodeKind
	// Mode selects the faults that set it at their own coil, injector or bank. The first row
	// that covers a mode counts. A nil key is any fault that makes a cylinder of that bank
	// misfire.
	Mode   fault.Key
	Chance float64
	Source string
}

// RowID returns the row id.
func (r CodeRow) RowID() string { return "code:" + string(r.Code) + "/" + orMisfire(r.Mode) }

// orMisfire describes the key of a row; nil is any misfire.
func orMisfire(key fault.Key) string {
	if key == nil {
		return "misfire"
	}
	return key.String()
}

// anyMisfireWords describes the key of a row of codes or trims.
func anyMisfireWords(key fault.Key) string {
	if key == nil {
		return "any misfire of that bank"
	}
	return modeWords(fault.Keys{key})
}

// codeTable holds the probability by code and mode; "" is any misfire.
var codeTable = Register(TableOf[CodeRow, map[CodeKind]map[fault.ModeID]float64]{
	Title: "Codes of circuits and mixture", In: OfCodes, Ships: CodeRows,
	Describe: func(c *CodeRow) Row {
		return Row{ID: c.RowID(), Of: unit.Capital(string(c.Code)) + " code, of " + anyMisfireWords(c.Mode), Says: fmt.Sprintf("set %.3g\u202f%%", 100*c.Chance), Source: c.Source,
			Figures: []Figure{{Words: "Sets the code", As: Percent, At: &c.Chance, Least: LeastChance, Most: 1 - LeastChance}}}
	},
	Index: func(rows []CodeRow) map[CodeKind]map[fault.ModeID]float64 {
		m := map[CodeKind]map[fault.ModeID]float64{}
		for _, row := range rows {
			if m[row.Code] == nil {
				m[row.Code] = map[fault.ModeID]float64{}
			}
			if row.Mode == nil {
				m[row.Code][""] = row.Chance
				continue
			}
			for _, mode := range fault.Catalogue {
				if _, stated := m[row.Code][mode.ID]; !stated && row.Mode.Covers(mode.ID) {
					m[row.Code][mode.ID] = row.Chance
				}
			}
		}
		return m
	},
})

// Code returns the probability that a mode sets a code; "" is any misfire. It is 0 if no row
// states it.
func (b *Beliefs) Code(code CodeKind, mode fault.ModeID) float64 { return codeTable.Of(b)[code][mode] }

// StrayCode is the probability of a code without a cause (C; judgement).
var StrayCode = map[CodeKind]float64{CoilCircuit: 0.004, InjectorCircuit: 0.004, BankLean: 0.03, BankRich: 0.02}

// CodeRows lists circuit and mixture codes (C; judgement).
var CodeRows = []CodeRow{
	{CoilCircuit, fault.CoilPrimaryOpen, 0.60, "C: the monitor sees the primary; judgement"},
	{CoilCircuit, fault.CoilPrimaryShorted, 0.30, "C; judgement"},
	{CoilCircuit, fault.AnyCoil, 0.05, "C: a breakdown in the secondary is not seen; judgement"},
	{CoilCircuit, fault.AnyConnector, 0.45, "C; judgement"},
	{CoilCircuit, fault.AnyFeed, 0.45, "C; judgement"},
	{CoilCircuit, fault.AnyGround, 0.35, "C; judgement"},
	{CoilCircuit, fault.AnyTrigger, 0.60, "C; judgement"},
	{CoilCircuit, fault.AnyDriver, 0.60, "C; judgement"},
	{CoilCircuit, fault.AnyModule, 0.30, "C; judgement"},
	{CoilCircuit, fault.AnyStopWire, 0.20, "C; judgement"},
	{InjectorCircuit, fault.InjectorElectrical, 0.40, "C: an open or a short is seen, a winding that has drifted is not; judgement"},
	{InjectorCircuit, fault.AnyInjector, 0.02, "C: a clogged or leaking one sets none; judgement"},
	{BankLean, fault.AirLeak, 0.35, "C: what one runner draws may stay within what the trims can do; judgement"},
	{BankLean, fault.FuelLow, 0.40, "C: lean under load, where the trims hardly learn; judgement"},
	{BankLean, fault.InjectorLeaking, 0.01, "C; judgement"},
	{BankLean, fault.AnyInjector, 0.14, "C: one of the bank; judgement"},
	{BankRich, fault.InjectorLeaking, 0.30, "C; judgement"},
	{BankLean, nil, 0.08, "C: unburnt air at the sensor, the misfire's effect; judgement"},
}
