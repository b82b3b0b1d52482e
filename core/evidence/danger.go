package evidence

import (
	"slices"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
)

// Hazard is a finding that makes it dangerous to turn the engine.
type Hazard string

// The hazards.
const (
	WrongReach   Hazard = "wrong-reach"
	HammeredTip  Hazard = "hammered-tip"
	PieceMissing Hazard = "piece-missing"
	BlownOut     Hazard = "blown-out"
	FuelLeak     Hazard = "fuel-leak"
	HotCatalyst  Hazard = "hot-catalyst"
)

// Hazards lists the hazards in the order offered, with what has to be done before the engine may turn again
// (C: common practice).
var Hazards = []struct {
	Hazard Hazard
	// Words is the finding, On the kind of part that it is found on, "" for the engine.
	Words string
	On    engine.Kind
	// Lifts states what ends the hazard.
	Lifts string
}{
	{WrongReach, "the reach of the plug is wrong", engine.Plug, "Look into the cylinder for marks on the piston, and fit plugs of the listed reach."},
	{HammeredTip, "the tip of the plug is hammered", engine.Plug, "Look into the cylinder for what hit it, check the reach, and fit a new plug."},
	{PieceMissing, "a piece of the electrode or insulator is missing", engine.Plug, "Find the piece: look into the cylinder, and take it out. Then fit a new plug."},
	{BlownOut, "the plug was blown loose out of its thread", engine.Plug, "Check and repair the thread by the maker's procedure. Then fit a plug to torque."},
	{FuelLeak, "fuel leaks or drips", "", "Find the leak, put it right, clear the vapours, and check it under pressure."},
	{HotCatalyst, "the lamp flashes and the catalyst glows or smells hot", "", "Let it cool. Unplug the injector of the dead cylinder, or put the misfire right."},
}

// FindHazard returns the words of a hazard, the kind of part it is found on, and what lifts it.
func FindHazard(h Hazard) (words string, on engine.Kind, lifts string, ok bool) {
	for _, row := range Hazards {
		if row.Hazard == h {
			return row.Words, row.On, row.Lifts, true
		}
	}
	return "", "", "", false
}

// Danger is a finding that forbids turning the engine, or that this danger is over.
type Danger struct {
	Of Hazard `json:"of"`
	// Tag is the part on which it was found, "" for the engine.
	Tag part.Tag `json:"tag,omitzero"`
	// Over is true if what lifts the ban has been done; Done then states what.
	Over bool   `json:"over,omitzero"`
	Done string `json:"done,omitzero"`
}

func (d Danger) check(eng engine.Engine, before Ledger) error {
	var bad invalid.Errors
	_, on, _, ok := FindHazard(d.Of)
	if !ok {
		bad.Add("of", "wrong-reach, hammered-tip, piece-missing, blown-out, fuel-leak or hot-catalyst", invalid.Quote(string(d.Of)))
		return bad
	}
	known := slices.ContainsFunc(before.Positions(eng).All(), func(p part.Placed) bool { return p.Tag == d.Tag })
	if (on == "") != (d.Tag == "") || on != "" && (d.Tag.Kind() != on || !known) {
		bad.Add("tag", "the part on which it was found, and none for what concerns the engine", invalid.Quote(string(d.Tag)))
	}
	least := invalid.Text("done", d.Done, "what was done before the engine may turn again", MaxText, !d.Over)
	bad.Under("", least)
	if !d.Over && d.Done != "" {
		bad.Add("done", "nothing while the danger is there", invalid.Quote(d.Done))
	}
	return bad.Err()
}

// KindDanger is the kind of a [Danger].
const KindDanger Kind = "danger"

func init() { register(KindDanger, func() Body { return new(Danger) }) }

// Danger returns the body of the entry, or nil if it is of another kind.
func (e Entry) Danger() *Danger { return body[Danger](e) }

// Kind returns KindDanger.
func (Danger) Kind() Kind { return KindDanger }

// Sentence returns the danger, or that it is over.
func (d Danger) Sentence() string {
	words, _, _, _ := FindHazard(d.Of)
	if d.Tag != "" {
		words = d.Tag.Words() + ": " + words
	}
	if d.Over {
		return "may turn again, " + words + "; done: " + d.Done
	}
	return "engine must not turn, " + words
}
