package jobs

import (
	"fmt"
	"net/url"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	"glenmist/web/page"
)

// ChainView follows a cylinder without a spark from feed to driver.
var ChainView = View{
	Bare: true, Name: "chain", Title: "No spark: the chain", Tab: "Chain", Key: "N", Does: "No spark: feed, ground, trigger, wire, driver in turn",
	Phases: []course.Phase{course.Trace}, Group: Measuring,
	Blank: func(it Loaded, query url.Values) url.Values {
		v := url.Values{}
		if c, err := it.Assessment().Engine.ParseCylinder(query.Get("cyl")); err == nil {
			v.Set("cyl", fmt.Sprint(c))
		}
		return v
	},
	Read: func(Loaded, url.Values) (evidence.Entry, invalid.Errors) {
		var bad invalid.Errors
		bad.Add("", "one of the answers of the chain, which are recorded as tests", "none")
		return evidence.Entry{}, bad
	},
	Field: func(Loaded, url.Values, string) string { return "" },
	Model: func(it Loaded, f page.Form) any {
		c, err := it.Assessment().Engine.ParseCylinder(f.Get("cyl"))
		if err != nil {
			c = it.Assessment().Worst()
		}
		m := chainModel{Chain: plan.ChainOf(it.Assessment(), c), Wires: it.Assessment().Engine.Wires, Many: it.Assessment().Engine.Cylinders > 1}
		for _, o := range it.Assessment().Engine.All() {
			m.Cylinders = append(m.Cylinders, chainChoice{int(o), o == c})
		}
		for i, l := range m.Chain.Links {
			v := linkView{Link: l, Now: i == m.Chain.Next}
			if v.Now {
				v.ask(it.Assessment().Engine, l)
			}
			m.Links = append(m.Links, v)
		}
		return m
	},
}

type chainModel struct {
	Chain     plan.Chain
	Links     []linkView
	Cylinders []chainChoice
	Wires     int
	Many      bool
}

type chainChoice struct {
	N       int
	Current bool
}

// linkView is a link of the chain with its actions.
type linkView struct {
	plan.Link
	Now bool
	// Answers can be tapped. Href is the form for figures or for an exchange.
	Answers []evidence.Result
	Href    string
	Enter   string
}

func (v *linkView) ask(e engine.Engine, l plan.Link) {
	t, ok := evidence.FindTest(l.Test)
	switch {
	case l.Card != nil:
		v.Href, v.Enter = viewFor(e, *l.Card), l.Card.Title
	case l.ID == "spark":
		v.Href, v.Enter = "spark?on="+url.QueryEscape(string(l.Place)), "Enter it with the tester's gap"
	case l.Measure != "":
		v.Href, v.Enter = "meter?measure="+url.QueryEscape(string(l.Measure)), "Enter what the meter shows"
	}
	if ok && l.Measure == "" {
		for _, r := range t.Results {
			if l.ID != "pulse" || r.ID != "feed" && r.ID != "ground" {
				v.Answers = append(v.Answers, r)
			}
		}
	}
	if l.ID == "wire" {
		v.Answers = t.Results
	}
}

// Mark returns the text of a link's state.
func (v linkView) Mark() string {
	switch v.State {
	case plan.LinkProven:
		return "✓ proven"
	case plan.LinkBad:
		return "▲ bad"
	case plan.LinkWaits:
		return "… later"
	}
	return "○ open"
}

// Idle reports that the view has nothing to record.
func (chainModel) Idle() bool { return true }
