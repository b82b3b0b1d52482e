package worksheet

import (
	"cmp"
	"fmt"
	"math"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/knowledge"
	"glenmist/core/part"
	"glenmist/core/unit"
)

// The names of the figures that a vehicle can have of its own, as specs of its engine.
const (
	SpecPlugTorque    = "torque-plug"
	SpecCoilBolt      = "torque-coil-bolt"
	SpecCoverBolt     = "torque-cover"
	SpecPlenumBolt    = "torque-plenum"
	SpecClampBolt     = "torque-clamp"
	SpecMagnetoBolt   = "torque-magneto"
	SpecBaseTiming    = engine.BaseTiming
	SpecIdleSpeed     = "idle-speed"        // revolutions a minute
	SpecGearTeeth     = "distributor-teeth" // of the distributor's own gear
	SpecPulley        = "pulley-diameter"   // millimetres
	SpecWellDepth     = "well-depth"        // millimetres from the cover face to the hexagon
	SpecAirGap        = "air-gap"           // millimetres
	defaultPulley     = 150.0               // of the drawing, if the diameter is unknown
	leastTrustedShare = 0.2                 // of a wrench's range (C)
)

// TorqueRow is the torque of one kind of thread on a dry thread, in newton metres.
type TorqueRow struct {
	ID    string
	Words string
	// ThreadMM, Seat and Head select the row of a plug; ThreadMM 0 for a bolt.
	ThreadMM  float64
	Seat      part.PlugSeat
	Low, High float64
	Source    string
}

// Torques lists the torques (M: dry thread, alloy head; bolts C).
var Torques = []TorqueRow{
	{"plug-8", "plug M8", 8, "", 8, 10, "M: dry thread, alloy head"},
	{"plug-10", "plug M10", 10, "", 10, 12, "M: dry thread, alloy head"},
	{"plug-12", "plug M12", 12, "", 15, 20, "M: dry thread, alloy head"},
	{"plug-14-gasket", "plug M14 with gasket", 14, "gasket", 20, 30, "M: dry thread, alloy head"},
	{"plug-14-taper", "plug M14 with taper seat", 14, "taper", 10, 20, "M: dry thread, alloy head"},
	{"plug-18-gasket", "plug M18 with gasket", 18, "gasket", 35, 45, "M: dry thread, alloy head"},
	{"plug-18-taper", "plug M18 with taper seat", 18, "taper", 20, 30, "M: dry thread, alloy head"},
	{"coil-bolt", "coil bolt", 0, "", 5, 10, "C: inserts in plastic covers pull out above it"},
	{"cover", "cover bolt", 0, "", 5, 10, "C: as a coil bolt; judgement"},
	{"plenum", "bolt of a plastic intake plenum", 0, "", 8, 12, "C"},
	{"clamp", "bolt of the distributor clamp", 0, "", 15, 25, "C; judgement"},
	{"magneto", "bolt of a magneto coil", 0, "", 4, 8, "C: small bolts into the crankcase; judgement"},
}

// FactorRow is a factor or an angle by which a torque is changed or replaced.
type FactorRow struct {
	ID, Words string
	Value     float64
	Unit      string
	Least     float64
	Most      float64
	Source    string
}

// Factors lists them.
var Factors = []FactorRow{
	{"iron-head", "highest torque in a cast iron head, against alloy", 1.2, "times", 1, 1.5, "M: somewhat more; a fifth is judgement"},
	{"paste", "torque with paste on the thread, against dry", 0.7, "times", 0.4, 1, "C: about a third less; from memory"},
	{"angle-gasket-new-low", "turn after finger-tight, new gasket, from", 180, "°", 30, 360, "M: 1/2 to 2/3 turn"},
	{"angle-gasket-new-high", "turn after finger-tight, new gasket, to", 240, "°", 30, 360, "M: 1/2 to 2/3 turn"},
	{"angle-gasket-used", "turn after finger-tight, used gasket", 30, "°", 5, 120, "M: about 1/12 turn"},
	{"angle-taper", "turn after finger-tight, taper seat", 22.5, "°", 5, 90, "M: 1/16 turn"},
	{"timing-tolerance", "base timing counts as right within", 2, "°", 0.5, 5, "C; judgement"},
	{"even-set", "gaps of one set count as even within", 0.1, "mm", 0.02, 0.3, "C; judgement"},
	{"air-gap-low", "air gap of a magneto, from", 0.15, "mm", 0.05, 2, "C: by maker"},
	{"air-gap-high", "air gap of a magneto, to", 0.5, "mm", 0.05, 2, "C: by maker"},
}

