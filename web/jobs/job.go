package jobs

import (
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/plan"
	"glenmist/core/practice"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/page"
)

// Page is the page of a job: plan, next step or work view, suspects, ledger.
type Page struct {
	page.Base
	Job      job.Job
	At       string // the job's address
	Version  int
	Key      string // of a form that adds something, see once.go
	Status   plan.Status
	Stamp    string
	Plan     draw.Plan
	Chosen   *chosenView
	Next     plan.Card
	Elses    []elseView
	Lead     diagnose.Suspect
	Gates    []gate.Gate
	Cleared  string // ruled-out units of the selected cylinder
	Suspects []SuspectView
	Ledger   []LedgerLine
	Saved    *LedgerLine
	// Whole is "ledger" or "reasons" if all of them are requested.
	Whole string
	// Drift describes how the assessment has moved away from a signed verdict.
	Drift string
	// Advice explains a move without a clear outcome. Flash states what a flashing lamp
	// requires.
	Advice, Flash string
	// Doubts lists entries that conflict with all others.
	Doubts []doubtLine
	// Conflicts lists moves of one part that contradict each other, with what they could mean.
	Conflicts []explain.Conflict
	View      *ViewPage
	// WhatIf replaces the card of the next step.
	WhatIf *whatIfView
	// InVain is the expected wasted time in words, with the next step and without.
	InVain string
	// Stock lists tested spares of the workshop for a step that asks for a known-good part.
	Stock []store.Spare
	// While lists work to combine with the removed covers.
	While []elseView
	// Two lists the pairs of units that may be faulty at the same time.
	Two      []pairView
	TwoShare float64
	// Kinds groups the suspects while no cylinder is under suspicion.
	Kinds []suspectGroup
	// Days folds the visible ledger by day and phase.
	Days []ledgerGroup
	// First is the checklist of the first job of a workshop.
	First []checkItem
	// Rail is the order of the work; Strip lists the tools of the shown phase, Tools all of them.
	Rail     []railStation
	stations []course.Station
	Strip    []toolLink
	Tools    []toolLink
	// Phase is the overview of a phase; it replaces the card of the next step.
	Phase *phasePage
	// Pattern is what the affected cylinders have in common; nil without observations.
	Pattern *patternView
	Signs   []string
	// Fails lists when the misfire can occur; Failing is the selected value.
	Fails   []page.Choice
	Failing string
	Stale   *StaleView
	Wrong   invalid.Errors
	// Earlier is the vehicle's last job before this one, for a job without entries. BackAs lists the later
	// jobs on the same trouble, for a closed one.
	Earlier *store.Summary
	BackAs  []string
}

type doubtLine struct {
	Text  string
	Links []doubtLink
}

type doubtLink struct {
	N    int
	Href string
}

type elseView struct {
	Card  plan.Card
	Extra int
	Href  string
	// WhatIf is the address of the preview of its outcomes.
	WhatIf string
}

// inVain returns the sentence on the expected wasted time, or "" if it is not relevant.
func inVain(it Loaded) string {
	p := it.Plan()
	if p.Verdict != nil || p.Without-p.With < 1 || len(p.Next.Outcomes) == 0 {
		return ""
	}
	with := p.With + p.Dearer
	s := fmt.Sprintf("Expected wasted time: %.0f min with this step, %.0f min if you stop testing. Parts and a wrong verdict count as minutes.", with, max(with, p.Without))
	if p.Dearer >= 1 {
		s = fmt.Sprintf("Expected wasted time: %.0f min by the usual order, %.0f min by the plan. Parts and a wrong verdict count as minutes.", with, p.With)
	}
	return s
}

