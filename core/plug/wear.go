package plug

import (
	"cmp"
	"fmt"
	"math"
	"slices"
)

// Range is a maker's range of gaps in millimetres, both ends allowed.
type Range struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

// Limits of an abnormal gap relative to the maker's range (C; judgement). Slightly above the
// range a plug still works; below half of it, it hardly fires.
const (
	wornFrom   = 1.15 // factor of the high end
	closedFrom = 0.6  // factor of the low end
)

// GapSays compares a gap with its range: "", "in", "wide", "worn" (far too wide), "narrow" or
// "closed".
type GapSays string

// The values of [GapSays].
const (
	GapUnknown GapSays = ""
	GapIn      GapSays = "in"
	GapWide    GapSays = "wide"
	GapWorn    GapSays = "worn"
	GapNarrow  GapSays = "narrow"
	GapClosed  GapSays = "closed"
)

// Judge compares a gap in millimetres with the range. A zero range or gap is unknown.
func (r Range) Judge(mm float64) GapSays {
	switch {
	case mm == 0 || r.High == 0:
		return GapUnknown
	case mm > wornFrom*r.High:
		return GapWorn
	case mm > r.High:
		return GapWide
	case mm < closedFrom*r.Low:
		return GapClosed
	case mm < r.Low:
		return GapNarrow
	}
	return GapIn
}

// Middle returns the middle of the range, or 0 if it is unknown.
func (r Range) Middle() float64 { return (r.Low + r.High) / 2 }

// Siblings returns the median gap of the other plugs of a set, or 0 if none was measured.
func Siblings(plugs []Look, but int) float64 {
	var mm []float64
	for i, l := range plugs {
		if i != but && l.GapMM > 0 {
			mm = append(mm, l.GapMM)
		}
	}
	if len(mm) == 0 {
		return 0
	}
	slices.Sort(mm)
	if n := len(mm); n%2 == 0 {
		return (mm[n/2-1] + mm[n/2]) / 2
	}
	return mm[len(mm)/2]
}

// Wear is the growth of a gap.
type Wear struct {
	// Grown is the growth since setting in millimetres; Rate is the growth per 10 000 km.
	Grown, Rate float64
	// LeftKm is the distance to the high end of the range at that rate: 0 if it is reached,
	// +Inf without growth.
	LeftKm float64
}

// Worn returns the wear of a gap in mm that was set to another value some kilometres ago; ok
// is false if data are missing.
func Worn(now, set, km float64, spec Range) (w Wear, ok bool) {
	if now <= 0 || set <= 0 || !(km > 0) {
		return Wear{}, false
	}
	w.Grown = now - set
	w.Rate = w.Grown / km * 10_000
	w.LeftKm = math.Inf(1)
	if spec.High > 0 && now >= spec.High {
		w.LeftKm = 0
	} else if w.Rate > 0 && spec.High > 0 {
		w.LeftKm = (spec.High - now) / w.Rate * 10_000
	}
	return w, true
}

// Words is the wear in words, with a sign.
func (w Wear) Words() string {
	s := fmt.Sprintf("%+.2f mm, %.3f mm in 10 000 km", w.Grown, w.Rate)
	if !math.IsInf(w.LeftKm, 1) && w.LeftKm > 0 {
		s += fmt.Sprintf(", at the end of its range in %.0f 000 km", cmp.Or(math.Round(w.LeftKm/1000), 1))
	}
	return s
}
