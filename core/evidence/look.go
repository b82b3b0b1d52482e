package evidence

import (
	"fmt"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
)

// Look is the result of looking at one or more items.
type Look struct {
	// Items can name one item several times, with different abnormal findings: a boot that is torn and stands in oil.
	Items []Seen `json:"items"`
	// Moving is true if the items were seen while parts came off for the next move. Handling
	// then belongs to that move.
	Moving bool `json:"moving,omitzero"`
	// Ran states how the engine ran and stopped before the plugs were removed.
	Ran Ran `json:"ran,omitzero"`
	// Gap is the maker's range of the plug gap in millimetres, as known at that time.
	Gap *plug.Range `json:"gap,omitzero"`
}

// Seen is one inspected item: a tagged part, or the connector at a place.
type Seen struct {
	Tag     part.Tag     `json:"tag,omitzero"`
	Place   engine.Place `json:"place,omitzero"`
	Finding Finding      `json:"finding"`
	// Plug is the full reading of a plug. Finding is then its most serious sign.
	Plug plug.Look `json:"plug,omitzero"`
}

// Kind returns the kind of the inspected item.
func (s Seen) Kind() engine.Kind {
	if s.Tag == "" {
		return engine.Connector
	}
	return s.Tag.Kind()
}

// Name returns its name: "boot B2", "connector of cylinder 2".
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
		bad.Under(path, l.checkBeside(i))
	}
	if !l.Ran.known() {
		bad.Add("ran", "driven, idled, cold, cranked or none", invalid.Quote(string(l.Ran)))
	}
	if l.Gap != nil {
		bad.Under("gap", engine.CheckRange(l.Gap.Low, l.Gap.High, plug.MostGapMM))
	}
	return bad.Err()
}

// checkBeside checks the i-th item against earlier findings on the same item.
func (l Look) checkBeside(i int) error {
	var bad invalid.Errors
	item := l.Items[i]
	for _, other := range l.Items[:i] {
		if other.Tag != item.Tag || other.Place != item.Place {
			continue
		}
		switch {
		case !item.Plug.Empty() || !other.Plug.Empty():
			bad.Add("tag", "one full reading of a plug", "a second finding on "+item.Name())
		case other.Finding == item.Finding:
			bad.Add("finding", "each finding on an item once", invalid.Quote(string(item.Finding))+" twice on "+item.Name())
		case !other.Finding.Abnormal() || !item.Finding.Abnormal():
			bad.Add("finding", item.Name()+" either sound or with a finding", "both")
		}
	}
	return bad.Err()
}

// KindLook is the kind of a [Look].
const KindLook Kind = "look"

func init() { register(KindLook, func() Body { return new(Look) }) }

// Look returns the body of the entry, or nil if it is of another kind.
func (e Entry) Look() *Look { return body[Look](e) }

// Kind returns KindLook.
func (Look) Kind() Kind { return KindLook }

// Sentence lists the findings.
func (l Look) Sentence() string {
	words := strings.Join(l.Words(), "; ")
	if l.Moving {
		return "as it came off: " + words
	}
	return words
}