// The tables as the workshop sees and replaces them.
var (
	torqueTable = knowledge.Register(knowledge.TableOf[TorqueRow, map[string]TorqueRow]{
		Title: "Torques, dry thread", In: knowledge.OfWork, Ships: Torques,
		Describe: func(r *TorqueRow) knowledge.Row {
			return knowledge.Row{ID: "torque:" + r.ID, Of: unit.Capital(r.Words), Says: fmt.Sprintf("%g to %g N·m", r.Low, r.High), Source: r.Source,
				Figures: []knowledge.Figure{{Words: "Lowest, N·m", At: &r.Low, Least: unit.LeastTorque, Most: unit.MostTorque}, {Words: "Highest, N·m", At: &r.High, Least: unit.LeastTorque, Most: unit.MostTorque}},
				Check: func(v []float64) string {
					if v[0] > v[1] {
						return "a lowest torque that is not above the highest"
					}
					return ""
				}}
		},
		Index: func(rows []TorqueRow) map[string]TorqueRow {
			return byID(rows, func(r TorqueRow) string { return r.ID })
		},
	})
	factorTable = knowledge.Register(knowledge.TableOf[FactorRow, map[string]FactorRow]{
		Title: "Worksheet: angles, factors and limits", In: knowledge.OfWork, Ships: Factors,
		Describe: func(r *FactorRow) knowledge.Row {
			return knowledge.Row{ID: "worksheet:" + r.ID, Of: unit.Capital(r.Words), Says: fmt.Sprintf("%g %s", r.Value, r.Unit), Source: r.Source,
				Figures: []knowledge.Figure{{Words: unit.Capital(r.Words) + ", " + r.Unit, At: &r.Value, Least: r.Least, Most: r.Most}}}
		},
		Index: func(rows []FactorRow) map[string]FactorRow {
			return byID(rows, func(r FactorRow) string { return r.ID })
		},
	})
)

func byID[T any](rows []T, id func(T) string) map[string]T {
	m := map[string]T{}
	for _, r := range rows {
		m[id(r)] = r
	}
	return m
}

// factor is a figure of the second table.
func (b *builder) factor(id string) float64 { return factorTable.Of(b.Beliefs)[id].Value }

// owned reports whether the workshop has put its own figures in place of a row.
func (b *builder) owned(row string) (reason string, ok bool) {
	if b.Beliefs == nil {
		return "", false
	}
	for _, o := range b.Beliefs.Overrides {
		if o.Row == row {
			return o.Reason, true
		}
	}
	return "", false
}

// known is the figure of a quantity from the vehicle, the workshop, the part or the table, in this
// order. Low 0 and High 0 mean that a source has none.
func (b *builder) known(name, of, row string, low, high float64, source string, listed, listedHigh float64) (f Figure, ok bool) {
	f = Figure{Name: name, of: of, row: row}
	spec, has := b.eng.Spec(of)
	reason, own := b.owned(row)
	switch {
	case has && spec.Reason != "":
		f.Low, f.High, f.Source = spec.Low, spec.High, "this vehicle's own figure: "+spec.Reason
	case has:
		f.Low, f.High, f.Source = spec.Low, spec.High, "the maker's figure for this vehicle"
	case own && high > 0:
		f.Low, f.High, f.Source = low, high, "the workshop's own figure: "+reason
	case listedHigh > 0 || listed > 0:
		f.Low, f.High, f.Source = cmp.Or(listed, listedHigh), cmp.Or(listedHigh, listed), "the workshop's catalogue, by the part's number"
	case high > 0:
		f.Low, f.High, f.Source = low, high, source
	default:
		return f, false
	}
	f.Value = (f.Low + f.High) / 2
	return f, true
}

