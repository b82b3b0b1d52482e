package jobs

import (
	"net/http"

	"glenmist/core/engine"
	"glenmist/core/evidence"
	"glenmist/core/invalid"
	"glenmist/core/job"
	"glenmist/core/shop"
	"glenmist/store"
	"glenmist/web/page"
)

// galleryPage shows the states of the views that are rare in work: empty, loading, wrong input,
// conflict, offline and failed. It is offered in development only.
type galleryPage struct {
	page.Base
	// New is a job without entries, Lost one whose form met a conflict and an error.
	New, Lost Page
	Nothing   findPage
	Wrong     *invalid.Error
	Troubles  []galleryTrouble
}

// galleryTrouble is what a page says after a failure.
type galleryTrouble struct{ Title, Words string }

// Gallery shows the states.
func (s *Pages) Gallery(w http.ResponseWriter, r *http.Request) {
	e := engine.Shelf[0].Engine()
	j := job.Job{Number: "gallery", Complaint: "Shakes", By: "Wyn", Opened: s.Now(), Vehicle: job.Vehicle{Fleet: "G-00", What: "no vehicle", Engine: e}, Ledger: evidence.Ledger{}}
	it := NewLoaded(store.Record{Job: j}, shop.Default(), false)
	p := galleryPage{Base: s.Base(r, "Gallery"), New: s.Page(r, it, nil), Lost: s.Page(r, it, nil), Nothing: findPage{Q: "qqqq"},
		Wrong: &invalid.Error{Field: "gap", Expected: "a gap in mm, such as 0.9", Got: "abc"}}
	p.Lost.Stale = &StaleView{Lines: []LedgerLine{{Entry: evidence.Entry{Seq: 4, By: "Oda"}, Words: "P0302 stored"}}}
	p.Lost.Wrong = invalid.Errors{*p.Wrong}
	p.Lost.Drift = "Signed at 97 %, but the evidence as it stands now gives 41 %. Look again before a part is bought."
	p.Troubles = []galleryTrouble{{"Not found", "There is nothing at this address."}, {"Too large", "Nothing was recorded. Send at most 200 MB."}}
	for _, words := range page.TroubleWords() {
		p.Troubles = append(p.Troubles, galleryTrouble{"Not recorded", words})
	}
	s.Render(w, r, http.StatusOK, "gallery.html", p)
}
