package jobs

import (
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"sync"

	"github.com/go-chi/chi/v5"

	"glenmist/core/course"
	"glenmist/core/diagnose"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/explain"
	"glenmist/core/fault"
	"glenmist/core/gate"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/part"
	"glenmist/core/plan"
	"glenmist/core/practice"
	"glenmist/core/shop"
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
	By       string
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
	View   *ViewPage
	// WhatIf replaces the card of the next step.
	WhatIf *whatIfView
	// InVain is the expected wasted time in words, with the next step and without.
	InVain string
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
}

// chosenView describes the selected cylinder.
type chosenView struct {
	N                int
	Suspicion, Count string
	Under            string // covers over it
	Tower, Mate      string
	Parts            []partLine
	Suspects         []SuspectView
	Close            string
}

type partLine struct {
	Words, From string
	Unseen      bool // it can be inspected and was not
	Looks       []string
	Age         string
	Due         bool
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
	p := it.plan()
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

// LedgerLine is an entry in words, with its actions.
type LedgerLine struct {
	Entry     evidence.Entry
	Words     string
	Decode    string
	Withdrawn *evidence.Entry
	Can       bool   // can be withdrawn
	Aside     string // why it is not weighed
	Last      bool   // the newest that can be withdrawn: it has a key
	Href      string
}

// Loaded is a job read from the store. Assessment and plan are computed on first use, so that a request with
// an old version computes neither.
type Loaded struct {
	Record store.Record
	Shop   shop.Settings
	// Assessment and Plan return the assessment and the plan. Reasons adds the reasons for and
	// against each suspect.
	Assessment func() *diagnose.Assessment
	plan       func() plan.Plan
	reasons    func() *diagnose.Assessment
	// instruments is true if an instrument can be read with one key.
	instruments bool
}

// NewLoaded returns a job with the settings of the workshop.
func NewLoaded(rec store.Record, set shop.Settings, instruments bool) Loaded {
	it := Loaded{Record: rec, Shop: set, instruments: instruments}
	it.Assessment = sync.OnceValue(func() *diagnose.Assessment { return diagnose.AssessBy(set.Beliefs(), rec.Job) })
	it.plan = sync.OnceValue(func() plan.Plan { return set.Plan().Plan(rec.Job, it.Assessment()) })
	it.reasons = sync.OnceValue(func() *diagnose.Assessment { return explain.Reasons(it.Assessment()) })
	return it
}

// Load reads the job of the address.
func (s *Pages) Load(w http.ResponseWriter, r *http.Request) (Loaded, bool) {
	rec, err := s.Jobs.Job(r.Context(), chi.URLParam(r, "id"))
	if err != nil {
		s.FailStore(w, r, err)
		return Loaded{}, false
	}
	set, _, err := s.Jobs.Shop(r.Context())
	if err != nil {
		s.FailStore(w, r, err)
		return Loaded{}, false
	}
	return NewLoaded(rec, set, s.Instruments != nil), true
}

// LoadForm reads the form of a request and its job.
func (s *Pages) LoadForm(w http.ResponseWriter, r *http.Request) (Loaded, bool) {
	if err := r.ParseForm(); err != nil {
		s.FailForm(w, r, err)
		return Loaded{}, false
	}
	return s.Load(w, r)
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
	s.Render(w, r, http.StatusOK, "job.html", p)
}

// Page builds the page of a job. A view replaces the card of the next step.
func (s *Pages) Page(r *http.Request, it Loaded, view *ViewPage) Page {
	j, a, next := it.Record.Job, it.reasons(), it.plan()
	p := Page{Base: s.Base(r, j.Vehicle.Fleet+" "+j.Vehicle.What), Job: j, At: "/jobs/" + url.PathEscape(j.Number),
		Version: it.Record.Version, Key: page.NewKey(), Whole: r.URL.Query().Get("all"), Status: plan.StatusOf(j, a), Next: next.Next, Lead: next.Lead, Gates: next.Gates, View: view}
	p.By = hand(p.Hand, j)
	p.Stamp = stamps[p.Status.State]
	if len(a.Decodes) > 0 {
		p.Cleared = clearedWords(a.Engine, plan.Cleared(a))
	}
	chosen := ChosenCylinder(r, it)
	p.Plan = draw.JobPlan(a, j.Number, chosen)
	p.Pattern = newPattern(a)
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
	p.Doubts = doubts(a, p.At)
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
	for _, c := range a.Contradictions() {
		d := doubtLine{Text: explain.Contradiction(a, c)}
		for _, n := range c.Entries {
			d.Links = append(d.Links, doubtLink{n, fmt.Sprintf("%s/withdraw?entry=%d", at, n)})
		}
		all = append(all, d)
	}
	return all
}

// drift warns if the evidence no longer supports the signed verdict.
func (p *Page) drift(j job.Job, a *diagnose.Assessment, next plan.Plan) {
	if signed, ok := j.Signed(); ok && (p.Signed() || next.Verdict != nil && next.Verdict.Revises > 0) {
		if now := plan.SignedNow(a, *signed.Verdict()); now < plan.Condemn {
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

// ChosenCylinder returns the cylinder of the address. The default is the most probable
// cylinder if its probability is at least 0.5, otherwise 0.
func ChosenCylinder(r *http.Request, it Loaded) engine.Cylinder {
	if c, err := it.Record.Job.Vehicle.Engine.ParseCylinder(r.URL.Query().Get("cyl")); err == nil {
		return c
	}
	if w := it.Assessment().Worst(); it.Assessment().Suspicion[w-1] >= 0.5 {
		return w
	}
	return 0
}

func (p *Page) chosen(a *diagnose.Assessment, c engine.Cylinder) *chosenView {
	cell := p.Plan.Cells[slices.IndexFunc(p.Plan.Cells, func(cell draw.Cell) bool { return cell.N == int(c) })]
	v := &chosenView{N: int(c), Suspicion: cell.Suspicion, Count: cell.Count, Close: p.At}
	for _, k := range a.Engine.PartKinds() {
		t := a.Now.Serving(k, c)
		line := partLine{Words: t.Words()}
		if home := t.Home(); t.IsSpare() {
			line.From = "a spare"
		} else if home != a.Now.Where(t) {
			line.From = "came from " + home.String()
		}
		line.Looks = looksAt(a, evidence.Seen{Tag: t})
		line.Unseen = k != engine.Coil && len(evidence.FindingsOn(k)) > 0 && len(line.Looks) == 0
		if r, ok := part.For(p.Job.Vehicle.Parts, k, t.Home()); ok {
			age := r.AgeAt(p.Job.Distance, p.Job.Opened)
			line.Age, line.Due = age.Words(), age.Due()
		}
		v.Parts = append(v.Parts, line)
	}
	for _, item := range a.Engine.Series(c) {
		if item.Kind == engine.Connector {
			seen := evidence.Seen{Place: item.Place}
			looks := looksAt(a, seen)
			v.Parts = append(v.Parts, partLine{Words: seen.Name(), Looks: looks, Unseen: len(looks) == 0})
		}
	}
	covers, minutes := a.Engine.Access(engine.At(c), a.Off)
	if len(covers) > 0 {
		var names []string
		for _, cover := range covers {
			names = append(names, cover.Name)
		}
		v.Under = fmt.Sprintf("Under %s: %g min off and on", strings.Join(names, " and "), minutes)
	}
	if t := a.Engine.Tower(c); t != "" {
		v.Tower = t
	}
	if mate, ok := a.Engine.Companion(c); ok && mate != c {
		v.Mate = fmt.Sprintf("companion %d", mate)
	}
	for _, s := range p.Suspects {
		if feeds, ok := a.Engine.Feeds(s.Place); ok && s.Place != engine.Whole && feeds.Has(c) && len(v.Suspects) < 3 {
			v.Suspects = append(v.Suspects, s)
		}
	}
	return v
}

func looksAt(a *diagnose.Assessment, item evidence.Seen) []string {
	var words []string
	for _, m := range a.Moments {
		if m.Entry.Look() == nil {
			continue
		}
		for _, seen := range m.Entry.Look().Items {
			if seen.Tag == item.Tag && seen.Place == item.Place {
				words = append(words, seen.Finding.Words())
			}
		}
	}
	return words
}

// LedgerLines lists the ledger, the newest entry first.
func LedgerLines(j job.Job, a *diagnose.Assessment, at string) []LedgerLine {
	gone := j.Ledger.Withdrawn()
	said := map[int]string{}
	for _, d := range a.Decodes {
		if d.Outcome != diagnose.Waiting {
			said[d.Move] = string(d.Outcome)
		}
	}
	aside := map[int]string{}
	for i, m := range a.Moments {
		aside[m.Entry.Seq] = explain.Aside(a.SetAside(i))
	}
	var lines []LedgerLine
	keyed := false
	for _, e := range slices.Backward(j.Ledger) {
		line := LedgerLine{Entry: e, Words: e.Words(), Decode: said[e.Seq], Aside: aside[e.Seq], Can: e.Withdraw() == nil,
			Href: fmt.Sprintf("%s/withdraw?entry=%d", at, e.Seq)}
		if by, ok := gone[e.Seq]; ok {
			line.Withdrawn, line.Can, line.Decode = &by, false, ""
		}
		line.Last = line.Can && !keyed
		keyed = keyed || line.Last
		lines = append(lines, line)
	}
	return lines
}

// viewFor returns the address, relative to the job, of the work view that records a step, with
// its fields filled in.
func viewFor(e engine.Engine, c plan.Card) string {
	switch c.Step.ID {
	case plan.ReadCodes:
		return "codes"
	case plan.ReadTrims:
		return "trims"
	case plan.CountMisfires, plan.RunAfterMove:
		return "counters"
	case plan.SignVerdict:
		return "verdict"
	case plan.FindCylinder:
		return "watch"
	}
	switch {
	case c.Test == evidence.Spark:
		return "spark?" + url.Values{"on": {string(c.Place)}}.Encode()
	case c.Test == evidence.CompressionTest && e.Cylinders == 1: // a hump of the starter's current has nothing to be compared with
		return "meter?" + url.Values{"measure": {string(evidence.CompressionDry)}}.Encode()
	case measured[c.Test] != "":
		return "meter?" + url.Values{"measure": {string(measured[c.Test])}}.Encode()
	case c.Test != "":
		q := url.Values{"test": {string(c.Test)}, "place": {string(c.Place)}}
		return "check?" + q.Encode()
	case len(c.Parts) > 0:
		q := url.Values{"tag": {string(c.Parts[0].Tag)}, "to": {string(c.Parts[0].To)}}
		if c.Step.ID == plan.PutBack {
			q = url.Values{"tag": {string(c.Parts[1].Tag)}, "to": {string(c.Parts[1].To)}}
		}
		if c.Second.Place != "" {
			last := c.Parts[len(c.Parts)-2]
			q.Set("tag2", string(last.Tag))
			q.Set("to2", string(last.To))
		}
		return "move?" + q.Encode()
	case len(c.Look) > 0:
		q := url.Values{}
		for _, item := range c.Look {
			q.Set(lookField(item.Kind()), lookValue(item))
		}
		return "look?" + q.Encode()
	}
	return "counters"
}

// measured maps a test to its measure, for tests whose answer follows from figures.
var measured = map[evidence.TestID]evidence.MeasureID{
	evidence.CoilResistance: evidence.CoilSecondary, evidence.LeadResistance: evidence.LeadOhms, evidence.WireTest: evidence.WireOhms, evidence.AirGapCheck: evidence.AirGapLegs,
	evidence.CompressionTest: evidence.StarterCurrent, evidence.LeakDown: evidence.LeakDownLoss, evidence.FuelPressure: evidence.FuelBar, evidence.Kilovolts: evidence.KVSteady,
}

// ViewHref returns the address of the form of the next step.
func (p Page) ViewHref() string { return p.At + "/" + viewFor(p.Job.Vehicle.Engine, p.Next) }

// IsSwap reports whether the next step is an exchange.
func (p Page) IsSwap() bool { return len(p.Next.Parts) > 0 }

// IsSign reports whether the next step is to sign the verdict.
func (p Page) IsSign() bool { return p.Next.Step.ID == plan.SignVerdict }

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

// Shown lists the visible entries of the ledger, the newest first.
func (p Page) Shown() []LedgerLine {
	return p.Ledger[:folded(len(p.Ledger), newest, p.Whole == "ledger")]
}

// Older returns the number of folded entries.
func (p Page) Older() int { return len(p.Ledger) - len(p.Shown()) }

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
