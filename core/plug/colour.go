package plug

import (
	"cmp"
	"math"
	"slices"

	"github.com/lucasb-eyer/go-colorful"

	"glenmist/core/invalid"
)

// RGB is a colour in sRGB, each from 0 to 1 (IEC 61966-2-1).
type RGB struct{ R, G, B float64 }

// Lab is a colour in CIELAB under D65: L from 0 to 100.
type Lab struct{ L, A, B float64 }

// Lab converts the colour to CIELAB under D65 (CIE 15).
func (c RGB) Lab() Lab {
	l, a, b := colorful.Color{R: c.R, G: c.G, B: c.B}.Lab()
	return Lab{100 * l, 100 * a, 100 * b}
}

// ColourDistance returns the CIEDE2000 difference of two colours; about 1 is just visible.
func ColourDistance(x, y Lab) float64 {
	return 100 * colorful.Lab(x.L/100, x.A/100, x.B/100).DistanceCIEDE2000(colorful.Lab(y.L/100, y.A/100, y.B/100))
}

// Limits of a white reference. A dark or coloured spot is no reference, and an overexposed one
// has lost its colour.
const (
	darkestWhite = 0.15
	lightest     = 0.995
	leastOf      = 0.25 // least ratio of the weakest to the strongest channel in linear light, for yellow lamp light
)

// Balanced removes the colour of the light: the given white becomes white, channel by channel
// in linear light (von Kries rule). An error states why a spot is not usable as white.
func Balanced(c, white RGB) (RGB, error) {
	w := colorful.Color{R: white.R, G: white.G, B: white.B}
	lr, lg, lb := w.LinearRgb()
	top, low := max(lr, lg, lb), min(lr, lg, lb)
	switch {
	case max(white.R, white.G, white.B) >= lightest && min(white.R, white.G, white.B) >= lightest:
		return c, invalid.Error{Field: "white", Expected: "white paper or clean metal that is not overexposed", Got: "a spot without any colour left"}
	case top < darkestWhite*darkestWhite:
		return c, invalid.Error{Field: "white", Expected: "white paper or clean metal in the light", Got: "a spot that is nearly black"}
	case low < leastOf*top:
		return c, invalid.Error{Field: "white", Expected: "white paper or clean metal", Got: "a spot that is coloured"}
	}
	r, g, b := colorful.Color{R: c.R, G: c.G, B: c.B}.LinearRgb()
	// White paper reflects about nine tenths of the light.
	out := colorful.LinearRgb(clip(paper*r/lr), clip(paper*g/lg), clip(paper*b/lb)).Clamped()
	return RGB{out.R, out.G, out.B}, nil
}

const paper = 0.85

func clip(x float64) float64 { return min(1, max(0, x)) }

// ColourClass is the meaning of a nose colour.
type ColourClass struct {
	Words string
	// Look is the sign that is recorded for it.
	Look Look
	// Centre is its position in CIELAB, Spread its scatter in CIEDE2000 (judgement: noses
	// seldom have one colour), Share its frequency.
	Centre Lab
	Spread float64
	Share  float64
}

// ColourClasses lists the looks of a nose by colour (C: common practice; the positions are
// judgement). Oil, ash and wetness are judged by eye, not by colour.
var ColourClasses = []ColourClass{
	{"tan: normal", Look{Nose: Tan}, Lab{62, 10, 24}, 9, 0.38},
	{"light grey: normal", Look{Nose: Grey}, Lab{72, 0, 4}, 8, 0.28},
	{"pale: can be healthy", Look{Nose: Pale}, Lab{85, 1, 9}, 6, 0.12},
	{"chalk-white: hot", Look{Nose: White}, Lab{96, 0, 1}, 4, 0.05},
	{"black: soot", Look{Nose: Black, Deposit: Soot}, Lab{18, 0, 1}, 9, 0.12},
	{"yellow-brown glaze", Look{Nose: Tan, Deposit: Glaze}, Lab{72, 8, 62}, 8, 0.05},
}

// ColourProposal is a class with its probability.
type ColourProposal struct {
	ColourClass
	P float64
}

// unbalanced is the additional error of a colour without a white reference (CIEDE2000;
// judgement).
const unbalanced = 12.0

// ProposeColour lists the classes of a colour with their probabilities, the most probable
// first, and the probability of none of them. It only proposes.
func ProposeColour(c Lab, balanced bool) (all []ColourProposal, none float64) {
	sum := 0.0
	more := 0.0
	if !balanced {
		more = unbalanced
	}
	for _, k := range ColourClasses {
		s := math.Hypot(k.Spread, more)
		d := ColourDistance(c, k.Centre) / s
		p := k.Share * math.Exp(-d*d/2) / (s * s)
		all = append(all, ColourProposal{k, p})
		sum += p
	}
	// Other colours are evenly distributed over the colour space.
	const elsewhere = 0.05 / (50 * 50)
	sum += elsewhere
	for i := range all {
		all[i].P /= sum
	}
	slices.SortStableFunc(all, func(x, y ColourProposal) int { return cmp.Compare(y.P, x.P) })
	return all, elsewhere / sum
}
