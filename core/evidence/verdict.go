package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/unit"
)

// Verdict is a signed conclusion: the faulty unit and its probability.
type Verdict struct {
	// Unit is the repair unit, such as "coil C2" or "connector cyl-2".
	Unit string `json:"unit"`
	// P is the probability at the time of signing, 0 to 1.
	P float64 `json:"p"`
	// With lists units that were found together with it. Cleared lists the units that were
	// ruled out.
	With    []string `json:"with,omitzero"`
	Cleared []string `json:"cleared,omitzero"`
	// Also lists what is put right at the same time, each with a reason. Cause is the
	// underlying cause, if a finding shows one.
	Also  []string `json:"also,omitzero"`
	Cause string   `json:"cause,omitzero"`
	// Evidence lists the entries that support the verdict, as valid when it was signed.
	Evidence []int `json:"evidence,omitzero"`
	// Trial is true for a trial repair: its probability is below that of a verdict, but the repair costs less than more
	// tests.
	Trial bool `json:"trial,omitzero"`
	// Revises is the number of the earlier verdict; 0 for the first.
	Revises int `json:"revises,omitzero"`
	// Provisional is true for a verdict that stands only with a [Countersign], such as one of an apprentice.
	Provisional bool `json:"provisional,omitzero"`
}

// UnitWords returns the key of a repair unit in words: "connector of cylinder 2" for
// "connector cyl-2". Tags are unchanged.
func UnitWords(key string) string {
	at := strings.LastIndexByte(key, ' ')
	if at < 0 {
		return key
	}
	unit, place := key[:at], engine.Place(key[at+1:])
	_, cylinder := place.Cylinder()
	_, bank := place.Bank()
	_, coil := place.Coil()
	switch {
	case cylinder, bank, coil:
		return fmt.Sprintf("%s of %s", unit, place)
	case place == engine.Whole:
		return unit
	}
	return key
}

func (v Verdict) check(_ engine.Engine, before Ledger) error {
	var bad invalid.Errors
	if len(v.Evidence) > MaxEntries {
		bad.Add("evidence", fmt.Sprintf("at most %d entries", MaxEntries), fmt.Sprint(len(v.Evidence)))
	} else {
		for i, n := range v.Evidence {
			if _, ok := before.Get(n); !ok || i > 0 && slices.Contains(v.Evidence[:i], n) {
				bad.Add(fmt.Sprintf("evidence[%d]", i), "the number of an earlier entry, once", fmt.Sprint(n))
			}
		}
	}
	if e, ok := before.Get(v.Revises); v.Revises != 0 && (!ok || e.Verdict() == nil) {
		bad.Add("revises", "the number of an earlier verdict", fmt.Sprint(v.Revises))
	}
	bad.Under("", invalid.Text("unit", v.Unit, "the part or place that is judged at fault", MaxName, false))
	if !(v.P >= 0 && v.P <= 1) {
		bad.Add("p", "a probability from 0 to 1", fmt.Sprint(v.P))
	}
	bad.Under("", invalid.Text("cause", v.Cause, "what lies behind it", MaxText, true))
	for i, also := range v.Also {
		if i >= MaxUnits {
			bad.Add("also", fmt.Sprintf("at most %d lines", MaxUnits), fmt.Sprint(len(v.Also)))
			break
		}
		bad.Under("", invalid.Text(fmt.Sprintf("also[%d]", i), also, "what is put right with it", MaxText, false))
	}
	for name, list := range map[string][]string{"with": v.With, "cleared": v.Cleared} {
		if len(list) > MaxUnits {
			bad.Add(name, fmt.Sprintf("at most %d units", MaxUnits), fmt.Sprint(len(list)))
			continue
		}
		for i, unit := range list {
			bad.Under("", invalid.Text(fmt.Sprintf("%s[%d]", name, i), unit, "a unit by its name", MaxName, false))
		}
	}
	return bad.Err()
}

// KindVerdict is the kind of a [Verdict].
const KindVerdict Kind = "verdict"

func init() { register(KindVerdict, func() Body { return new(Verdict) }) }

// Verdict returns the body of the entry, or nil if it is of another kind.
func (e Entry) Verdict() *Verdict { return body[Verdict](e) }

// Kind returns KindVerdict.
func (Verdict) Kind() Kind { return KindVerdict }

// Sentence returns the signed unit.
func (v Verdict) Sentence() string {
	kind := "verdict"
	if v.Trial {
		kind = "trial repair"
	}
	s := fmt.Sprintf("%s signed: %s at %s", kind, UnitWords(v.Unit), unit.Percent(v.P))
	if v.Revises > 0 {
		s += fmt.Sprintf(", after that of entry %d", v.Revises)
	}
	if v.Provisional {
		s += ", to be countersigned"
	}
	return s
}

// UnitKey returns the key of a repair unit at a place: "connector cyl-2".
func UnitKey(unit engine.Kind, at engine.Place) string { return string(unit) + " " + string(at) }
