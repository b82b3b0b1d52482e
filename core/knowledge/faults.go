package knowledge

import (
	"fmt"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/fault"
	"glenmist/core/pattern"
	"glenmist/core/plug"
	"glenmist/core/unit"
)

// ModeShare is a mode with the factor by which a workshop multiplies its share.
type ModeShare struct {
	Mode   fault.Mode
	Factor float64
}

// shareTable holds the factors that differ from 1, by mode.
var shareTable = Register(TableOf[ModeShare, map[fault.ModeID]float64]{
	Title: "Faults, before any evidence", In: OfFaults, Ships: func() (all []ModeShare) {
		for _, m := range fault.Catalogue {
			all = append(all, ModeShare{m, 1})
		}
		return all
	}(),
	Describe: describeMode,
	Index: func(rows []ModeShare) map[fault.ModeID]float64 {
		var own map[fault.ModeID]float64
		for _, r := range rows {
			if r.Factor != 1 {
				if own == nil {
					own = map[fault.ModeID]float64{}
				}
				own[r.Mode.ID] = r.Factor
			}
		}
		return own
	},
})

func describeMode(r *ModeShare) Row {
	m := r.Mode
	var shares []string
	for i, layout := range engine.Ignitions() {
		if m.Prior[i] > 0 {
			shares = append(shares, fmt.Sprintf("%s %.0f\u202f%%", layout.Words(), 100*m.Prior[i]))
		}
	}
	says := strings.Join(shares, ", ")
	if m.CuredByTouch > 0 {
		says += fmt.Sprintf("; cured by touching it: %.0f\u202f%%", 100*m.CuredByTouch)
	}
	if m.Scope != fault.Fed {
		says += "; reaches: " + string(m.Scope)
	}
	if both, ok := fault.StarvesBoth[m.ID]; ok {
		says += fmt.Sprintf(", on wasted spark starves both of the pair: %.0f\u202f%%", 100*both)
	}
	return Row{ID: "fault:" + string(m.ID), Of: unit.Capital(m.Words) + " (" + string(m.ID) + ")", Says: says, Source: m.Source,
		Figures: []Figure{{Words: "Times as often as stated", At: &r.Factor, Least: 1 / MaxFactor, Most: MaxFactor}}}
}

// Shares returns a workshop's factors of mode shares, or nil if it has none.
func (b *Beliefs) Shares() map[fault.ModeID]float64 { return shareTable.Of(b) }

// shiftTable holds a workshop's factors of circumstances, by row.
var shiftTable = Register(TableOf[fault.Shift, map[string]float64]{
	Title: "How what has happened shifts them", In: OfFaults, Ships: fault.Shifts,
	Describe: func(s *fault.Shift) Row {
		return Row{ID: s.RowID(), Of: s.When.Words(), Says: fmt.Sprintf("%s: %g×", modeWords(s.Modes), s.Factor), Source: s.Source,
			Figures: []Figure{{Words: "Times as often as else", At: &s.Factor, Least: 1 / MaxFactor, Most: MaxFactor}}}
	},
	Index: func(rows []fault.Shift) map[string]float64 {
		var own map[string]float64
		for i, s := range rows {
			if s.Factor != fault.Shifts[i].Factor {
				if own == nil {
					own = map[string]float64{}
				}
				own[s.RowID()] = s.Factor
			}
		}
		return own
	},
})

// Factors returns a workshop's factors of circumstances by [fault.Shift.RowID], or nil if it
// has none.
func (b *Beliefs) Factors() map[string]float64 { return shiftTable.Of(b) }

var _ = Register(TableOf[fault.Age, struct{}]{
	Title: "How age shifts them", In: OfFaults, Ships: fault.Ages,
	Describe: func(a *fault.Age) Row {
		return Row{Of: fmt.Sprintf("A part from %.0f\u202f%% of its life on", 100*a.From), Says: fmt.Sprintf("%s: %g×", modeWords(a.Modes), a.Factor), Source: a.Source}
	},
})

var _ = Register(TableOf[fault.Cause, struct{}]{
	Title: "Two faults at once", In: OfFaults, Ships: fault.Causes,
	Describe: func(c *fault.Cause) Row {
		return Row{Of: modeWords(fault.Keys{c.First}) + " with " + modeWords(fault.Keys{c.Second}), Says: fmt.Sprintf("%g times as likely together as by chance", c.Times), Source: c.Source}
	},
})

var _ = Register(TableOf[pattern.Row, struct{}]{
	Title: "Patterns", In: OfFaults, Ships: pattern.Rows,
	Describe: func(p *pattern.Row) Row {
		on := "any layout"
		if len(p.Layouts) > 0 {
			var words []string
			for _, l := range p.Layouts {
				words = append(words, l.Words())
			}
			on = strings.Join(words, ", ")
		}
		if p.Mixture != "" {
			on += ", " + string(p.Mixture)
		}
		return Row{Of: string(p.Shape) + ", on " + on, Says: "points at " + p.Points + ", since " + p.Why + "; first look: " + p.First, Source: p.Source}
	},
})

var _ = Register(TableOf[plug.Meaning, struct{}]{
	Title: "What the looks of a plug mean", In: OfLooks, Ships: plug.Meanings,
	Describe: func(m *plug.Meaning) Row {
		return Row{Of: "What it means: " + m.Look, Says: m.Means, Source: "C: the looks of the trade"}
	},
})