// ShowJob shows a job with its next step.
func (s *Pages) ShowJob(w http.ResponseWriter, r *http.Request) {
	it, ok := s.Load(w, r)
	if !ok {
		return
	}
	p := s.Page(r, it, nil)
	if !s.several.Load() {
		only, err := s.Jobs.Only(r.Context(), it.Record.Job.Number)
		if err != nil {
			s.FailStore(w, r, err)
			return
		}
		s.several.Store(!only)
		if only {
			p.First = p.firstJob(it)
		}
	}
	if err := s.related(r, &p); err != nil {
		s.FailStore(w, r, err)
		return
	}
	if p.Next.Step.ID == plan.TrySpare && len(p.Next.Parts) > 0 {
		stock, err := s.Jobs.Stock(r.Context(), p.Next.Parts[0].Tag.Kind())
		if err != nil {
			s.FailStore(w, r, err)
			return
		}
		p.Stock = stock
	}
	s.Render(w, r, http.StatusOK, "job.html", p)
}

// related adds the job before a new one and the jobs after a closed one.
func (s *Pages) related(r *http.Request, p *Page) error {
	j := p.Job
	if len(j.Ledger) == 0 && len(j.Planned) == 0 {
		list, err := s.Jobs.Earlier(r.Context(), j.Vehicle.Fleet, j.Opened, j.Number)
		if len(list) > 0 {
			p.Earlier = &list[0]
		}
		return err
	}
	if p.Next.Closed {
		numbers, err := s.Jobs.CameBackAs(r.Context(), j.Number)
		p.BackAs = numbers
		return err
	}
	return nil
}

// Page builds the page of a job. A view replaces the card of the next step.
func (s *Pages) Page(r *http.Request, it Loaded, view *ViewPage) Page {
	j, a, next := it.Record.Job, it.reasons(), it.Plan()
	p := Page{Base: s.Base(r, j.Vehicle.Fleet+" "+j.Vehicle.What), Job: j, At: "/jobs/" + url.PathEscape(j.Number),
		Version: it.Record.Version, Key: page.NewKey(), Whole: r.URL.Query().Get("all"), Status: plan.StatusOf(j, a), Next: next.Next, Lead: next.Lead, Gates: next.Gates, View: view}
	p.Stamp = stamps[p.Status.State]
	if len(a.Decodes) > 0 {
		p.Cleared = clearedWords(a.Engine, plan.Cleared(a))
	}
	chosen := ChosenCylinder(r, it)
	p.Plan = draw.JobPlan(a, j.Number, chosen)
	if p.Pattern = newPattern(a); p.Signed() {
		p.Pattern = nil // the search is over
	}
	p.Fails, p.Failing = Failings(), string(j.FailsWhen)
	p.signs(j)
	p.Suspects = suspectViews(a, next, p.Whole == "reasons")
	if !a.NamesCylinder() && a.Suspects[0].P < 0.5 {
		p.Kinds = groupsOf(p.Suspects)
	}
	if chosen > 0 {
		p.Chosen = p.chosen(a, chosen)
	}
	if p.Signed() {
		next.Alternatives = nil
	}
	p.elses(j, next)
	p.InVain = inVain(it)
	p.Two, p.TwoShare = pairsOf(a)
	p.Ledger = LedgerLines(j, a, p.At)
	MarkImported(p.Ledger, it.Record)
	p.Doubts, p.Conflicts = doubts(a, p.At), explain.Conflicts(a)
	if n, err := strconv.Atoi(r.URL.Query().Get("saved")); err == nil {
		for i := range p.Ledger {
			if p.Ledger[i].Entry.Seq == n {
				p.Saved = &p.Ledger[i]
			}
		}
	}
	p.drift(j, a, next)
	p.advise(j, a)
	s.frame(&p, it, next)
	return p
}

// signs lists the circumstances of the complaint. "Always there" is shown with the conditions.
func (p *Page) signs(j job.Job) {
	for _, sign := range j.Signs {
		if sign == evidence.AlwaysThere {
			p.Failing = string(sign)
			continue
		}
		p.Signs = append(p.Signs, sign.Words())
		if sign == evidence.LampFlashing {
			p.Flash = evidence.LampCaution
		}
	}
}

