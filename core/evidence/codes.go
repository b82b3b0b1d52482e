package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/trouble"
)

// Codes is one read of a control unit. An empty list means that it held no code.
type Codes struct {
	Read []trouble.Reading `json:"read"`
	// Frame is the freeze frame, or nil if none was read.
	Frame *trouble.Frame `json:"frame,omitzero"`
	// Readiness is the state of the monitors, or nil if it was not read.
	Readiness *trouble.Readiness `json:"readiness,omitzero"`
}

func (c Codes) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	if !eng.Scanned() && len(c.Read) > 0 {
		bad.Add("read", "no codes: this engine has no control unit that sets any", fmt.Sprint(len(c.Read)))
		return bad
	}
	if c.Frame != nil {
		bad.Under("frame", c.Frame.Check(eng.Banks()))
	}
	if c.Readiness != nil {
		bad.Under("readiness", c.Readiness.Check())
	}
	if len(c.Read) > MaxCodes {
		bad.Add("read", fmt.Sprintf("at most %d codes in one read", MaxCodes), fmt.Sprint(len(c.Read)))
		return bad
	}
	for i, r := range c.Read {
		if n, ok := r.Code.MisfireCylinder(); ok && int(n) > eng.Cylinders {
			bad.Add(fmt.Sprintf("read[%d].code", i), fmt.Sprintf("a code for this engine's cylinders, 1 to %d", eng.Cylinders),
				fmt.Sprintf("%s, which names cylinder %d", r.Code, n))
		}
		if kind, feeds, ok := r.Code.Circuit(eng); ok && feeds == 0 {
			expected := fmt.Sprintf("a code for this engine's cylinders, 1 to %d", eng.Cylinders)
			if kind == engine.Coil {
				last := eng.Coils()[len(eng.Coils())-1].Letter
				expected = fmt.Sprintf("a code for this engine's coils, A to %s", last)
			}
			words, _ := r.Code.Meaning()
			bad.Add(fmt.Sprintf("read[%d].code", i), expected, fmt.Sprintf("%s, which names %s", r.Code, words))
		}
		bad.Under("", invalid.Text(fmt.Sprintf("read[%d].text", i), r.Text, "what the scan tool printed", MaxName*2, true))
		if !slices.Contains(trouble.States, r.State) {
			bad.Add(fmt.Sprintf("read[%d].state", i), "stored, pending or permanent", invalid.Quote(string(r.State)))
		}
	}
	return bad.Err()
}

// KindCodes is the kind of a [Codes].
const KindCodes Kind = "codes"

func init() { register(KindCodes, func() Body { return new(Codes) }) }

// Codes returns the body of the entry, or nil if it is of another kind.
func (e Entry) Codes() *Codes { return body[Codes](e) }

// Kind returns KindCodes.
func (Codes) Kind() Kind { return KindCodes }

// Sentence lists the codes: "P0302 stored".
func (c Codes) Sentence() string {
	if len(c.Read) == 0 {
		return "no codes" + c.Readiness.Words()
	}
	words := make([]string, len(c.Read))
	for i, r := range c.Read {
		words[i] = r.Code.String() + " " + string(r.State)
		if meaning, weighs := r.Code.Meaning(); !weighs {
			if r.Text != "" {
				meaning += ": “" + r.Text + "”"
			}
			words[i] += " (" + meaning + ", noted)"
		} else if _, misfire := r.Code.MisfireCylinder(); !misfire && r.Code != trouble.RandomMisfire {
			words[i] += " (" + meaning + ")"
		}
	}
	s := strings.Join(words, ", ")
	if c.Frame != nil {
		s += "; freeze frame " + c.Frame.Words()
	}
	return s + c.Readiness.Words()
}

// Permanent lists the permanent codes of the read that bear on a misfire.
func (c Codes) Permanent() (all []trouble.Code) {
	for _, r := range c.Read {
		if _, weighs := r.Code.Meaning(); weighs && r.State == trouble.Permanent {
			all = append(all, r.Code)
		}
	}
	return all
}

// Open lists the stored and pending codes of the read that bear on a misfire.
func (c Codes) Open() (all []trouble.Code) {
	for _, r := range c.Read {
		if _, weighs := r.Code.Meaning(); weighs && r.State != trouble.Permanent {
			all = append(all, r.Code)
		}
	}
	return all
}
