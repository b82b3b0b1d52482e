package jobs

import (
	"net/http"
	"net/url"
	"slices"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/plan"
)

// Group names what the hands do with a tool of the phase Trace.
type Group string

// The groups, in the order of the strip.
const (
	Looking   Group = "Look"
	Moving    Group = "Move"
	Measuring Group = "Measure"
	Scope     Group = "Scope"
	Plugs     Group = "Plugs"
)

var groups = []Group{Looking, Moving, Measuring, Scope, Plugs}

// railStation is one phase of the rail: where the job stands in the order of the work.
type railStation struct {
	course.Station
	Href string
	// Shown is true if the page shows this phase.
	Shown bool
}

// stateWords states a phase's state to people who do not see its mark.
var stateWords = map[course.State]string{course.Done: "done", course.Here: "you are here", course.Open: "open", course.Blocked: "waits"}

// StateWords returns the state in words.
func (s railStation) StateWords() string { return stateWords[s.State] }

// Note returns what the phase has shown, or what is missing.
func (s railStation) Note() string {
	switch {
	case s.State == course.Blocked && s.Missing != "":
		return "waits: " + s.Missing
	case s.Missing != "":
		return s.Missing
	}
	return s.Found
}

// toolLink is a link to a tool. Group is set if it leads to a group of tools.
type toolLink struct {
	Name, Key, Does, Href string
	Current               bool
	Phase                 course.Phase
	Group                 Group
	records               evidence.Kind // kind of entry that it records, or ""
}

// checkItem is one line of the checklist of a first job.
type checkItem struct {
	Words, Href string
	Done        bool
}

// firstJob lists what a first job goes through. Each line is ticked by the job itself.
func (p *Page) firstJob(it Loaded) []checkItem {
	found := map[evidence.Kind]bool{}
	for _, m := range it.Assessment().Moments {
		found[m.Entry.Kind()] = true
	}
	shown := map[course.Phase]bool{} // phases with a result, also the one in which the job stands
	for _, s := range p.stations {
		shown[s.Phase] = s.Found != ""
	}
	list := []checkItem{{"Open a job", p.At + "/intake", true},
		{"State when it fails", p.At + "/intake", it.Record.Job.Fails() != (job.Job{}).Fails()}}
	if it.Assessment().Engine.Scanned() {
		list = append(list, checkItem{"Read the codes", p.At + "/codes", found[evidence.KindCodes]})
	}
	return append(list,
		checkItem{"Run it, and record what misfires", p.At + "/counters", found[evidence.KindCounters] || found[evidence.KindWatch]},
		checkItem{"Move, look or measure: do the next step", p.At, found[evidence.KindMove] || found[evidence.KindLook] || found[evidence.KindCheck] || found[evidence.KindReadings] || found[evidence.KindSparks]},
		checkItem{"Sign the verdict", p.At + "/verdict", shown[course.Verdict]},
		checkItem{"Record the repair", p.At + "/fix", shown[course.Fix]},
		checkItem{"Run it again after the repair", p.At + "/prove", shown[course.Prove]})
}

// frame adds the rail and the tools to the page of a job.
func (s *Pages) frame(p *Page, it Loaded, next plan.Plan) {
	p.stations = course.Of(it.Record.Job, it.Assessment(), next)
	here := course.At(p.stations)
	shown := here
	if p.View != nil {
		if v, ok := s.find(p.View.Name); ok && len(v.Phases) > 0 && !slices.Contains(v.Phases, here) {
			shown = v.Phases[0]
		}
	}
	s.show(p, it, shown)
	p.Days = s.ledgerGroups(p.Shown())
}

// Here returns the number of the phase in which the job stands, from 1.
func (p Page) Here() int {
	return 1 + slices.IndexFunc(p.Rail, func(s railStation) bool { return s.State == course.Here })
}

// show sets the phase that the page shows.
func (s *Pages) show(p *Page, it Loaded, shown course.Phase) {
	here := course.At(p.stations)
	p.Rail = nil
	for _, st := range p.stations {
		// The end takes the place of the proof when the job is closed; both do not fit.
		if st.Phase == course.Closed && here != course.Closed || st.Phase == course.Prove && here == course.Closed {
			continue
		}
		href := p.At + "/" + string(st.Phase)
		if st.Phase == here {
			href = p.At
		}
		ends := (shown == course.Closed || shown == course.Prove) && (st.Phase == course.Closed || st.Phase == course.Prove)
		p.Rail = append(p.Rail, railStation{st, href, st.Phase == shown || ends})
	}
	current := ""
	switch {
	case p.View != nil:
		current = p.View.Name
	case p.WhatIf != nil:
		current = "what-if"
	}
	e := it.Assessment().Engine
	p.Tools = s.tools(e, p.At, func(View) bool { return true })
	p.Strip = append([]toolLink{{Name: "Next", Key: "x", Does: "Next step", Href: p.At, Current: p.View == nil && p.Phase == nil && p.WhatIf == nil}}, s.strip(it, p.At, shown, current)...)
}

// tools lists the views that an engine has a use for and that satisfy a predicate.
func (s *Pages) tools(e engine.Engine, at string, want func(View) bool) (all []toolLink) {
	for _, v := range s.views {
		if v.Tab == "" || v.Offered != nil && !v.Offered(e) || !want(v) {
			continue
		}
		all = append(all, toolLink{Name: v.Tab, Key: v.Key, Does: v.Does, Href: at + "/" + v.Name, Phase: v.Phases[0], Group: v.Group, records: v.Kind})
	}
	return all
}