// torque is the torque of a bolt in newton metres, with the other units.
func (b *builder) torque(name, of, row string) Figure {
	r := torqueTable.Of(b.Beliefs)[row]
	f, _ := b.known(name, of, "torque:"+row, r.Low, r.High, r.Source, 0, 0)
	return f.inTorque()
}

// inTorque adds the units of a torque, and rounds the aim to what a wrench can be set to.
func (f Figure) inTorque() Figure {
	f.Unit = "N·m"
	step := 1.0
	if f.Value < 12 {
		step = 0.5
	}
	f.Value = math.Min(f.High, math.Max(f.Low, math.Round(f.Value/step)*step))
	f.Also = unit.TorqueAlso(f.Value)
	return f
}

// plugTorque is the torque of a plug by the maker's figure, its part, or its thread, seat and the metal
// of the head; ok is false if thread and seat are not known. paste is whether its thread gets paste.
func (b *builder) plugTorque(m part.Make, paste bool) (f Figure, ok bool) {
	var d part.PlugDesign
	if m.Plug != nil {
		d = *m.Plug
	}
	var row TorqueRow
	for _, r := range Torques {
		if r.ThreadMM > 0 && r.ThreadMM == d.ThreadMM && (r.Seat == "" || r.Seat == d.Seat) {
			row = torqueTable.Of(b.Beliefs)[r.ID]
		}
	}
	high, source := row.High, fmt.Sprintf("%s: %s", row.Words, row.Source)
	if b.eng.Head == engine.Iron && row.ID != "" {
		high *= b.factor("iron-head")
		source = row.Words + ": M: cast iron somewhat more than alloy"
	}
	f, ok = b.known("Torque of the plug", SpecPlugTorque, "torque:"+row.ID, row.Low, high, source, d.TorqueLow, d.TorqueHigh)
	if !ok {
		return f, false
	}
	if paste {
		k := b.factor("paste")
		f.Low, f.High, f.Value = f.Low*k, f.High*k, f.Value*k
		f.Source += fmt.Sprintf("; reduced to %.0f %% for the paste (C)", 100*k)
	}
	return f.inTorque(), true
}

// plugAngle is the turn after finger-tight by the seat; gasketNew is false for a gasket that was tight
// before.
func (b *builder) plugAngle(seat part.PlugSeat, gasketNew bool) (f Figure, ok bool) {
	f = Figure{Name: "Turn after finger-tight", Unit: "°", Source: "M: by seat and gasket"}
	switch {
	case seat == "taper":
		f.Low, f.row = b.factor("angle-taper"), "worksheet:angle-taper"
		f.High = f.Low
	case seat == "gasket" && gasketNew:
		f.Low, f.High, f.row = b.factor("angle-gasket-new-low"), b.factor("angle-gasket-new-high"), "worksheet:angle-gasket-new-low"
	case seat == "gasket":
		f.Low, f.row = b.factor("angle-gasket-used"), "worksheet:angle-gasket-used"
		f.High = f.Low
	default:
		return f, false
	}
	f.Value = (f.Low + f.High) / 2
	f.Also = []unit.Amount{{Value: math.Round(100*f.Value/360) / 100, Unit: "turn"}}
	return f, true
}

// inches adds inches and thousandths to a length in millimetres.
func (f Figure) inches() Figure {
	f.Unit = "mm"
	f.Also = []unit.Amount{{Value: math.Round(1000*f.Value/unit.MillimetresPerInch) / 1000, Unit: "in"}, {Value: math.Round(1000 * f.Value / unit.MillimetresPerInch), Unit: "thou"}}
	return f
}

// sourceWords spells out how a source is named in the tables.
func sourceWords(source string) string {
	for _, row := range [][2]string{{"C", "common practice"}, {"M", "handbook value, from memory"}, {"P", "published"}} {
		short, words := row[0], row[1]
		if source == short {
			return words
		}
		if rest, ok := strings.CutPrefix(source, short+": "); ok {
			return words + ": " + rest
		}
		if rest, ok := strings.CutPrefix(source, short+"; "); ok {
			return words + "; " + rest
		}
		source = strings.ReplaceAll(source, ": "+short+": ", ": "+words+", ")
	}
	return source
}
