// Package plug reads old spark plugs: signs and measurements of one plug and their
// interpretation, the next question, the reading of a set, gauge wires, deposit colours on a
// photo, and the comparison with a new plug.
package plug

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/invalid"
)

// Sign is the state of one aspect of a plug, such as "soot"; "" means not inspected.
type Sign string

// The signs, by aspect.
const (
	Whole   Sign = "whole"
	Cracked Sign = "cracked"
	Tracked Sign = "tracked"

	Tan   Sign = "tan"
	Grey  Sign = "grey"
	Pale  Sign = "pale"
	White Sign = "white"
	Black Sign = "black"

	Clean    Sign = "clean"
	Soot     Sign = "soot"
	Ash      Sign = "ash"
	Glaze    Sign = "glaze"
	Blisters Sign = "blisters"
	Bridged  Sign = "bridged"

	Dry   Sign = "dry"
	Fuel  Sign = "fuel"
	Oil   Sign = "oil"
	Water Sign = "water"

	Sharp   Sign = "sharp"
	Rounded Sign = "rounded"
	Eaten   Sign = "eaten"
	Bruised Sign = "bruised"

	Straight Sign = "straight"
	Bent     Sign = "bent"
	Closed   Sign = "closed"

	NoRing Sign = "none"
	Ring   Sign = "ring"

	Crushed   Sign = "crushed"
	Uncrushed Sign = "uncrushed"
	Taper     Sign = "taper"

	Fine    Sign = "fine"
	Missing Sign = "missing"
	Thick   Sign = "thick"

	Right Sign = "right"
	Wrong Sign = "wrong"

	Tight Sign = "tight"
	Loose Sign = "loose"
)

// SignWords describes one sign of an aspect.
type SignWords struct {
	Sign Sign
	// Words is for a sentence, Short for a button.
	Words, Short string
	// Abnormal is true if a sound plug does not show the sign.
	Abnormal bool
}

// Aspect is one property of a plug that is inspected.
type Aspect struct {
	ID string
	// Asks is the question; Where is the part of the plug to inspect.
	Asks, Where string
	// Signs lists the answers, that of a sound plug first.
	Signs []SignWords
	of    func(*Look) *Sign
}

// Aspects lists what is inspected, from the tip to the terminal (C: common practice).
var Aspects = []Aspect{
	{"nose", "What colour is the nose?", "the insulator's nose, around the centre electrode", []SignWords{
		{Tan, "nose tan", "tan", false}, {Grey, "nose light grey", "light grey", false}, {Pale, "nose pale and matt", "pale, matt", false},
		{White, "nose chalk-white", "chalk-white", true}, {Black, "nose black", "black", true}}, func(l *Look) *Sign { return &l.Nose }},
	{"deposit", "What lies on it?", "nose, electrodes and the rim of the shell", []SignWords{
		{Clean, "nothing on it", "nothing", false}, {Soot, "dry soot on it", "dry soot", true}, {Ash, "crusty ash on it", "ash, crusty", true},
		{Glaze, "a glassy glaze on it", "glaze, glassy", true}, {Blisters, "blistered", "blisters", true}, {Bridged, "the gap bridged by deposit", "bridges the gap", true}}, func(l *Look) *Sign { return &l.Deposit }},
	{"wet", "Is the tip wet?", "the tip, and by the smell", []SignWords{
		{Dry, "tip dry", "dry", false}, {Fuel, "tip wet with fuel", "fuel", true}, {Oil, "tip wet with oil", "oil", true}, {Water, "tip wet with water", "water or coolant", true}}, func(l *Look) *Sign { return &l.Wet }},
	{"edges", "How are the edges of the electrodes?", "centre electrode and strap where they face each other", []SignWords{
		{Sharp, "edges sharp", "sharp", false}, {Rounded, "edges rounded", "rounded", true}, {Eaten, "electrodes eaten away", "eaten away", true}, {Bruised, "tip bruised", "bruised, hammered", true}}, func(l *Look) *Sign { return &l.Edges }},
	{"strap", "How does the strap stand?", "the ground electrode, from the side", []SignWords{
		{Straight, "strap as made", "as made", false}, {Bent, "strap bent", "bent", true}, {Closed, "strap touches the centre", "touches", true}}, func(l *Look) *Sign { return &l.Strap }},
	{"tip", "Is the centre wire the right one?", "the end of the centre electrode", []SignWords{
		{Fine, "fine wire there", "fine, as it should be", false}, {Thick, "thick centre as it should be", "thick, as it should be", false}, {Missing, "no fine wire where there should be one", "should be fine, is not", true}}, func(l *Look) *Sign { return &l.Tip }},
	{"insulator", "Is the insulator whole?", "nose and upper insulator, with a lamp, wiped", []SignWords{
		{Whole, "insulator whole", "whole", false}, {Cracked, "insulator cracked or chipped", "cracked, chipped", true}, {Tracked, "burnt track on the insulator", "burnt track", true}}, func(l *Look) *Sign { return &l.Insulator }},
	{"ring", "A brown ring where the insulator meets the shell?", "upper insulator, at the shell", []SignWords{
		{NoRing, "no ring", "none", false}, {Ring, "even brown ring at the shell", "even brown ring", false}}, func(l *Look) *Sign { return &l.Ring }},
	{"high", "Anything on the hex and the threads?", "hex and upper threads", []SignWords{
		{Dry, "hex and threads dry", "dry", false}, {Oil, "oil at the hex and threads", "oil", true}, {Water, "rust or water at the hex", "rust or water", true}}, func(l *Look) *Sign { return &l.High }},
	{"gasket", "Was its gasket crushed?", "the ring under the hex", []SignWords{
		{Crushed, "gasket crushed", "crushed", false}, {Taper, "taper seat", "taper seat, none", false}, {Uncrushed, "gasket not crushed", "not crushed", true}}, func(l *Look) *Sign { return &l.Gasket }},
	{"hold", "How did it come out?", "felt as it is undone", []SignWords{
		{Tight, "was tight", "was tight", false}, {Loose, "was loose", "was loose", true}}, func(l *Look) *Sign { return &l.Hold }},
	{"lettering", "Does its lettering match the list?", "lettering on insulator and shell", []SignWords{
		{Right, "lettering as listed", "as listed", false}, {Wrong, "lettering not as listed", "not as listed", true}}, func(l *Look) *Sign { return &l.Lettering }},
}