// strip lists the tools of a phase, at most six. Trace shows its groups, or the tools of the group
// in use.
func (s *Pages) strip(it Loaded, at string, shown course.Phase, current string) []toolLink {
	e := it.Assessment().Engine
	var all []toolLink
	if shown != course.Trace {
		all = append(s.tools(e, at, func(v View) bool { return slices.Contains(v.Phases, shown) && !v.Aside }), pagesOf(it.Record.Job, at, shown)...)
	} else {
		of := Group("")
		if v, ok := s.find(current); ok {
			of = v.Group
		}
		whatIf := toolLink{Name: "What if", Key: "z", Does: "Preview the ranking under each outcome of a step", Href: at + "/what-if", Current: current == "what-if"}
		all = append(all, whatIf)
		for _, g := range groups {
			tools := s.tools(e, at, func(v View) bool { return v.Group == g })
			if len(tools) == 0 {
				continue
			}
			if g == of && len(tools) > 1 {
				back := toolLink{Name: "‹ Trace", Does: "All tools of the phase Trace", Href: at + "/" + string(course.Trace)}
				all = append([]toolLink{back}, tools...)
				break
			}
			tools[0].Name = string(g)
			if len(tools) > 1 {
				tools[0].Does = string(g) + ": " + tools[0].Does
			}
			all = append(all, tools[0])
		}
	}
	for i := range all {
		all[i].Current = all[i].Current || all[i].Href == at+"/"+current
	}
	return all
}

// phasePage is the overview of one phase: what it has shown and its tools.
type phasePage struct {
	railStation
	Do     string
	Groups []phaseGroup
}

// phaseGroup is a group of tools; Name is "" where a phase has no groups.
type phaseGroup struct {
	Name  string
	Tools []phaseTool
}

// phaseTool is a tool with the last entry that it recorded.
type phaseTool struct {
	toolLink
	Seq  int
	Last string
}

// phaseDo states the purpose of each phase.
var phaseDo = map[course.Phase]string{
	course.Intake:  "Write down what the driver reports and when it happens. Check the engine and the age of its parts.",
	course.Scan:    "Read and save the codes before anything is cleared. Then count the misfires of each cylinder.",
	course.Trace:   "Look, move and measure until one part explains the misfire. The next step is the cheapest way there.",
	course.Verdict: "Sign the verdict when every gate is met.",
	course.Fix:     "Renew the part that the verdict names, and put right what caused its failure.",
	course.Prove:   "Clear the codes and the counters. Run the engine in the condition where it failed, and count.",
	course.Closed:  "Close the job when the vehicle goes back. If the trouble comes back, a new job starts from this evidence.",
}

// showPhase shows the overview of a phase.
func (s *Pages) showPhase(w http.ResponseWriter, r *http.Request, phase course.Phase) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	p := s.Page(r, it, nil)
	i := slices.IndexFunc(p.stations, func(st course.Station) bool { return st.Phase == phase })
	p.Phase = &phasePage{railStation: railStation{Station: p.stations[i]}, Do: phaseDo[phase], Groups: s.phaseGroups(it, p.At, phase)}
	s.show(&p, it, phase)
	s.Render(w, r, http.StatusOK, "job.html", p)
}

// phaseGroups lists the tools of a phase.
func (s *Pages) phaseGroups(it Loaded, at string, phase course.Phase) []phaseGroup {
	e := it.Assessment().Engine
	of := func(g Group) phaseGroup {
		group := phaseGroup{Name: string(g)}
		for _, t := range s.tools(e, at, func(v View) bool { return slices.Contains(v.Phases, phase) && (g == "" || v.Group == g) }) {
			group.Tools = append(group.Tools, withLast(it, t))
		}
		return group
	}
	if phase == course.Trace {
		var all []phaseGroup
		for _, g := range groups {
			if group := of(g); len(group.Tools) > 0 {
				all = append(all, group)
			}
		}
		return all
	}
	g := of("")
	for _, t := range pagesOf(it.Record.Job, at, phase) {
		g.Tools = append(g.Tools, phaseTool{toolLink: t})
	}
	return []phaseGroup{g}
}

// pagesOf lists the pages of a phase that record no entry.
func pagesOf(j job.Job, at string, phase course.Phase) []toolLink {
	switch phase {
	case course.Intake:
		return []toolLink{
			{Name: "Engine", Key: "i", Does: "Engine, firing order, covers, and the age of its parts", Href: "/vehicles/" + url.PathEscape(j.Vehicle.Fleet) + "/engine?job=" + url.QueryEscape(j.Number)},
			{Name: "Labels", Key: "L", Does: "Print labels for the parts before they are moved", Href: at + "/labels"},
		}
	case course.Verdict, course.Prove, course.Closed:
		return []toolLink{{Name: "Finding", Key: "P", Does: "The finding for the owner and the record", Href: at + "/finding"}}
	}
	return nil
}

// withLast adds the newest valid entry of a tool.
func withLast(it Loaded, t toolLink) phaseTool {
	tool := phaseTool{toolLink: t}
	for _, m := range it.Assessment().Moments {
		if t.records != "" && m.Entry.Kind() == t.records {
			tool.Seq, tool.Last = m.Entry.Seq, m.Entry.Words()
		}
	}
	return tool
}
