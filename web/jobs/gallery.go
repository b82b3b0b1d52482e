package jobs

import (
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/go-chi/chi/v5"

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
	Views     []galleryView
}

// galleryView leads to the states of one work view.
type galleryView struct{ Title, Empty, Refused string }

// galleryTrouble is what a page says after a failure.
type galleryTrouble struct{ Title, Words string }

// Gallery shows the states.
func (s *Pages) Gallery(w http.ResponseWriter, r *http.Request) {
	it := s.galleryJob(engine.Shelf[0].Engine())
	p := galleryPage{Base: s.Base(r, "Gallery"), New: s.Page(r, it, nil), Lost: s.Page(r, it, nil), Nothing: findPage{Q: "qqqq"},
		Wrong: &invalid.Error{Field: "gap", Expected: "a gap in mm, such as 0.9", Got: "abc"}}
	p.Lost.Stale = &StaleView{Lines: []LedgerLine{{Entry: evidence.Entry{Seq: 4, By: "Oda"}, Words: "P0302 stored"}}}
	p.Lost.Wrong = invalid.Errors{*p.Wrong}
	p.Lost.Drift = "Signed at 97 %, but the evidence as it stands now gives 41 %. Look again before a part is bought."
	p.Troubles = []galleryTrouble{{"Not found", "There is nothing at this address."}, {"Too large", "Nothing was recorded. Send at most 200 MB."}}
	for _, words := range page.TroubleWords() {
		p.Troubles = append(p.Troubles, galleryTrouble{"Not recorded", words})
	}
	for _, v := range s.views {
		at := "/gallery/" + v.Name + "/"
		p.Views = append(p.Views, galleryView{v.Title, at + "empty", at + "refused"})
	}
	s.Render(w, r, http.StatusOK, "gallery.html", p)
}

// GalleryJob is a job without entries on an engine that a view is offered for.
func (s *Pages) GalleryJob(v View) Loaded {
	it := s.galleryJob(engine.Shelf[0].Engine())
	for _, p := range engine.Shelf {
		if v.Offered == nil || v.Offered(it.Assessment().Engine) {
			break
		}
		it = s.galleryJob(p.Engine())
	}
	return it
}

// galleryJob is a job without entries, which no store has.
func (s *Pages) galleryJob(e engine.Engine) Loaded {
	j := job.Job{Number: "gallery", Complaint: "Shakes", By: "Wyn", Opened: s.Now(), Vehicle: job.Vehicle{Fleet: "G-00", What: "no vehicle", Engine: e}, Ledger: evidence.Ledger{}}
	return NewLoaded(store.Record{Job: j}, shop.Default(), false)
}

// galleryWrong is what the gallery types into the views to have it refused. Every view has the
// field of the observer, which is left empty.
var galleryWrong = url.Values{
	"code-1": {"P03X2"}, "frame-rpm": {"fast"}, "short-1": {"rich"}, "revolutions": {"many"}, "count-1": {"-3"}, "minutes": {"a while"}, "seconds": {"a while"},
	"tag": {"Z9"}, "to": {"cyl-9"}, "plug": {"P1"}, "plug-found": {"purple"}, "test": {"guess"}, "answer": {"maybe"}, "gap": {"0,x"}, "altitude": {"high"},
	"f-C1": {"lots"}, "f-L1": {"lots"}, "f-P1": {"lots"}, "gap-low": {"thin"}, "gap-P1": {"thin"}, "old-reach": {"long"}, "factor": {"none"}, "unit": {"soul"}, "entry": {"99"}, "reason": {""},
	"off": {"bonnet"}, "seen-cyl-1": {"blue"}, "set-life": {"long"},
}

// GalleryView shows a work view without entries, or as it returns a form that was refused.
func (s *Pages) GalleryView(w http.ResponseWriter, r *http.Request) {
	v, ok := s.find(chi.URLParam(r, "view"))
	state := chi.URLParam(r, "state")
	if !ok || state != "empty" && state != "refused" {
		s.NotFound(w, r)
		return
	}
	it := s.GalleryJob(v)
	typed := v.Blank(it, url.Values{})
	if state == "empty" {
		s.ShowForm(w, r, http.StatusOK, it, v, page.NewForm(typed, nil, page.SameName))
		return
	}
	maps.Copy(typed, galleryWrong)
	typed.Set("by", page.SignedOf(r).Name)
	typed.Set("note", strings.Repeat("x", evidence.MaxText+1))
	entry, bad := v.Read(it, typed)
	s.stamp(&entry, typed)
	_, err := it.Record.Job.Ledger.Add(it.Record.Job.Vehicle.Engine, entry)
	for _, e := range page.FieldsOf(err) {
		if field := v.fieldOf(it, typed, e.Field); !slices.ContainsFunc(bad, func(have invalid.Error) bool { return have.Field == field }) {
			bad = append(bad, invalid.Error{Field: field, Expected: e.Expected, Got: e.Got})
		}
	}
	s.ShowForm(w, r, http.StatusUnprocessableEntity, it, v, page.NewForm(typed, bad, page.SameName))
}