// Words returns the description of a sign.
func (a Aspect) Words(s Sign) SignWords {
	i := slices.IndexFunc(a.Signs, func(w SignWords) bool { return w.Sign == s })
	if i < 0 {
		return SignWords{Sign: s}
	}
	return a.Signs[i]
}

// Index returns the index of a sign, or -1.
func (a Aspect) Index(s Sign) int {
	return slices.IndexFunc(a.Signs, func(w SignWords) bool { return w.Sign == s })
}

// FindAspect finds an aspect by its id.
func FindAspect(id string) (Aspect, bool) {
	i := slices.IndexFunc(Aspects, func(a Aspect) bool { return a.ID == id })
	if i < 0 {
		return Aspect{}, false
	}
	return Aspects[i], true
}

// ParseSign reads a sign of the aspect.
func (a Aspect) ParseSign(s string) (Sign, error) {
	var can []string
	for _, w := range a.Signs {
		if string(w.Sign) == s {
			return w.Sign, nil
		}
		can = append(can, string(w.Sign))
	}
	return "", invalid.Error{Expected: "one of " + strings.Join(can, ", "), Got: invalid.Quote(s)}
}

// Look holds the signs and the gap of one plug. The zero value is empty.
type Look struct {
	Nose      Sign `json:"nose,omitzero"`
	Deposit   Sign `json:"deposit,omitzero"`
	Wet       Sign `json:"wet,omitzero"`
	Edges     Sign `json:"edges,omitzero"`
	Strap     Sign `json:"strap,omitzero"`
	Tip       Sign `json:"tip,omitzero"`
	Insulator Sign `json:"insulator,omitzero"`
	Ring      Sign `json:"ring,omitzero"`
	High      Sign `json:"high,omitzero"`
	Gasket    Sign `json:"gasket,omitzero"`
	Hold      Sign `json:"hold,omitzero"`
	Lettering Sign `json:"lettering,omitzero"`
	// GapMM is the measured gap in millimetres; 0 means not measured.
	GapMM float64 `json:"gap_mm,omitzero"`
}

// Bounds of a measured gap in millimetres. A strap that touches the electrode is a sign.
const (
	LeastGapMM = 0.05
	MostGapMM  = 5.0
)

// At returns the sign of an aspect.
func (l Look) At(a Aspect) Sign { return *a.of(&l) }

// With returns the look with one more sign.
func (l Look) With(a Aspect, s Sign) Look {
	*a.of(&l) = s
	return l
}

// Empty reports whether nothing was inspected.
func (l Look) Empty() bool { return l == Look{} }

// Over returns the look updated with a later one.
func (l Look) Over(later Look) Look {
	for _, a := range Aspects {
		if s := later.At(a); s != "" {
			l = l.With(a, s)
		}
	}
	if later.GapMM > 0 {
		l.GapMM = later.GapMM
	}
	return l
}

// Check returns an error for unknown signs and for an impossible gap.
func (l Look) Check() error {
	var bad invalid.Errors
	for _, a := range Aspects {
		if s := l.At(a); s != "" {
			_, err := a.ParseSign(string(s))
			bad.Under(a.ID, err)
		}
	}
	if l.GapMM != 0 && !(l.GapMM >= LeastGapMM && l.GapMM <= MostGapMM) {
		bad.Add("gap_mm", fmt.Sprintf("a gap from %g to %g mm", LeastGapMM, MostGapMM), fmt.Sprint(l.GapMM))
	}
	return bad.Err()
}

// Sound is the look of a plug without abnormal signs, as far as one glance shows. Colour,
// ring, lettering and wire stay open.
var Sound = Look{Nose: Tan, Deposit: Clean, Wet: Dry, Edges: Sharp, Strap: Straight, Insulator: Whole, High: Dry, Hold: Tight}

// Abnormal lists the abnormal signs in words.
func (l Look) Abnormal() []string {
	var words []string
	for _, a := range Aspects {
		if w := a.Words(l.At(a)); w.Abnormal {
			words = append(words, w.Words)
		}
	}
	return words
}

// Words returns the look in a sentence: the abnormal signs, or "normal".
func (l Look) Words() string {
	words := l.Abnormal()
	if len(words) == 0 && l != (Look{GapMM: l.GapMM}) {
		words = append(words, "normal")
		if w := Aspects[0].Words(l.Nose); l.Nose != "" {
			words = append(words, w.Words)
		}
	}
	if l.GapMM > 0 {
		words = append(words, fmt.Sprintf("gap %.2f mm", l.GapMM))
	}
	return strings.Join(words, ", ")
}
