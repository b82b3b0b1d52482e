package vehicle

import (
	"errors"
	"net/http"
	"net/url"
	"slices"

	"github.com/go-chi/chi/v5"

	"glenmist/core/evidence"
	"glenmist/core/job"
	"glenmist/core/readings"
	"glenmist/core/score"
	"glenmist/core/unit"
	"glenmist/store"
	"glenmist/web/draw"
	"glenmist/web/jobs"
	"glenmist/web/page"
)

// historyPage shows the visits, parts and readings of a vehicle.
type historyPage struct {
	page.Base
	Fleet, What, Engine, At string
	// Distance is the last one, in words; "" without a visit.
	Distance string
	Visits   []visitLine
	// More is true if there are older visits than those listed.
	More     bool
	Parts    []partLine
	Pictures []*draw.Picture
}

type visitLine struct {
	store.Visit
	Stamp string
	// Verdict is the unit with its probability, "" if none stands; Result is what became of it.
	Verdict, Result string
	Good, Bad       bool
}

type partLine struct {
	What, Number, Fitted, Age string
	Due                       bool
}

// results says what became of a verdict.
var results = map[score.Result]string{score.Held: "held", score.Failed: "was wrong", score.CameBack: "came back", score.Unattributed: "fixed, not attributed"}

// ShowHistory shows the history of a vehicle: visits with verdicts, parts with ages, and readings over time.
func (s *Pages) ShowHistory(w http.ResponseWriter, r *http.Request) {
	kept, err := s.Jobs.Vehicle(r.Context(), chi.URLParam(r, "fleet"))
	if errors.Is(err, store.ErrNoVehicle) {
		s.Fail(w, r, http.StatusNotFound, "There is no vehicle of that number.")
		return
	}
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	visits, err := s.Jobs.History(r.Context(), kept.Vehicle.Fleet)
	if err != nil {
		s.FailStore(w, r, err)
		return
	}
	v := kept.Vehicle
	p := historyPage{Base: s.Base(r, v.Fleet+" "+v.What), Fleet: v.Fleet, What: v.What, Engine: v.Engine.Describe(), At: "/vehicles/" + url.PathEscape(v.Fleet), More: len(visits) == store.MaxVisits}
	var read []readings.Visit
	var last unit.Kilometres
	var before []job.Job // the oldest first
	for _, visit := range visits {
		before = append([]job.Job{{Distance: visit.Distance, Ledger: visit.Ledger}}, before...)
		last = max(last, visit.Distance)
		p.Visits = append(p.Visits, newVisitLine(visit))
		read = append(read, readings.Visit{Job: visit.Number, Entries: visit.Ledger.InOrder()})
	}
	if len(visits) > 0 {
		p.Distance = last.String()
	}
	for _, record := range job.Fitted(v.Parts, before) {
		age := record.AgeAt(last, s.Now())
		line := partLine{What: unit.Capital(string(record.Kind)), Number: record.Number, Age: age.Words(), Due: age.Due(), Fitted: record.FittedOn}
		if record.Place != "" {
			line.What += " of " + record.Place.String()
		}
		p.Parts = append(p.Parts, line)
	}
	slices.SortStableFunc(p.Parts, func(a, b partLine) int { // what is due stands first
		switch {
		case a.Due && !b.Due:
			return -1
		case b.Due && !a.Due:
			return 1
		}
		return 0
	})
	for _, t := range readings.Trends(read) {
		p.Pictures = append(p.Pictures, draw.NewOverTime(t))
	}
	s.Render(w, r, http.StatusOK, "history.html", p)
}

func newVisitLine(v store.Visit) visitLine {
	line := visitLine{Visit: v, Stamp: jobs.Stamp(v.Status.State)}
	if signed, ok := v.Ledger.Signed(); ok {
		line.Verdict = evidence.UnitWords(signed.Verdict().Unit) + " at " + unit.Percent(signed.Verdict().P)
		line.Result = "not known yet"
	}
	if v.Outcome != nil {
		line.Result = results[v.Outcome.Result]
		line.Good, line.Bad = v.Outcome.Result == score.Held, v.Outcome.Result == score.Failed || v.Outcome.Result == score.CameBack
	}
	return line
}

// Renewed lists the parts that a visit renewed, in words.
func (l visitLine) Renewed() (all []string) {
	for _, e := range l.Ledger.InOrder() {
		if e.Renewal() != nil {
			all = append(all, e.Words())
		}
	}
	return all
}
