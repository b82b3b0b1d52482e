package plugs

import (
	"fmt"
	"net/url"
	"slices"
	"strings"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/part"
	"glenmist/core/plug"
	"glenmist/core/unit"
	"glenmist/web/jobs"
)

// typedBoard holds the values of the form.
type typedBoard struct {
	look evidence.Look
	gaps map[part.Tag]string // result of two gauge wires
}

// plugTags lists the fitted plugs by cylinder, and the part on each.
func plugTags(it jobs.Loaded) (plugs, on []part.Tag) {
	for _, c := range it.Assessment().Engine.All() {
		t := it.Assessment().Now.Serving(engine.Plug, c)
		if t == "" || slices.Contains(plugs, t) {
			continue
		}
		boot := it.Assessment().Now.Serving(engine.Boot, c)
		if boot == "" {
			boot = it.Assessment().Now.Serving(engine.Lead, c)
		}
		plugs, on = append(plugs, t), append(on, boot)
	}
	return plugs, on
}

// knownLook returns the recorded reading of a plug, and the entry of its last one.
func knownLook(it jobs.Loaded, t part.Tag) (l plug.Look, entry int) {
	for _, m := range it.Assessment().Moments {
		if m.Entry.Look() == nil {
			continue
		}
		for _, item := range m.Entry.Look().Items {
			if item.Tag == t && !item.Plug.Empty() {
				l, entry = l.Over(item.Plug), m.Entry.Seq
			}
		}
	}
	return l, entry
}

// readBoard reads the form. Typed values replace recorded ones.
func readBoard(it jobs.Loaded, typed url.Values) (b typedBoard, bad invalid.Errors) {
	b.gaps = map[part.Tag]string{}
	b.look.Ran = evidence.Ran(typed.Get("ran"))
	low, high := strings.TrimSpace(typed.Get("gap-low")), strings.TrimSpace(typed.Get("gap-high"))
	if low != "" || high != "" {
		l, errLow := unit.Gap.Parse(low)
		h, errHigh := unit.Gap.Parse(high)
		bad.Under("gap-low", errLow)
		bad.Under("gap-high", errHigh)
		if errLow == nil && errHigh == nil {
			b.look.Gap = &plug.Range{Low: l, High: h}
		}
	}
	plugs, on := plugTags(it)
	for i, t := range plugs {
		said, err := plug.Parse(typed.Get(string(t)))
		for _, e := range invalid.From(err) { // it has no visible field
			bad.Add("", unit.Capital(t.Words())+": "+e.Expected, e.Got)
		}
		if text := strings.TrimSpace(typed.Get("gap-" + string(t))); text != "" {
			mm, words, err := gapTyped(text, b.look.Spec())
			bad.Under("gap-"+string(t), err)
			if err == nil {
				said.GapMM, b.gaps[t] = mm, words
			}
		}
		if !said.Empty() {
			had, _ := knownLook(it, t)
			b.look.Items = append(b.look.Items, b.look.Read(t, had.Over(said)))
		}
		if found := typed.Get(string(on[i])); on[i] != "" && found != "" {
			finding, err := evidence.ParseFinding(on[i].Kind(), found)
			for _, e := range invalid.From(err) {
				bad.Add("", unit.Capital(on[i].Words())+": "+e.Expected, e.Got)
			}
			if err == nil {
				b.look.Items = append(b.look.Items, evidence.Seen{Tag: on[i], Finding: finding})
			}
		}
	}
	return b, bad
}

// gapTyped reads a gap, or two wires and their result against the maker's range.
func gapTyped(s string, spec plug.Range) (mm float64, says string, err error) {
	g, err := plug.ParseGap(s)
	if err == nil && !(g.MM >= plug.LeastGapMM && g.MM <= plug.MostGapMM) {
		err = invalid.Error{Expected: fmt.Sprintf("a gap from %g to %g mm", plug.LeastGapMM, plug.MostGapMM), Got: invalid.Quote(s)}
	}
	return g.MM, g.Says(spec.Low, spec.High), err
}
