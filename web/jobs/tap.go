package jobs

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"

	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/web/page"
)

// TapOutcome records a tap on the card of the next step: an outcome, a completed exchange, or
// the signature.
func (s *Pages) TapOutcome(w http.ResponseWriter, r *http.Request) {
	it, ok := s.LoadForm(w, r)
	if !ok {
		return
	}
	refuse := func(code int, wrong invalid.Errors) {
		shown := s.Page(r, it, nil)
		shown.Wrong = wrong
		if code == http.StatusConflict {
			shown.Stale = Since(it, r.PostForm)
		}
		s.Render(w, r, code, "job.html", shown)
	}
	if r.PostForm.Get("version") != strconv.Itoa(it.Record.Version) {
		refuse(http.StatusConflict, nil)
		return
	}
	entries, wrong := tapped(it.Plan(), r.PostForm)
	if len(wrong) > 0 {
		refuse(http.StatusUnprocessableEntity, wrong)
		return
	}
	s.Record(w, r, it, entries, func(now Loaded) {
		it = now
		refuse(http.StatusConflict, nil)
	}, func(wrong invalid.Errors) {
		refuse(http.StatusUnprocessableEntity, wrong)
	})
}

// tapped returns the entries that a tap records.
func tapped(p plan.Plan, v url.Values) ([]evidence.Entry, invalid.Errors) {
	bad := page.BadText(v)
	step, outcome := v.Get("step"), v.Get("outcome")
	if step != p.Next.Step.ID {
		bad.Add("step", p.Next.Step.ID+", the step that the card shows", invalid.Quote(step))
	}
	if len(bad) > 0 {
		return nil, bad
	}
	switch {
	case step == plan.SignVerdict:
		e, err := p.Sign()
		return []evidence.Entry{e}, invalid.From(err)
	case len(p.Next.Parts) > 0 && outcome == "moved":
		return movedAndSeen(p.Next, v)
	}
	for _, o := range p.Next.Outcomes {
		if o.ID == outcome && len(p.Next.Parts) == 0 && o.Record.Kind() != "" {
			return []evidence.Entry{o.Record}, nil
		}
	}
	bad.Add("outcome", "one of the outcomes on the card", invalid.Quote(outcome))
	return nil, bad
}

// movedAndSeen returns the entries of an exchange: first what was inspected, then the move.
func movedAndSeen(c plan.Card, v url.Values) ([]evidence.Entry, invalid.Errors) {
	var bad invalid.Errors
	look := &evidence.Look{Moving: true}
	for _, item := range onTheWay(c) {
		text := v.Get(item.Field)
		if text == "" {
			continue
		}
		finding, err := evidence.ParseFinding(item.seen.Kind(), text)
		if err != nil {
			bad.Under(item.Field, err)
			continue
		}
		seen := item.seen
		seen.Finding = finding
		look.Items = append(look.Items, seen)
	}
	if len(bad) > 0 {
		return nil, bad
	}
	moved := evidence.Entry{Body: &evidence.Move{Parts: c.Parts, Cleared: true}}
	if len(look.Items) == 0 {
		return []evidence.Entry{moved}, nil
	}
	return []evidence.Entry{{Body: look}, moved}, nil
}

// HandView is one item that comes off for an exchange and is to be inspected.
type HandView struct {
	Field, Words string
	Findings     []evidence.FindingWords

	seen evidence.Seen
}

// onTheWay lists the items that a card asks to inspect as they come off.
func onTheWay(c plan.Card) []HandView {
	var all []HandView
	if len(c.Parts) == 0 {
		return nil
	}
	for i, item := range c.Look {
		all = append(all, HandView{fmt.Sprintf("seen-%d", i), item.Name(), evidence.FindingsOn(item.Kind()), item})
	}
	return all
}
