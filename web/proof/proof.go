// Package proof has the pages after the repair: the proof with its checklist, clearing, rechecks with their
// calendar, the end of a job, and the score of the workshop with what it has learnt.
package proof

import (
	"embed"
	"net/http"
	"net/url"

	"glenmist/core/course"
	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/plan"
	coreproof "glenmist/core/proof"
	"glenmist/core/unit"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// Pages handles what follows a repair.
type Pages struct{ *jobs.Pages }

// Templates are those of this package.
//
//go:embed *.html
var Templates embed.FS

// New returns the pages.
func New(of *jobs.Pages) *Pages { return &Pages{of} }

// ProveView shows how far a repair is proven, what is still missing, and leads to what records it.
var ProveView = jobs.View{
	Name: "prove", Title: "Proof of the repair", Tab: "Proof", Key: "V", Does: "See how far the repair is proven",
	Phases: []course.Phase{course.Prove}, Bare: true,
	Blank: func(jobs.Loaded, url.Values) url.Values { return url.Values{} },
	Read: func(jobs.Loaded, url.Values) (evidence.Entry, invalid.Errors) {
		return evidence.Entry{}, invalid.Errors{{Expected: "a run, a clearing, a recheck or the end of the job", Got: "a form of another view"}}
	},
	Field: func(jobs.Loaded, url.Values, string) string { return "" },
	Model: func(it jobs.Loaded, _ page.Form) any { return newProveModel(it) },
	More: func(s *jobs.Pages, _ *http.Request, it jobs.Loaded, model any) (any, error) {
		m := model.(proveModel)
		m.Road = s.Vehicles != nil && it.Assessment().Engine.Scanned()
		if due, set := it.Record.Job.Ledger.DueRecheck(); set {
			m.Overdue = due.Due <= evidence.DayOf(s.Now())
		}
		return m, nil
	},
}

// proveModel is the proof as its template sees it.
type proveModel struct {
	// Unit is the repaired unit in words; empty without a repair.
	Unit  string
	Proof plan.Proof
	// State is the state in words, Good and Bad whether it is the best or the worst.
	State     string
	Good, Bad bool
	Sure      string // how probable it is that the repair holds
	Picture   *draw.Picture
	Lines     []proofLine
	// Rain lists the places for water; nil for a complaint of another condition.
	Rain    []mistLine
	Caution string
	// RunHref records the next run. Recheck proposes a date; Due is the one that is set.
	RunHref, RecheckHref string
	Due                  string
	Overdue              bool // the day has come
	// Road is true if the vehicle can be watched on the road.
	Road   bool
	Next   plan.Card
	Closed bool
}

// proofLine is one line of the checklist.
type proofLine struct {
	plan.ProofItem
	Href, Link string
}

// mistLine is one place for water.
type mistLine struct {
	Name, Words string
	Clean, Bad  string // addresses that record a spell
}

func newProveModel(it jobs.Loaded) proveModel {
	j, a := it.Record.Job, it.Assessment()
	m := proveModel{Next: it.Plan().Next, Caution: plan.WaterCaution}
	m.Closed = m.Next.Closed
	signed, ok := j.Signed()
	if !ok {
		m.Lines = linesOf(plan.ProofChecklist(j, a, 0))
		return m
	}
	unitKey := signed.Verdict().Unit
	at := plan.RepairedAt(a, unitKey)
	if at > 0 {
		m.Unit = evidence.UnitWords(unitKey)
		m.Proof = plan.ProofOf(a, at)
		m.Picture = draw.NewProof(m.Proof, plan.Trail(a, at))
		m.state(plan.Attribution(a, signed) == plan.Several)
	}
	m.Lines = linesOf(plan.ProofChecklist(j, a, at))
	m.RunHref = jobs.RunHref(a.Engine, m.Next)
	if due, set := j.Ledger.DueRecheck(); set {
		m.Due = due.Due.Words()
	}
	if m.Proof.Condition == evidence.Wet && at > 0 && !m.Bad {
		for _, p := range plan.MistPlaces(a, at) {
			m.Rain = append(m.Rain, newMistLine(p))
		}
	}
	return m
}

// state puts the state of the proof in words.
func (m *proveModel) state(several bool) {
	switch {
	case m.Proof.State == coreproof.Proven && several:
		m.State, m.Good = "Fixed, not attributed", true
	case m.Proof.State == coreproof.Proven:
		m.State, m.Good = "Proven", true
	case m.Proof.State == coreproof.NotFixed:
		m.State, m.Bad = "Not fixed: the misfire is back", true
	default:
		m.State = "Not proven yet"
	}
	if m.Proof.Known && m.Proof.State != coreproof.NotFixed {
		m.Sure = unit.Percent(m.Proof.Fixed)
	}
}

// linksOf says which view does each line of the checklist.
var linksOf = map[string][2]string{
	"saved": {"codes", "Read the codes"}, "readiness": {"codes", "Read the codes"}, "cleared": {"clearing", "Clear"},
	"codes": {"codes", "Read the codes"}, "permanent": {"codes", "Read the codes"}, "recheck": {"recheck", "Change the date"},
}

func linesOf(items []plan.ProofItem) (lines []proofLine) {
	for _, item := range items {
		l := proofLine{ProofItem: item}
		if !item.Done {
			l.Href, l.Link = linksOf[item.ID][0], linksOf[item.ID][1]
		}
		lines = append(lines, l)
	}
	return lines
}

func newMistLine(p plan.Mist) mistLine {
	of := url.Values{"of": {string(evidence.Misted)}, "place": {string(p.Place)}, "times": {"1"}, "condition": {string(evidence.Wet)}}
	l := mistLine{Name: p.Place.String(), Words: "not sprayed yet"}
	if p.Place == engine.Whole {
		l.Name = "the distributor and its leads"
	}
	if t := p.Since.Times; t > 0 {
		l.Words = (evidence.Exposure{Of: evidence.Misted, Times: t, Failed: p.Since.Failed}).Sentence() + " since the repair"
	} else if t := p.Before.Times; t > 0 {
		l.Words = (evidence.Exposure{Of: evidence.Misted, Times: t, Failed: p.Before.Failed}).Sentence() + " before it"
	}
	of.Set("clean", "yes")
	l.Clean = "watch?" + of.Encode()
	of.Del("clean")
	of.Set("failed", "1")
	l.Bad = "watch?" + of.Encode()
	return l
}
