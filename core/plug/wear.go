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

// What is far off a maker's range (C; judgement): a plug has a little room above, and below
// half the least gap it hardly fires.
const (
	wornFrom   = 1.15 // of the high end
	closedFrom = 0.6  // of the low end
)

// GapSays is how a gap stands: "", "in", "wide", "worn" (far too wide), "narrow" or "closed".
type GapSays string

// The sayings.
const (
	GapUnknown GapSays = ""
	GapIn      GapSays = "in"
	GapWide    GapSays = "wide"
	GapWorn    GapSays = "worn"
	GapNarrow  GapSays = "narrow"
	GapClosed  GapSays = "closed"
)

// Judge holds a gap in millimetres against the range; a zero range or gap is not known.
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

// Middle is the middle of the range, 0 when it is not known.
func (r Range) Middle() float64 { return (r.Low + r.High) / 2 }

// Siblings is the median gap of the other plugs of a set, 0 where none was measured.
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

// Wear is how fast a gap has grown.
type Wear struct {
	// Grown is what it is wider than when it was set, in millimetres; Rate that for 10 000 km.
	Grown, Rate float64
	// LeftKm is how far it is to the high end of the range at that rate: 0 when it is there,
	// +Inf when it does not grow.
	LeftKm float64
}

// Worn is the wear of a gap in mm that was set to another, after some kilometres. ok is false
// when there is nothing to work it out from.
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
