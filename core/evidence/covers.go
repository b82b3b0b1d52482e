package evidence

import (
	"fmt"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
)

// Covers lists the covers that were removed and refitted.
type Covers struct {
	Off []string `json:"off,omitzero"`
	On  []string `json:"on,omitzero"`
}

// apply returns the covers that are off afterwards.
func (c Covers) apply(eng engine.Engine, off []string) ([]string, invalid.Errors) {
	var bad invalid.Errors
	next := slices.Clone(off)
	for i, name := range c.Off {
		switch _, known := eng.Cover(name); {
		case !known:
			bad.Add(fmt.Sprintf("off[%d]", i), "the name of a cover of this engine", invalid.Quote(name))
		case slices.Contains(next, name):
			bad.Add(fmt.Sprintf("off[%d]", i), "a cover that is on", name+", which is off already")
		default:
			next = append(next, name)
		}
	}
	for i, name := range c.On {
		at := slices.Index(next, name)
		if at < 0 {
			bad.Add(fmt.Sprintf("on[%d]", i), "a cover that is off", invalid.Quote(name))
			continue
		}
		next = slices.Delete(next, at, at+1)
	}
	return next, bad
}

// KindCovers is the kind of a [Covers].
const KindCovers Kind = "covers"

func init() { register(KindCovers, func() Body { return new(Covers) }) }

// Covers returns the body of the entry, or nil if it is of another kind.
func (e Entry) Covers() *Covers { return body[Covers](e) }

// Kind returns KindCovers.
func (Covers) Kind() Kind { return KindCovers }

// Sentence returns the covers: "engine cover and plenum off".
func (c Covers) Sentence() string {
	var words []string
	if len(c.Off) > 0 {
		words = append(words, strings.Join(c.Off, " and ")+" off")
	}
	if len(c.On) > 0 {
		words = append(words, strings.Join(c.On, " and ")+" back on")
	}
	return strings.Join(words, ", ")
}

func (c Covers) check(engine.Engine, Ledger) error {
	var bad invalid.Errors
	if len(c.Off)+len(c.On) == 0 {
		bad.Add("off", "at least one cover that came off or went on", "none")
	}
	return bad.Err()
}

// fold applies the removed and refitted covers to the state.
func (c Covers) fold(eng engine.Engine, s *state) error {
	next, bad := c.apply(eng, s.off)
	if len(bad) > 0 {
		return bad
	}
	s.off = next
	return nil
}