// elses lists the alternatives to the next step, and what to do while covers are off.
func (p *Page) elses(j job.Job, next plan.Plan) {
	for _, alt := range next.Alternatives {
		p.Elses = append(p.Elses, elseView{alt.Card, int(alt.ExtraCost + 0.5), p.At + "/" + viewFor(j.Vehicle.Engine, alt.Card), whatIfAt(p.At, alt.Card)})
	}
	for _, m := range next.While {
		p.While = append(p.While, elseView{m.Card, int(m.Saves + 0.5), p.At + "/" + viewFor(j.Vehicle.Engine, m.Card), ""})
	}
}

// doubts lists the entries that conflict with all others, with a link to withdraw each.
func doubts(a *diagnose.Assessment, at string) (all []doubtLine) {
	conflicts := explain.Conflicts(a)
	for _, c := range a.Contradictions() {
		if len(conflicts) > 0 && c.Entries[0] > conflicts[0].Entries[0] { // it is told there
			continue
		}
		d := doubtLine{Text: explain.Contradiction(a, c)}
		for _, n := range c.Entries {
			d.Links = append(d.Links, doubtLink{n, fmt.Sprintf("%s/withdraw?entry=%d", at, n)})
		}
		all = append(all, d)
	}
	return all
}

// driftLeast is the least loss of probability since the signature that is worth a warning (judgement).
const driftLeast = 0.02

// drift warns if the evidence no longer supports the signed verdict.
func (p *Page) drift(j job.Job, a *diagnose.Assessment, next plan.Plan) {
	if signed, ok := j.Signed(); ok && (p.Signed() || next.Verdict != nil && next.Verdict.Revises > 0) {
		if now := plan.SignedNow(a, *signed.Verdict()); now < plan.Condemn && now < signed.Verdict().P-driftLeast {
			p.Drift = fmt.Sprintf("Signed at %s, but the evidence as it stands now gives %s. Look again before a part is bought.", unit.Percent(signed.Verdict().P), unit.Percent(now))
		}
	}
}

// advise explains the last move, unless the next step does.
func (p *Page) advise(j job.Job, a *diagnose.Assessment) {
	d := a.LastDecode()
	if d == nil {
		return
	}
	if d.Outcome != diagnose.Elsewhere || p.Next.Step.ID != plan.CountMisfires {
		p.Advice = explain.Advice(*d)
	}
	if e, ok := j.Ledger.Get(d.Move); ok && !e.Move().Cleared {
		p.Advice = strings.TrimSpace(p.Advice + " The codes were not cleared after the move: some control units keep the injector of a cylinder that misfired cut off until then, and what is seen before that is void.")
	}
}

// ViewHref returns the address of the form of the next step.
func (p Page) ViewHref() string { return p.At + "/" + viewFor(p.Job.Vehicle.Engine, p.Next) }

// IsSwap reports whether the next step is an exchange.
func (p Page) IsSwap() bool { return len(p.Next.Parts) > 0 }

// SignWords returns the label of the button that signs.
func (p Page) SignWords() string {
	if strings.HasPrefix(p.Next.Title, "Trial") {
		return "Sign the trial repair"
	}
	return "Sign the verdict"
}

// IsSign reports whether the next step is to sign the verdict.
func (p Page) IsSign() bool { return p.Next.Step.ID == plan.SignVerdict }

// Action returns what the link to the form of the next step says.
func (p Page) Action() string {
	switch {
	case p.Next.Ban != nil:
		return "Record what was done"
	case p.Taps():
		return "Enter it in full"
	case p.IsSwap():
		return "It went differently"
	case p.Next.Finished:
		return "Open the finding"
	case p.Next.Worksheet:
		return "Open the worksheet"
	case p.Signed():
		return "Enter what the run showed"
	case p.Next.Step.ID == plan.EndUnresolved:
		return "Close the job"
	}
	return "Enter what you find"
}

