package evidence

import (
	"fmt"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// Look is what the eye found on one or more items.
type Look struct {
	Items []Seen `json:"items"`
	// Moving says that it was seen on the way, as things came off for the move that
	// follows: the hands on it are that move's.
	Moving bool `json:"moving,omitzero"`
	// Ran is how the engine was run and stopped before plugs were pulled.
	Ran Ran `json:"ran,omitzero"`
	// Gap is the maker's range of the plugs' gap in millimetres, as it was known.
	Gap *plug.Range `json:"gap,omitzero"`
}

// Seen is one item looked at: a tagged part, or the connector at a place.
type Seen struct {
	Tag     part.Tag     `json:"tag,omitzero"`
	Place   engine.Place `json:"place,omitzero"`
	Finding Finding      `json:"finding"`
	// Plug is what was read on a plug in full; the finding is then the gravest thing in it.
	Plug plug.Look `json:"plug,omitzero"`
}

// Kind is the kind of what was looked at.
func (s Seen) Kind() engine.Kind {
	if s.Tag == "" {
		return engine.Connector
	}
	return s.Tag.Kind()
}

// Name says which one it is: "boot B2", "connector of cylinder 2".
func (s Seen) Name() string {
	if s.Tag == "" {
		return fmt.Sprintf("connector of %s", s.Place)
	}
	return s.Tag.Words()
}

func (l Look) check(eng engine.Engine, _ Ledger) error {
	var bad invalid.Errors
	if len(l.Items) == 0 || len(l.Items) > 40 {
		bad.Add("items", "at least one finding on a part or a connector", fmt.Sprint(len(l.Items)))
		return bad
	}
	for i, item := range l.Items {
		path := fmt.Sprintf("items[%d]", i)
		kind := engine.Connector
		if item.Tag != "" {
			if _, err := part.ParseTag(eng, string(item.Tag)); err != nil {
				bad.Under(path+".tag", err)
				continue
			}
			kind = item.Tag.Kind()
		} else if !has(eng, engine.Connector, item.Place) {
			bad.Add(path+".place", "the place of a coil connector of this engine", invalid.Quote(string(item.Place)))
			continue
		}
		if item.Tag != "" && item.Place != "" {
			bad.Add(path+".place", "a tag (of a part) or a place (of a connector), not both", string(item.Place))
		}
		if _, err := ParseFinding(kind, string(item.Finding)); err != nil {
			bad.Under(path+".finding", err)
		}
		bad.Under(path, l.checkPlug(item))
	}
	if !l.Ran.known() {
		bad.Add("ran", "driven, idled, cold, cranked or none", invalid.Quote(string(l.Ran)))
	}
	if l.Gap != nil {
		bad.Under("gap", engine.CheckRange(l.Gap.Low, l.Gap.High, plug.MostGapMM))
	}
	return bad.Err()
}

// KindLook names the kind.
const KindLook Kind = "look"

func init() { register(KindLook, func() Body { return new(Look) }) }

// Look is the body of the entry if it is of that kind, else nil.
func (e Entry) Look() *Look { return body[Look](e) }

// Kind names it.
func (Look) Kind() Kind { return KindLook }

// Sentence lists what was seen.
func (l Look) Sentence() string {
	words := strings.Join(l.Words(), "; ")
	if l.Moving {
		return "as it came off: " + words
	}
	return words
}