// OnVerdict reports whether the verdict view is open, which shows the gates itself.
func (p Page) OnVerdict() bool { return p.View != nil && p.View.Name == VerdictView.Name }

// Usual reports whether the job uses the usual order.
func (p Page) Usual() bool { return p.Job.School == job.UsualOrder }

// WhatIfHref returns the address of the preview of the next step.
func (p Page) WhatIfHref() string { return whatIfAt(p.At, p.Next) }

// Signed reports whether a verdict is valid: the repair and its proof remain.
func (p Page) Signed() bool { return p.Next.Step.ID == plan.FixAndProve }

// Taps reports whether outcomes can be recorded with one tap.
func (p Page) Taps() bool {
	return !p.IsSwap() && len(p.Next.Outcomes) > 0
}

// Recordable reports whether an outcome can be recorded with one tap.
func (p Page) Recordable(o plan.Outcome) bool { return p.Taps() && o.Record.Kind() != "" }

// newest is the number of ledger entries shown before the rest is folded; strongest is the
// same for reasons of a suspect. A list with few more lines is not folded.
const (
	newest    = 40
	strongest = 8
	fewMore   = 4
)

// folded returns the number of visible lines of n.
func folded(n, shown int, all bool) int {
	if all || n <= shown+fewMore {
		return n
	}
	return shown
}

// leading is the largest number of visible suspects.
const leading = 12

// Leading lists the visible suspects: those of at least 1 %, at least three and at most
// [leading].
func (p Page) Leading() []SuspectView { return p.Suspects[:p.fold()] }

// Others lists the rest.
func (p Page) Others() []SuspectView { return p.Suspects[p.fold():] }

// OthersShare returns the sum of the probabilities of the folded suspects.
func (p Page) OthersShare() float64 {
	sum := 0.0
	for _, s := range p.Others() {
		sum += s.P
	}
	return sum
}

func (p Page) fold() int {
	n := 0
	for n < min(leading, len(p.Suspects)) && (n < 3 || p.Suspects[n].P >= 0.01) {
		n++
	}
	return n
}

// Same returns the meaning that all outcomes share, or "".
func (p Page) Same() string {
	for _, o := range p.Next.Outcomes {
		if o.Means != p.Next.Outcomes[0].Means {
			return ""
		}
	}
	if len(p.Next.Outcomes) < 2 {
		return ""
	}
	return p.Next.Outcomes[0].Means
}

// clearedWords lists the ruled-out units: parts by tag, then the units of each place.
func clearedWords(e engine.Engine, keys []string) string {
	var words, places []string
	at := map[string][]string{}
	for _, key := range keys {
		cut := strings.LastIndexByte(key, ' ')
		unit, place := key[:max(0, cut)], key[cut+1:]
		if _, ok := e.Feeds(engine.Place(place)); !ok {
			words = append(words, key)
			continue
		}
		if at[place] == nil {
			places = append(places, place)
		}
		at[place] = append(at[place], unit)
	}
	for _, place := range places {
		words = append(words, strings.Join(at[place], ", ")+" of "+engine.Place(place).String())
	}
	return strings.Join(words, "; ")
}

// Many reports whether the outcomes need two columns.
func (p Page) Many() bool { return len(p.Next.Outcomes) > 3 }

// ShowGates reports whether the gates are relevant yet.
func (p Page) ShowGates() bool {
	return !p.Signed() && p.Lead.P >= 0.5 && p.Suspects[0].Unit != fault.NoFault
}

// InHand lists the items that come off for an exchange and should be inspected.
func (p Page) InHand() []HandView { return onTheWay(p.Next) }

// MovedWords returns the label of the button that records an exchange.
func (p Page) MovedWords() string {
	if p.Job.Vehicle.Engine.Scanned() {
		return "Moved, codes cleared, counters at zero"
	}
	return "Moved"
}

// Disputed lists the questions about the next step on which practitioners disagree.
func (p Page) Disputed() []practice.Question { return practice.For(p.Next.Step.ID) }
